"""Every way to roll, in the browser: rules compared, bundles and pools, findings mended, state shown."""

from __future__ import annotations

import unittest

from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest


class Schemes(BrowserTest):
    def test_rules_side_by_side_and_one_of_them_taken(self) -> None:
        self.open("table/crab-meat")
        self.button("what if rolled otherwise?").click()
        panel = self.labelled("Crab meat under each rule")
        self.until("numbers", lambda: len(panel.find_elements(By.CSS_SELECTOR, "tbody td.num")) > 20)
        first = panel.find_elements(By.CSS_SELECTOR, "tbody tr")[0]
        chances = [float(cell.text) for cell in first.find_elements(By.CSS_SELECTOR, "td.num")]
        self.assertEqual(self.table("crab-meat")["rule"], "pick")
        # The first line of a `first` table is tested alone, as in `each`; the retry shares its tries.
        self.assertEqual(chances[1], chances[2])
        self.labelled("roll it so: first hit").click()
        self.saved(2)
        self.assertEqual(self.table("crab-meat")["rule"], "first")
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        self.assertEqual(self.table("crab-meat")["rule"], "pick")

    def test_a_bundle_and_a_pool_are_made_in_place(self) -> None:
        self.open("table/crab-meat")
        cell = self.cell("a", "gives", "lines of Crab meat")
        self.browser.execute_script("arguments[0].click()", self.find("[aria-label^='all that']", cell))
        self.button("+ item, table or source").click()
        name = self.labelled("what it gives 2")
        name.send_keys("Brass token")
        quantity = self.labelled("quantity 2")
        quantity.send_keys(Keys.CONTROL, "a")
        quantity.send_keys("2d6+1")
        self.button("+ any of a kind").click()
        pool = self.find("[aria-label='tiers of the pool']")
        next(one for one in pool.find_elements(By.TAG_NAME, "button") if "Curio" in one.text).click()
        self.labelled("tags of the pool").send_keys("glass")
        self.button("Save").click()
        self.saved(2)
        given = self.table("crab-meat")["lines"][0]["yields"]
        self.assertEqual(given[1]["item"], "brass-token")
        self.assertEqual(given[1]["quantity"]["dice"], "2d6+1")
        self.assertEqual((given[2]["pool"]["tiers"], given[2]["pool"]["tags"]), (["curio"], ["glass"]))
        self.until("its name", lambda: "Brass token and any Curio, glass" in self.find("main").text)

    def test_what_cannot_be_saved_of_a_bundle_is_said_and_kept(self) -> None:
        self.open("table/crab-meat")
        cell = self.cell("a", "gives", "lines of Crab meat")
        self.browser.execute_script("arguments[0].click()", self.find("[aria-label^='all that']", cell))
        quantity = self.labelled("quantity 1")
        quantity.send_keys(Keys.CONTROL, "a")
        quantity.send_keys("5-2")
        self.button("Save").click()
        self.until("why", lambda: "above max" in self.find("[role=alert]").text)
        self.assertEqual(quantity.get_attribute("value"), "5-2")
        self.assertEqual(self.table("crab-meat")["lines"][0]["yields"][0]["quantity"]["dice"], None)

    def test_a_source_can_be_a_yield(self) -> None:
        self.open("table/shelf-life")
        grid = "lines of Shelf life"
        self.cell("a", "gives", grid).click()
        self.press("Cullet be")
        self.until("a suggestion", lambda: "Cullet bed" in self.find("[role=listbox]").text)
        self.press(Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.table("shelf-life")["lines"][0]["yields"][0]["source"], "cullet-bed")

    def test_a_finding_is_mended_by_one_click_and_one_step_undoes_it(self) -> None:
        self.open("table/mimic-teeth")
        notes = self.find("[aria-label=findings]")
        self.assertIn("look certain", notes.text)
        before = self.table("mimic-teeth")
        mend = next(one for one in notes.find_elements(By.TAG_NAME, "button") if "try" in one.text)
        mend.click()
        self.saved(2)
        self.assertGreater(self.table("mimic-teeth")["tries"], before["tries"])
        self.until("it is gone", lambda: "look certain" not in self.find("main").text)
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        self.assertEqual(self.table("mimic-teeth"), before)

    def test_a_finding_marks_its_cell(self) -> None:
        self.open("table/mimic-teeth")
        cell = self.cell("a", "entry", "lines of Mimic teeth")
        self.until("the mark", lambda: "cut at 100 %" in (cell.get_attribute("title") or ""))

    def test_fresh_or_the_long_run(self) -> None:
        self.open("table/trench-heirlooms")
        grid = "lines of Trench heirlooms"
        fresh = self.until("numbers", lambda: self.text("e", "per_100", grid))
        self.button("long run").click()
        # At most one for each player: in the long run there are none.
        self.until("the long run", lambda: self.text("e", "per_100", grid) == "0")
        self.assertNotEqual(fresh, "0")
        self.cell("a", "per_100", grid).click()
        self.press("50", Keys.ENTER)
        self.until("a refusal", lambda: "long run" in self.find("[role=alert]").text)

    def test_a_deck_shows_what_is_left_after_the_rolls(self) -> None:
        self.open("source/blind-pearl-shelf")
        self.until("a full deck", lambda: "12 of 12" in self.labelled("cards of the deck").text)
        self.until("the tray", lambda: "Nothing rolled yet" in self.find("body").text)
        self.press("r")
        self.until(
            "two cards less", lambda: "10 of 12" in self.labelled("cards of the deck").text, seconds=40
        )
        self.button("start over").click()
        self.until("a full deck", lambda: "12 of 12" in self.labelled("cards of the deck").text)

    def test_a_guard_draws_its_rise_and_counts_the_misses(self) -> None:
        self.open("source/lantern-eel")
        curve = self.find("svg title", self.labelled("limits of the drop of Trench heirlooms"))
        self.until("its words", lambda: "after 5" in (curve.get_attribute("textContent") or ""))
        for _ in range(4):
            self.press("r")
        self.until("the trace", lambda: "in a row without" in self.labelled("tray").text)


if __name__ == "__main__":
    unittest.main()
