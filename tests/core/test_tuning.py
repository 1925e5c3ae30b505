"""Tuning: derivatives against differences, proposals against what they promise."""

from __future__ import annotations

import math
import random
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from bench.tuning import contradiction, problem
from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.stopping import Cancelled, Stop, stopped_by
from golddice.core.tuning import standings
from golddice.core.tuning.asking import Ask
from golddice.core.tuning.flow import Noted, Notes, NotNoted
from golddice.core.tuning.least import shortest
from golddice.core.tuning.numbers import Number, numbers_of, with_values
from golddice.core.tuning.proposal import Proposal, propose
from golddice.core.tuning.rounding import to_digits
from golddice.core.tuning.slopes import curves_of_quantities, is_smooth, slopes, touched
from golddice.core.tuning.targets import Standing
from tests.games import demo, each, game, pick
from tests.strategies import games

CRAB = View("source", "crab")
STEP = 2e-4


def target(name: str = "t", **fields: Any) -> dict[str, Any]:
    return {"id": name, "name": name.upper(), "source": "crab", **fields}


def wants(made: Game, *targets: dict[str, Any]) -> Game:
    return read_game({**plain_game(made), "targets": list(targets)})


def numbers(found: Proposal) -> dict[str, float]:
    return {number.where: value for number, value in found.values.items()}


class Derivatives(unittest.TestCase):
    @settings(max_examples=30, suppress_health_check=list(HealthCheck))
    @given(games(), st.integers(0, 2**32))
    def test_they_agree_with_central_differences(self, made: Game, seed: int) -> None:
        draw, rough = random.Random(seed), curves_of_quantities(made)
        under = all_depths(made, frozenset())
        try:
            noted = Noted(Notes(under), CRAB)
        except NotNoted:
            assume(False)
        near = touched(under, CRAB)
        free = [one for one in numbers_of(made) if (one.of, one.id) in near and is_smooth(one, rough)]
        assume(free)
        counts = np.array([1.0, 0.0, 1.0, 0.0])
        mean, var = noted.mean_and_var(under.item_values)
        ways = {"hit": noted.hit(counts), "mean": mean, "var": var}

        def told(number: Number, step: float) -> dict[str, Any]:
            changed = all_depths(with_values(made, {number: number.moved(step)}), frozenset())
            again = Noted(Notes(changed), CRAB)
            mean, var = again.mean_and_var(changed.item_values)
            return {"hit": again.hit(counts).value, "mean": mean.value, "var": var.value}

        for number in draw.sample(free, min(4, len(free))):
            up, down, here = told(number, STEP), told(number, -STEP), told(number, 0.0)
            for name, node in ways.items():
                straight = (up[name] - down[name]) / (2 * STEP)
                bends = np.abs(up[name] - 2 * here[name] + down[name]) / STEP  # a kink, as where one is sure
                scale = 1e-12 + np.abs(here[name]).max()
                off = np.abs(slopes(noted, node, [number])[0] - straight)
                self.assertLess(np.max(off - bends) / scale, 1e-6, f"{name} by {number.where}")

    @settings(max_examples=30, suppress_health_check=list(HealthCheck))
    @given(games())
    def test_what_is_noted_is_what_the_odds_say(self, made: Game) -> None:
        under = all_depths(made, frozenset(["key"]))
        try:
            noted = Noted(Notes(under), CRAB)
        except NotNoted:
            assume(False)
        lean = DepthOdds(under).of(CRAB)
        mean, var = noted.mean_and_var(under.item_values)
        np.testing.assert_allclose(mean.value, lean.value_mean, rtol=1e-9, atol=1e-12)
        np.testing.assert_allclose(var.value, lean.value_var, rtol=1e-6, atol=1e-6)
        for place, hit, many in zip(lean.places, lean.hit, lean.mean, strict=True):
            alone = np.eye(4)[place]
            np.testing.assert_allclose(noted.hit(alone).value, hit, rtol=1e-9, atol=1e-15)
            np.testing.assert_allclose(noted.mean(alone).value, many, rtol=1e-9, atol=1e-15)


class Shortest(unittest.TestCase):
    def test_it_is_the_nearest_point_of_what_is_allowed(self) -> None:
        found = shortest(np.array([[1.0, 1.0]]), np.array([2.0]), np.zeros((0, 2)), np.zeros(0))
        np.testing.assert_allclose(found, [1.0, 1.0])
        found = shortest(
            np.array([[1.0, 0.0], [0.0, 1.0]]), np.array([3.0, -1.0]), np.zeros((0, 2)), np.zeros(0)
        )
        np.testing.assert_allclose(found, [3.0, 0.0], atol=1e-12)

    def test_equalities_are_kept(self) -> None:
        found = shortest(np.array([[1.0, 0.0]]), np.array([1.0]), np.array([[1.0, 1.0]]), np.array([0.0]))
        np.testing.assert_allclose(found, [1.0, -1.0])

    def test_none_where_bounds_contradict(self) -> None:
        rows = np.array([[1.0], [-1.0]])
        self.assertIsNone(shortest(rows, np.array([2.0, -1.0]), np.zeros((0, 1)), np.zeros(0)))


class Proposals(unittest.TestCase):
    def setUp(self) -> None:
        self.two = game([pick((1, "lens"), (3, "sand"))])

    def test_two_weights_change_places_within_their_total(self) -> None:
        """A share of a half of weights 1 and 3 that keep their sum of 4: 2 and 2."""
        asked = wants(self.two, target(figure="chance", item="lens", side="at-least", wanted=0.5))
        found = propose(asked)
        self.assertEqual(found.status, "met")
        self.assertAlmostEqual(numbers(found)["bits/a/weight"], 2.0, places=5)
        self.assertAlmostEqual(numbers(found)["bits/b/weight"], 2.0, places=5)
        self.assertEqual(sum(numbers(found).values()), 4.0)
        self.assertGreaterEqual(found.after[0].figures[0], 0.5)

    def test_totals_need_not_be_kept(self) -> None:
        """The odds must treble: each weight by the square root of 3."""
        asked = wants(self.two, target(figure="chance", item="lens", side="at-least", wanted=0.5))
        found = propose(asked, Ask(keep_totals=False))
        self.assertAlmostEqual(numbers(found)["bits/a/weight"], math.sqrt(3), places=5)
        self.assertAlmostEqual(numbers(found)["bits/b/weight"], math.sqrt(3), places=5)

    def test_what_is_kept_or_pinned_or_not_unlocked_stays(self) -> None:
        asked = wants(self.two, target(figure="chance", item="lens", wanted=0.5))
        self.assertEqual(set(numbers(propose(asked, Ask(keep=["bits/b"])))), {"bits/a/weight"})
        self.assertEqual(set(numbers(propose(asked, Ask(unlock=["bits/b/weight"])))), {"bits/b/weight"})
        data = plain_game(asked)
        data["tables"][0]["lines"][0]["pinned"] = True
        found = propose(read_game(data))
        self.assertEqual(set(numbers(found)), {"bits/b/weight"})
        self.assertTrue(found.after[0].is_met)
        with self.assertRaisesRegex(QueryError, "may move"):
            propose(asked, Ask(keep=["bits", "crab"]))

    def test_every_depth_is_met_by_moving_a_curve(self) -> None:
        data = plain_game(self.two)
        data["curves"] = [{"id": "swell", "name": "Swell", "points": [[1, 0.5], [5, 1.0], [10, 2.0]]}]
        data["tables"][0]["lines"][0]["curve"] = "swell"
        data["targets"] = [target(figure="chance", item="lens", side="at-least", wanted=0.3, depths=[2, 9])]
        found = propose(read_game(data), Ask(unlock=["swell"]))
        self.assertEqual((found.status, len(found.after[0].depths)), ("met", 8))
        self.assertTrue(all(figure >= 0.3 for figure in found.after[0].figures))
        self.assertIn("swell@1", numbers(found))

    def test_a_wait_is_met_to_the_event(self) -> None:
        asked = wants(self.two, target(figure="wait", item="lens", sure=90, wanted=5, side="at-most"))
        found = propose(asked)
        self.assertEqual((found.before[0].figures[0], found.after[0].figures[0]), (9.0, 5.0))

    def test_a_wait_behind_a_guard_is_met(self) -> None:
        data = plain_game(self.two)
        data["tables"][0]["lines"][0]["guard"] = {"after": 3, "rise": 0.1}
        data["targets"] = [target(figure="wait", item="lens", sure=90, wanted=4, side="at-most")]
        found = propose(read_game(data))
        self.assertEqual((found.status, found.after[0].figures[0]), ("met", 4.0))
        data["tables"][0]["lines"][0]["guard"] = {"after": 3, "rise": 0.1, "sure_at": 30}
        sooner = propose(read_game(data), Ask(unlock=["bits/a/sure-at"]))
        self.assertEqual((sooner.status, numbers(sooner)), ("met", {"bits/a/sure-at": 4.0}))
        of_guard = propose(read_game(data), Ask(unlock=["bits/a/rise", "bits/a/after"]))
        self.assertEqual(of_guard.status, "met")
        self.assertLessEqual(set(numbers(of_guard)), {"bits/a/rise", "bits/a/after"})

    def test_whole_numbers_are_searched(self) -> None:
        data = plain_game(game([pick((1, "sand"))]))
        data["tables"][0]["lines"][0]["yields"][0]["quantity"] = {"min": 1, "max": 3}
        data["targets"] = [target(figure="mean", item="sand", wanted=4, tolerance=0.1)]
        found = propose(read_game(data), Ask(unlock=["bits/a"]))
        self.assertEqual(found.status, "met")
        self.assertTrue(all(value == int(value) for value in numbers(found).values()))
        self.assertEqual(found.after[0].figures[0], 4.0)

    def test_what_no_number_reaches_is_named(self) -> None:
        for figure, wanted in (("chance", 1.0), ("wait", 0.0), ("one-in", 0.0)):
            asked = wants(self.two, target(figure=figure, item="lens", wanted=wanted))
            found = propose(asked)
            self.assertEqual((found.status, found.conflict), ("nearest", ["t"]), figure)

    def test_nothing_to_do(self) -> None:
        asked = wants(self.two, target(figure="chance", item="lens", wanted=0.25))
        found = propose(asked)
        self.assertEqual((found.status, found.values, found.game), ("nothing-to-do", {}, asked))

    def test_put_aside_is_not_asked_for(self) -> None:
        aside = target("b", figure="chance", item="lens", wanted=0.9, aside=True)
        found = propose(wants(self.two, target("a", figure="chance", item="lens", wanted=0.5), aside))
        self.assertEqual([one.target.id for one in found.after], ["a"])
        with self.assertRaisesRegex(QueryError, "no target"):
            propose(wants(self.two, aside))

    def test_what_is_not_there_is_told(self) -> None:
        asked = wants(self.two, target(figure="chance", item="lens", wanted=0.5))
        with self.assertRaises(UnknownThing):
            propose(asked, Ask(targets=["nowhere"]))
        with self.assertRaisesRegex(QueryError, "nowhere/z"):
            propose(asked, Ask(unlock=["nowhere/z"]))

    def test_a_solve_that_is_left_ends(self) -> None:
        stop = Stop()
        stop.set()
        asked = wants(self.two, target(figure="chance", item="lens", wanted=0.5))
        with self.assertRaises(Cancelled), stopped_by(stop):
            propose(asked)

    def test_what_else_moves_is_told(self) -> None:
        asked = wants(self.two, target(figure="chance", item="lens", wanted=0.5))
        found = propose(asked)
        said = {(one.of, one.id): (one.before, one.after) for one in found.moved}
        self.assertAlmostEqual(said[("item", "sand")][0], 0.75)
        self.assertAlmostEqual(said[("item", "sand")][1], 0.5, places=5)
        self.assertIn(("value", ""), said)
        self.assertEqual(
            [one.size for one in found.moved], sorted((o.size for o in found.moved), reverse=True)
        )


class Written(unittest.TestCase):
    """As people write numbers, and still met."""

    def setUp(self) -> None:
        lens = target(figure="chance", item="lens", side="at-least", wanted=0.29)
        self.asked = wants(game([pick((7, "lens"), (31, "sand"), (12.5, "claw"))]), lens)

    def test_digits_are_the_fewest_that_hold(self) -> None:
        found = propose(self.asked, Ask(rounded=True))
        self.assertTrue(found.after[0].is_met)
        self.assertTrue(all(value == float(f"{value:.1e}") for value in numbers(found).values()))

    def test_few_digits_hardly_cost_more(self) -> None:
        """1.523 % is needed: 2 % would be far more than that, 1.6 % still a tenth."""
        lens = target(figure="chance", item="lens", side="at-least", wanted=0.01523)
        found = propose(wants(game([each((0.01, "lens"))]), lens), Ask(rounded=True))
        (value,) = numbers(found).values()
        self.assertEqual(value, float(f"{value:.2e}"))
        self.assertTrue(0.01523 <= value < 0.0157)
        least, size = (math.log(one / (1 - one)) - math.log(0.01 / 0.99) for one in (0.01523, value))
        self.assertAlmostEqual(found.rounding, size / least - 1, places=4)
        self.assertLessEqual(found.rounding, 0.05)

    def test_whole_weights_within_a_bound(self) -> None:
        found = propose(self.asked, Ask(whole=100))
        table = found.game.tables[0]
        weights = [line.weight for line in table.lines if hasattr(line, "weight")]
        self.assertTrue(all(weight == int(weight) <= 100 for weight in weights), weights)
        self.assertTrue(found.after[0].is_met)

    def test_it_holds_through_the_file(self) -> None:
        for ask in (Ask(), Ask(rounded=True), Ask(whole=60)):
            again = read_game(plain_game(propose(self.asked, ask).game))
            self.assertTrue(all(one.is_met for one in standings(again)))

    def test_a_chance_does_not_round_to_certain(self) -> None:
        number = Number("chance", "table", "bits", "a", 0.5)
        self.assertEqual(to_digits(number, 0.99961, 1), 0.9996)
        self.assertEqual(to_digits(number, 0.0123, 2), 0.012)


class Contradictions(unittest.TestCase):
    def test_the_smallest_set_is_named(self) -> None:
        asked = wants(
            game([each((0.3, "lens"), (0.5, "sand"))]),
            target("a", figure="chance", item="sand", side="at-most", wanted=0.9),
            target("b", figure="chance", item="lens", side="at-least", wanted=0.6),
            target("c", figure="mean", item="lens", side="at-most", wanted=0.4),
        )
        found = propose(asked)
        self.assertEqual((found.status, found.conflict), ("nearest", ["b", "c"]))
        lens = found.after[1].figures[0]
        self.assertTrue(0.4 < lens < 0.6, lens)  # between both

    def test_what_cannot_come_contradicts_nothing_that_is_at_most(self) -> None:
        asked = wants(
            game([pick((1, "sand"), (1, "claw"))]),
            target("a", figure="chance", item="crown", side="at-most", wanted=0.9),
            target("b", figure="value", side="at-least", wanted=2.9),
            target("c", figure="value", side="at-most", wanted=1.5),
        )
        self.assertEqual(propose(asked).conflict, ["b", "c"])
        alone = wants(asked, target("d", figure="chance", item="crown", side="at-least", wanted=0.1))
        found = propose(alone)
        self.assertEqual((found.status, found.conflict), ("nearest", ["d"]))

    def test_the_nearest_weighs_a_change_against_what_it_gains(self) -> None:
        """Two that pull the angler's Wonder both ways, at depths at which its share differs: to miss by a
        little less at all depths would ask for weights a thousandfold."""
        both = ("angler-wonder", "angler-rare")
        found = propose(demo(), Ask(targets=both, rounded=True))
        self.assertEqual((found.status, tuple(found.conflict)), ("nearest", both))
        self.assertTrue(found.values)
        for number, value in found.values.items():
            self.assertLess(abs(number.change(value)), np.log(5), number.where)
            self.assertEqual(value, float(f"{value:.2g}"), number.where)

        def worst(stood: list[Standing]) -> float:
            waits = [max(one.figures) / one.target.wanted for one in stood if one.target.id == both[0]]
            chances = [one.target.wanted / min(one.figures) for one in stood if one.target.id == both[1]]
            return max(*waits, *chances)

        self.assertLess(worst(found.after), 0.9 * worst(found.before))

    def test_planted_ones_are_named_and_each_member_is_needed(self) -> None:
        draw = random.Random(5)
        for _ in range(3):
            asked, _ = contradiction(demo(), draw)
            found = propose(asked)
            self.assertEqual(found.status, "nearest")
            names = found.conflict
            self.assertEqual(propose(asked, Ask(targets=names)).status, "nearest")
            for left in names:
                rest = [name for name in names if name != left]
                if rest:
                    self.assertNotEqual(propose(asked, Ask(targets=rest)).status, "nearest", names)


class Disturbed(unittest.TestCase):
    """The demo with numbers disturbed: its own figures, wanted back, for no more than the disturbance."""

    def test_problems_are_solved_for_no_more_than_they_were_made_by(self) -> None:
        draw, solved = random.Random(3), 0
        while solved < 6:
            made = problem(demo(), draw, whole=False)
            if made is None or made.game.targets[0].source in {"pane-mimic", "hush-angler", "warm-vent"}:
                continue  # what is carried is dear to follow; these are in the bench
            solved += 1
            found = propose(made.game, Ask(unlock=[number.where for number in made.moved]))
            self.assertNotEqual(found.status, "nearest", [one.where for one in made.moved])
            size = math.sqrt(sum(number.change(value) ** 2 for number, value in found.values.items()))
            self.assertLessEqual(size, made.size * 1.01)
            untouched = {number.where for number in numbers_of(made.game)} - set(numbers(found))
            after = {number.where: number.value for number in numbers_of(found.game)}
            before = {number.where: number.value for number in numbers_of(made.game)}
            self.assertTrue(all(after[name] == before[name] for name in untouched))

    def test_what_lies_behind_a_bump_is_found(self) -> None:
        """A point of a curve, with two ends of quantities: from where it stands each way is worse."""
        young = {"source": "young-eel"}
        read = [
            {**young, "id": "a", "figure": "worth", "tier": "salvage", "depths": (7, 7)},
            {**young, "id": "b", "figure": "cv", "depths": (8, 8)},
            {**young, "id": "c", "figure": "worth", "tier": "curio", "depths": (8, 8)},
        ]
        targets = [Target(name="A", wanted=1.0, **one) for one in read]
        stands = standings(demo().model_copy(update={"targets": targets}))
        wanted = [
            one.target.model_copy(update={"wanted": one.figures[0], "tolerance": 0.002 * one.figures[0]})
            for one in stands
        ]
        moved = {"eel-catch/g/least": 2.0, "eel-catch/b/most": 7.0, "trench-pull@14": 0.4015}
        values = {number: moved[number.where] for number in numbers_of(demo()) if number.where in moved}
        made = with_values(demo().model_copy(update={"targets": wanted}), values)
        found = propose(made, Ask(unlock=list(moved)))
        self.assertEqual(found.status, "met")
        size = math.sqrt(sum(number.change(value) ** 2 for number, value in found.values.items()))
        before = math.sqrt(sum(number.change(value) ** 2 for number, value in values.items()))
        self.assertLessEqual(size, before)


class OfTheDemo(unittest.TestCase):
    def test_all_its_targets_at_once(self) -> None:
        asked = [target for target in demo().targets if target.id not in ("mimic-hour", "angler-rare")]
        found = propose(demo(), Ask(targets=[target.id for target in asked]))
        self.assertEqual(found.status, "met")
        tables = {table.id: table for table in demo().tables}
        for table in found.game.tables:
            if table.rule == "pick":
                total = table.nothing + sum(line.weight for line in table.lines)
                before = tables[table.id]
                assert before.rule == "pick"
                was = before.nothing + sum(line.weight for line in before.lines)
                self.assertAlmostEqual(total / was, 1.0, places=12)
        self.assertIsInstance(asked[0], Target)


if __name__ == "__main__":
    unittest.main()
