"""Games as wholes: opened, made, moved in and out; trials; two tabs; a server that goes away."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from selenium.webdriver import Keys

from golddice.store.errors import Unavailable
from tests.browser.driver import BrowserTest, sized
from tests.games import DEMO

INVALID = Path(__file__).parents[1] / "core" / "reference" / "invalid"


class Games(BrowserTest):
    def test_a_new_game_from_a_name_to_the_first_odds(self) -> None:
        self.browser.get(self.address)
        self.labelled("Name of the game").send_keys("Reef", Keys.ENTER)
        self.until("its items", lambda: "The ladder" in self.find("main").text)
        self.button("+ add an item").click()
        self.until("an item", lambda: len(self.all('[aria-label="items"] [data-row]')) == 1)
        self.find('[aria-label="new in Sources"]').click()
        self.labelled("add a drop").click()
        self.button("A new table").click()
        self.find('[aria-label="lines of New source drops"]')
        self.answered()  # its strip moves what stands below
        self.button("+ add a line").click()
        grid = "lines of New source drops"
        self.cell("a", "gives", grid).click()
        self.press("new item", Keys.ENTER)
        self.until("the odds", lambda: self.text("a", "chance", grid) == "100 %")
        self.until("the reading", lambda: "every kill gives" in self.find('[data-testid="sentence"]').text)

    def test_rename_duplicate_delete_and_bring_back(self) -> None:
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.button("Rename").click()
        name = self.find('[role=dialog] [aria-label="Name of the game"]')
        name.send_keys(Keys.CONTROL, "a")
        name.send_keys("Shallows", Keys.ENTER)
        self.until("the new name", lambda: "Shallows" in self.find("header").text)
        self.labelled("game").click()
        self.button("Duplicate").click()
        self.until("the copy", lambda: "Shallows, copy" in self.find("header").text)
        self.labelled("game").click()
        self.button("Delete this game").click()
        self.until("the welcome", lambda: "Make a new one" in self.find("main").text)
        self.button("Bring it back").click()
        self.until("back", lambda: "Shallows, copy" in self.find("header").text)

    def test_a_file_is_taken_or_told_what_is_wrong_with_it(self) -> None:
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.button("Import a game file").click()
        field = self.find("input[type=file]")
        field.send_keys(str(INVALID / "bad-ranges.golddice.json"))
        alert = self.find("[role=alert]")
        self.assertIn("tables[0].lines[0].yields[0].quantity", alert.text)
        self.assertIn("tables[1].rolls", alert.text)
        with tempfile.NamedTemporaryFile("w", suffix=".golddice.json") as file:
            json.dump({**json.loads(DEMO.read_text(encoding="utf-8")), "name": "Brought in"}, file)
            file.flush()
            field.send_keys(file.name)
            self.until("the game", lambda: "Brought in" in self.find("header").text)

    def test_bands_and_points_that_are_out_of_order_are_mended_by_one_click(self) -> None:
        data = json.loads(DEMO.read_text(encoding="utf-8")) | {"name": "Crossed"}
        bands, curve = data["depth"]["bands"], data["curves"][0]
        bands[1]["from"] = 4  # the one above goes down to 6, and counts there
        bands[4]["to"] = 99
        curve["points"] = [[30, 0.5], [1, 1.2], [14, 0.8], [14, 0.85]]
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.button("Import a game file").click()
        with tempfile.NamedTemporaryFile("w", suffix=".golddice.json") as file:
            json.dump(data, file)
            file.flush()
            self.find("input[type=file]").send_keys(file.name)
            alert = self.find("[role=alert]")
            for place in ("depth.bands[4]", "curves[0].points"):
                self.assertIn(place, alert.text)
            self.button("Cut bands, put points in order").click()
            self.until("the game", lambda: "Crossed" in self.find("header").text)
        game = self.browser.current_url.split("/g/")[1].split("/")[0]
        made = self.client.get(f"/api/games/{game}").json()
        ends = [(band["from"], band["to"]) for band in made["settings"]["depth"]["bands"]]
        self.assertEqual(ends, [(1, 6), (4, 12), (13, 20), (21, 26), (27, 30)])
        self.assertEqual(made["curves"][0]["points"], [[1, 1.2], [14, 0.85], [30, 0.5]])

    def test_a_file_that_is_wrong_otherwise_has_no_such_offer(self) -> None:
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.button("Import a game file").click()
        self.find("input[type=file]").send_keys(str(INVALID / "bad-numbers.golddice.json"))
        self.find("[role=alert]")
        self.assertFalse(self.all("[role=alert] button"))


class Trials(BrowserTest):
    def test_set_up_run_and_look(self) -> None:
        self.open("source/lantern-eel")
        self.find('[aria-label="new in Trials"]').click()
        for label, value in (("how many divers", "500"), ("events each", "200"), ("seed", "7")):
            field = self.labelled(label)
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(value)
        self.button("Run the trial").click()
        main = self.find("main")
        self.until("the report", lambda: "What a diver received" in main.text, 30)
        self.assertIn("Lantern Eel", main.text)
        self.assertGreater(len(self.rows("[aria-label^='items per player']")), 8)
        self.button("replay").click()
        self.until("that player", lambda: self.find("[aria-label=replay] [aria-pressed=true]"))

    def test_a_long_one_shows_how_far_it_is_and_can_be_cancelled(self) -> None:
        asked = {
            "view": {"kind": "source", "id": "guild-parcel"},
            "depth": 20,
            "players": 1_000_000,
            "events": 5_000,
            "seed": 1,
            "knowingly": True,
        }
        trial = self.client.post(f"/api/games/{self.game}/trials", json=asked).json()["id"]
        self.open(f"trial/{trial}")
        bar = self.find("[role=progressbar]")
        self.until("some progress", lambda: "played" in self.find("main").text)
        self.assertEqual(bar.get_attribute("aria-valuemax"), "100")
        self.button("Stop").click()
        self.until("the end of it", lambda: "cancelled" in self.find("main").text, 30)


class Together(BrowserTest):
    def weight_of_g(self) -> float:
        return float(self.table()["lines"][6]["weight"])

    def with_g(self, weight: float) -> dict[str, Any]:
        lines = [{**one, "weight": weight} if one["id"] == "g" else one for one in self.table()["lines"]]
        return {**self.table(), "lines": lines}

    def test_two_tabs_do_not_overwrite_each_other(self) -> None:
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        table = self.table()
        # The other tab saves while this one has not heard of it yet.
        self.browser.execute_script("window.EventSource = class { close() {} }")
        self.browser.execute_cdp_cmd("Network.enable", {})
        self.browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/events"]})
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        self.other_tab({**table, "nothing": 40})
        self.type_into("g", "entry", "5")
        self.until("both stand", lambda: self.weight_of_g() == 5)
        self.assertEqual(self.table()["nothing"], 40)
        self.other_tab(self.with_g(7))
        self.type_into("g", "entry", "6")
        question = self.find("[role=alertdialog]")
        self.assertIn("Eel catch, Beacon lens: weight", question.text)
        self.button("Keep mine").click()
        self.until("mine", lambda: self.weight_of_g() == 6)
        self.other_tab(self.with_g(8))
        self.type_into("g", "entry", "9")
        self.find("[role=alertdialog]")
        self.button("Take theirs").click()
        self.until("theirs", lambda: self.text("g", "entry") == "8")
        self.assertEqual(self.weight_of_g(), 8)
        self.browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})

    def expected(self, message: str) -> bool:
        return super().expected(message) or "/events" in message

    def test_another_tabs_edit_shows_by_itself(self) -> None:
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        self.other_tab({**self.table(), "nothing": 40})
        self.until("their edit", lambda: self.labelled("blank weight").text == "40")

    def other_tab(self, body: dict[str, object]) -> None:
        revision = self.client.get(f"/api/games/{self.game}").json()["revision"]
        entry = {"kind": "table", "id": "eel-catch", "body": body}
        change = {"base": revision, "label": "another tab", "entries": [entry]}
        self.assertEqual(self.client.post(f"/api/games/{self.game}/changes", json=change).status_code, 200)


class Trouble(BrowserTest):
    def test_edits_wait_for_a_database_that_is_away(self) -> None:
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        games = type(self.bench.games)
        kept = games.change

        def away(*_: object) -> None:
            raise Unavailable

        games.change = away  # type: ignore[assignment, method-assign]
        self.addCleanup(setattr, games, "change", kept)
        self.type_into("g", "entry", "9")
        status = self.find("header [role=status]")
        self.until("it says so", lambda: "1 edit kept here" in status.text)
        games.change = kept  # type: ignore[method-assign]
        self.until("saved after all", lambda: "revision 2" in self.find("header [role=status]").text)
        self.assertEqual(self.text("g", "entry"), "9")

    def expected(self, message: str) -> bool:
        return super().expected(message) or "status of 503" in message


class Widths(BrowserTest):
    def test_it_works_narrow_and_wide(self) -> None:
        for width in (1024, 1920):
            sized(self.browser, width)
            self.open("source/lantern-eel")
            self.until("numbers", lambda: self.text("a", "chance") != " %")
            wide = self.browser.execute_script("return document.documentElement.scrollWidth")
            self.assertLessEqual(wide, width)
        sized(self.browser)


if __name__ == "__main__":
    unittest.main()
