"""Numbers and chances as people write them: read, or asked about, but never taken for something else."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import Page

NUMBERS, FORMAT, PASTING = "text/numbers.ts", "text/format.ts", "../../tests/web/pasting.ts"


class NumbersTest(unittest.TestCase):
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(NUMBERS, FORMAT, PASTING))

    def read(self, text: str, commas: str | None = None) -> Any:
        return self.page.call(NUMBERS, "readNumber", text, commas)

    def chance(self, text: str, unit: str = "either") -> Any:
        return self.page.call(NUMBERS, "readChance", text, unit)


class Numbers(NumbersTest):
    def test_as_they_are_written(self) -> None:
        for text, value in {
            "40": 40,
            " 1.5 ": 1.5,
            "2,5": 2.5,
            "0,125": 0.125,
            ",5": 0.5,
            "20 000": 20_000,
            "20\u202f000": 20_000,
            "1,500,000": 1_500_000,
            "1.500.000": 1_500_000,
            "1,500.25": 1_500.25,
            "1.500,25": 1_500.25,
            "1.500": 1.5,
            "1.5k": 1_500,
            "2M": 2_000_000,
            "2.3M": 2_300_000,
            "1e3": 1_000,
            "\u22123": -3,
            "12,3456": 12.3456,
        }.items():
            self.assertEqual(self.read(text), value, text)

    def test_what_can_be_read_in_two_ways_is_asked_about(self) -> None:
        self.assertEqual(self.read("1,500"), "1,500 can be 1.500 or 1 500: write it one way")
        self.assertEqual(self.read("1,500", "decimal"), 1.5)
        self.assertEqual(self.read("1,500", "thousands"), 1_500)
        self.assertEqual(self.read("1.500", "decimal"), 1_500)

    def test_no_numbers(self) -> None:
        for text in ("", "abc", "1-3", "1,2,3", "1..2", "12,34,567", "1 in 50", "k", "1.2.3,4", "1,5,00.2"):
            self.assertIsInstance(self.read(text), str, text)

    @settings(max_examples=200, deadline=None)
    @given(st.floats(1e-5, 9e8))
    def test_what_the_page_writes_it_reads(self, value: float) -> None:
        for how in ("figures", "brief", "entered", "written", "short"):
            said = self.page.call(FORMAT, how, value)
            self.assertAlmostEqual(self.read(said) / value, 1.0, delta=0.01, msg=said)

    @settings(max_examples=300, deadline=None)
    @given(st.floats(1e-12, 1e12) | st.integers(0, 10**12).map(float))
    def test_what_is_opened_is_what_is_stored(self, value: float) -> None:
        """And so is what is copied, filled down and spoken: to the last digit."""
        self.assertEqual(self.read(self.page.call(FORMAT, "entered", value)), value)

    def test_what_is_shown_may_be_short_but_not_of_a_whole_number(self) -> None:
        for how in ("written", "short"):
            self.assertEqual(self.page.call(FORMAT, how, 1_234_567), "1234567")
        self.assertEqual(self.page.call(FORMAT, "short", 1_234_567.5), "1235000")
        self.assertEqual(self.page.call(FORMAT, "entered", 1_234_567.5), "1234567.5")


class Chances(NumbersTest):
    @settings(max_examples=300, deadline=None)
    @given(st.integers(1, 2000).map(lambda one_in: 1 / one_in) | st.decimals(0, 1, places=6).map(float))
    def test_what_is_opened_is_what_is_stored(self, chance: float) -> None:
        said = self.page.call(FORMAT, "entered", chance, 100) + " %"
        self.assertEqual(self.chance(said), chance, said)

    def test_as_they_are_written(self) -> None:
        for text, value in {
            "40 %": 0.4,
            "40": 0.4,
            "2,5": 0.025,
            "2.5%": 0.025,
            "0.7 %": 0.007,
            "1 in 50": 0.02,
            "1/50": 0.02,
            "3 in 1 000": 0.003,
            "1 in 1.5k": 1 / 1500,
            "100": 1.0,
            "0": 0.0,
        }.items():
            self.assertAlmostEqual(self.chance(text), value, delta=1e-15, msg=text)

    def test_a_share_or_percent(self) -> None:
        self.assertEqual(self.chance("0.4"), "0.4 can be 0.4 % or 40 %: write it with %")
        self.assertEqual(self.chance("1"), "1 can be 1 % or 100 %: write it with %")
        self.assertEqual(self.chance("0.4", "percent"), 0.004)
        self.assertEqual(self.chance("1", "percent"), 0.01)
        self.assertEqual(self.chance("35", "percent"), 0.35)

    def test_what_is_no_chance(self) -> None:
        for text in ("", "often", "101", "-1 %", "1 in 0", "3 in 2", "1 in many"):
            self.assertIsInstance(self.chance(text), str, text)

    def test_one_in_how_many(self) -> None:
        for text in ("250", "1 in 250", "0.4 %", "1/250", "0,4 %"):
            self.assertAlmostEqual(self.page.call(NUMBERS, "readOneIn", text), 250.0, msg=text)


class Blocks(NumbersTest):
    def plain(self, *cells: str) -> list[str]:
        commas = self.page.call(NUMBERS, "commasIn", cells)
        return [self.page.call(NUMBERS, "plainly", cell, commas) for cell in cells]

    def test_what_is_clear_in_one_cell_decides_for_all(self) -> None:
        self.assertEqual(self.plain("2,5", "1,500"), ["2.5", "1.5"])
        self.assertEqual(self.plain("1,500", "2,250,000"), ["1500", "2250000"])
        self.assertEqual(
            self.plain("0,125", "Sand, wet", "1-3", "40 %"), ["0.125", "Sand, wet", "1-3", "40 %"]
        )

    def test_where_no_cell_is_clear_they_stay_as_they_are(self) -> None:
        self.assertEqual(self.plain("1,500", "3,250", "Sand"), ["1,500", "3,250", "Sand"])

    def test_a_head_row_names_the_columns_and_an_empty_cell_changes_nothing(self) -> None:
        """Run within the page's module: columns are functions, which do not go through the pipe."""
        rows = self.page.call(PASTING, "tried", [["worth", "name"], ["2,5", "Sand"], ["", "Kelp"]])
        self.assertEqual(rows, [{"name": "Sand", "worth": 2.5}, {"name": "Kelp", "worth": 1}])
        rows = self.page.call(PASTING, "tried", [["Worth", "Rarity", "Item"], ["3", "x", "Sand"]])
        self.assertEqual(rows, [{"name": "Sand", "worth": 3}])
        rows = self.page.call(PASTING, "tried", [["name", "3"]])
        self.assertEqual(rows, [{"name": "name", "worth": 3}])

    def test_usual_words_for_columns_are_known_and_can_be_chosen(self) -> None:
        for head, wanted in (
            (["Item", "Price"], ["name", "value"]),
            (["Sells for", "Loot tier", "Title"], ["value", None, "name"]),
            (["Cost", "thing"], ["value", "name"]),
        ):
            row = ["7" if one == "value" else "Sand" for one in wanted]
            self.assertEqual(self.page.call(PASTING, "across", [head, row]), wanted)
        # Two words by chance are no head: a number stands there too.
        self.assertEqual(self.page.call(PASTING, "across", [["Item", "5"], ["Sand", "7"]]), ["name", "value"])
        chosen = {"0": None, "1": "name"}
        rows = self.page.call(PASTING, "tried", [["name", "value"], ["Sand", "Kelp"]], chosen)
        self.assertEqual(rows, [{"name": "Kelp", "worth": 1}])

    def test_ones_own_rows_pasted_back_change_nothing(self) -> None:
        rows = [{"name": "any Salvage, metal", "worth": 1234567.5}, {"name": "Sand", "worth": 0.1}]
        self.assertEqual(self.page.call(PASTING, "pastedBack", rows), 0)

    def test_thousands_are_told_by_their_neighbours(self) -> None:
        self.assertEqual(self.plain("2,500", "300", "Sand"), ["2500", "300", "Sand"])
        self.assertEqual(self.plain("2,500", "0.5"), ["2500", "0.5"])
        self.assertEqual(self.plain("2,500", "1,5"), ["2.5", "1.5"])


if __name__ == "__main__":
    unittest.main()
