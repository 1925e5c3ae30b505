"""How far the number of an item swings, at every depth: by hand, and against single evaluations."""

from __future__ import annotations

import math
import unittest

from hypothesis import given, settings

from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.depth_sheet import depth_sheet
from golddice.core.sheets.item_view import item_view, tier_view
from golddice.core.terms.conditions import Conditions
from tests.games import demo, each, game, pick, source
from tests.strategies import games

LATE = {"id": "late", "name": "Late", "shape": "step", "points": [[1, 0.25], [2, 0.5], [3, 1.0]]}


class ByHand(unittest.TestCase):
    def test_a_chance_swings_by_what_it_misses(self) -> None:
        """One with chance p: the variance is p (1 - p)."""
        found = depth_sheet(game([each((0.2, "lens"))]), View("source", "crab"), swings=True)
        self.assertAlmostEqual(found["items"]["lens"]["cv"][0], math.sqrt(0.2 * 0.8) / 0.2)

    def test_what_is_sure_does_not_swing(self) -> None:
        found = depth_sheet(game([pick((1, "lens 3"))]), View("table", "bits"), swings=True)
        self.assertEqual(found["items"]["lens"]["cv"], [0.0] * 10)

    def test_a_quantity_swings_too(self) -> None:
        """1 to 3, half of the time: mean 1, variance half of 2/3 + a quarter of 2 squared."""
        found = depth_sheet(game([pick((1, "sand 1-3"), nothing=1)]), View("source", "crab"), swings=True)
        self.assertAlmostEqual(found["items"]["sand"]["cv"][0], math.sqrt(0.5 * 2 / 3 + 0.25 * 4))

    def test_where_it_cannot_fall_there_is_none(self) -> None:
        curve = {"id": "on", "name": "On", "shape": "step", "points": [[1, 0], [5, 1]]}
        lines = [{"id": "a", "chance": 0.5, "curve": "on", "yields": [{"item": "lens"}]}]
        found = depth_sheet(
            game([{**each(), "lines": lines}], curves=[curve]), View("source", "crab"), (), True
        )
        self.assertEqual(found["items"]["lens"]["cv"][3], None)
        self.assertAlmostEqual(found["items"]["lens"]["cv"][4], 1.0)

    def test_a_band_swings_within_its_depths_and_between_them(self) -> None:
        """Chances a half and 1 at the two depths met: one in three quarters of events."""
        lines = [{"id": "a", "chance": 1, "curve": "late", "yields": [{"item": "lens"}]}]
        bands = [{"id": "up", "name": "Up", "from": 1, "to": 3}]
        made = game(
            [{**each(), "lines": lines}],
            curves=[LATE],
            depth={"from": 1, "to": 10, "bands": bands},
            sources=[source("crab", "bits", depths=[2, 4])],
        )
        wanted = math.sqrt(0.75 * 0.25) / 0.75
        self.assertAlmostEqual(
            depth_sheet(made, View("source", "crab"), (), True)["bands"][0]["items"]["lens"]["cv"], wanted
        )
        (band,) = item_view(made, "lens", swings=True)["bands"]
        self.assertEqual((band["name"], band["from"], band["to"]), ("Up", 1, 3))
        self.assertAlmostEqual(band["sources"]["crab"]["p_any"], 0.75)
        self.assertAlmostEqual(band["sources"]["crab"]["mean"], 0.75)
        self.assertAlmostEqual(band["sources"]["crab"]["cv"], wanted)

    def test_a_band_without_the_item_is_left_out(self) -> None:
        bands = [
            {"id": "up", "name": "Up", "from": 1, "to": 5},
            {"id": "down", "name": "Down", "from": 6, "to": 10},
        ]
        made = game(
            [pick((1, "lens"))],
            depth={"from": 1, "to": 10, "bands": bands},
            sources=[source("crab", "bits", depths=[7, 9])],
        )
        self.assertEqual([band["name"] for band in item_view(made, "lens")["bands"]], ["Down"])

    def test_nobody_pays_for_it_unasked(self) -> None:
        made = game([pick((1, "lens"))])
        self.assertNotIn("cv", depth_sheet(made, View("source", "crab"))["items"]["lens"])
        self.assertNotIn("cv", item_view(made, "lens")["sources"][0])


class AgainstSingleEvaluations(unittest.TestCase):
    def test_every_source_of_the_demo(self) -> None:
        """State within an event included: guarded drops, decks, limits."""
        made = demo()
        for one in made.sources:
            found = depth_sheet(made, View("source", one.id), swings=True)
            low, high = one.depths or (1, 30)
            for depth in {low, (low + high) // 2, high}:
                self._same(made, one.id, depth, found)

    @settings(max_examples=30, deadline=None)
    @given(games())
    def test_random_games(self, made: Game) -> None:
        for one in made.sources:
            found = depth_sheet(made, View("source", one.id), swings=True)
            for depth in (made.depth.from_, made.depth.to):
                self._same(made, one.id, depth, found)

    def _same(
        self, made: Game, name: str, depth: int, found: dict[str, dict[str, dict[str, list[float]]]]
    ) -> None:
        at = Prospect(Evaluator(Conditions(made, [depth])), View("source", name))
        row = depth - made.depth.from_
        for item, figures in found["items"].items():
            column = at.columns.item(at.under.item_index[item])
            mean, cv = at.mean(column), figures["cv"][row]
            if mean == 0:
                self.assertIsNone(cv)
            else:
                self.assertAlmostEqual(cv, math.sqrt(at.var(column)) / mean, delta=1e-9 * (1 + cv))

    def test_tiers_of_the_demo(self) -> None:
        made = demo()
        for tier in made.tiers:
            for one in tier_view(made, tier.id, swings=True)["sources"]:
                low, high = next(part.depths for part in made.sources if part.id == one["id"]) or (1, 30)
                depth = (low + high) // 2
                at = Prospect(Evaluator(Conditions(made, [depth])), View("source", one["id"]))
                column = at.columns.tier(at.under.tier_index[tier.id])
                cv = one["cv"][depth - 1]
                if cv is not None:
                    self.assertAlmostEqual(cv, math.sqrt(at.var(column)) / at.mean(column), places=9)


if __name__ == "__main__":
    unittest.main()
