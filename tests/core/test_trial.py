"""Trials: they agree with the odds, and the same seed gives the same, however it is run."""

from __future__ import annotations

import copy
import math
import threading
import time
import unittest
from dataclasses import astuple
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import HealthCheck, given, settings

from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from golddice.core.stopping import Cancelled, Stop
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.amounts import from_pool
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Unit, played, played_side_by_side, played_with_trace
from golddice.core.trial.program import A_POOLS, R_POOLS
from golddice.core.trial.rng import at_event, next_unit, reserved, start_of, unit_at, unit_of
from golddice.core.trial.trace import rolled
from golddice.core.trial.trial import Trial, checkpoints, local_executor, run_trial
from tests.games import demo, each, game, pick
from tests.strategies import games

NO_MARKS = np.zeros(0, dtype=np.int64)


def run(made: Game, workers: int = 2, **fields: Any) -> dict[str, Any]:
    spec = {"view": "crab", "depth": 1, "players": 400, "events": 250, "seed": 11, **fields}
    view = View("source", spec.pop("view"))
    with local_executor(workers) as executor:
        return run_trial(made, Trial(view, **spec), executor)


class Stream(unittest.TestCase):
    def test_players_and_events_have_numbers_of_their_own(self) -> None:
        firsts = set()
        for seed, player in ((1, 0), (1, 1), (2, 0), (2**63 - 1, 0)):
            for event in (1, 2, 10_000_000):
                random = np.array([at_event(np.uint64(start_of(seed, player)), event)], dtype=np.uint64)
                firsts.add(next_unit(random))
        self.assertEqual(len(firsts), 12)

    def test_splitmix64_by_hand(self) -> None:
        """The first outputs from seed 1234567, as its author's program prints them."""
        random = np.array([1234567], dtype=np.uint64)
        for output in (6457827717110365317, 3203168211198807973, 9817491932198370423):
            self.assertEqual(next_unit(random), (output >> 11) * 2.0**-53)

    def test_numbers_set_aside_are_those_that_come_next(self) -> None:
        one, other = np.array([99], dtype=np.uint64), np.array([99], dtype=np.uint64)
        drawn = [next_unit(one) for _ in range(4)]
        place = reserved(other, 3)
        self.assertEqual([unit_of(place, at) for at in range(3)], drawn[:3])
        self.assertEqual(next_unit(other), drawn[3])


class Agreement(unittest.TestCase):
    @settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
    @given(games())
    def test_random_games_agree_with_their_odds(self, made: Game) -> None:
        result = run(made, players=2_000, events=100)
        for name, item in result["items"].items():
            self.assertIsNotNone(item["z"], name)
            self.assertLess(abs(item["z"]), 5, name)
        self.assertLess(abs(result["value"]["z"]), 5)

    @settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True))
    def test_games_with_state_agree_too(self, made: Game) -> None:
        """Exact by recursion over states, against the simulated, over a fresh player's first events."""
        result = run(made, players=4_000, events=12)
        for name, item in result["items"].items():
            self.assertIsNotNone(item["z"], name)
            self.assertLess(abs(item["z"]), 5, name)
        self.assertLess(abs(result["value"]["z"]), 5)

    @settings(max_examples=15, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True))
    def test_the_long_run_is_what_many_events_come_to(self, made: Game) -> None:
        report = odds(made, View("source", "crab"))
        players, events = 60, 4_000
        half = run(made, players=players, events=events // 2, seed=3)["items"]
        whole = run(made, players=players, events=events, seed=3)["items"]
        for name, item in report["items"].items():
            if name not in whole:
                continue
            # The same players: their second half is long past the beginning.
            later = (whole[name]["total"] - half[name]["total"]) / (players * events / 2)
            room = 6 * max(item["sd"], 1.0) / math.sqrt(players * events / 2) + 0.002
            self.assertAlmostEqual(later, item["long_run_mean"], delta=room, msg=name)

    def test_the_demo_game_agrees_and_its_scores_are_standard_normal(self) -> None:
        scores = []
        for at, source in enumerate(demo().sources):
            low, high = source.depths or (1, 30)
            depth = (low + high) // 2
            result = run(demo(), view=source.id, depth=depth, players=1_000, events=600, seed=at)
            scores += [item["z"] for item in result["items"].values() if item["total"] > 50]
        self.assertGreater(len(scores), 100)
        self.assertLess(max(abs(z) for z in scores), 5)
        self.assertLess(abs(float(np.mean(scores))), 0.35)
        self.assertLess(abs(float(np.std(scores)) - 1), 0.25)

    def test_waits_and_droughts_by_hand(self) -> None:
        made = game([pick((1, "sand"))])
        item = run(made, players=3, events=10)["items"]["sand"]
        self.assertEqual((item["first_99"], item["drought_99"], item["none_share"]), (1, 0, 0.0))
        never = game([pick((1, "sand"), nothing=1e12)])
        item = run(never, players=3, events=10)["items"]["sand"]
        self.assertEqual((item["first_50"], item["drought_50"], item["none_share"]), (None, 10, 1.0))


class Sameness(unittest.TestCase):
    def test_any_number_of_workers_gives_the_same(self) -> None:
        results = [run(demo(), workers, view="guild-parcel", depth=20) for workers in (1, 2, 5)]
        self.assertEqual(len({result["digest"] for result in results}), 1)
        self.assertEqual(results[0], results[1])
        self.assertEqual(results[0], results[2])

    def test_another_seed_gives_something_else(self) -> None:
        one, two = run(demo(), view="guild-parcel"), run(demo(), view="guild-parcel", seed=12)
        self.assertNotEqual(one["digest"], two["digest"])

    def test_one_player_alone_is_the_same_player(self) -> None:
        program = compiled(Conditions(demo(), [14]), View("source", "lantern-eel"))
        all_of_them = played(Unit.of(program, 5, 0, 20, 300, checkpoints(300)))
        alone = played(Unit.of(program, 5, 13, 1, 300, checkpoints(300)))
        np.testing.assert_array_equal(alone.counts[0], all_of_them.counts[13])
        np.testing.assert_array_equal(alone.drought[0], all_of_them.drought[13])
        np.testing.assert_array_equal(alone.fan[0], all_of_them.fan[13])

    def test_players_side_by_side_are_the_same_players(self) -> None:
        """Shared out among threads, with guards and limits, for numbers that do not divide evenly."""
        program = compiled(Conditions(demo(), [14]), View("source", "lantern-eel"))
        for players, threads in ((1, 4), (7, 3), (20, 2)):
            unit = Unit.of(program, 5, 3, players, 120, checkpoints(120))
            with mock.patch("os.cpu_count", return_value=threads):
                together = played_side_by_side(unit)
            for one, other in zip(astuple(played(unit)), astuple(together), strict=True):
                np.testing.assert_array_equal(one, other)

    def test_a_trace_does_not_change_what_falls(self) -> None:
        """The noted way is the general one: what is quicker for some sources and tables does the same."""
        made = demo()
        views = [View("source", source.id) for source in made.sources]
        views += [View("table", table.id) for table in made.tables]
        for view in views:
            unit = Unit.of(compiled(Conditions(made, [14]), view), 5, 2, 1, 300, NO_MARKS)
            traced, _, _ = played_with_trace(unit)
            plain = played(unit)
            for part in ("counts", "first", "drought", "receipts", "same"):
                np.testing.assert_array_equal(getattr(traced, part), getattr(plain, part), f"{view}: {part}")

    def test_events_rolled_in_pieces_are_the_same_events(self) -> None:
        whole = rolled(demo(), View("source", "guild-parcel"), depth=20, seed=3, count=12)
        later = rolled(demo(), View("source", "guild-parcel"), depth=20, seed=3, first=9, count=4)
        self.assertEqual(whole.events[8:], later.events)
        self.assertEqual(whole.held, later.held)


class Traces(unittest.TestCase):
    def test_the_steps_tell_what_was_received(self) -> None:
        program = compiled(Conditions(demo(), [20]), View("source", "guild-parcel"))
        bags = played(Unit.of(program, 3, 0, 1, 50, NO_MARKS))
        events = rolled(demo(), View("source", "guild-parcel"), depth=20, seed=3, count=50).events
        self.assertEqual(len(events), 50)
        counts: dict[str, int] = {}
        for event in events:
            for item, count in event.received:
                counts[item] = counts.get(item, 0) + count
        for slot, at in enumerate(program.items):
            self.assertEqual(counts.get(demo().items[at].id, 0), bags.counts[0, slot])
        self.assertAlmostEqual(sum(event.value for event in events), float(bags.value[0]))

    def test_a_pick_says_where_the_number_lay(self) -> None:
        made = game([pick((1, "sand"), (1, "claw"), nothing=2)])
        for event in rolled(made, View("source", "crab"), depth=1, seed=1, count=40).events:
            step = next(step for step in event.steps if step["kind"] == "pick")
            self.assertTrue(step["from"] <= step["number"] < step["to"])
            got = [item for item, _ in event.received]
            place = {0.0: ["sand"], 0.25: ["claw"], 0.5: []}[step["from"]]
            self.assertEqual(got, place)

    def test_it_says_how_often_a_guard_has_missed_and_what_is_left_of_a_deck(self) -> None:
        guarded = {"id": "a", "weight": 1, "guard": {"sure_at": 4}, "limit": 9, "yields": [{"item": "crown"}]}
        cards = {"id": "b", "copies": 5, "yields": [{"item": "sand"}]}
        made = game(
            [
                {**pick(nothing=30), "lines": [guarded]},
                {"id": "deck", "name": "Deck", "rule": "deck", "lines": [cards]},
            ],
            sources=[
                {
                    "id": "crab",
                    "name": "Crab",
                    "kind": "enemy",
                    "drops": [
                        {"id": "a", "table": "bits"},
                        {"id": "b", "table": "deck", "chance": 0.5, "guard": {"sure_at": 3}},
                    ],
                }
            ],
        )
        found = rolled(made, View("source", "crab"), depth=1, seed=1, count=23)
        misses, drawn, missed = 0, 0, 0
        for event in found.events:
            told = next(step for step in event.steps if step["kind"] == "misses")
            self.assertEqual(told["count"], misses)
            hit = ("crown", 1) in event.received
            misses = 0 if hit else misses + 1
            self.assertLess(misses, 4)
            drawn += ("sand", 1) in event.received
            missed = 0 if ("sand", 1) in event.received else missed + 1
        held = {(one.table or one.source, one.line): one for one in found.held}
        crowns = sum(("crown", 1) in event.received for event in found.events)
        self.assertEqual((held["bits", "a"].misses, held["bits", "a"].hits), (misses, crowns))
        # A deck without cards is a full one: it is shuffled before the next is drawn.
        self.assertEqual((held["deck", "b"].left, held["deck", "b"].of), (5 - drawn % 5, 5))
        self.assertEqual(held["crab", "b"].misses, missed)

    def test_too_many_events_are_refused(self) -> None:
        with self.assertRaises(QueryError):
            rolled(game([pick((1, "sand"))]), View("source", "crab"), depth=1, seed=1, count=20_000)


class Refusals(unittest.TestCase):
    def test_sizes(self) -> None:
        made = game([pick((1, "sand"))])
        for fields in ({"players": 0}, {"events": -1}, {"seed": -1}, {"players": 10**7}):
            with self.subTest(fields), self.assertRaises(QueryError):
                run(made, **fields)
        with self.assertRaises(TooLarge):
            run(made, players=10**6, events=10**6)

    def test_an_explosion_is_refused_not_run(self) -> None:
        inner = each((1, "sand"), name="inner")
        outer = pick((1, "@inner 5000"), rolls={"min": 1, "max": 1000})
        with self.assertRaisesRegex(TooLarge, "1,000,000"):
            run(game([outer, inner]))

    def test_cancel_stops_within_a_unit(self) -> None:
        """Of one player whose events take a minute: the kernel itself looks at the sign, on either way."""
        plain = pick((1, "sand"), (1, "claw"), rolls={"min": 400_000, "max": 400_000})
        guarded = copy.deepcopy(plain)
        guarded["lines"][0]["guard"] = {"rise": 1}
        for table in (plain, guarded):
            stop = Stop()
            made, trial = game([table]), Trial(View("source", "crab"), 1, 1, 10_000, 1)
            threading.Timer(0.3, stop.set).start()
            start = time.monotonic()
            with local_executor(1) as executor, self.assertRaises(Cancelled):
                run_trial(made, trial, executor, stop=stop)
            self.assertLess(time.monotonic() - start, 8)

    def test_a_report_can_be_cancelled_too(self) -> None:
        stop, done = Stop(), []

        def progress(players: int) -> None:
            done.append(players)
            if players == 8:
                stop.set()

        with local_executor(1) as executor, self.assertRaises(Cancelled):
            run_trial(
                demo(),
                Trial(View("source", "lantern-eel"), 14, 8, 100, 1),
                executor,
                on_progress=progress,
                stop=stop,
            )
        self.assertEqual(done[-1], 8)


class Pools(unittest.TestCase):
    def test_a_guide_leads_to_what_bisection_finds(self) -> None:
        """Of a few items, and of more than the guide has steps, some of them far likelier than others."""
        for many in (1, 7, 9_000):
            items = [
                {"id": f"i{at}", "name": "I", "tier": "silt", "abundance": 10.0 ** (at % 7 - 3)}
                for at in range(many)
            ]
            line = {"id": "a", "weight": 1, "yields": [{"pool": {"tiers": ["silt"]}}]}
            table = {"id": "t", "name": "T", "rule": "pick", "lines": [line]}
            program = compiled(Conditions(game([table], items=items), [1]), View("table", "t")).program
            record = int(program.code[A_POOLS])
            first, end = program.code[record : record + 2].tolist()
            self.assertEqual(end - first, many)
            upper = program.real[program.code[R_POOLS] + first :][:many]
            random = np.array([start_of(3, many)], dtype=np.uint64)
            for _ in range(2_000):
                found = from_pool(program.code, program.real, random, np.int64(0))
                number = unit_at(random[0])  # the one that was drawn
                self.assertEqual(found, np.searchsorted(upper, number, side="right"))


if __name__ == "__main__":
    unittest.main()
