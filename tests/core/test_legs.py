"""A player is taken from one depth to another and on: what they carry goes with them.

The exact side follows states that belong to no depth; the kernel plays legs; both are held against each
other and, for one guard and one deck, against what can be written out by hand.
"""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.effort import Carried
from golddice.core.odds.carried.folds import Moments
from golddice.core.odds.carried.space import space_of
from golddice.core.odds.carried.walk import Walk
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled_along
from golddice.core.trial.playing import Leg, Unit, played
from tests.games import game_data, pick

CRAB = View("source", "crab")
LENS = 2  # index of the item
Stops = list[tuple[int, int]]  # (depth, events)


def made(*tables: dict[str, Any]) -> Game:
    data = game_data(list(tables))
    data["curves"] = [{"id": "c", "name": "C", "points": [[1, 1.0], [10, 0.1]]}]
    return read_game(data)


def exactly(game: Game, stops: Stops) -> tuple[float, float]:
    """Mean and variance of lenses after all stops: the states of all depths together, walked backwards."""
    depths = [depth for depth, _ in stops]
    every = Conditions(game, depths)
    keys = Carried(every).keys(CRAB)
    space, fold = space_of(keys, every, {}), Moments(np.array([LENS]))
    bundle = fold.end(space.size)
    source = game.sources[0]
    for row, (depth, events) in reversed(list(enumerate(stops))):
        under = Conditions(game, [depth])
        walk = Walk(Evaluator(under, detail=False), Carried(under), space, row)
        for _ in range(events):
            bundle = walk.parts(source, source.drops, fold, bundle)
    mean, var, *_ = fold.told(bundle)
    return float(mean[0, 0]), float(var[0, 0])


def simulated(game: Game, stops: Stops, players: int = 40_000, seed: int = 4) -> np.ndarray[Any, Any]:
    """Lenses of each player after all stops."""
    programs = compiled_along([(Conditions(game, [depth]), CRAB) for depth, _ in stops])
    legs = [Leg(program, events) for program, (_, events) in zip(programs, stops, strict=True)]
    bags = played(Unit(legs, seed, 0, players))
    slot = int(np.flatnonzero(programs[0].items == LENS)[0])
    return np.asarray(bags.counts[:, slot])


def guard_line(**guard: Any) -> dict[str, Any]:
    table = pick((1, "lens"), (4, "sand"), nothing=15)
    table["lines"][0] |= {"curve": "c", "guard": guard}
    return table


class Legs(unittest.TestCase):
    def agree(self, game: Game, stops: Stops) -> None:
        mean, var = exactly(game, stops)
        counts = simulated(game, stops)
        self.assertLess(abs(counts.mean() - mean), 5 * math.sqrt(var / counts.size) + 1e-12)
        self.assertAlmostEqual(counts.var(), var, delta=0.1 * var + 1e-9)

    def test_misses_go_on_where_the_chance_is_another(self) -> None:
        for guard in ({"sure_at": 6}, {"after": 2, "rise": 0.5, "sure_at": 9}):
            self.agree(made(guard_line(**guard)), [(1, 4), (9, 4), (3, 5)])

    def test_a_guard_by_hand(self) -> None:
        """Chance 0 at first, sure at the fourth miss in a row, which falls into the second leg."""
        table = guard_line(sure_at=4)
        table["lines"][0] |= {"weight": 0, "curve": None}
        self.assertEqual(exactly(made(table), [(1, 3), (5, 1)]), (1.0, 0.0))
        self.assertTrue((simulated(made(table), [(1, 3), (5, 1)], 50) == 1).all())

    def test_a_chance_that_has_risen_to_one_here_may_not_have_there(self) -> None:
        line = {"id": "a", "chance": 0.4, "curve": "c", "guard": {"rise": 0.15}, "yields": [{"item": "lens"}]}
        retry = {"id": "bits", "name": "B", "rule": "retry", "tries": 2, "lines": [line]}
        retry["lines"].append({"id": "b", "weight": 3, "chance": 1, "yields": [{"item": "sand"}]})
        self.agree(made(retry), [(1, 6), (10, 5), (1, 2)])

    def test_a_limit_is_used_up_for_good(self) -> None:
        table = pick((5, "lens"), (5, "sand"))
        table["lines"][0]["limit"] = 2
        self.agree(made(table), [(1, 3), (7, 3)])

    def test_a_dealt_card_stays_when_its_line_is_shut(self) -> None:
        """Two of three cards drawn where all are open; the last is drawn where the lens's line is shut."""
        lines = [
            {"id": "a", "copies": 1, "depths": [1, 4], "yields": [{"item": "lens"}]},
            {"id": "b", "copies": 2, "yields": [{"item": "sand"}]},
        ]
        game = made({"id": "bits", "name": "B", "rule": "deck", "lines": lines})
        mean, var = exactly(game, [(1, 2), (9, 1)])
        self.assertAlmostEqual(mean, 1.0, places=12)
        self.assertAlmostEqual(var, 0.0, places=12)
        self.assertTrue((simulated(game, [(1, 2), (9, 1)], 200) == 1).all())
        # Shuffled where it is shut, the deck has none.
        self.assertEqual(exactly(game, [(9, 4)])[0], 0.0)
        self.agree(game, [(9, 1), (1, 7)])

    def test_waits_and_droughts_count_through_all_legs(self) -> None:
        game = made(guard_line(sure_at=6))
        programs = compiled_along([(Conditions(game, [depth]), CRAB) for depth in (1, 9)])
        unit = Unit([Leg(programs[0], 30), Leg(programs[1], 20)], 4, 0, 50, np.array([10, 30, 45, 50]))
        bags = played(unit)
        self.assertGreater(int(bags.first.max()), 0)
        self.assertLess(int(bags.drought[:, -1].max()), 51)
        self.assertTrue((np.diff(bags.fan, axis=1) >= 0).all())
        np.testing.assert_array_equal(bags.fan[:, -1], bags.value)


class SameLuck(unittest.TestCase):
    """Numbers are drawn by (seed, player, event): an edit changes the luck of what it touches alone."""

    def counts(self, game: Game, events: int = 60) -> np.ndarray[Any, Any]:
        programs = compiled_along([(Conditions(game, [1]), CRAB)])
        return played(Unit([Leg(programs[0], events)], 9, 0, 300)).counts

    def test_one_event_more_or_less_leaves_the_others(self) -> None:
        """A line that is closed instead of open, a sure drop instead of a likely one, two units for one:
        whatever another line gave in the same rolls it still gives."""
        first = pick((3, "lens"), (2, "sand"), (5, "claw"))
        second = pick((1, "crown"), nothing=4, name="other")
        crab = {"id": "crab", "name": "Crab", "kind": "enemy"}

        def game(chance: float, quantity: str) -> Game:
            head = pick((3, "lens"), (2, f"sand {quantity}"), (5, "claw"))
            drops = [
                {"id": "a", "table": "bits", "chance": chance},
                {"id": "b", "table": "other"},
            ]
            data = game_data([head, second])
            data["sources"] = [crab | {"drops": drops}]
            return read_game(data)

        self.assertTrue(first["lines"])
        one, other = self.counts(game(1.0, "1")), self.counts(game(1.0, "1-3"))
        np.testing.assert_array_equal(one[:, [1, 2, 3]], other[:, [1, 2, 3]])
        self.assertTrue((other[:, 0] > one[:, 0]).any())

    def test_a_guard_elsewhere_does_not_shift_what_is_drawn(self) -> None:
        """Two tables in turn: a guard on the first leaves the second's picks as they were."""
        crab = {"id": "crab", "name": "Crab", "kind": "enemy"}
        drops = [{"id": "a", "table": "bits"}, {"id": "b", "table": "other"}]

        def game(**guard: Any) -> Game:
            head = pick((3, "lens"), (7, "sand"))
            if guard:
                head["lines"][0]["guard"] = guard
            data = game_data([head, pick((1, "crown"), (9, "claw"), name="other")])
            data["sources"] = [crab | {"drops": drops}]
            return read_game(data)

        one, other = self.counts(game()), self.counts(game(sure_at=3))
        np.testing.assert_array_equal(one[:, [1, 3]], other[:, [1, 3]])
        self.assertTrue((other[:, 2] > one[:, 2]).all())


if __name__ == "__main__":
    unittest.main()
