"""What keys do in a grid, and rows in another order: the page's own modules, asked without a browser."""

from __future__ import annotations

import unittest
from collections import Counter
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import Page

KEYS, ROWS = "ui/grid/keys.ts", "ui/grid/rows.ts"
WORKED = "../../tests/web/gridding.ts"
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


ids = st.sampled_from([*"abcde", "p1", "p2", "new-1", "copy-1"])
cells = st.builds(
    lambda row, column: {"row": row, "column": column}, ids, st.sampled_from(["name", "weight"])
)
RIGHT, TAB = {"do": "go", "to": {"row": 2, "column": 1}, "extend": False}, {"do": "nothing"}
ACTS = [{"do": name} for name in ("open", "copy", "remove", "fill down", "menu")]
ACTS += [RIGHT, TAB, {"do": "move", "by": 1}, {"do": "move", "by": -1}]


def by_hand(event: dict[str, Any]) -> dict[str, Any]:
    return {"does": "grid", "event": event}


hands = st.one_of(
    st.builds(
        lambda cell, extend: {"type": "go", "cell": cell, "extend": extend},
        cells,
        st.sampled_from([False] * 3 + [True]),
    ),
    st.sampled_from(ACTS).map(lambda act: {"type": "key", "act": act, "held": 0}),
    st.just({"type": "open", "text": "?", "held": 0}),
    st.just({"type": "typed", "text": "?"}),
    st.just({"type": "typed", "text": "?"}),
    st.just({"type": "typed", "text": "-?"}),  # no number
    st.sampled_from(["Enter", "Tab", "left"]).map(lambda how: {"type": "take", "how": how}),
    st.just({"type": "give up"}),
    st.just({"type": "add"}),
    st.builds(lambda row: {"type": "remove", "row": row}, ids),
).map(by_hand)
others = st.one_of(
    st.builds(
        lambda at, n: {"does": "put", "id": f"p{n}-{at}", "at": at}, st.integers(0, 5), st.integers(0, 10**6)
    ),
    st.builds(lambda at: {"does": "take", "at": at}, st.integers(0, 5)),
    st.builds(lambda at: {"does": "change", "at": at, "weight": "77"}, st.integers(0, 5)),
    st.builds(lambda refused: {"does": "answer", "refused": refused}, st.booleans()),
)


class Views(GridTest):
    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(WORKED))

    def by(self, texts: list[str], down: bool = False, align: str = "right") -> list[str]:
        found: list[str] = self.page.call(WORKED, "sortedTexts", texts, align, down)
        return found

    def test_numbers_are_sorted_by_size_and_words_by_letters(self) -> None:
        self.assertEqual(self.by(["10", "9", "1 000", "2.5"]), ["2.5", "9", "10", "1 000"])
        self.assertEqual(self.by(["10", "9"], down=True), ["10", "9"])
        self.assertEqual(
            self.by(["eel", "Crab", "eel 10", "eel 9"], align="left"), ["Crab", "eel", "eel 9", "eel 10"]
        )

    def test_a_view_keeps_its_order_while_rows_come_and_go(self) -> None:
        seen, order = ["a", "b", "c", "d"], ["c", "a", "d"]
        now = ["n", "a", "b", "c"]  # d has gone, n is new; b does not fit
        self.assertEqual(self.page.call(WORKED, "viewed", now, seen, order), ["c", "a", "n"])

    def test_of_a_part_nothing_else_changes(self) -> None:
        """Rows that are not seen stay where they are, whatever is pasted, filled or copied."""
        end = self.page.call(WORKED, "pastedInPart", list("abcde"), ["d", "b"], [["41"], ["42"], ["43"]])
        self.assertEqual(end, [["a", "1"], ["b", "42"], ["c", "1"], ["d", "41"], ["e", "1"], ["new-1", "43"]])


class Interleaved(GridTest):
    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(WORKED))

    def worked(self, doings: list[dict[str, Any]]) -> dict[str, Any]:
        """Everything that is typed is another text, so that it is known again."""
        found: dict[str, Any] = self.page.call(WORKED, "worked", list("abcde"), told_apart(doings))
        return found

    @settings(max_examples=400, deadline=None)
    @given(st.lists(st.one_of(hands, hands, others), max_size=40))
    def test_all_that_is_typed_is_saved_or_asked_about_or_told(self, doings: list[dict[str, Any]]) -> None:
        end = self.worked(doings)
        open_now = [end["open"]] if end["open"] in end["typed"] else []
        became = [*end["replaced"], *end["givenUp"], *end["lost"], *end["saved"], *end["waiting"], *open_now]
        self.assertEqual(Counter(end["typed"]) - Counter(became), Counter())
        self.assertTrue(end["isActiveThere"])

    def test_a_cell_is_heard_beside_one_that_was_refused(self) -> None:
        """And what was refused is told once another cell is typed into."""
        first, second = ({"row": row, "column": "weight"} for row in "ab")
        opened = [
            {"type": "go", "cell": first, "extend": False},
            {"type": "open", "text": "-7", "held": 0},
            {"type": "take", "how": "Enter"},
            {"type": "go", "cell": second, "extend": False},
        ]
        end = self.worked([by_hand(one) for one in opened])
        self.assertEqual((end["active"], end["problem"]), (second, "no weight: -7"))
        typed = [{"type": "open", "text": "5", "held": 0}, {"type": "take", "how": "Enter"}]
        end = self.worked([by_hand(one) for one in [*opened, *typed]])
        self.assertEqual((end["lost"], end["waiting"], end["open"]), (["-7"], ["5"], None))
        self.assertEqual(end["active"], {"row": "c", "column": "weight"})


def told_apart(doings: list[dict[str, Any]]) -> list[dict[str, Any]]:
    found = []
    for at, doing in enumerate(doings):
        text = doing.get("event", {}).get("text")
        if isinstance(text, str) and "?" in text:
            doing = {**doing, "event": {**doing["event"], "text": text.replace("?", str(1000 + at))}}
        found.append(doing)
    return found


if __name__ == "__main__":
    unittest.main()
