"""Several pages on one game: each takes back its own changes, and is told when it no longer can."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entry
from golddice.core.game.reading import read_game
from golddice.store.errors import NoLonger, NothingToUndo
from golddice.store.games import Games
from golddice.store.steps import Steps
from tests.games import game_data, pick
from tests.support import database

A, B = "page-of-anna", "page-of-bo"


class Pages(unittest.TestCase):
    def setUp(self) -> None:
        self.games = Games(database(__name__))
        self.id = self.games.create(read_game(game_data([pick((1, "sand"), (2, "lens"))]))).id

    def body(self, kind: str, name: str) -> dict[str, Any]:
        return dict(self.games.load(self.id).entities.bodies[kind][name])

    def value(self, item: str) -> float:
        return float(self.body("item", item)["value"])

    def worth(self, item: str, value: float, page: str) -> None:
        entry = Entry("item", item, {**self.body("item", item), "value": value})
        revision = self.games.load(self.id).revision
        self.games.change(self.id, revision, [entry], f"{item} {value}", page=page)


class Own(Pages):
    def test_a_page_takes_back_its_own_last_change(self) -> None:
        self.worth("sand", 11, A)
        self.worth("lens", 12, B)
        self.games.undo(self.id, page=A)
        self.assertEqual((self.value("sand"), self.value("lens")), (1.0, 12.0))
        self.assertEqual(self.games.steps(self.id, A), Steps(None, "sand 11"))
        self.assertEqual(self.games.steps(self.id, B), Steps("lens 12", None))
        self.games.redo(self.id, page=A)
        self.assertEqual((self.value("sand"), self.value("lens")), (11.0, 12.0))

    def test_nothing_of_its_own(self) -> None:
        self.worth("sand", 11, A)
        with self.assertRaises(NothingToUndo):
            self.games.undo(self.id, page=B)
        self.assertEqual(self.value("sand"), 11.0)

    def test_what_is_nobodys_is_everybodys(self) -> None:
        self.worth("sand", 11, "")
        self.worth("lens", 12, A)
        self.assertEqual(self.games.steps(self.id, B), Steps("sand 11", None))
        self.games.undo(self.id, page=A)
        self.games.undo(self.id, page=A)
        self.assertEqual((self.value("sand"), self.value("lens")), (1.0, 40.0))
        for _ in range(2):
            self.games.redo(self.id, page=A)
        self.assertEqual((self.value("sand"), self.value("lens")), (11.0, 12.0))

    def test_a_change_ends_only_its_own_pages_redo(self) -> None:
        self.worth("sand", 11, A)
        self.games.undo(self.id, page=A)
        self.worth("lens", 12, B)
        self.assertEqual(self.games.steps(self.id, A).redo, "sand 11")
        self.worth("sand", 13, A)
        self.assertEqual(self.games.steps(self.id, A), Steps("sand 13", None))


class NoMore(Pages):
    def test_somebody_has_gone_on_from_it(self) -> None:
        self.worth("sand", 11, A)
        self.worth("sand", 12, B)
        before = self.games.load(self.id).revision
        with self.assertRaisesRegex(NoLonger, "“sand 11” cannot be taken back: Sand was changed since"):
            self.games.undo(self.id, page=A)
        self.assertEqual(self.games.load(self.id).revision, before)
        self.games.undo(self.id, page=B)  # as A left it again, so A's can be taken back
        self.games.undo(self.id, page=A)
        self.assertEqual(self.value("sand"), 1.0)

    def test_somebody_has_come_to_need_it(self) -> None:
        item = {"id": "kelp", "name": "Kelp", "tier": "plain", "value": 1}
        item["tier"] = self.body("item", "sand")["tier"]
        self.games.change(self.id, 1, [Entry("item", "kelp", item)], "made Kelp", page=A)
        (name,) = self.games.load(self.id).entities.bodies["table"]
        table = self.body("table", name)
        table["lines"] = [*table["lines"], {"id": "z", "weight": 1, "yields": [{"item": "kelp"}]}]
        self.games.change(self.id, 2, [Entry("table", name, table)], "Kelp falls", page=B)
        with self.assertRaisesRegex(NoLonger, "“made Kelp” cannot be taken back: .*kelp"):
            self.games.undo(self.id, page=A)
        self.assertIn("kelp", self.games.load(self.id).entities.bodies["item"])

    def test_it_was_removed_since(self) -> None:
        self.worth("claw", 11, A)
        self.games.remove(self.id, 2, "item", ["claw"], page=B)
        with self.assertRaisesRegex(NoLonger, "removed since"):
            self.games.undo(self.id, page=A)

    def test_moved_by_both(self) -> None:
        order = list(self.games.load(self.id).entities.bodies["item"])
        last, body = order[-1], self.body("item", order[-1])
        self.games.change(self.id, 1, [Entry("item", last, body, before=order[0])], "moved", page=A)
        self.games.change(self.id, 2, [Entry("item", last, body, before=order[1])], "moved on", page=B)
        with self.assertRaisesRegex(NoLonger, "moved again since"):
            self.games.undo(self.id, page=A)
        self.games.undo(self.id, page=B)
        self.games.undo(self.id, page=A)
        self.assertEqual(list(self.games.load(self.id).entities.bodies["item"]), order)


Do = st.tuples(st.sampled_from([A, B]), st.sampled_from(["sand", "lens", "claw"]), st.integers(1, 99))
Steppings = st.lists(
    st.one_of(Do, st.tuples(st.sampled_from([A, B]), st.sampled_from(["undo", "redo"]))), max_size=25
)


class Mixed(Pages):
    @settings(max_examples=15, deadline=None)
    @given(Steppings)
    def test_undo_never_touches_what_the_other_page_wrote_last(self, doing: list[tuple[Any, ...]]) -> None:
        """Whose an item's worth is: of the page whose edit, or step, set it last. A step only ever moves
        what is its own page's, and back to what stood there before that page's edit."""
        self.id = self.games.create(read_game(game_data([pick((1, "sand"), (2, "lens"))]))).id
        items = ("sand", "lens", "claw")
        for one in doing:
            before = {name: self.value(name) for name in items}
            if len(one) == 3:
                self.worth(one[1], one[2], one[0])
                continue
            page, which = one
            told = getattr(self.games.steps(self.id, page), which)
            try:
                getattr(self.games, which)(self.id, page=page)
            except NoLonger:
                self.assertEqual({name: self.value(name) for name in items}, before)
                continue
            except NothingToUndo:
                self.assertIsNone(told)
                continue
            item, value = told.split(" ")
            after = {name: self.value(name) for name in items}
            self.assertEqual({n: v for n, v in after.items() if n != item}, _without(before, item))
            if which == "undo":
                self.assertEqual(before[item], float(value))
            else:
                self.assertEqual(after[item], float(value))


def _without(values: dict[str, float], item: str) -> dict[str, float]:
    return {name: value for name, value in values.items() if name != item}
