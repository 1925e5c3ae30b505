"""Lines and curves of their own: pins, carried rows, what a curve scales."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest


class Lines(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")

    def act(self, line: str, what: str) -> None:
        row = self.find(f'[aria-label="lines of Eel catch"] [data-row="{line}"]')
        ActionChains(self.browser).move_to_element(row).perform()
        row.find_element(By.CSS_SELECTOR, "[aria-label^='What to do with']").click()
        self.choice(what).click()

    def test_a_pinned_line_keeps_its_chance(self) -> None:
        before = self.text("b", "chance")
        self.act("b", "Pin its chance")
        self.saved(2)
        self.type_into("g", "chance", "20 %")
        self.saved(3)
        self.until("20 %", lambda: self.text("g", "chance") == "20.0 %")
        self.assertEqual(self.text("b", "chance"), before)
        lines = {line["id"]: line for line in self.table("eel-catch")["lines"]}
        self.assertTrue(lines["b"]["pinned"])
        self.type_into("g", "chance", "90 %")
        self.assertIn("the pinned lines keep theirs", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.act("b", "Let its chance give way")
        self.saved(4)

    def test_a_row_is_carried_by_the_mouse(self) -> None:
        before = [line["id"] for line in self.table("eel-catch")["lines"]]
        row = self.find('[aria-label="lines of Eel catch"] [data-row="b"]')
        ActionChains(self.browser).move_to_element(row).perform()
        grip = row.find_element(By.CSS_SELECTOR, "[aria-label^='carry']")
        ActionChains(self.browser).click_and_hold(grip).move_by_offset(0, 30).move_by_offset(
            0, 54
        ).release().perform()
        self.saved(2)
        order = [line["id"] for line in self.table("eel-catch")["lines"]]
        self.assertEqual(order, [before[0], *before[2:5], before[1], *before[5:]])
        self.find('[aria-label^="Undo"]').click()
        self.until("undone", lambda: [one["id"] for one in self.table("eel-catch")["lines"]] == before)

    def test_the_blank_the_rolls_and_the_times_are_scaled_with_depth(self) -> None:
        self.choose_curve("the blank weight", "Shallows wane")
        self.saved(2)
        self.choose_curve("the number of rolls", "Curios swell")
        self.saved(3)
        self.choose_curve("how many times", "Tapers off")
        self.saved(4)
        table = self.table("eel-catch")
        self.assertEqual((table["nothing_curve"], table["rolls"]["curve"]), ("wanes", "swells"))
        drop = next(one for one in self.whole()["sources"] if one["id"] == "lantern-eel")["drops"][0]
        self.assertEqual(drop["times"]["curve"], "tapers")

    def test_typing_a_quantity_keeps_its_curve(self) -> None:
        self.choose_curve("the number of rolls", "Curios swell")
        self.saved(2)
        self.labelled("rolls").click()
        self.press("2-5", Keys.ENTER)
        self.saved(3)
        rolls = self.table("eel-catch")["rolls"]
        self.assertEqual((rolls["min"], rolls["max"], rolls["curve"]), (2, 5, "swells"))

    def choose_curve(self, what: str, curve: str) -> None:
        self.labelled(f"curve of {what}").click()
        self.choice(curve).click()

    def test_a_curve_of_its_own_comes_and_goes_with_its_line(self) -> None:
        count = len(self.whole()["curves"])
        self.labelled("limits of Lamp oil").click()
        self.choose("scaled by", "a curve of its own")
        self.button("Save").click()
        self.saved(2)
        self.until("its sheet", lambda: "/curve/lamp-oil-its-own" in self.browser.current_url)
        made = next(one for one in self.whole()["curves"] if one["id"] == "lamp-oil-its-own")
        self.assertTrue(made["private"])
        self.assertEqual([value for _, value in made["points"]], [1, 1])
        self.open("source/lantern-eel")
        self.labelled("limits of Glass sand").click()
        options = [one.text for one in Select(self.find("select[aria-label='scaled by']")).options]
        self.assertNotIn("Lamp oil, its own", options)
        self.press(Keys.ESCAPE)
        self.labelled("limits of Lamp oil").click()
        self.choose("scaled by", "no curve")
        self.button("Save").click()
        self.saved(3)
        self.assertEqual(len(self.whole()["curves"]), count)
        self.find('[aria-label^="Undo"]').click()
        self.saved(4)
        self.assertEqual(len(self.whole()["curves"]), count + 1)

    def test_a_copied_line_has_a_curve_of_its_own(self) -> None:
        self.labelled("limits of Lamp oil").click()
        self.choose("scaled by", "a curve of its own")
        self.button("Save").click()
        self.saved(2)
        own = self.until("its curve", lambda: self.curve_of("d"))
        self.open("source/lantern-eel")
        self.act("d", "Duplicate")
        self.saved(3)
        copied = self.curve_of("i")
        curves = {one["id"]: one for one in self.whole()["curves"]}
        self.assertEqual(self.curve_of("d"), own)
        self.assertNotEqual(copied, own)
        self.assertTrue(curves[copied]["private"])
        self.assertEqual(curves[copied]["points"], curves[own]["points"])
        self.act("i", "Delete")
        self.saved(4)
        left = [one["id"] for one in self.whole()["curves"]]
        self.assertIn(own, left)
        self.assertNotIn(copied, left)
        self.find('[aria-label^="Undo"]').click()
        self.saved(5)
        self.assertEqual(self.curve_of("i"), copied)

    def curve_of(self, line: str) -> str:
        found = next(one for one in self.table("eel-catch")["lines"] if one["id"] == line)
        return str(found["curve"])

    def test_a_blank_weight_may_have_a_curve_of_its_own(self) -> None:
        self.choose_curve("the blank weight", "A curve of its own")
        self.saved(2)
        self.until("its sheet", lambda: "/curve/blank-of-eel-catch-its-own" in self.browser.current_url)
        self.assertEqual(self.table("eel-catch")["nothing_curve"], "blank-of-eel-catch-its-own")
        self.open("source/lantern-eel")
        self.choose_curve("the blank weight", "Shallows wane")
        self.saved(3)
        self.assertNotIn("blank-of-eel-catch-its-own", [one["id"] for one in self.whole()["curves"]])

    def test_each_quantity_of_a_bundle_may_have_a_curve_of_its_own(self) -> None:
        self.open("table/eel-catch")
        self.open_gives()
        self.button("+ item, table or source").click()
        self.labelled("what it gives 2").send_keys("Brass token")
        for number in (1, 2):
            self.choose(f"curve of quantity {number}", "× its own")
        self.button("Save").click()
        self.saved(2)
        given = self.table("eel-catch")["lines"][0]["yields"]
        owned = [one["quantity"]["curve"] for one in given]
        self.assertEqual(owned, ["how-many-of-eelskin-its-own", "how-many-of-eelskin-its-own-2"])
        curves = {one["id"]: one["private"] for one in self.whole()["curves"]}
        self.assertTrue(all(curves[name] for name in owned))
        self.open_gives()
        self.labelled("take out 2").click()  # its curve goes with it
        self.button("Save").click()
        self.saved(3)
        left = [one["id"] for one in self.whole()["curves"]]
        self.assertIn(owned[0], left)
        self.assertNotIn(owned[1], left)

    def test_a_form_of_what_a_line_gives_that_others_overtake(self) -> None:
        """It was opened before their edits: of its line's weight it says nothing, of its quantity it asks."""
        self.open("table/eel-catch")
        self.open_gives()
        self.elsewhere(weight=50)
        self.retype("quantity 1", "7")
        self.button("Save").click()
        self.saved(3)
        line = self.table("eel-catch")["lines"][0]
        self.assertEqual((line["weight"], line["yields"][0]["quantity"]["max"]), (50, 7))
        self.open_gives()
        self.elsewhere(yields=[{"item": "eelskin", "quantity": {"min": 3, "max": 3}}])
        self.retype("quantity 1", "9")
        self.button("Save").click()
        self.assertIn("Eel catch, Eelskin", self.find("[role=alertdialog]").text)
        self.button("Keep mine").click()
        self.until("mine", lambda: self.table("eel-catch")["lines"][0]["yields"][0]["quantity"]["max"] == 9)

    def elsewhere(self, **changed: Any) -> None:
        """Another page edits the first line; this one has heard of it."""
        table = self.table("eel-catch")
        lines = [{**table["lines"][0], **changed}, *table["lines"][1:]]
        base = self.client.get(f"/api/games/{self.game}").json()["revision"]
        entries = [{"kind": "table", "id": "eel-catch", "body": {**table, "lines": lines}}]
        change = {"base": base, "label": "elsewhere", "entries": entries}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.saved(base + 1)

    def retype(self, label: str, text: str) -> None:
        field = self.labelled(label)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def open_gives(self) -> None:
        cell = self.cell("a", "gives", "lines of Eel catch")
        self.browser.execute_script("arguments[0].click()", self.find("[aria-label^='all that']", cell))


if __name__ == "__main__":
    unittest.main()
