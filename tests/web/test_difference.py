"""What differs, in words with names and units."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from tests.web.page import Page

DIFFERENCE, NUMBERS = "game/difference.ts", "ui/table/numbers.ts"
NAMES = {
    "of": {
        "item": {"lamp": "Lamp oil", "eye": "Glass eye"},
        "tier": {"curio": "Curio"},
        "table": {"catch": "Eel catch"},
        "curve": {"pull": "Trench pull"},
        "flag": {"tongs": "Has the tongs"},
    },
    "currency": "brass",
}
ONE = {"min": 1, "max": 1, "step": 1, "dice": None, "curve": None}


def line(name: str, item: str, **more: Any) -> dict[str, Any]:
    return {"id": name, "yields": [{"item": item, "quantity": ONE}], "weight": 1, **more}


class Differences(unittest.TestCase):
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(DIFFERENCE, NUMBERS))

    def told(self, before: Any, after: Any) -> list[tuple[str, str, str]]:
        found = self.page.call(DIFFERENCE, "differences", NAMES, before, after)
        return [(one["where"], one["before"], one["after"]) for one in found]

    def test_nothing(self) -> None:
        self.assertEqual(self.told({"id": "a", "lines": []}, {"id": "a", "lines": []}), [])

    def test_units_and_names(self) -> None:
        before = {"name": "Eel", "value": 5, "chance": 0.02, "curve": None, "seconds": 3, "needs": []}
        after = {
            "name": "Eel",
            "value": 7.5,
            "chance": 0.0355,
            "curve": "pull",
            "seconds": 4,
            "needs": ["tongs"],
        }
        self.assertEqual(
            self.told(before, after),
            [
                ("value", "5 brass", "7.5 brass"),
                ("chance", "2 %", "3.55 %"),
                ("curve", "none", "Trench pull"),
                ("seconds", "3 s", "4 s"),
                ("needs", "none", "Has the tongs"),
            ],
        )

    def test_a_line_is_told_by_what_it_gives(self) -> None:
        before = {"lines": [line("a", "lamp"), line("b", "eye", weight=3)]}
        after = {"lines": [line("a", "lamp", weight=2.5)]}
        self.assertEqual(
            self.told(before, after),
            [("Lamp oil: weight", "1", "2.5"), ("Glass eye", "weight 3", "not there")],
        )

    def test_a_quantity_is_one_thing(self) -> None:
        before, after = line("a", "lamp"), line("a", "lamp")
        after["yields"] = [{"item": "lamp", "quantity": {**ONE, "max": 4, "curve": "pull"}}]
        self.assertEqual(
            self.told({"lines": [before]}, {"lines": [after]}),
            [("Lamp oil: gives", "Lamp oil", "1-4 Lamp oil")],
        )
        self.assertEqual(
            self.told({"rolls": ONE}, {"rolls": {**ONE, "max": 4, "curve": "pull"}}),
            [("rolls", "1", "1-4, times Trench pull")],
        )

    def test_an_order(self) -> None:
        before = {"lines": [line("a", "lamp"), line("b", "eye")]}
        after = {"lines": [line("b", "eye"), line("a", "lamp")]}
        self.assertEqual(len(self.told(before, after)), 1)
        self.assertIn("order", self.told(before, after)[0][0])

    def test_a_thing_that_comes(self) -> None:
        self.assertEqual(self.told(None, {"id": "x", "name": "New"}), [("all of it", "not there", "New")])


class Rows(unittest.TestCase):
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(NUMBERS))

    def test_a_file_that_a_spreadsheet_reads(self) -> None:
        rows = [["Lamp, oil", 1.5], ['a "b"', None], ["=1+1", -2], ["-x", 3]]
        text = self.page.call(NUMBERS, "commaSeparated", {"heads": ["name", "n"], "rows": rows})
        self.assertEqual(text, 'name,n\r\n"Lamp, oil",1.5\r\n"a ""b""",\r\n =1+1,-2\r\n -x,3\r\n')

    def test_tabs_within_a_cell_do_not_part_it(self) -> None:
        self.assertEqual(self.page.call(NUMBERS, "tabbed", [["a\tb\nc", 2]]), "a b c\t2")

    def test_order(self) -> None:
        order = [
            self.page.call(NUMBERS, "inOrder", a, b) for a, b in ((2, 10), ("b", "a"), (None, 1), (1, None))
        ]
        self.assertEqual([one > 0 for one in order], [False, True, True, False])
