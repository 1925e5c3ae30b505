"""What a game file can say can be said on screen: flags, what worth is counted in, cells, money, notes,
where a drop is open."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import Keys

from tests.browser.driver import BrowserTest


class Flags(BrowserTest):
    def flags(self) -> dict[str, str]:
        return {flag["id"]: flag["name"] for flag in self.whole()["flags"]}

    def lines(self) -> list[dict[str, Any]]:
        return [line for table in self.whole()["tables"] for line in table["lines"]]

    def line(self, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.table("eel-catch")["lines"] if one["id"] == name)
        return found

    def test_a_new_flag_opens_a_line(self) -> None:
        """Made on the shelf, named in its grid, needed by a line, set: from no chance to what it was."""
        self.labelled_in_shelf("new in Flags")
        self.saved(2)
        self.cell("flag", "name", "flags").click()
        self.press("Rope is cut", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.flags()["flag"], "Rope is cut")
        self.open("source/lantern-eel")
        first = self.table("eel-catch")["lines"][0]["id"]
        self.until("the chance", lambda: self.text(first, "chance") not in (" %", "0 %"))
        before = self.text(first, "chance")
        self.labelled("limits of Eelskin").click()
        self.choose("Rope is cut", "must be so")
        self.button("Save").click()
        self.saved(4)
        self.assertEqual(self.line(first)["needs"], ["flag"])
        self.until("closed", lambda: self.text(first, "chance") == "0 %")
        self.assertIn(
            "only if: Rope is cut", self.labelled("limits of Eelskin").get_attribute("aria-label") or ""
        )
        self.button("Rope is cut").click()
        self.until("open again", lambda: self.text(first, "chance") == before)
        self.open("flags/all")
        self.until("told", lambda: self.text("flag", "needs", "flags") == "Eelskin in Eel catch")

    def test_a_flag_is_made_where_it_is_needed(self) -> None:
        self.browser.get(self.address)
        self.labelled("Name of the game").send_keys("Reef", Keys.ENTER)
        self.labelled("new in Sources").click()
        self.labelled("add a drop").click()
        self.button("A new table").click()
        self.labelled("limits of the drop").click()
        self.labelled("name of a new flag").send_keys("Knows the tide")
        self.button("make a flag").click()
        chosen = self.find("select[aria-label='Knows the tide']")
        self.until("needed", lambda: chosen.get_attribute("value") == "needs")
        self.button("Save").click()
        self.until("kept", lambda: "Knows the tide" in self.labelled("limits of the drop").accessible_name)

    def labelled_in_shelf(self, label: str) -> None:
        self.open("source/lantern-eel")
        self.labelled(label).click()
        self.until("its sheet", lambda: "/flags/all" in self.browser.current_url)

    def test_a_flag_in_use_asks_before_it_goes_and_leaves_its_line_open(self) -> None:
        self.open("flags/all")
        flag = next(iter(self.flags()))
        self.assertTrue([line for line in self.lines() if flag in line["needs"] + line["unless"]])
        many = len(self.lines())
        self.cell(flag, "name", "flags").click()
        self.press(Keys.DELETE)
        self.assertIn("Bell crate fittings: Tide clock", self.find("[role=alertdialog]").text)
        self.button("Remove it").click()
        self.saved(2)
        self.assertNotIn(flag, self.flags())
        self.assertFalse([line for line in self.lines() if flag in line["needs"] + line["unless"]])
        self.assertEqual(len(self.lines()), many)
        self.find('[aria-label^="Undo"]').click()
        self.saved(3)
        self.assertIn(flag, self.flags())


class Catalogue(BrowserTest):
    def item(self, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()["items"] if one["id"] == name)
        return found

    def test_what_worth_is_counted_in(self) -> None:
        self.open("items/catalogue")
        self.labelled("what worth is counted in").click()
        self.press("pearls", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.whole()["settings"]["currency"], "pearls")
        self.until("the new name", lambda: "value, pearls" in self.find("main").text)
        self.open("source/lantern-eel")
        self.until("the reading", lambda: "pearls" in self.find("[aria-label=spread]").text)

    def test_cells_and_money(self) -> None:
        self.open("items/catalogue")
        self.cell("eelskin", "cells", "items").click()
        self.press("2x3", Keys.ENTER)
        self.saved(2)
        self.assertEqual((self.item("eelskin")["width"], self.item("eelskin")["height"]), (2, 3))
        self.cell("eelskin", "money", "items").click()
        self.press("yes", Keys.ENTER)
        self.saved(3)
        self.assertTrue(self.item("eelskin")["currency"])
        self.cell("eelskin", "cells", "items").click()
        self.press(Keys.ENTER, "wide", Keys.ENTER)
        self.until("why not", lambda: "2 × 1" in self.find("main [role=alert]").text)
        self.saved(3)


class Sources(BrowserTest):
    def test_a_drop_is_open_at_its_depths_only(self) -> None:
        """The heirlooms' drop from depth 16 on: at 15 the sheet says that it rolls never."""
        self.open("source/lantern-eel")
        drop = self.source()["drops"][1]
        self.assertEqual(drop["depths"], [8, 30])
        self.labelled("limits of the drop of Trench heirlooms").click()
        field = self.labelled("depths where it is open")
        self.assertEqual(field.get_attribute("value"), "8-30")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("16-90", Keys.ENTER)
        self.until("why not", lambda: "depths go from 1 to 30" in self.find("form [role=alert]").text)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("16-30", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.source()["drops"][1], {**drop, "depths": [16, 30]})
        block = "[aria-label='drop Trench heirlooms']"
        self.until("the chip", lambda: "16–30" in self.find(block).text)
        self.until("never rolled", lambda: "0 rolls a kill" in self.find(block).text.replace("\n", " "))

    def test_notes_of_a_source_and_of_a_table(self) -> None:
        for at, (path, label) in enumerate((("source/lantern-eel", "source"), ("table/eel-catch", "table"))):
            self.open(path)
            self.labelled(f"notes of the {label}").click()
            self.press("Pays for the lamp.")
            self.find("h1, main button").click()
            self.saved(2 + at)
        self.assertEqual(self.source()["notes"], "Pays for the lamp.")
        self.assertEqual(self.table()["notes"], "Pays for the lamp.")
        self.until("kept", lambda: self.labelled("notes of the table").get_attribute("value"))

    def test_a_spawn_table_says_which_visits_roll_it(self) -> None:
        band = next(one for one in self.whole()["settings"]["depth"]["bands"] if one["spawns"])
        self.open(f"table/{band['spawns']}")
        self.until("who rolls it", lambda: f"visits to {band['name']}" in self.find("main").text)
        self.button(f"visits to {band['name']}").click()
        self.until("what is met", lambda: f"What is met at fathom {band['from']}" in self.find("main").text)


if __name__ == "__main__":
    unittest.main()
