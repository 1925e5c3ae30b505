"""What a change moves that no target asked about, and two revisions side by side."""

from __future__ import annotations

import unittest
from typing import Any

from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.tuning.between import moved_between
from golddice.core.tuning.moved import Moved, what_moved
from tests.games import game, pick, source


class TwoGames(unittest.TestCase):
    def setUp(self) -> None:
        bits = pick((6, "sand"), (3, "claw"), (1, "lens"), nothing=0)
        self.before = game([bits], sources=[source("crab", "bits"), source("eel", "bits")])

    def after(self, **lists: Any) -> Game:
        return read_game(plain_game(self.before) | lists)

    def moved(self, after: Game) -> list[Moved]:
        return what_moved(self.before, after)

    def test_nothing_moves_by_an_item_that_is_put_first(self) -> None:
        new = {"id": "shell", "name": "Shell", "tier": "silt", "value": 2}
        tier = {"id": "foam", "name": "Foam"}
        plain = plain_game(self.before)
        after = self.after(items=[new, *plain["items"]], tiers=[tier, *plain["tiers"]])
        self.assertEqual(self.moved(after), [])
        self.assertEqual(self.moved(self.after(items=plain["items"][::-1])), [])

    def test_what_cannot_come_any_more_and_what_can_now_are_told(self) -> None:
        table = pick((6, "sand"), (3, "claw"), (0, "lens"), (1, "crown"), nothing=0)
        found = {(one.of, one.id): (one.before, one.after) for one in self.moved(self.after(tables=[table]))}
        self.assertEqual(found["item", "lens"], (0.1, 0.0))
        self.assertEqual(found["item", "crown"], (0.0, 0.1))
        self.assertNotIn(("item", "sand"), found)

    def test_a_source_that_is_gone_or_new_is_told_by_its_value(self) -> None:
        gone = self.after(sources=[source("crab", "bits")])
        found = moved_between(self.before, gone)["moved"]
        self.assertEqual([(one["source"], one["of"], one["after"]) for one in found], [("eel", "value", 0.0)])
        self.assertAlmostEqual(found[0]["before"], 0.6 + 0.9 + 4.0, delta=1e-12)
        back = what_moved(gone, self.before)
        self.assertEqual([(one.source, one.before) for one in back], [("eel", 0.0)])

    def test_a_removed_item_falls_to_nothing(self) -> None:
        plain = plain_game(self.before)
        table = pick((6, "sand"), (3, "claw"), nothing=1)
        after = self.after(items=[one for one in plain["items"] if one["id"] != "lens"], tables=[table])
        self.assertIn(
            ("crab", "lens", 0.1, 0.0), [(m.source, m.id, m.before, m.after) for m in self.moved(after)]
        )

    def test_only_depths_and_flags_that_both_have_are_compared(self) -> None:
        table = pick((1, "sand"), (9, "claw"), nothing=0)
        after = self.after(depth={"from": 8, "to": 30}, tables=[table])
        self.assertEqual({one.depth for one in self.moved(after)}, {8})
        self.assertEqual(self.moved(self.after(depth={"from": 20, "to": 30}, tables=[table])), [])
        lit = read_game(plain_game(self.before) | {"flags": [{"id": "lit", "name": "Lit"}]})
        self.assertEqual(what_moved(lit, self.before, frozenset({"lit"})), [])
