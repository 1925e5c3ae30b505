"""A long day's work: random changes, undos and redos, against a plain list of what should be there."""

from __future__ import annotations

import random
import unittest
from typing import Any
from unittest.mock import patch

from golddice.core.game.editing import EditError, Entities, Entry
from golddice.core.game.reading import plain_game, read_game
from golddice.store import games as games_module
from golddice.store.errors import Conflict, NotFound, NothingToUndo
from golddice.store.games import Games
from tests.games import game_data, pick
from tests.support import database

State = dict[str, Any]


class Day(unittest.TestCase):
    """The model: the states that undo leads back through, and those that redo leads on to."""

    def setUp(self) -> None:
        self.games, self.other = Games(database()), Games(database())
        made = read_game(game_data([pick((1, "sand"), (2, "lens")), pick((1, "claw"), name="other")]))
        self.id = self.games.create(made).id
        self.undone: list[State] = []
        self.past: list[State] = []

    def now(self) -> State:
        """What is really stored: a repository without a cache."""
        return plain_game(Games(database()).load(self.id).entities.game())

    def known(self) -> None:
        """What whoever edits holds in memory, and what another holds who reads only what is new to it."""
        for games in (self.games, self.other):
            loaded = games.load(self.id)
            self.assertEqual(plain_game(loaded.entities.game()), self.now())
            fresh = Games(database()).load(self.id)
            self.assertEqual((loaded.revision, loaded.revisions), (fresh.revision, fresh.revisions))

    def entities(self) -> Entities:
        return self.games.load(self.id).entities

    def change(self, rng: random.Random) -> None:
        before, revision = self.now(), self.games.load(self.id).revision
        entries = self.some_edit(rng)
        try:
            applied = self.games.change(self.id, revision, entries, "work")
        except EditError:
            self.assertEqual(self.now(), before)
            return
        self.assertEqual(applied.revision, revision + 1)
        self.past.append(before)
        self.undone.clear()

    def some_edit(self, rng: random.Random) -> list[Entry]:
        items = list(self.entities().bodies["item"])
        name = rng.choice(items)
        body = dict(self.entities().bodies["item"][name])
        what = rng.choice(["value", "move", "add", "two", "rename", "remove"])
        if what == "value":
            return [Entry("item", name, {**body, "value": rng.randint(0, 99)})]
        if what == "move":
            return [Entry("item", name, body, before=rng.choice(items))]
        if what == "add":
            new = {"name": "New", "tier": "silt"}
            return [Entry("item", f"new{rng.randint(0, 9)}", new, rng.choice([None, *items]))]
        if what == "rename":
            settings = dict(self.entities().bodies["settings"]["game"])
            return [Entry("settings", "game", {**settings, "name": f"Pool {rng.randint(0, 9)}"})]
        if what == "remove":
            return [Entry("item", name, None)]  # refused where a table gives it
        other = rng.choice(items)
        both = {name: body, other: dict(self.entities().bodies["item"][other])}
        return [Entry("item", one, {**part, "value": 7.5}) for one, part in both.items()]

    def step(self, undo: bool) -> None:
        here, there = (self.past, self.undone) if undo else (self.undone, self.past)
        before = self.now()
        do = self.games.undo if undo else self.games.redo
        if not here:
            with self.assertRaises(NothingToUndo):
                do(self.id)
            return
        do(self.id)
        self.assertEqual(self.now(), here.pop())
        there.append(before)

    def compare(self, days: dict[int, State]) -> None:
        """Every revision can still be read as it was, by a repository that never saw it."""
        for games in (Games(database()), self.games):
            for revision, state in days.items():
                then = games.load(self.id, revision)
                self.assertEqual((then.revision, plain_game(then.entities.game())), (revision, state))

    def test_a_revision_that_never_was(self) -> None:
        body = self.entities().bodies["item"]["sand"]
        self.games.change(self.id, 1, [Entry("item", "sand", {**body, "value": 5})], "dearer")
        for revision in (-1, 0, 3):
            with self.assertRaises(NotFound):
                self.games.load(self.id, revision)

    def test_a_game_that_was_put_away_is_not_there_at_any_revision(self) -> None:
        body = self.entities().bodies["item"]["sand"]
        self.games.change(self.id, 1, [Entry("item", "sand", {**body, "value": 5})], "dearer")
        self.games.load(self.id, 1)
        self.games.delete(self.id)
        for revision in (None, 1, 2):
            with self.assertRaises(NotFound):
                self.games.load(self.id, revision)
        self.games.restore(self.id)
        self.assertEqual(self.games.load(self.id, 1).entities.bodies["item"]["sand"], body)

    def test_any_order_of_changes_undos_and_redos(self) -> None:
        for seed in range(4):
            with self.subTest(seed=seed):
                self.setUp()
                rng, days = random.Random(seed), {1: self.now()}
                for _ in range(50):
                    what = rng.choice(["change", "change", "undo", "undo", "redo"])
                    if what == "change":
                        self.change(rng)
                    else:
                        self.step(undo=what == "undo")
                    days[self.games.load(self.id).revision] = self.now()
                    if rng.random() < 0.5:
                        self.known()
                self.compare(days)
                while self.past:
                    self.step(undo=True)

    def test_two_that_keep_changing_places(self) -> None:
        """Carried past each other a hundred times, they never come to stand in the same place."""
        order = list(self.entities().bodies["item"])
        moved, last = order[:2], order[2]
        for turn in range(120):
            name = moved[turn % 2]
            body = self.entities().bodies["item"][name]
            self.games.change(
                self.id, self.games.load(self.id).revision, [Entry("item", name, body, last)], "carried"
            )
            want = [moved[(turn + 1) % 2], name, *order[2:]]
            self.assertEqual([one["id"] for one in self.now()["items"]], want, f"turn {turn}")
        for turn in reversed(range(119)):
            self.games.undo(self.id)
            name = moved[turn % 2]
            want = [moved[(turn + 1) % 2], name, *order[2:]]
            self.assertEqual([one["id"] for one in self.now()["items"]], want, f"back to turn {turn}")

    def test_what_leaves_all_in_its_place_is_told_so(self) -> None:
        body = self.entities().bodies["item"]["sand"]
        dearer = [Entry("item", "sand", {**body, "value": 5})]
        self.assertTrue(self.games.change(self.id, 1, dearer, "dearer").is_in_order)
        self.assertTrue(self.games.undo(self.id).is_in_order)
        self.assertTrue(self.games.redo(self.id).is_in_order)
        order = list(self.entities().bodies["item"])
        moved = [Entry("item", order[2], dict(self.entities().bodies["item"][order[2]]), order[0])]
        self.assertFalse(self.games.change(self.id, 4, moved, "moved").is_in_order)
        self.assertFalse(self.games.undo(self.id).is_in_order)
        new = [Entry("item", "new", {"name": "New", "tier": "silt"})]
        self.games.change(self.id, 6, new, "new")
        self.assertTrue(self.games.undo(self.id).is_in_order)
        self.assertFalse(self.games.redo(self.id).is_in_order)

    def test_another_reads_only_what_is_new_to_it(self) -> None:
        self.other.load(self.id)
        body = self.entities().bodies["item"]["sand"]
        self.games.change(self.id, 1, [Entry("item", "sand", {**body, "value": 5})], "dearer")
        with patch.object(games_module, "_stored", side_effect=AssertionError("all of it was read")):
            self.assertEqual(self.other.load(self.id).entities.bodies["item"]["sand"]["value"], 5)

    def test_a_change_on_what_was_undone_meanwhile_conflicts(self) -> None:
        body = self.entities().bodies["item"]["sand"]
        self.games.change(self.id, 1, [Entry("item", "sand", {**body, "value": 5})], "dearer")
        self.games.undo(self.id)
        with self.assertRaises(Conflict):
            self.games.change(self.id, 2, [Entry("item", "sand", {**body, "value": 6})], "dearer still")
        self.assertEqual(self.entities().bodies["item"]["sand"], body)


if __name__ == "__main__":
    unittest.main()
