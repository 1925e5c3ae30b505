"""All depths at once: the same as one by one, to twelve places; and what is met there."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings

from golddice.core.game.models import Game
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.depths import Lean, depth_odds
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.prospect import Prospect
from tests.games import demo, each, game, pick
from tests.strategies import games

SWELL = {"id": "swell", "name": "Swell", "points": [[1, 0.5], [10, 2.0]]}


class Agreement(unittest.TestCase):
    def assert_agrees(self, made: Game, kind: str, name: str, depths: range) -> Lean:
        """Against a prospect of each depth alone, relative to 1e-12."""
        found = depth_odds(made, kind, name, depths)
        for row, depth in enumerate(depths):
            alone = Prospect(Evaluator(Conditions(made, [depth]), detail=False), kind, name)
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

    @settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow])
    @given(games())
    def test_random_games(self, made: Game) -> None:
        self.assert_agrees(made, "source", "crab", range(1, 11, 3))

    @settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True))
    def test_random_games_with_state(self, made: Game) -> None:
        self.assert_agrees(made, "source", "crab", range(1, 11, 3))

    def test_items_that_cannot_be_received_have_no_column(self) -> None:
        found = depth_odds(game([pick((1, "lens"))]), "source", "crab", range(1, 4))
        self.assertEqual(found.places.tolist(), [2])

    def test_by_hand(self) -> None:
        """A chance of 0.2 times 0.5 to 2 over ten depths, rolled twice."""
        line = {"id": "a", "chance": 0.2, "curve": "swell", "yields": [{"item": "crown"}]}
        made = game([{**each(rolls={"min": 2, "max": 2}), "lines": [line]}], curves=[SWELL])
        found = depth_odds(made, "source", "crab", [1, 10])
        np.testing.assert_allclose(found.hit[0], [1 - 0.9**2, 1 - 0.6**2], rtol=1e-14)
        np.testing.assert_allclose(found.value_mean, [500 * 0.2, 500 * 0.8], rtol=1e-14)
        np.testing.assert_allclose(found.value_var, [500**2 * 2 * 0.09, 500**2 * 2 * 0.24], rtol=1e-13)


if __name__ == "__main__":
    unittest.main()
