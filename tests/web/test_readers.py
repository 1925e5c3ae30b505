"""What people write into fields, a table for each reader: the page's own module, asked without a browser."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.quantity import parse_quantity
from tests.web.page import PageTest

READERS = "text/readers.ts"
POINTS = "sheets/curve/points.ts"


class Readers(PageTest):
    MODULES: ClassVar = (READERS, POINTS)

    def read(self, what: str, text: str, *more: Any) -> Any:
        return self.page.call(READERS, what, text, *more)

    def test_spans_of_time(self) -> None:
        table = {
            "90": 90,
            "2.5": 2.5,
            "10 min": 600,
            "10min": 600,
            "1h30": 5400,
            "1 h 30 min": 5400,
            "1h 5": 3900,
            "2 days": 172_800,
            "1 day and 2 hours": 93_600,
            "a week": None,
            "1 week": 604_800,
            "1:30": 90,
            "1:00:05": 3605,
            "1,5 h": 5400,
            "5 s": 5,
            "soon": None,
            "-5": None,
            "10 fathoms": None,
            "": None,
        }
        for text, wanted in table.items():
            found = self.read("readSpan", text)
            if wanted is None:
                self.assertIn("a time is written", str(found), text)
            else:
                self.assertEqual(found, wanted, text)

    def test_ranges_of_depths(self) -> None:
        table: dict[str, Any] = {
            "4-30": [4, 30],
            "4": [4, 4],
            "all": None,
            "": None,
            "from 8": [8, 30],
            "8+": [8, 30],
            "8 on": [8, 30],
            "8 and deeper": [8, 30],
            "up to 12": [1, 12],
            "to 12": [1, 12],
            "8 to 12": [8, 12],
            "from 8 to 12": [8, 12],
            "8..12": [8, 12],
            "8 – 12": [8, 12],
            "only 9": [9, 9],
            "at 9": [9, 9],
            "9-4": "9 is deeper than 4; swap them",
            "20-40": "depths go from 1 to 30",
            "soon": "depths are written 4-30, 8+, up to 12, 4 or all",
        }
        for text, wanted in table.items():
            self.assertEqual(self.read("readRange", text, [1, 30]), wanted, text)

    def test_cells(self) -> None:
        table = {
            "4 × 3": [4, 3],
            "4x3": [4, 3],
            "4 by 3": [4, 3],
            "20": [5, 4],
            "7": [7, 1],
            "16 cells": [4, 4],
        }
        for text, wanted in table.items():
            self.assertEqual(self.read("readCells", text), wanted, text)
        for text in ("many", "0", ""):
            self.assertIn("cells are written", self.read("readCells", text))

    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 2000))
    def test_as_many_cells_as_asked(self, count: int) -> None:
        columns, rows = self.read("readCells", str(count))
        self.assertEqual(columns * rows, count)
        self.assertGreaterEqual(columns, rows)

    def test_quantities_are_what_the_server_reads(self) -> None:
        table = {
            "3": "3",
            "1-3": "1-3",
            "6-12 step 2": "6-12/2",
            "6 to 12 by 2": "6-12/2",
            "6 to 12": "6-12",
            "6..12": "6-12",
            "1000-2000/100": "1000-2000/100",
            "2d6+1": "2d6+1",
            "5 each": "5",
        }
        for text, wanted in table.items():
            found = self.read("quantityAsRead", text)
            self.assertEqual(str(parse_quantity(found)), wanted, text)
        self.assertEqual(self.read("quantityAsRead", "a few"), "a few")

    def test_prices(self) -> None:
        copper = {"id": "copper-coin", "name": "Copper coin", "currency": True}
        claw = {"id": "claw", "name": "Crab claw", "currency": False}
        token = {"id": "token", "name": "Guild token", "currency": True}
        table: dict[str, Any] = {
            "300": {"item": "copper-coin", "amount": 300},
            "300 coins": {"item": "copper-coin", "amount": 300},
            "300 Copper coin": {"item": "copper-coin", "amount": 300},
            "300 copper coins": {"item": "copper-coin", "amount": 300},
            "2 500 coins": {"item": "copper-coin", "amount": 2500},
            "5 tokens": {"item": "token", "amount": 5},
            "4 crab claws": {"item": "claw", "amount": 4},
            "4 pearls": "there is no item “pearls”",
        }
        for text, wanted in table.items():
            self.assertEqual(self.read("readPrice", text, [copper, claw, token], copper), wanted, text)
        self.assertIn("a price is written", self.read("readPrice", "much", [copper], copper))
        self.assertIn("no item is money yet", self.read("readPrice", "5", [claw], None))

    def test_a_curve_from_end_to_end(self) -> None:
        for text, wanted in (
            ("falls from 1 to 0.3", [[1, 1], [30, 0.3]]),
            ("rises to 2", [[1, 1], [30, 2]]),
            ("goes from 0,5 to 4", [[1, 0.5], [30, 4]]),
        ):
            made = self.page.call(POINTS, "curveOfWords", text, 1, 30)
            self.assertEqual((made["shape"], made["points"]), ("line", wanted), text)


if __name__ == "__main__":
    unittest.main()
