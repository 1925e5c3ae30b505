"""All depths at once: the same as one by one, to twelve places; and what is met there."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.apart import outcomes_apart
from golddice.core.odds.depths.depth_odds import DepthOdds, Lean, depth_odds
from golddice.core.odds.depths.group_means import UNITS, WORTH, GroupMeans
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import rests_on_state
from tests.games import demo, each, game, pick
from tests.strategies import games

SWELL = {"id": "swell", "name": "Swell", "points": [[1, 0.5], [10, 2.0]]}


class Agreement(unittest.TestCase):
    def assert_agrees(self, made: Game, kind: str, name: str, depths: range) -> Lean:
        """Against a prospect of each depth alone, relative to 1e-12."""
        found = depth_odds(made, View(kind, name), depths)
        for row, depth in enumerate(depths):
            alone = Prospect(Evaluator(Conditions(made, [depth]), detail=False), View(kind, name))
            hit = [alone.hit(int(at)) for at in found.places]
            mean = [alone.mean(int(at)) for at in found.places]
            close = {"rtol": 1e-12, "atol": 1e-300}
            where = f"{name} at {depth}"
            np.testing.assert_allclose(found.hit[:, row], hit, err_msg=where, **close)
            np.testing.assert_allclose(found.mean[:, row], mean, err_msg=where, **close)
            worth = alone.outcome
            np.testing.assert_allclose(found.value_mean[row], worth.value_mean[0], **close)
            np.testing.assert_allclose(found.value_var[row], worth.value_var[0], rtol=1e-9, atol=1e-12)
        return found

    def test_every_source_and_table_of_the_demo(self) -> None:
        for source in demo().sources:
            self.assert_agrees(demo(), "source", source.id, range(1, 31, 4))
        for table in demo().tables:
            self.assert_agrees(demo(), "table", table.id, range(2, 31, 9))

    @settings(max_examples=30, suppress_health_check=[HealthCheck.too_slow])
    @given(games())
    def test_random_games(self, made: Game) -> None:
        self.assert_agrees(made, "source", "crab", range(1, 11, 3))

    @settings(max_examples=30, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True))
    def test_random_games_with_state(self, made: Game) -> None:
        self.assert_agrees(made, "source", "crab", range(1, 11, 3))

    def assert_consistent(self, made: Game, depths: range) -> None:
        """Means asked alone, of tiers, and odds of one item asked alone, against those of all."""
        under = Conditions(made, depths)
        odds, tiers = DepthOdds(under), DepthOdds(under, by_tier=True)
        close = {"rtol": 1e-12, "atol": 1e-300}
        for kind, name in [("source", one.id) for one in made.sources]:
            whole, means = odds.of(View(kind, name)), odds.means(View(kind, name))
            np.testing.assert_allclose(means[whole.places], whole.mean, **close)
            self.assertFalse(np.delete(means, whole.places, axis=0).any())
            by_tier = np.zeros((len(made.tiers), under.depths.size))
            np.add.at(by_tier, under.item_tiers, means)
            np.testing.assert_allclose(tiers.means(View(kind, name)), by_tier, **close)
            self.assert_groups(made, depths, View(kind, name), means)
            for item in range(len(made.items)):
                alone = DepthOdds(under, only=[item]).of(View(kind, name))
                row = np.flatnonzero(whole.places == item)
                self.assertEqual(alone.places.tolist(), whole.places[row].tolist())
                np.testing.assert_allclose(alone.hit, whole.hit[row], **close)
                np.testing.assert_allclose(alone.mean, whole.mean[row], **close)
                np.testing.assert_allclose(alone.value_var, whole.value_var, rtol=1e-9, atol=1e-12)

    def assert_groups(self, made: Game, depths: range, view: View, means: FloatArray) -> None:
        """From the bottom up by tier, and with a tag, as from the top down by item; worth too."""
        for tag in (None, "glass"):
            under = Conditions(made, depths, tag=tag)
            found = GroupMeans(under, DepthOdds(under)).at(view)
            for part, by in ((UNITS, 1.0), (WORTH, under.item_values[:, None])):
                summed = np.zeros((under.catalogue.groups, under.depths.size))
                np.add.at(summed, under.catalogue.item_groups, means * by)
                np.testing.assert_allclose(found[part], summed, rtol=1e-12, atol=1e-300)

    @settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
    @given(games())
    def test_what_is_asked_alone(self, made: Game) -> None:
        self.assert_consistent(made, range(1, 11, 4))

    @settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True))
    def test_what_is_asked_alone_with_state(self, made: Game) -> None:
        self.assert_consistent(made, range(1, 11, 4))

    def test_what_is_asked_alone_of_the_demo(self) -> None:
        under = Conditions(demo(), range(1, 31, 7))
        odds = DepthOdds(under)
        for source in demo().sources:
            whole = odds.of(View("source", source.id))
            for row, item in list(enumerate(whole.places))[::5]:
                alone = DepthOdds(under, only=[int(item)]).of(View("source", source.id))
                np.testing.assert_allclose(alone.hit[0], whole.hit[row], rtol=1e-12)
                np.testing.assert_allclose(alone.mean[0], whole.mean[row], rtol=1e-12)

    def test_where_it_is_asked_alone(self) -> None:
        """What is carried matters within the event: a guard that is sure on the second of two rolls."""
        sure = {"after": 0, "rise": 0.1, "sure_at": 2}
        lines = [
            {"id": "a", "weight": 9, "yields": [{"item": "sand"}], "curve": "up"},
            {"id": "b", "weight": 1, "yields": [{"item": "lens"}], "guard": sure},
        ]
        table = {"id": "t", "name": "T", "rule": "pick", "rolls": {"min": 2, "max": 2}, "lines": lines}
        curve = {"id": "up", "name": "Up", "points": [[1, 1.0], [10, 3.0]]}
        under, crab = Conditions(game([table], curves=[curve]), range(1, 11)), View("source", "crab")
        self.assertTrue(rests_on_state(under, crab))
        where = under.depths % 4 == 1
        outcomes, which = outcomes_apart(under, crab, where)
        self.assertEqual((len(outcomes), (which >= 0).tolist()), (3, where.tolist()))
        odds = DepthOdds(under)
        whole, some = odds.tried(crab), odds.tried(crab, where)
        np.testing.assert_array_equal(some.hit[:, where], whole.hit[:, where])
        np.testing.assert_array_equal(some.value_var[where], whole.value_var[where])
        self.assertTrue(np.isnan(some.value_mean[~where]).all())
        groups = GroupMeans(under, odds)
        np.testing.assert_array_equal(groups.at(crab, where)[..., where], groups.at(crab)[..., where])

    def test_expected_numbers_by_hand(self) -> None:
        """A crab gives the outer table twice at 60 %; its line at 50 % rolls the inner one 1 to 3 times,
        whose one line is hit half the time and gives 4 lenses, or any of sand and lens."""
        pool = {"id": "b", "weight": 1, "yields": [{"pool": {"tags": ["glass"]}}]}
        plain = {"id": "a", "weight": 1, "yields": [{"item": "lens", "quantity": {"min": 4, "max": 4}}]}
        inner = {**pick(name="inner"), "lines": [plain, pool]}
        outer = {"id": "a", "chance": 0.5, "curve": "swell"}
        outer["yields"] = [{"table": "inner", "quantity": {"min": 1, "max": 3}}]
        drops = [{"id": "a", "table": "outer", "chance": 0.6, "times": {"min": 2, "max": 2}}]
        made = game(
            [{**each(name="outer"), "lines": [outer]}, inner],
            curves=[SWELL],
            sources=[{"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops}],
        )
        # At depth 1 the curve halves the chance, at 10 it doubles it: to 1.
        rolled = 0.6 * 2 * np.array([0.25, 1.0]) * 2
        glass = [item.id for item in made.items if "glass" in item.tags]
        means = DepthOdds(Conditions(made, [1, 10])).means(View("source", "crab"))
        for at, item in enumerate(made.items):
            each_roll = 2.0 * (item.id == "lens") + 0.5 * (item.id in glass) / max(len(glass), 1)
            np.testing.assert_allclose(means[at], rolled * each_roll, rtol=1e-14, err_msg=item.id)

    def test_items_that_cannot_be_received_have_no_column(self) -> None:
        found = depth_odds(game([pick((1, "lens"))]), View("source", "crab"), range(1, 4))
        self.assertEqual(found.places.tolist(), [2])

    def test_by_hand(self) -> None:
        """A chance of 0.2 times 0.5 to 2 over ten depths, rolled twice."""
        line = {"id": "a", "chance": 0.2, "curve": "swell", "yields": [{"item": "crown"}]}
        made = game([{**each(rolls={"min": 2, "max": 2}), "lines": [line]}], curves=[SWELL])
        found = depth_odds(made, View("source", "crab"), [1, 10])
        np.testing.assert_allclose(found.hit[0], [1 - 0.9**2, 1 - 0.6**2], rtol=1e-14)
        np.testing.assert_allclose(found.value_mean, [500 * 0.2, 500 * 0.8], rtol=1e-14)
        np.testing.assert_allclose(found.value_var, [500**2 * 2 * 0.09, 500**2 * 2 * 0.24], rtol=1e-13)


if __name__ == "__main__":
    unittest.main()
