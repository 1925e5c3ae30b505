"""What keys do in a grid, and rows in another order: the page's own modules, asked without a browser."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import Page

KEYS, ROWS = "ui/grid/keys.ts", "ui/grid/rows.ts"
WEIGHT = {"key": "weight", "label": "weight", "align": "right", "enter": True}
NAME = {"key": "name", "label": "name", "enter": True}
CHANCE = {"key": "chance", "label": "chance"}
COLUMNS = [NAME, WEIGHT, CHANCE]


class GridTest(unittest.TestCase):
    page: Page

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(KEYS, ROWS))


class Keys(GridTest):
    def act(self, key: str, row: int = 1, column: int = 0, to: int | None = None, **held: bool) -> Any:
        event = {"key": key, "shiftKey": False, "ctrlKey": False, "metaKey": False, "altKey": False, **held}
        block = {"top": row, "bottom": row if to is None else to, "left": column, "right": column}
        return self.page.call(KEYS, "actOf", event, {"row": row, "column": column}, block, COLUMNS)

    def test_arrows_go_and_with_alt_carry(self) -> None:
        gone = {"do": "go", "to": {"row": 2, "column": 0}, "extend": False}
        self.assertEqual(self.act("ArrowDown"), gone)
        self.assertEqual(self.act("ArrowDown", shiftKey=True), {**gone, "extend": True})
        self.assertEqual(self.act("ArrowUp", altKey=True), {"do": "move", "by": -1})
        self.assertEqual(self.act("ArrowLeft", altKey=True), {"do": "nothing"})
        self.assertGreater(self.act("ArrowDown", ctrlKey=True)["to"]["row"], 10_000)

    def test_tab_leaves_at_either_end(self) -> None:
        self.assertEqual(self.act("Tab", column=1)["to"], {"row": 1, "column": 2})
        self.assertIsNone(self.act("Tab", column=2))
        self.assertIsNone(self.act("Tab", column=0, shiftKey=True))

    def test_what_may_be_typed_where(self) -> None:
        self.assertEqual(self.act("r"), {"do": "type", "text": "r"})
        self.assertIsNone(self.act("r", column=1))  # over a number a letter is the page's
        self.assertEqual(self.act("7", column=1), {"do": "type", "text": "7"})
        self.assertIsNone(self.act("7", column=2))  # it is read, not entered
        self.assertIsNone(self.act("c", ctrlKey=True))

    def test_one_row_is_copied_and_of_more_the_first_is_filled_down(self) -> None:
        self.assertEqual(self.act("d", ctrlKey=True), {"do": "copy"})
        self.assertEqual(self.act("D", ctrlKey=True, to=3), {"do": "fill down"})


class Rows(GridTest):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 7), st.data())
    def test_a_stretch_that_is_carried_there_and_back_is_where_it_was(self, count: int, draw: Any) -> None:
        rows = list(range(count))
        top = draw.draw(st.integers(0, count - 1))
        bottom = draw.draw(st.integers(top, count - 1))
        by = draw.draw(st.integers(-count, count))
        moved = self.page.call(ROWS, "shifted", rows, top, bottom, by)
        if top + by < 0 or bottom + by >= count:
            self.assertIsNone(moved)
            return
        self.assertEqual(moved[top + by : bottom + by + 1], rows[top : bottom + 1])
        self.assertEqual(self.page.call(ROWS, "shifted", moved, top + by, bottom + by, -by), rows)
        rest = self.page.call(ROWS, "without", rows, top, bottom)
        self.assertEqual(self.page.call(ROWS, "without", moved, top + by, bottom + by), rest)

    def test_one_more_stands_behind_its_like(self) -> None:
        self.assertEqual(self.page.call(ROWS, "inserted", [1, 2, 3], 9, 1), [1, 2, 9, 3])


if __name__ == "__main__":
    unittest.main()
