"""Making, copying and deleting from the shelf; drops in their menu; the tray; what the page remembers."""

from __future__ import annotations

import re
import time
import unittest
from typing import Any
from unittest.mock import patch

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from golddice.core.game.editing import Entry
from tests.browser.driver import BrowserTest

# From now on the page keeps what it asked and how that was answered.
RECORD = """
  const real = window.fetch
  window.answered = []
  window.fetch = async (path, asked) => {
    const answer = await real(path, asked)
    window.answered.push([path, asked.body ?? '', answer.status])
    return answer
  }
"""


class ShelfTest(BrowserTest):
    def unfold(self, section: str) -> None:
        self.find("nav button[aria-expanded]")
        heads = self.all("nav button[aria-expanded]")
        head = next(one for one in heads if one.text.startswith(section))
        if head.get_attribute("aria-expanded") == "false":
            head.click()

    def menu_of(self, name: str) -> None:
        """The menu of an entry, which is there when the mouse is."""
        menu = self.find(f"[aria-label='what to do with {name}']")
        self.browser.execute_script("arguments[0].parentElement.style.display = 'block'", menu)
        menu.click()


class Entries(ShelfTest):
    def test_a_new_table_is_opened_and_named(self) -> None:
        self.open("source/lantern-eel")
        self.labelled("new in Tables").click()
        self.saved(2)
        self.until("its sheet", lambda: "/table/new-table" in self.browser.current_url)
        name = self.find("input[aria-label='name of the table']")
        self.assertEqual(self.browser.switch_to.active_element, name)
        self.press("Drift wood", Keys.ENTER)
        self.saved(3)
        made = self.whole()["tables"][-1]
        self.assertEqual((made["id"], made["name"]), ("drift-wood", "Drift wood"))
        self.until("its address", lambda: self.browser.current_url.endswith("/table/drift-wood"))
        self.labelled("name of the table").click()
        self.press("Flotsam wood", Keys.ENTER)
        self.saved(4)  # from now on the id stays
        made = self.whole()["tables"][-1]
        self.assertEqual((made["id"], made["name"]), ("drift-wood", "Flotsam wood"))

    def test_an_item_gets_the_id_of_its_first_name(self) -> None:
        self.open("items/catalogue")
        self.button("add an item").click()
        self.saved(2)
        self.assertEqual(self.whole()["items"][-1]["id"], "new-item")
        self.press("Tin whistle", Keys.ENTER)
        self.saved(3)
        made = self.whole()["items"][-1]
        self.assertEqual((made["id"], made["name"]), ("tin-whistle", "Tin whistle"))
        # The grid goes on from there.
        self.until("a cell has the keyboard", lambda: self.all("[aria-label=items] [tabindex='0']"))

    def test_a_copied_table_has_its_own_curves_too(self) -> None:
        """Private curves of its blank, of a line and of a quantity are copied; a shared one is not."""
        table, base = self.table("eel-catch"), self.whole()["curves"][0]
        owned = [{**base, "id": f"own-{n}", "name": f"Own {n}", "private": True} for n in range(3)]
        line = {**table["lines"][0], "curve": "own-0"}
        line["yields"][0]["quantity"]["curve"] = "own-1"
        other = {**table["lines"][1], "curve": base["id"]}
        body = {**table, "nothing_curve": "own-2", "lines": [line, other, *table["lines"][2:]]}
        entries = [{"kind": "curve", "id": curve["id"], "body": curve} for curve in owned]
        entries.append({"kind": "table", "id": "eel-catch", "body": body})
        change = {"base": 1, "label": "curves of its own", "entries": entries}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.open("source/lantern-eel")
        self.unfold("Tables")
        self.menu_of("Eel catch")
        self.choice("Duplicate").click()
        self.saved(3)
        copy, kept = self.table("eel-catch-copy"), self.table("eel-catch")
        self.assertEqual(kept, body)
        first = copy["lines"][0]
        names = [copy["nothing_curve"], first["curve"], first["yields"][0]["quantity"]["curve"]]
        self.assertEqual(sorted(names), ["own-0-2", "own-1-2", "own-2-2"])
        self.assertEqual(copy["lines"][1]["curve"], base["id"])
        curves = {one["id"]: one for one in self.whole()["curves"]}
        self.assertEqual({curves[name]["private"] for name in names}, {True})

    def test_a_second_new_one_has_an_id_of_its_own(self) -> None:
        self.open("source/lantern-eel")
        for revision in (2, 3):
            self.labelled("new in Sources").click()
            self.saved(revision)
        names = [one["id"] for one in self.whole()["sources"]]
        self.assertEqual(names[-2:], ["new-source", "new-source-2"])

    def test_a_copy_stands_alone(self) -> None:
        self.open("source/lantern-eel")
        self.menu_of("Lantern Eel")
        self.choice("rolling the same tables").click()
        self.saved(2)
        self.until("its sheet", lambda: "/source/lantern-eel-copy" in self.browser.current_url)
        copy = self.source("lantern-eel-copy")
        self.assertEqual(copy["drops"], self.source()["drops"])
        self.find('input[aria-label="name of the source"]').send_keys(Keys.ESCAPE)
        self.labelled("seconds a kill").click()
        self.press("4", Keys.ENTER)
        self.saved(3)
        self.assertEqual((self.source("lantern-eel-copy")["seconds"], self.source()["seconds"]), (4, 9))

    def test_a_table_in_use_asks_before_it_goes_and_comes_back_whole(self) -> None:
        self.open("source/lantern-eel")
        before = self.whole()
        self.unfold("Tables")
        self.menu_of("Eel catch")
        self.choice("Delete").click()
        self.until("the question", lambda: "Eel catch is in use" in self.find("[role=alertdialog]").text)
        self.button("Remove it and").click()
        self.saved(2)
        self.assertEqual(len(self.source()["drops"]), 1)
        self.find('[aria-label^="Undo"]').click()
        self.saved(3)
        after = self.whole()
        for kind in ("tables", "sources", "items"):
            self.assertEqual(after[kind], before[kind], kind)

    def test_a_source_nobody_needs_goes_at_once(self) -> None:
        self.open("source/silt-crab")
        self.labelled("new in Sources").click()
        self.saved(2)
        self.menu_of("New source")
        self.choice("Delete").click()
        self.saved(3)
        self.assertNotIn("new-source", [one["id"] for one in self.whole()["sources"]])


class Drops(ShelfTest):
    def setUp(self) -> None:
        super().setUp()
        self.open("source/lantern-eel")

    def drop_menu(self, at: int, choice: str) -> None:
        self.find("[data-drop]")
        drop = self.all("[data-drop]")[at]
        menu = self.find("[aria-label='what to do with this drop']", drop)
        self.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", menu)
        menu.click()
        self.choice(choice).click()

    def test_they_move_and_are_copied_and_go(self) -> None:
        first, second = [drop["id"] for drop in self.source()["drops"]]
        self.drop_menu(0, "Move down")
        self.saved(2)
        self.assertEqual([drop["id"] for drop in self.source()["drops"]], [second, first])
        self.drop_menu(0, "Duplicate")
        self.saved(3)
        drops = self.source()["drops"]
        self.assertEqual((len(drops), drops[2]["table"]), (3, drops[0]["table"]))
        self.assertEqual(len({drop["id"] for drop in drops}), 3)
        self.drop_menu(2, "Delete the drop")
        self.saved(4)
        self.assertEqual([drop["id"] for drop in self.source()["drops"]], [second, first])
        self.assertIn(drops[2]["table"], [table["id"] for table in self.whole()["tables"]])

    def test_the_order_of_drops_changes_no_chance(self) -> None:
        self.until("numbers", lambda: self.text("a", "one_in") not in ("", "–"))
        before = self.text("a", "one_in")
        self.drop_menu(0, "Move down")
        self.saved(2)
        self.until("the same", lambda: self.text("a", "one_in") == before)

    def test_a_drop_may_give_another_table_and_its_chance_be_typed(self) -> None:
        self.button("Eel catch").click()
        self.choice("Crab meat").click()
        self.saved(2)
        self.assertEqual(self.source()["drops"][0]["table"], "crab-meat")
        self.labelled("chance of the drop").click()
        self.press("1 in 8", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.source()["drops"][0]["chance"], 0.125)


class TrayTest(ShelfTest):
    def tray(self) -> WebElement:
        return self.find('[aria-label="tray"]')

    def test_rolling_on_while_held(self) -> None:
        self.open("source/lantern-eel")
        self.press("r")  # until something is rolled the tray is one line
        hold = self.button("while held")
        ActionChains(self.browser).click_and_hold(hold).perform()
        self.until("some kills", lambda: self.rolled() > 3)
        ActionChains(self.browser).release().perform()
        self.until("a rest", self.at_rest)

    def rolled(self) -> int:
        found = re.search(r"(\d+) kills?\b", self.tray().text)
        return int(found[1]) if found else 0

    def at_rest(self) -> bool:
        before = self.rolled()
        time.sleep(0.4)
        return self.rolled() == before

    def test_start_over_begins_again(self) -> None:
        self.open("source/lantern-eel")
        self.press("r")
        self.until("one kill", lambda: "1 kill" in self.tray().text)
        self.button("start over").click()
        self.until("none", lambda: "Nothing rolled yet" in self.tray().text)

    def test_folded_it_stays_folded_and_opens_again(self) -> None:
        self.open("source/lantern-eel")
        self.assertLess(self.tray().size["height"], 40)  # one line, until something is rolled
        self.press("r")
        self.until("one kill", lambda: "1 kill" in self.tray().text)
        self.button("fold").click()
        self.until("folded", lambda: self.tray().size["height"] < 40)
        self.find("[aria-label='open the tray']").click()
        self.until("open", lambda: "How kill 1" in self.tray().text)

    def test_a_trace_is_copied_as_text(self) -> None:
        self.open("source/lantern-eel")
        self.press("r")
        self.until("how", lambda: "How kill 1" in self.tray().text)
        copy = next(one for one in self.tray().find_elements(By.TAG_NAME, "button") if one.text == "copy")
        text = self.copied(copy)
        self.assertIn("Eel catch", text)  # every drop is tried, whatever comes of it
        self.assertIn("Trench heirlooms", text)


class Remembered(ShelfTest):
    def test_the_depth_and_the_flags_while_going_about(self) -> None:
        self.open("source/lantern-eel")
        self.press("]", "]")
        deeper = self.find("[role=slider][aria-label=fathom]").get_attribute("aria-valuenow")
        self.open("source/silt-crab")
        self.until(
            "the depth",
            lambda: self.find("[role=slider][aria-label=fathom]").get_attribute("aria-valuenow") == deeper,
        )

    def test_the_spread_after_more_events(self) -> None:
        self.open("source/lantern-eel")
        reach = self.labelled("spread after how many kills")
        self.until("a spread", lambda: "Half above" in self.find("section[aria-label=spread]").text)
        before = self.find("section[aria-label=spread]").text
        reach.send_keys(Keys.ARROW_RIGHT)
        self.until("500 kills", lambda: "500 kills" in self.find("section[aria-label=spread]").text)
        self.until("more", lambda: self.find("section[aria-label=spread]").text != before)

    def test_a_name_in_where_the_swing_comes_from_is_looked_at(self) -> None:
        self.open("source/lantern-eel")
        swing = self.find("section[aria-label='where the swing comes from']")
        name = self.until("rows", lambda: swing.find_elements(By.CSS_SELECTOR, "button .name"))[0]
        said = name.text
        name.click()
        self.until("the sentence", lambda: said in self.find("section[aria-label=sentence]").text)


class Behind(ShelfTest):
    """A page that has not heard yet what others did asks about the game that it shows."""

    def test_a_flag_that_is_set_and_then_deleted_elsewhere(self) -> None:
        self.deaf()
        flag = self.whole()["flags"][0]
        self.button(flag["name"]).click()
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        removal = {"base": 1, "kind": "flag", "id": flag["id"]}
        self.client.post(f"/api/games/{self.game}/removals", json=removal).raise_for_status()
        self.browser.execute_script(RECORD)
        self.press("]")
        for question, status in self.until("numbers of the next depth", self.answers_to_odds):
            self.assertIn(flag["id"], question)
            self.assertEqual(status, 200)
        self.hearing()
        self.open("source/lantern-eel")
        self.saved(2)
        self.until("it is gone", lambda: flag["name"] not in self.find("main header").text)

    def elsewhere(self, base: int, kind: str, name: str, body: dict[str, Any] | None) -> None:
        entry = {"kind": kind, "id": name, "body": body}
        change = {"base": base, "label": "another tab", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()

    def test_a_removal_leaves_what_was_edited_elsewhere_meanwhile(self) -> None:
        self.deaf()
        self.unfold("Tables")
        self.elsewhere(1, "source", "lantern-eel", {**self.source(), "seconds": 11})
        self.menu_of("Eel catch")
        self.choice("Delete").click()
        self.button("Remove it and").click()
        self.until("closed", lambda: not self.all("[role=alertdialog]"))
        self.until("gone", lambda: len(self.source()["drops"]) == 1)
        self.assertEqual(self.source()["seconds"], 11)

    def test_why_a_removal_failed_is_said_where_it_was_asked_for(self) -> None:
        """It was removed elsewhere meanwhile."""
        self.deaf()
        self.unfold("Tables")
        self.menu_of("Eel catch")
        self.choice("Delete").click()
        removal = {"base": 1, "kind": "table", "id": "eel-catch"}
        self.button("Remove it and")
        self.client.post(f"/api/games/{self.game}/removals", json=removal).raise_for_status()
        self.button("Remove it and").click()
        question = self.find("[role=alertdialog]")
        self.until("why", lambda: "eel-catch" in question.text and "no " in question.text)
        self.button("Leave it as it is").click()
        self.until("closed", lambda: not self.all("[role=alertdialog]"))

    def test_an_edit_of_something_else_brings_theirs_along(self) -> None:
        self.deaf()
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        other = {**self.table("crab-meat"), "name": "Crab, picked"}
        entry = {"kind": "table", "id": "crab-meat", "body": other}
        change = {"base": 1, "label": "another tab", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.type_into("g", "entry", "5")
        self.saved(3)
        self.assertEqual(self.text("g", "entry"), "5")
        self.unfold("Tables")
        self.until("theirs", lambda: "Crab, picked" in self.find("nav[aria-label=shelf]").text)
        self.assertEqual(self.table()["lines"][6]["weight"], 5)
        self.type_into("g", "entry", "6")
        self.saved(4)

    def test_what_others_did_right_behind_an_edit_is_fetched_once_that_is_saved(self) -> None:
        """Their news comes while the answer to the edit is still on its way."""
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        games, theirs = self.bench.games, {**self.table("crab-meat"), "name": "Crab, picked"}
        kept = games.change

        def change(game: str, *made: Any) -> Any:
            ours = kept(game, *made)
            entry = Entry("table", "crab-meat", theirs)
            self.bench.tell_revision(game, kept(game, ours.revision, [entry], "another tab"))
            time.sleep(0.4)
            return ours

        with patch.object(games, "change", change):
            self.type_into("g", "entry", "5")
            self.saved(3)
        self.unfold("Tables")
        self.until("theirs", lambda: "Crab, picked" in self.find("nav[aria-label=shelf]").text)
        self.assertEqual(self.text("g", "entry"), "5")

    def deaf(self) -> None:
        """Lantern Eel on a page that no news reaches."""
        self.browser.execute_cdp_cmd("Network.enable", {})
        self.browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/events"]})
        self.addCleanup(self.hearing)
        self.open("source/lantern-eel")

    def hearing(self) -> None:
        self.browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})

    def answers_to_odds(self) -> list[tuple[str, int]]:
        asked: list[list[Any]] = self.browser.execute_script("return window.answered")
        return [(question, status) for path, question, status in asked if path.endswith("/odds")]

    def expected(self, message: str) -> bool:
        return super().expected(message) or "/events" in message or "/removals - " in message


if __name__ == "__main__":
    unittest.main()
