"""Other ways to meet targets: bounds, kinds, the fewest numbers; the long run held; mean against swing."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings
from scipy.interpolate import CubicSpline

from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.tuning import standings
from golddice.core.tuning.aims import Book
from golddice.core.tuning.asking import KINDS, Ask, free_numbers, missed_of, numbers_under
from golddice.core.tuning.frontier import frontier
from golddice.core.tuning.numbers import with_values
from golddice.core.tuning.proposal import propose
from tests.games import demo, each, game, pick
from tests.strategies import games

CRAB = View("source", "crab")


def eels(**more: object) -> Ask:
    return Ask(targets=["eel-pays"], **more)  # type: ignore[arg-type]


class Ways(unittest.TestCase):
    def test_fewest_is_few_and_dearer(self) -> None:
        smallest, fewest = propose(demo(), eels()), propose(demo(), eels(way="fewest"))
        self.assertEqual((smallest.status, fewest.status), ("met", "met"))
        self.assertEqual(len(fewest.values), 1)
        self.assertGreater(len(smallest.values), 10)
        self.assertGreaterEqual(fewest.size, smallest.size - 1e-9)
        [number] = fewest.values
        self.assertTrue(standings(with_values(demo(), fewest.values), ["eel-pays"])[0].is_met)
        self.assertEqual(fewest.size, abs(number.change(fewest.values[number])))

    def test_few_digits_go_with_it(self) -> None:
        found = propose(demo(), eels(way="fewest", rounded=True))
        self.assertEqual(found.status, "met")
        [value] = found.values.values()
        self.assertLessEqual(len(f"{value:.12g}"), 6)

    def test_of_one_kind_alone(self) -> None:
        for way in ("weights", "curves"):
            found = propose(demo(), eels(way=way))
            self.assertEqual(found.status, "met")
            self.assertEqual({number.sort for number in found.values} - KINDS[way], set())
        found = propose(demo(), eels(kinds=["chances"]))
        self.assertEqual({number.sort for number in found.values}, {"chance"})

    def test_no_number_goes_further_than_it_may(self) -> None:
        free = propose(demo(), eels(way="weights"))
        self.assertGreater(max(abs(n.change(v)) for n, v in free.values.items()), math.log(1.3))
        for rounded in (False, True):
            bound = propose(demo(), eels(most=1.2, rounded=rounded))
            self.assertEqual(bound.status, "met")
            self.assertLess(max(abs(n.change(v)) for n, v in bound.values.items()), math.log(1.2) + 2e-3)
        tight = propose(demo(), eels(most=1.01))
        self.assertEqual(tight.status, "nearest")

    def test_an_unknown_kind_is_told(self) -> None:
        with self.assertRaisesRegex(QueryError, "weights, chances, curves"):
            propose(demo(), eels(kinds=["colours"]))

    def test_what_may_move_is_told_before(self) -> None:
        missed = missed_of(demo(), eels())
        self.assertEqual([target.id for target in missed], ["eel-pays"])
        free = free_numbers(Book(demo()), eels(), missed)
        self.assertEqual(len(free), propose(demo(), eels()).free)


class LongRuns(unittest.TestCase):
    def made(self) -> Game:
        """Half have a crown by the 9th kill; a guard lifts its chance from the fourth miss on."""
        table = each((0.05, "crown"), (0.5, "sand"))
        table["lines"][0]["guard"] = {"after": 3, "rise": 0.01}
        wish = {"id": "wish", "name": "Wish", "source": "crab", "figure": "wait", "item": "crown"}
        wish |= {"sure": 90, "side": "at-most", "wanted": 13, "depths": [1, 1]}
        return read_game(plain_game(game([table])) | {"targets": [wish]})

    def test_what_it_costs_is_told(self) -> None:
        found = propose(self.made(), Ask(kinds=["chances"]))
        self.assertEqual(found.status, "met")
        [run] = found.long_run
        self.assertEqual((run.target, run.depths), ("wish", [1]))
        self.assertGreater(run.after[0], run.before[0])

    def test_it_can_be_held(self) -> None:
        found = propose(self.made(), Ask(hold_long_run=True))
        self.assertEqual(found.status, "met")
        [run] = found.long_run
        np.testing.assert_allclose(run.after, run.before, rtol=1.1e-3)
        sorts = {number.sort for number in found.values}
        self.assertIn("chance", sorts)
        self.assertTrue(sorts & {"rise", "after"})


class Frontiers(unittest.TestCase):
    def numbers(self, made: Game, view: View, **more: object) -> Ask:
        return Ask(kinds=["weights", "chances"], most=2.0, **more)  # type: ignore[arg-type]

    def test_every_point_is_what_the_odds_say(self) -> None:
        ask, view = self.numbers(demo(), CRAB), View("source", "kiln-chest")
        numbers = numbers_under(all_depths(demo()), view, ask)
        found = frontier(demo(), view, 15, numbers, ask.far)
        self.assertGreaterEqual(len(found.least), 8)
        for point in found.least:
            lean = depth_odds(with_values(demo(), point.values), view, [15])
            self.assertAlmostEqual(point.mean, float(lean.value_mean[0]))
            self.assertAlmostEqual(point.cv, math.sqrt(float(lean.value_var[0])) / point.mean)
            self.assertLessEqual(max(abs(n.change(v)) for n, v in point.values.items()), ask.far + 0.01)
            self.assertTrue(
                all(len(f"{v:.12g}".replace(".", "").lstrip("0")) <= 4 for v in point.values.values())
            )

    def test_nothing_within_bounds_swings_less(self) -> None:
        """Against many games whose numbers were moved at random: none lies under the curve."""
        made = game([each((0.3, "claw"), (0.05, "lens"), (0.6, "sand 2"))])
        ask = self.numbers(made, CRAB)
        numbers = numbers_under(all_depths(made), CRAB, ask)
        found = frontier(made, CRAB, 1, numbers, ask.far)
        draw = np.random.default_rng(5)
        means = [one.mean for one in found.least]
        least = CubicSpline(np.log(means), [one.cv for one in found.least])
        inside = 0
        for _ in range(300):
            steps = draw.uniform(-ask.far, ask.far, len(numbers))
            values = {one: one.moved(float(step)) for one, step in zip(numbers, steps, strict=True)}
            lean = depth_odds(with_values(made, values), CRAB, [1])
            mean = float(lean.value_mean[0])
            if means[0] <= mean <= means[-1]:
                inside += 1
                swing = math.sqrt(float(lean.value_var[0])) / mean
                self.assertGreater(swing, 0.98 * float(least(math.log(mean))))
        self.assertGreater(inside, 100)

    @settings(max_examples=15, deadline=None, suppress_health_check=list(HealthCheck))
    @given(games())
    def test_it_is_told_or_refused(self, made: Game) -> None:
        ask = self.numbers(made, CRAB)
        try:
            found = frontier(made, CRAB, 4, numbers_under(all_depths(made), CRAB, ask), ask.far)
        except (QueryError, TooLarge):
            return
        self.assertEqual([one.mean for one in found.least], sorted(one.mean for one in found.least))

    def test_what_has_no_swing_is_refused(self) -> None:
        made = game([pick((1, "sand"))])
        with self.assertRaises(QueryError):
            frontier(made, CRAB, 1, [], 1.0)
