"""Cohorts on routes, set beside what is expected; units kept and read again; trials compared."""

from __future__ import annotations

import copy
import json
import math
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.sheets.route_report import route_odds
from golddice.core.stopping import Stop
from golddice.core.trial.bytes_of import packed, unpacked
from golddice.core.trial.compare import Cohort, compared
from golddice.core.trial.plans import play_unit
from golddice.core.trial.playing import Bags
from golddice.core.trial.route import RouteBags, RouteUnit, course_of
from golddice.core.trial.trial import (
    RouteTrial,
    Trial,
    Until,
    local_executor,
    plan_of,
    report,
    reported,
    run_plan,
    run_trial,
)
from tests.games import demo, game_data, pick

FOLDER = Path(__file__).parent / "reference" / "runs"


def reference(name: str) -> Game:
    return read_game(json.loads((FOLDER / f"{name}.golddice.json").read_text()))


def ran(game: Game, trial: Any, workers: int = 2) -> dict[str, Any]:
    with local_executor(workers) as executor:
        return run_trial(game, trial, executor)


class Routes(unittest.TestCase):
    def test_every_reference_route_agrees_with_its_trial(self) -> None:
        scores = []
        for path in sorted(FOLDER.glob("*.golddice.json")):
            game = read_game(json.loads(path.read_text()))
            for route in game.routes:
                with self.subTest(path.name, route=route.id):
                    result = ran(game, RouteTrial(route.id, 20_000, 11))
                    found = [result["value"]["z"], *(one["z"] for one in result["items"].values())]
                    found += [stop["value"]["z"] for stop in result["stops"] if "value" in stop]
                    self.assertNotIn(None, found)
                    scores += found
                    wanted = result["value"]["expected_sd"]
                    self.assertAlmostEqual(result["value"]["sd"], wanted, delta=0.06 * wanted)
        self.assertLess(max(map(abs, scores)), 4.5)
        self.assertLess(np.mean(np.square(scores)), 1.5)

    def test_drawn_numbers_against_ten_million_events(self) -> None:
        """Means and spreads of items and value, of what carries nothing and of what carries something."""
        bits, rare = pick((3, "sand"), (1, "claw"), name="bits"), pick((1, "lens"), name="rare", nothing=9)
        guarded = copy.deepcopy(rare) | {"id": "sure", "name": "Sure"}
        guarded["lines"][0]["guard"] = {"after": 2, "rise": 0.05, "sure_at": 12}
        for name, tables in (("plain", ["bits", "rare"]), ("carried", ["bits", "sure"])):
            data = game_data([bits, rare, guarded])
            data["sources"][0]["drops"] = [{"id": one, "table": one, "chance": 0.8} for one in tables]
            many = {"source": "crab", "times": {"min": 0, "max": 60}}
            few = {"source": "crab", "times": {"dice": "2d20"}}
            legs = [{"id": "a", "from": 1, "to": 2, **many}, {"id": "b", "from": 3, "to": 4, **few}]
            data["routes"] = [{"id": "way", "name": "Way", "legs": legs}]
            game, players = read_game(data), 100_000
            with self.subTest(name):
                bags = play_unit(plan_of(game, RouteTrial("way", players, 5)).unit(0, players))
                assert isinstance(bags, RouteBags)
                self.assertGreater(int(bags.events.sum()), 10_000_000)
                told = route_odds(game, "way")["stops"][-1]
                course = course_of(game, game.routes[0])
                seen = {game.items[at].id: bags.counts[:, slot] for slot, at in enumerate(course.items)}
                pairs = [(bags.value, told["value"]), *((seen[one], told["items"][one]) for one in seen)]
                self.assertGreaterEqual(len(pairs), 4)
                for values, wanted in pairs:
                    self.agree(np.asarray(values, dtype=np.float64), wanted["mean"], wanted["sd"] ** 2)

    def agree(self, values: FloatArray, mean: float, var: float) -> None:
        off = values - values.mean()
        self.assertLess(abs(values.mean() - mean), 4 * values.std() / math.sqrt(values.size))
        room = math.sqrt(((off**4).mean() - (off**2).mean() ** 2) / values.size)
        self.assertLess(abs((off**2).mean() - var), 4 * room)

    def test_events_and_seconds_by_stop(self) -> None:
        game = reference("state-on-visits")
        result, odds = ran(game, RouteTrial("evenings", 40_000, 3)), route_odds(game, "evenings")
        for got, wanted in zip(result["stops"], odds["stops"], strict=True):
            self.assertAlmostEqual(got["events"], wanted["events_mean"], delta=0.01 * wanted["events_mean"])
            self.assertAlmostEqual(
                got["seconds"], wanted["seconds_mean"], delta=0.01 * wanted["seconds_mean"]
            )

    def test_the_number_of_workers_changes_nothing(self) -> None:
        game = reference("visits")
        one, two = (ran(game, RouteTrial("all-the-way", 3_000, 5), workers) for workers in (1, 3))
        self.assertEqual(one, two)

    def test_a_player_alone_is_the_same_player(self) -> None:
        game = reference("state-on-visits")
        course = course_of(game, game.routes[0])
        many = RouteUnit(course, 9, 0, 50).played()
        for player in (0, 17, 49):
            alone = RouteUnit(course, 9, player, 1).played()
            np.testing.assert_array_equal(alone.counts[0], many.counts[player])
            self.assertEqual(alone.seconds[0], many.seconds[player])

    def test_waits_count_events_through_the_route(self) -> None:
        data = game_data([pick((1, "sand"))])
        data["sources"].append({**data["sources"][0], "id": "idle", "drops": []})
        legs = [
            {"id": "a", "from": 1, "to": 1, "source": "idle", "times": {"min": 7, "max": 7}},
            {"id": "b", "from": 1, "to": 1, "source": "crab", "times": {"min": 2, "max": 2}},
        ]
        data["routes"] = [{"id": "way", "name": "Way", "legs": legs}]
        item = ran(read_game(data), RouteTrial("way", 10, 1))["items"]["sand"]
        self.assertEqual((item["mean"], item["first_50"], item["drought_99"]), (2.0, 8, 7))

    def test_how_often_the_next_thing_is_the_same(self) -> None:
        data = game_data([pick((1, "sand"), (3, "claw"))])
        legs = [{"id": "a", "from": 1, "to": 1, "source": "crab", "times": {"min": 40, "max": 40}}]
        data["routes"] = [{"id": "way", "name": "Way", "legs": legs}]
        game = read_game(data)
        for trial in (RouteTrial("way", 4_000, 3), Trial(View("source", "crab"), 1, 4_000, 40, 3)):
            self.assertAlmostEqual(ran(game, trial)["repeats"], (1 + 9) / 16, delta=0.006)

    def test_what_is_not_told_exactly_is_played_all_the_same(self) -> None:
        data = plain_game(reference("visits"))
        data["sources"][0]["price"] = {"item": "clay-bit", "amount": 1}
        result = ran(read_game(data), RouteTrial("twice", 200, 5))
        self.assertIsNone(result["value"]["expected_mean"])
        self.assertIn("has a price", result["untold"])

    def test_unsound_questions(self) -> None:
        data = plain_game(reference("visits"))
        data["routes"].append({"id": "empty", "name": "Empty", "legs": []})
        long = {"id": "a", "from": 1, "to": 6, "source": "soot-hen", "times": {"min": 0, "max": 9_000_000}}
        data["routes"].append({"id": "long", "name": "Long", "legs": [long]})
        game = read_game(data)
        for trial, words in (
            (RouteTrial("empty", 10, 1), "no legs"),
            (RouteTrial("long", 10, 1), "54,000,000 events"),
            (RouteTrial("twice", 0, 1), "players must be"),
            (RouteTrial("twice", 10, 2**63), "seed must be"),
            (RouteTrial("twice", 10, 1, Until(0.01, "nothing-such")), "no item"),
            (RouteTrial("twice", 10, 1, Until(7.0)), "known within"),
        ):
            with self.subTest(words), self.assertRaisesRegex((QueryError, TooLarge), words):
                plan_of(game, trial)


class StopRule(unittest.TestCase):
    trial = Trial(View("source", "lantern-eel"), 14, 50_000, 200, 7, until=Until(0.01))

    def test_it_ends_as_soon_as_the_mean_is_known(self) -> None:
        result = ran(demo(), self.trial)
        self.assertLess(result["players_done"], 50_000)
        value = result["value"]
        self.assertLessEqual(1.96 * value["sd"] / value["mean"] / math.sqrt(result["players_done"]), 0.01)

    def test_for_any_number_of_workers_alike(self) -> None:
        one, two = ran(demo(), self.trial, 1), ran(demo(), self.trial, 4)
        self.assertEqual((one["players_done"], one["digest"]), (two["players_done"], two["digest"]))


class Kept(unittest.TestCase):
    def test_units_read_again_give_the_same_report(self) -> None:
        for trial in (
            Trial(View("source", "lantern-eel"), 14, 3_000, 100, 7),
            Trial(View("table", "eel-catch"), 3, 500, 40, 7),
        ):
            kept: dict[int, Bags] = {}

            def keep(number: int, bags: Bags, _: Any, kept: dict[int, Bags] = kept) -> None:
                kept[number] = unpacked(packed(bags))

            plan = plan_of(demo(), trial)
            with local_executor(2) as executor:
                _, whole = reported(plan, executor, keep, Stop())
                some = {number: bags for number, bags in kept.items() if number % 2}
                _, again = reported(plan, executor, lambda *_: None, Stop(), some)
            self.assertEqual(whole, again)

    def test_nothing_is_played_again_that_is_kept(self) -> None:
        class Refusing(ThreadPoolExecutor):
            def submit(self, *_: Any, **__: Any) -> Any:
                raise AssertionError("played again")

        plan, kept = plan_of(reference("visits"), RouteTrial("twice", 400, 3)), {}

        def keep(number: int, bags: Bags, _: Any) -> None:
            kept[number] = unpacked(packed(bags))

        with local_executor(2) as executor:
            first = run_plan(plan, executor, keep, Stop())
        second = run_plan(plan, Refusing(1), lambda *_: None, Stop(), kept)
        self.assertEqual(report(plan, first), report(plan, second))

    def test_a_unit_is_small(self) -> None:
        plan = plan_of(demo(), Trial(View("source", "lantern-eel"), 14, 10_000, 500, 7))
        found = play_unit(plan.unit(*next(plan.units())))
        arrays = [array for name, array in vars(found).items() if name != "kept"]
        held = sum(array.nbytes for array in [*arrays, *found.kept.values()])
        self.assertLess(len(packed(found)), held / 3)


class Comparing(unittest.TestCase):
    def cohort(self, game: Game, seed: int = 7, players: int = 10_000) -> Cohort:
        plan = plan_of(game, Trial(View("source", "lantern-eel"), 14, players, 200, seed))
        units: list[Bags] = []
        with local_executor(2) as executor:
            run_plan(plan, executor, lambda _, bags, __: units.append(bags), Stop())
        return Cohort(game, plan.items, units)

    @staticmethod
    def with_weight(times: float) -> Game:
        data = plain_game(demo())
        table = next(one for one in data["tables"] if one["id"] == "eel-catch")
        table["lines"][6]["weight"] *= times
        return read_game(data)

    def test_a_small_change_is_signal_player_by_player_and_noise_otherwise(self) -> None:
        before, after = self.cohort(demo()), self.cohort(self.with_weight(1.01))
        found = compared(before, after, paired=True)["items"]["beacon-lens"]
        self.assertFalse(found["noise"])
        self.assertGreater(found["difference"], 0)
        self.assertGreater((found["unpaired_error"] / found["error"]) ** 2, 20)

    def test_nothing_changed_is_no_difference_at_all(self) -> None:
        one, two = self.cohort(demo(), players=500), self.cohort(demo(), players=500)
        found = compared(one, two, paired=True)
        self.assertTrue(all(item["difference"] == 0 and item["noise"] for item in found["items"].values()))

    def test_other_players_are_not_paired(self) -> None:
        one, two = self.cohort(demo(), 1, 2_000), self.cohort(demo(), 2, 2_000)
        found = compared(one, two, paired=False)
        self.assertEqual(found["value"]["error"], found["value"]["unpaired_error"])
        self.assertLess(abs(found["value"]["difference"]), 4.5 * found["value"]["error"])


if __name__ == "__main__":
    unittest.main()
