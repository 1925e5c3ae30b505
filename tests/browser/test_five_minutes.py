"""The first five minutes of the README, walked as they are written there, by somebody new."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

from selenium.webdriver import ActionChains, Keys

from tests.browser.driver import BrowserTest

README = Path(__file__).parents[2] / "README.md"
STEPS = 9
DEPTH = '[aria-orientation="vertical"]'
STRIP = "[aria-label='find numbers']"


class FiveMinutes(BrowserTest):
    def test_every_step_does_what_it_says(self) -> None:
        self.browser.get(f"{self.address}/g/{self.game}")
        told = README.read_text(encoding="utf-8").split("## The first five minutes")[1].split("\n## ")[0]
        self.assertEqual(len(re.findall(r"^\d+\. ", told, re.MULTILINE)), STEPS, "each has its walk here")
        self.type_a_weight()
        self.type_an_answer()
        self.drag_the_strip()
        self.roll()
        self.go_deeper()
        self.look_along_the_depths()
        self.find_numbers()
        self.send_players()
        self.take_it_back()

    def on_the_shelf(self, words: str) -> None:
        self.press_named(words, "nav")

    def press_named(self, words: str, within: str) -> None:
        path = f"//{within}//*[self::a or self::button][contains(normalize-space(.), '{words}')]"

        def pressed() -> bool:
            self.browser.find_element("xpath", path).click()
            return True

        self.until(f"{words} in {within}", pressed)

    def type_a_weight(self) -> None:
        self.on_the_shelf("Lantern Eel")
        self.until("numbers", lambda: self.text("g", "chance") != " %")
        self.assertEqual(self.text("g", "gives"), "Beacon lens")
        before = self.text("g", "chance")
        self.cell("g", "entry").click()
        self.press("3.2")
        self.until("the draft's chance", lambda: self.text("g", "chance") != before)

    def type_an_answer(self) -> None:
        self.press(Keys.ENTER)
        self.saved(2)
        self.type_into("g", "one_in", "1 in 250")
        self.until("1 in 250", lambda: self.text("g", "one_in") == "250")
        self.assertNotEqual(self.text("g", "entry"), "3.2")
        self.saved(3)

    def drag_the_strip(self) -> None:
        boundary = self.find('[aria-label="Boundary between Eelskin and Glass sand"]')
        ActionChains(self.browser).drag_and_drop_by_offset(boundary, 30, 0).perform()
        self.saved(4)

    def roll(self) -> None:
        self.press("r")
        self.chord(Keys.SHIFT, "r")
        tray = self.find('[aria-label="tray"]')
        self.until("a hundred and one", lambda: "101 kills" in tray.text)
        self.assertRegex(tray.text, r"How kill \d+")

    def go_deeper(self) -> None:
        start = self.find(DEPTH).get_attribute("aria-valuenow")
        chance = self.text("g", "chance")
        self.press("]")
        self.until("deeper", lambda: self.find(DEPTH).get_attribute("aria-valuenow") != start)
        self.until("its numbers", lambda: self.text("g", "chance") != chance)
        self.press("[")
        self.until("back", lambda: self.find(DEPTH).get_attribute("aria-valuenow") == start)

    def look_along_the_depths(self) -> None:
        self.button("all fathoms").click()
        self.until("every item", lambda: "Beacon lens" in self.find("main").text)
        self.on_the_shelf("Depth")
        self.on_the_shelf("Trench pull")
        self.find("main [role=slider]")

    def find_numbers(self) -> None:
        self.on_the_shelf("Targets")
        self.on_the_shelf("All targets")
        self.until("what is missed", lambda: "Eels pay in the dark" in self.find("main").text)
        self.press_named("Eels pay in the dark", "main")
        self.until("it is missed", lambda: "holds at 14 of 16" in self.find("main").text)
        self.button("Find numbers").click()
        self.until(
            "a proposal", lambda: len(self.all(f"{STRIP} [aria-label='numbers that move'] tbody tr")), 60
        )
        self.button("Take all").click()
        self.until("it holds", lambda: "holds at all 16" in self.find("main").text)

    def send_players(self) -> None:
        self.find("[aria-label='new in Trials']").click()
        divers = self.find("[aria-label='how many divers']")
        self.assertEqual(divers.get_attribute("value"), "10000")
        self.button("Run the trial").click()
        unluckiest = "(//aside[@aria-label='reading']//button[normalize-space(.)='replay'])[last()]"
        self.until("the report", lambda: self.browser.find_elements("xpath", unluckiest), 60)
        self.browser.find_element("xpath", unluckiest).click()
        self.until("kills, one by one", lambda: self.all("[aria-label=replay] [aria-pressed=true]"))

    def take_it_back(self) -> None:
        before = self.whole()["revision"]
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("g", "chance") != " %")
        self.chord(Keys.CONTROL, "z")
        self.until("taken back", lambda: self.whole()["revision"] == before + 1)


if __name__ == "__main__":
    unittest.main()
