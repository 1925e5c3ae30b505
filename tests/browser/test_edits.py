"""Edits that cannot be lost: two at once, somebody else in the middle, a game that is left, and fields that
take what is typed for what it says."""

from __future__ import annotations

import time
import unittest
from typing import Any
from unittest.mock import patch

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By

from golddice.server.bench import Workbench
from tests.browser.editing import GRID, EditingTest

_ACROSS = "document.querySelector('[data-scrolls-across]').scrollLeft = arguments[0]"
# Whether a heading stands wherever columns are seen, and what each drawn one says with the cell under it.
_ALL_SEEN = """
const box = document.querySelector('[data-scrolls-across]').getBoundingClientRect()
const heads = [...document.querySelectorAll(arguments[0] + ' thead th[aria-colindex]')]
return [0.3, 0.6, 0.95].every((part) => heads.some((one) => {
  const {left, right} = one.getBoundingClientRect(), at = box.left + part * box.width
  return left <= at && at <= right
}))
"""
_BY_COLUMN = """
const cells = [...document.querySelectorAll(arguments[0] + ' tbody tr:first-child td[aria-colindex]')]
const under = (head) => cells.find((one) => one.ariaColIndex === head.ariaColIndex)
const heads = [...document.querySelectorAll(arguments[0] + ' thead th[aria-colindex]')]
return Object.fromEntries(heads.map((one) => {
  const cell = under(one), [x, y] = [one, cell].map((each) => each.getBoundingClientRect().left)
  return [one.ariaColIndex, `${one.innerText} ${cell.innerText} ${Math.abs(x - y) < 1}`]
}))
"""


class Two(EditingTest):
    def test_an_answer_and_at_once_a_weight_in_another_line(self) -> None:
        """The answer is worked out of the table as it was; what was typed since stays."""
        weight = self.line("a")["weight"]
        self.type_into("a", "chance", "10 %")
        self.type_into("g", "entry", "9")
        self.saved(3)
        self.assertEqual(self.line("g")["weight"], 9)
        self.assertNotEqual(self.line("a")["weight"], weight)

    def test_an_open_cell_stays_with_its_line(self) -> None:
        self.cell("g", "entry").click()
        self.press("7")
        table = self.table()
        made = {**table["lines"][0], "id": "new"}
        self.elsewhere({**table, "lines": [made, *table["lines"]]})
        self.until("it came", lambda: self.all(f"{GRID} [data-row=new]"))
        self.press("5", Keys.ENTER)
        self.saved(3)
        weights = {one["id"]: one["weight"] for one in self.table()["lines"]}
        self.assertEqual((weights["g"], weights["new"]), (75, made["weight"]))
        self.assertEqual(weights["f"], {one["id"]: one["weight"] for one in table["lines"]}["f"])

    def test_undo_takes_back_ones_own_and_says_when_it_no_longer_can(self) -> None:
        self.type_into("g", "entry", "9")
        self.saved(2)
        self.elsewhere({**self.table("crab-meat"), "name": "Crab, picked"})
        self.saved(3)
        self.chord(Keys.CONTROL, "z")
        self.saved(4)
        self.assertEqual(self.table("crab-meat")["name"], "Crab, picked")
        self.assertNotEqual(self.line("g")["weight"], 9)
        self.type_into("g", "entry", "8")
        self.saved(5)
        self.elsewhere({**self.table(), "nothing": 33})
        self.saved(6)
        self.chord(Keys.CONTROL, "z")
        self.until("why not", lambda: "cannot be taken back" in self.find("[data-sonner-toast]").text)
        self.assertEqual((self.line("g")["weight"], self.table()["nothing"]), (8, 33))

    def test_undo_right_behind_an_edit_takes_back_that_edit(self) -> None:
        before = self.line("g")["weight"]
        with self.slowly(0.3):
            self.type_into("g", "entry", "9")
            self.chord(Keys.CONTROL, "z")
            self.saved(3)
        self.assertEqual(self.line("g")["weight"], before)
        self.until("shown", lambda: float(self.text("g", "entry")) == before)

    def test_a_page_that_is_opened_again_can_still_take_back(self) -> None:
        before = self.line("g")["weight"]
        self.type_into("g", "entry", "9")
        self.saved(2)
        self.browser.get("about:blank")
        self.open("source/lantern-eel")
        self.find('[aria-label^="Undo"]').click()
        self.saved(3)
        self.assertEqual(self.line("g")["weight"], before)


class Sharing(EditingTest):
    def test_a_table_that_others_roll_says_so_and_can_be_its_own(self) -> None:
        source = self.source()
        drop = {**self.source("silt-crab")["drops"][0], "id": "shared", "table": "eel-catch"}
        crab = self.source("silt-crab")
        self.elsewhere({**crab, "drops": [*crab["drops"], drop]}, "source")
        self.until("said", lambda: "Also rolled by Silt crab" in self.find("[data-testid=shared]").text)
        self.button("make it its own").click()
        self.saved(3)
        own = self.source()["drops"][0]["table"]
        self.assertNotEqual(own, source["drops"][0]["table"])
        self.assertEqual(self.table(own)["lines"], self.table()["lines"])
        self.assertEqual(self.source("silt-crab")["drops"][-1]["table"], "eel-catch")
        told = lambda: [one.text for one in self.all("[data-testid=shared]")]  # noqa: E731
        self.until("no more", lambda: not any("Silt crab" in one for one in told()))

    def test_a_copy_of_a_source_with_tables_of_its_own(self) -> None:
        menu = self.find("[aria-label='what to do with Lantern Eel']")
        self.browser.execute_script("arguments[0].parentElement.style.display = 'block'", menu)
        menu.click()
        self.choice("its tables too").click()
        self.saved(2)
        name = self.until("its name is selected", lambda: self.find("input[aria-label='name of the source']"))
        self.assertEqual(self.browser.switch_to.active_element, name)
        self.press("Gulper eel", Keys.ENTER)
        self.saved(3)
        copy = next(one for one in self.whole()["sources"] if one["name"] == "Gulper eel")
        drops = [drop["table"] for drop in self.source()["drops"]]
        self.assertFalse({drop["table"] for drop in copy["drops"]} & set(drops))
        for old, new in zip(drops, copy["drops"], strict=True):
            self.assertEqual(self.table(old)["lines"], self.table(new["table"])["lines"])


class Leaving(EditingTest):
    def test_another_game_is_opened_while_an_edit_is_saved(self) -> None:
        other = self.client.post("/api/games", json={"name": "Reef"}).json()["id"]
        with self.slowly(0.5):
            self.type_into("g", "entry", "9")
            self.type_into("f", "entry", "8")
            go = "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))"
            self.browser.execute_script(go, f"/g/{other}/items/catalogue")
            self.until("the other game", lambda: "The ladder" in self.find("main").text)
            weights = lambda: (self.line("g")["weight"], self.line("f")["weight"])  # noqa: E731
            self.until("both saved", lambda: weights() == (9, 8))
        reef = self.client.get(f"/api/games/{other}").json()
        self.assertEqual((reef["revision"], reef["tables"]), (1, []))
        self.assertIn("revision 1", self.find("header [role=status]").text)


class Typing(EditingTest):
    def test_what_begins_like_the_cell_replaces_it(self) -> None:
        """The first key is what stood there already."""
        self.type_into("g", "entry", "1")
        self.saved(2)
        for text, weight in (("10", 10), ("1", 1), ("12", 12)):
            revision = self.whole()["revision"]
            self.cell("g", "entry").click()
            for key in text:
                self.press(key)
            self.press(Keys.ENTER)
            self.saved(revision + 1)
            self.assertEqual(self.line("g")["weight"], weight, text)
        self.cell("g", "quantity").click()
        for key in "1-3":
            self.press(key)
        self.press(Keys.ENTER)
        self.until("1-3", lambda: self.text("g", "quantity") == "1-3")

    def test_under_a_percent_sign_a_number_is_in_percent(self) -> None:
        self.type_into("g", "chance", "0.5")
        self.saved(2)
        self.until("half a percent", lambda: self.text("g", "chance") == "0.500 %")
        self.type_into("g", "chance", "35")
        self.saved(3)
        self.until("35", lambda: self.text("g", "chance") == "35.0 %")
        self.labelled("chance of the drop").click()
        self.press("50", Keys.ENTER)
        self.saved(4)
        self.assertIn(0.5, [drop["chance"] for drop in self.source()["drops"]])

    def test_what_can_be_meant_in_two_ways_is_asked(self) -> None:
        self.labelled("chance of the drop").click()
        self.press("0.5", Keys.ENTER)
        self.assertIn("0.5 % or 50 %", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.type_into("g", "entry", "1,500")
        self.assertIn("1.500 or 1 500", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.type_into("g", "entry", "2,5")
        self.saved(2)
        self.assertEqual(self.line("g")["weight"], 2.5)

    def test_a_field_in_a_bubble_has_its_own_clipboard(self) -> None:
        before = self.table()
        self.labelled("limits of Lamp oil").click()
        field = self.labelled("after how many misses")
        field.click()
        script = """
            const data = new DataTransfer()
            data.setData('text/plain', '33')
            const how = {clipboardData: data, bubbles: true, cancelable: true}
            arguments[0].dispatchEvent(new ClipboardEvent('paste', how))
        """
        self.browser.execute_script(script, field)
        self.press(Keys.ESCAPE)
        self.type_into("g", "entry", "9")
        self.saved(2)
        after = self.table()
        self.assertEqual([one["id"] for one in after["lines"]], [one["id"] for one in before["lines"]])
        self.assertEqual(after["lines"][:6], before["lines"][:6])

    def test_arrows_in_a_rows_menu_move_in_the_menu(self) -> None:
        self.cell("c", "entry").click()
        row = self.find(f'{GRID} [data-row="c"]')
        ActionChains(self.browser).move_to_element(row).perform()
        row.find_element(By.CSS_SELECTOR, "[aria-label^='What to do with']").click()
        self.find("[role=menu]")
        self.press(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ESCAPE)
        active = self.find(f"{GRID} [role=gridcell][tabindex='0']")
        row = self.browser.execute_script("return arguments[0].closest('[data-row]').dataset.row", active)
        self.assertEqual(row, "c")
        self.until("back", lambda: self.browser.switch_to.active_element == active)
        self.press(Keys.ARROW_DOWN)
        self.until("on", lambda: self.browser.switch_to.active_element == self.cell("d", "entry"))

    def test_limits_by_keyboard_alone(self) -> None:
        """From the cell: Enter opens them, what is incomplete is said, once is understood."""
        self.cell("g", "entry").click()
        while self.browser.switch_to.active_element.get_attribute("data-column") != "limits":
            self.press(Keys.ARROW_RIGHT)
        self.press(Keys.ENTER)
        self.labelled("after how many misses").send_keys("20", Keys.ENTER)
        self.assertIn("what happens after 20 misses", self.find("form [role=alert]").text)
        self.labelled("sure at").send_keys("40")
        limit = self.find("form [aria-label=limit]")
        limit.send_keys("once", Keys.ENTER)
        self.saved(2)
        line = self.line("g")
        self.assertEqual((line["limit"], line["guard"]["after"], line["guard"]["sure_at"]), (1, 20, 40))

    def test_a_row_menu_by_keyboard(self) -> None:
        self.cell("g", "entry").click()
        self.chord(Keys.SHIFT, Keys.F10)
        self.until(
            "its first entry", lambda: self.browser.switch_to.active_element.text.startswith("Duplicate")
        )
        self.press(Keys.ENTER)
        self.saved(2)
        self.assertEqual(len(self.table()["lines"]), 9)

    def test_a_boundary_dragged_to_the_end_can_be_taken_hold_of_again(self) -> None:
        boundary = '[aria-label="Boundary between Eelskin and Glass sand"]'
        ActionChains(self.browser).drag_and_drop_by_offset(self.find(boundary), 600, 0).perform()
        self.saved(2)
        lines = {one["id"]: one["weight"] for one in self.table()["lines"]}
        self.assertGreater(lines["b"], 0)
        shown = {name: self.text(name, "entry") for name in "ab"}
        self.assertEqual({name: float(shown[name]) for name in "ab"}, {name: lines[name] for name in "ab"})
        self.find(boundary).send_keys(Keys.ARROW_LEFT)
        self.saved(3)
        self.assertGreater(self.line("b")["weight"], lines["b"])


class Asking(EditingTest):
    def asked(self) -> list[str]:
        """What the page asked of the server since the last time, by the last word of its address."""
        script = """
            const found = performance.getEntriesByType('resource').map((one) => one.name)
            performance.clearResourceTimings()
            return found
        """
        names: list[str] = self.browser.execute_script(script)
        asked = [name.split("/")[-1].split("?")[0] for name in names if "/api/" in name]
        return [one for one in asked if one != "presence"]  # that is said, whatever is edited

    def test_one_weight_is_asked_about_once(self) -> None:
        """As it is typed; not again while it is saved, nor once it is."""
        self.answered()
        self.asked()
        self.type_into("g", "entry", "9")
        self.saved(2)
        self.until("the odds", lambda: self.text("g", "chance") != "")
        self.answered()
        time.sleep(0.7)
        asked = self.asked()
        most = {"changes": 1, "findings": 1, "profile": 1, "targets": 1}
        most["spread"] = 2  # once it is saved, on a finer grid
        most["odds"] = 3  # of this line, of the next, where Enter leads; one may be asked ahead
        for question, many in most.items():
            self.assertLessEqual(asked.count(question), many, f"{question}: {asked}")
        self.assertLessEqual(len(asked), 9, asked)

    def test_the_outline_is_what_was_saved_before(self) -> None:
        spread = "[aria-label=spread]"
        median = self.find(spread).text.split("Half above ")[1].split(" ")[0]
        self.type_into("g", "entry", "30")
        self.saved(2)
        self.until("before", lambda: "Before the edit" in self.find(spread).text)
        self.until("on the finer grid", lambda: "give or take" not in self.find(spread).text)
        told = self.find(spread).text.split("Before the edit ")[1]
        self.assertEqual(told.replace("\u202f", " ").split(",")[0], median.replace("\u202f", " "))

    def test_words_explain_themselves(self) -> None:
        word = next(
            one for one in self.all("[aria-label='where the swing comes from'] button") if one.text == "swing"
        )
        self.browser.execute_script("arguments[0].focus()", word)
        self.until("said", lambda: "variance" in self.find("[role=tooltip]").text)
        self.press(Keys.ESCAPE)
        self.chord(Keys.CONTROL, "k")
        self.press("drought", Keys.ENTER)
        self.until("the guide", lambda: self.find("#guide-trials"))


class Slow(EditingTest):
    def test_numbers_of_before_an_edit_are_not_taken_for_those_after_it(self) -> None:
        kept = Workbench.sheet

        def slowly(*given: Any, **named: Any) -> Any:
            time.sleep(1.5)
            return kept(*given, **named)

        with patch.object(Workbench, "sheet", slowly):
            self.type_into("g", "entry", "9")
            self.until("said", lambda: "being worked out" in self.find("[aria-label=sentence]").text)
            self.until("marked", lambda: self.all("main.stale"))
        self.until("done", lambda: "exact" in self.find("[aria-label=sentence]").text)
        self.assertEqual(self.all(".stale"), [])

    def test_targets_of_before_an_edit_are_marked_until_those_after_it_are_there(self) -> None:
        self.open("targets/all")
        self.until("they stand", lambda: "10 of 16 are met" in self.find("main").text)
        kept = Workbench.standings

        def slowly(*given: Any, **named: Any) -> Any:
            time.sleep(1.5)
            return kept(*given, **named)

        eel = self.source()
        eel["drops"][0]["chance"] = 0.99
        change = {
            "base": 1,
            "label": "more",
            "entries": [{"kind": "source", "id": "lantern-eel", "body": eel}],
        }
        with patch.object(Workbench, "standings", slowly):
            self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
            self.until("marked", lambda: self.all("main.stale"))
            self.until("those after it", lambda: "11 of 16 are met" in self.find("main").text)
        self.until("not marked any more", lambda: not self.all("main.stale"))

    def test_a_field_that_was_refused_takes_the_next_edit(self) -> None:
        self.type_into("g", "entry", "-5")
        self.until("told why", lambda: self.all("[role=alert], [aria-invalid=true]"))
        self.assertEqual(self.whole()["revision"], 1)
        self.press(Keys.ESCAPE)
        self.type_into("g", "entry", "7")
        self.saved(2)
        line = next(one for one in self.table()["lines"] if one["id"] == "g")
        self.assertEqual(line["weight"], 7)


class Grown(EditingTest):
    def test_a_catalogue_of_thousands_draws_what_is_seen_and_reaches_the_rest(self) -> None:
        items = [{"id": f"i{at}", "name": f"Item {at}", "tier": "plain"} for at in range(3_000)]
        game = {"format": "golddice-game", "version": 1, "name": "Many"}
        game |= {"tiers": [{"id": "plain", "name": "Plain"}], "items": items}
        self.game = self.client.post("/api/games/import", json=game).json()["id"]
        self.open("items/catalogue")
        grid = '[aria-label="items"]'
        self.assertEqual(self.find(grid).get_attribute("aria-rowcount"), "3001")
        self.assertLess(len(self.all(f"{grid} [data-row]")), 80)
        self.cell("i0", "name", "items").click()
        self.chord(Keys.CONTROL, Keys.ARROW_DOWN)
        last = self.cell("i2999", "name", "items")
        self.until("there", lambda: self.browser.switch_to.active_element == last)
        self.press("Deepest", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.whole()["items"][-1]["name"], "Deepest")

    def test_a_sheet_along_the_depths_of_a_source_with_thousands_of_items(self) -> None:
        """More numbers than a call takes arguments; columns that are reached by scrolling."""
        self.game = self.client.post("/api/games/import", json=wide(2_000)).json()["id"]
        self.open("source/whale")
        self.button("all depths").click()
        table = '[aria-label="figures by depth"]'
        self.until("columns", lambda: self.all(f"{table} thead th[aria-colindex]"))
        self.assertEqual(self.find(table).get_attribute("aria-colcount"), "2003")
        drawn = self.all(f"{table} thead th[aria-colindex]")
        self.assertLess(len(drawn), 60)
        self.columns_are_their_own_however_they_are_come_to(table)
        self.browser.execute_script("document.querySelector('[data-scrolls-across]').scrollLeft = 1e6")
        last = f"{table} thead th[aria-colindex='2003']"
        self.until("the last", lambda: self.all(last))
        self.assertEqual(len(self.all(f"{table} tbody tr:first-child td[aria-colindex='2003']")), 1)

    def columns_are_their_own_however_they_are_come_to(self, table: str) -> None:
        """Step by step, when what is left behind becomes what comes next, or at once."""

        def come_to(*lefts: int) -> dict[str, str]:
            for left in lefts:
                self.browser.execute_script(_ACROSS, left)
                self.until("the columns there", lambda: self.browser.execute_script(_ALL_SEEN, table))
            shown: dict[str, str] = self.browser.execute_script(_BY_COLUMN, table)
            return shown

        at_once = come_to(3_000)
        self.assertGreater(len(at_once), 15)
        come_to(0)
        step_by_step = come_to(*range(0, 3_001, 150))
        both = at_once.keys() & step_by_step.keys()
        self.assertGreater(len(both), 15)
        self.assertGreater(len({at_once[column] for column in both}), 5)
        self.assertEqual({at: at_once[at] for at in both}, {at: step_by_step[at] for at in both})
        self.assertTrue(all(shown.endswith("true") for shown in step_by_step.values()), step_by_step)

    def test_a_shelf_of_hundreds_draws_what_is_seen_and_finds_the_rest(self) -> None:
        game = wide(20)
        game["tables"] += [{**game["tables"][0], "id": f"t{at}", "name": f"Table {at}"} for at in range(400)]
        self.game = self.client.post("/api/games/import", json=game).json()["id"]
        self.open("source/whale")
        fold = "//nav//button[contains(., 'Tables')]"
        self.browser.find_element(By.XPATH, fold).click()
        self.until("tables", lambda: len(self.all("nav .group")) > 10)
        self.assertLess(len(self.all("nav .group")), 80)
        self.find("[aria-label='Filter the shelf']").send_keys("Table 39")
        found = lambda: [one.text for one in self.all("nav .group") if one.text.startswith("Table ")]  # noqa: E731
        self.until("those", lambda: len(found()) == 11)
        self.assertEqual([found()[0], found()[-1]], ["Table 39", "Table 399"])


def wide(items: int) -> dict[str, Any]:
    """A source that gives so many items, at a hundred depths."""
    lines = [{"id": f"l{at}", "weight": 1 + at, "yields": [{"item": f"i{at}"}]} for at in range(items)]
    return {
        **{"format": "golddice-game", "version": 1, "name": "Wide", "depth": {"from": 1, "to": 100}},
        "tiers": [{"id": "plain", "name": "Plain"}],
        "items": [{"id": f"i{at}", "name": f"Item {at}", "tier": "plain"} for at in range(items)],
        "tables": [{"id": "all", "name": "All", "rule": "pick", "lines": lines}],
        "sources": [
            {"id": "whale", "name": "Whale", "kind": "enemy", "drops": [{"id": "a", "table": "all"}]}
        ],
    }


if __name__ == "__main__":
    unittest.main()
