"""The store, on a real PostgreSQL."""

from __future__ import annotations

import threading
import unittest
from typing import Any

from golddice.core.game.editing import EditError, Entry
from golddice.core.game.reading import plain_game
from golddice.store.errors import Conflict, NotFound, NothingToUndo
from golddice.store.games import Games, Steps
from tests.games import demo
from tests.support import database


class Store(unittest.TestCase):
    def setUp(self) -> None:
        self.games = Games(database())
        self.id = self.games.create(demo()).id

    def body(self, kind: str = "table", name: str = "eel-catch") -> dict[str, Any]:
        return dict(self.fresh().load(self.id).entities.bodies[kind][name])

    def fresh(self) -> Games:
        """A repository without a cache: what is really stored."""
        return Games(database())

    def change(self, nothing: float, base: int | None = None) -> int:
        entry = Entry("table", "eel-catch", {**self.body(), "nothing": nothing})
        base = self.games.load(self.id).revision if base is None else base
        return self.games.change(self.id, base, [entry], f"blank {nothing}").revision

    def test_a_game_comes_back_as_it_was(self) -> None:
        self.assertEqual(plain_game(self.fresh().load(self.id).entities.game()), plain_game(demo()))

    def test_a_change_is_a_revision(self) -> None:
        self.assertEqual(self.change(20), 2)
        self.assertEqual(self.body()["nothing"], 20)
        self.assertEqual([row.label for row in self.games.history(self.id)], ["blank 20", "made the game"])

    def test_undo_and_redo_any_number_of_steps(self) -> None:
        for nothing in (20, 30, 40):
            self.change(nothing)
        for expected in (30, 20, 14):
            self.fresh().undo(self.id)
            self.assertEqual(self.body()["nothing"], expected)
        with self.assertRaises(NothingToUndo):
            self.games.undo(self.id)
        for expected in (20, 30):
            self.fresh().redo(self.id)
            self.assertEqual(self.body()["nothing"], expected)
        self.assertEqual(self.games.steps(self.id), Steps("blank 30", "blank 40"))
        self.change(50)
        with self.assertRaises(NothingToUndo):
            self.games.redo(self.id)
        self.games.undo(self.id)
        self.assertEqual(self.body()["nothing"], 30)

    def test_undo_brings_a_removed_item_back_to_its_place(self) -> None:
        before = plain_game(self.games.load(self.id).entities.game())
        self.games.remove(self.id, 1, "item", ["eelskin"])
        self.assertNotIn("eelskin", self.fresh().load(self.id).entities.bodies["item"])
        self.games.undo(self.id)
        self.assertEqual(plain_game(self.fresh().load(self.id).entities.game()), before)

    def test_moving_is_kept(self) -> None:
        body = self.body("tier", "wonder")
        self.games.change(self.id, 1, [Entry("tier", "wonder", body, before="salvage")], "moved")
        order = list(self.fresh().load(self.id).entities.bodies["tier"])
        self.assertEqual(order[:3], ["flotsam", "wonder", "salvage"])
        self.games.undo(self.id)
        self.assertEqual(list(self.fresh().load(self.id).entities.bodies["tier"])[-1], "wonder")

    def test_a_change_on_an_old_revision_conflicts_only_where_it_writes(self) -> None:
        self.change(20, base=1)
        other = Entry("table", "crab-meat", {**self.body("table", "crab-meat"), "nothing": 5})
        self.games.change(self.id, 1, [other], "elsewhere")
        with self.assertRaises(Conflict) as caught:
            self.change(30, base=1)
        self.assertEqual(caught.exception.theirs[0]["body"]["nothing"], 20)
        self.assertEqual(self.body()["nothing"], 20)

    def test_a_removed_thing_conflicts_too(self) -> None:
        self.games.remove(self.id, 1, "source", ["silt-crab"])
        with self.assertRaises(Conflict) as caught:
            self.games.change(self.id, 1, [Entry("source", "silt-crab", {})], "late")
        self.assertIsNone(caught.exception.theirs[0]["body"])

    def test_a_refused_change_leaves_nothing_behind(self) -> None:
        good = Entry("table", "crab-meat", {**self.body("table", "crab-meat"), "nothing": 5})
        bad = Entry("table", "eel-catch", {**self.body(), "nothing": -5})
        with self.assertRaises(EditError):
            self.games.change(self.id, 1, [good, bad], "half good")
        loaded = self.fresh().load(self.id)
        self.assertEqual(loaded.revision, 1)
        self.assertEqual(loaded.entities.bodies["table"]["crab-meat"]["nothing"], 20)

    def test_changes_at_the_same_time_are_all_kept(self) -> None:
        names = [source.id for source in demo().sources[:8]]

        def rename(name: str) -> None:
            body = {**self.body("source", name), "seconds": 99}
            self.fresh().change(self.id, 1, [Entry("source", name, body)], name)

        threads = [threading.Thread(target=rename, args=(name,)) for name in names]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        loaded = self.fresh().load(self.id)
        self.assertEqual(loaded.revision, 1 + len(names))
        self.assertTrue(all(loaded.entities.bodies["source"][n]["seconds"] == 99 for n in names))

    def test_renaming_shows_in_the_list(self) -> None:
        body = {**self.body("settings", "game"), "name": "Saltglass Shallows"}
        self.games.change(self.id, 1, [Entry("settings", "game", body)], "renamed")
        self.assertIn("Saltglass Shallows", [row.name for row in self.games.every()])

    def test_put_away_and_brought_back(self) -> None:
        self.games.delete(self.id)
        self.assertNotIn(self.id, [row.id for row in self.games.every()])
        with self.assertRaises(NotFound):
            self.fresh().load(self.id)
        self.games.restore(self.id)
        self.assertEqual(self.fresh().load(self.id).revision, 1)

    def test_a_copy_is_a_game_of_its_own(self) -> None:
        copy = self.games.duplicate(self.id)
        self.change(20)
        self.assertEqual(self.fresh().load(copy.id).entities.bodies["table"]["eel-catch"]["nothing"], 14)


if __name__ == "__main__":
    unittest.main()
