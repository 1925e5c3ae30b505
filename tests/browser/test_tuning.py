"""Finding numbers in the browser: a proposal is made, looked at, taken in part, undone, taken whole."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.test_targets import TargetTest

GUIDE = Path(__file__).parents[2] / "docs" / "guide"
STRIP = "[aria-label='find numbers']"


class Tuning(TargetTest):
    def strip(self) -> str:
        return self.find(STRIP).text.replace("\u202f", " ")

    def numbers(self) -> list[str]:
        table = f"{STRIP} [aria-label='numbers that move'] tbody tr"
        return [row.text.replace("\u202f", " ") for row in self.all(table)]

    def change(self, label: str, entry: dict[str, Any]) -> None:
        """Somebody else's edit."""
        change = {"base": self.whole()["revision"], "label": label, "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()

    def press_button(self, words: str) -> None:
        """The last button of just these words."""
        path = f"(//button[normalize-space(.)='{words}'])[last()]"

        def pressed() -> bool:
            self.browser.find_element(By.XPATH, path).click()
            return True

        self.until(words, pressed)

    def chance(self, drop: str) -> float:
        drops = self.source()["drops"]
        return float(next(one["chance"] for one in drops if one["id"] == drop))

    def found(self) -> None:
        self.until("a proposal", lambda: "Met, with" in self.strip() or "Not all" in self.strip(), 60)

    def weight(self, line: str) -> float:
        lines = self.table("trench-heirlooms")["lines"]
        return float(next(one for one in lines if one["id"] == line)["weight"])

    def is_met(self) -> bool:
        answer = self.client.post(f"/api/games/{self.game}/targets", json={"ids": ["eel-pays"]}).json()
        return bool(answer["targets"][0]["is_met"])

    def test_part_of_it_is_taken_undone_and_all_of_it_taken(self) -> None:
        self.open("target/eel-pays")
        self.until("it is missed", lambda: "holds at 14 of 16" in self.stands())
        self.press_button("Find numbers")
        self.found()
        # the sheet shows how it would be, the game is as it was
        self.until("it is shown as tried", lambda: "holds at all 16" in self.stands())
        self.assertFalse(self.is_met())
        self.assertIn("17.5 → 20", self.strip())
        self.assertEqual(len(self.numbers()), 2)
        self.assertIn("18 20 +11 %", self.numbers()[0])
        self.assertIn("larger by them", self.strip())
        # all but one
        self.labelled("take Lantern Eel, Trench heirlooms: chance").click()
        self.until("a part", lambda: "Take 1 of 2" in self.strip())
        self.press_button("Take 1 of 2")
        self.until("it is taken", lambda: self.weight("c") == 20)
        self.assertEqual(self.chance("b"), 0.04)
        self.until("the strip has gone", lambda: not self.all(STRIP))
        self.labelled("Undo").click()
        self.until("it is taken back", lambda: self.weight("c") == 18)
        # all of it, in one step
        self.press_button("Find numbers")
        self.found()
        self.press_button("Take all")
        self.until("all is taken", lambda: (self.weight("c"), self.chance("b")) == (20, 0.053))
        self.assertTrue(self.is_met())
        self.labelled("Undo").click()
        self.until("one step back", lambda: (self.weight("c"), self.chance("b")) == (18, 0.04))

    def test_new_numbers_stand_under_the_old_ones(self) -> None:
        self.open("source/lantern-eel")
        self.press_button("find numbers")
        self.found()
        cells = "[data-testid=becomes]"
        self.until("in the cells", lambda: len(self.all(f"main {cells}")) >= 2)
        [drop] = [one for one in self.all(f"main {cells}") if one.text.startswith("4")]
        self.assertRegex(drop.text, r"\n5\.\d")
        self.press_button("leave")
        self.until("gone", lambda: not self.all(f"main {cells}"))

    def test_a_number_that_is_kept_stays(self) -> None:
        self.open("target/eel-pays")
        self.press_button("Find numbers")
        self.found()
        before = self.numbers()[0].split(":")[0]
        self.find(f"{STRIP} tbody tr button.label").click()
        self.until(
            "another proposal", lambda: self.numbers() != [] and before not in " ".join(self.numbers())
        )
        self.press_button("leave")
        self.until("nothing is tried any more", lambda: "holds at 14 of 16" in self.stands())

    def test_what_contradicts_is_named_and_can_be_left_out(self) -> None:
        low = {**self.target("eel-pays"), "id": "eel-cheap", "name": "Eels are cheap"}
        low |= {"side": "at-most", "wanted": 15}
        self.change("cheap", {"kind": "target", "id": "eel-cheap", "body": low})
        self.open("source/lantern-eel")
        self.until("offered in the reading", lambda: self.button("find numbers"))
        self.press_button("find numbers")
        self.found()
        self.assertIn("They contradict each other", self.strip())
        self.assertIn("Eels are cheap: at most 15", self.strip())
        rows = self.all(f"{STRIP} [aria-label=contradiction] p")
        [cheap] = [row for row in rows if "cheap" in row.text]
        cheap.find_element(By.TAG_NAME, "button").click()
        self.until("met without it", lambda: "Met, with" in self.strip())

    def test_other_ways_are_told_with_their_price(self) -> None:
        self.open("target/eel-pays")
        self.press_button("Find numbers")
        self.found()
        self.until("another way", lambda: "Or the fewest numbers: 1 number" in self.strip(), 60)
        self.press_button("the fewest numbers")
        self.until("that one", lambda: len(self.numbers()) == 1)
        self.assertIn("Or the smallest change: 2 numbers", self.strip())
        self.choose("of which numbers", "curves")
        self.until(
            "of curves", lambda: self.numbers() and all("Lantern" not in one for one in self.numbers()), 30
        )
        self.choose("in which way", "the smallest change")
        self.choose("by which factor at most", "up to ×1.1")
        self.until("not so near", lambda: "Not all can be met" in self.strip(), 60)

    def test_the_long_run_of_a_wait_is_told_and_can_be_held(self) -> None:
        soon = self.target("vent-sure") | {"wanted": 20, "depths": [15, 15]}
        self.change("sooner", {"kind": "target", "id": "vent-sure", "body": soon})
        self.open("target/vent-sure")
        self.press_button("Find numbers")
        self.found()
        self.until("what it costs", lambda: "In the long run" in self.strip())
        run = Select(self.find("select[aria-label='the long run of waits']"))
        run.select_by_visible_text("stays")
        self.until("asked anew", lambda: "Looking for" not in self.strip() and "stays" in self.strip(), 60)
        self.found()

    def test_a_number_that_moves_it_is_turned_in_place(self) -> None:
        self.open("target/eel-pays")
        self.until("it is missed", lambda: "holds at 14 of 16" in self.stands())
        name = "[role=slider][aria-label^='turn Lantern Eel, Trench heirlooms']"
        turn = self.until("the lever", lambda: self.all(name), 20)[0]
        turn.send_keys(*[Keys.ARROW_RIGHT] * 8)
        self.until("tried", lambda: "holds at all 16" in self.stands())
        self.assertEqual(self.chance("b"), 0.04)
        turn.send_keys(Keys.ESCAPE)
        self.until("left", lambda: "holds at 14 of 16" in self.stands())
        turn.send_keys(*[Keys.ARROW_RIGHT] * 8, Keys.ENTER)
        self.until("taken", lambda: self.chance("b") == 0.0585)
        # dragged, by a hundred pixels to the left
        held = ActionChains(self.browser).click_and_hold(self.all(name)[0])
        held.move_by_offset(-40, 0).move_by_offset(-60, 0).release().perform()
        self.until("less again", lambda: self.chance("b") < 0.04)

    def test_a_point_of_mean_against_swing_is_proposed(self) -> None:
        self.open("source/lantern-eel")
        self.press_button("mean against swing")
        name = "[role=slider][aria-label^='Mean against swing']"
        plot = self.until("the plot", lambda: self.all(name), 30)[0]
        plot.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ENTER)
        self.until("its numbers", lambda: len(self.numbers()) > 3)
        self.press_button("Take all")
        self.until("taken", lambda: not self.all(STRIP))
        self.assertEqual(self.whole()["revision"], 2)

    def test_the_guide_has_its_pictures(self) -> None:
        self.open("guide/tune-a-boss-in-ten-minutes")
        pictures = self.until("pictures", lambda: self.all(".guide img"))
        self.assertEqual(len(pictures), len(list(GUIDE.glob("*.png"))), "the guide stands on one page, whole")
        for picture in pictures:
            self.until("it is there", lambda: int(picture.get_property("naturalWidth") or 0) > 1000)  # noqa: B023

    def test_the_guide_tunes_a_boss(self) -> None:
        """Every step of "Tune a boss in ten minutes"."""
        self.open("source/hush-angler")
        self.until("it is missed", lambda: self.button("find numbers"))
        self.press_button("find numbers")
        self.found()
        self.assertIn("They contradict each other", self.strip())
        [rare] = [one for one in self.all(f"{STRIP} [aria-label=contradiction] p") if "rare" in one.text]
        rare.find_element(By.TAG_NAME, "button").click()
        self.until("met without it", lambda: "Met, with" in self.strip())
        self.assertIn("What else moves", self.strip())
        first = self.numbers()[0].split(":")[0]
        self.find(f"{STRIP} tbody tr button.label").click()
        self.until("without that number", lambda: self.numbers() and first not in self.numbers()[0], 60)
        self.press_button("Take all")
        self.until("taken", lambda: not self.all(STRIP))
        answer = self.client.post(f"/api/games/{self.game}/targets", json={"ids": ["angler-wonder"]}).json()
        self.assertTrue(answer["targets"][0]["is_met"])
        self.open("target/angler-rare")
        self.until("its sheet", lambda: self.all("main input[type=checkbox]"))
        self.find("main input[type=checkbox]").click()
        self.open("targets/all")
        self.until("one more is met", lambda: "11 of 16 are met" in self.find("main").text)
        self.press_button("Find numbers")
        self.until("all the others", lambda: "15 of 16 are met" in self.find("main").text, 180)
        self.assertIn("Met, with", self.strip())

    def test_another_edit_in_the_middle_asks_to_find_again(self) -> None:
        self.open("target/eel-pays")
        self.press_button("Find numbers")
        self.found()
        eel = self.source()
        eel["drops"][0]["chance"] = 0.7
        self.change("elsewhere", {"kind": "source", "id": "lantern-eel", "body": eel})
        self.until("it is told", lambda: "The game has changed since" in self.strip())
        [take] = [one for one in self.all("button") if one.text == "Take all"]
        self.assertFalse(take.is_enabled())
        self.press_button("Find again")
        self.until("for the game as it is now", lambda: "16.8 →" in self.strip())


if __name__ == "__main__":
    unittest.main()
