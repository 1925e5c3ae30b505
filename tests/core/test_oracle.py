"""Random games of every rule, with what players carry, held against playing them out in full."""

from __future__ import annotations

import math
import unittest
from collections import defaultdict

import numpy as np
from hypothesis import HealthCheck, Phase, assume, given, settings
from hypothesis import strategies as st

from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.carried.totals import count_after, value_after
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.report import odds
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Unit, played
from tests.games import demo, each, game, pick
from tests.oracle import FRESH, Chances, Oracle, TooMany, then, with_value
from tests.strategies import games

CRAB = View("source", "crab")
SEARCHED = settings(
    max_examples=14,
    phases=[Phase.explicit, Phase.generate],
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)


def outcomes(made: Game, depth: int, events: int, source: str = "crab") -> tuple[Oracle, Chances]:
    oracle = Oracle(made, depth)
    try:
        return oracle, oracle.events(source, events)
    except TooMany:
        assume(False)
        raise


class Agreement(unittest.TestCase):
    def agree(self, got: float, wanted: float, what: str) -> None:
        self.assertLessEqual(abs(got - wanted), 1e-9 * max(1.0, abs(wanted)), f"{what}: {got} for {wanted}")

    def next_event(self, made: Game, depth: int) -> None:
        oracle, chances = outcomes(made, depth, 1)
        report = odds(made, CRAB, depth=depth)
        for item, at in oracle.items.items():
            mean = sum(p * bag[at] for (_, bag), p in chances.items())
            second = sum(p * bag[at] ** 2 for (_, bag), p in chances.items())
            found = report["items"][item]
            any_of = sum(p for (_, bag), p in chances.items() if bag[at])
            self.agree(found["p_any"], any_of, f"chance of any {item}")
            self.agree(found["mean"], mean, f"mean of {item}")
            self.agree(found["sd"] ** 2, second - mean**2, f"variance of {item}")
        worths = [(oracle.worth(bag), p) for (_, bag), p in chances.items()]
        mean = sum(p * worth for worth, p in worths)
        var = sum(p * worth**2 for worth, p in worths) - mean**2
        self.agree(report["value"]["mean"], mean, "value")
        self.assertAlmostEqual(report["value"]["sd"] ** 2, var, delta=1e-7 * (1 + mean**2 + var))


class NextEvent(Agreement):
    @SEARCHED
    @given(games(), st.sampled_from([1, 4]))
    def test_without_state(self, made: Game, depth: int) -> None:
        self.next_event(made, depth)

    @SEARCHED
    @given(games(state=True), st.sampled_from([1, 4]))
    def test_with_state(self, made: Game, depth: int) -> None:
        self.next_event(made, depth)

    @SEARCHED
    @given(games(state=True))
    def test_at_all_depths_together(self, made: Game) -> None:
        depths = [1, 3, 5, 8]
        lean = depth_odds(made, View("source", "crab"), depths)
        for row, depth in enumerate(depths):
            oracle, chances = outcomes(made, depth, 1)
            places = {int(at): n for n, at in enumerate(lean.places)}
            for at in oracle.items.values():
                any_of = sum(p for (_, bag), p in chances.items() if bag[at])
                got = float(lean.hit[places[at], row]) if at in places else 0.0
                self.agree(got, any_of, f"item {at} at {depth}")
            mean = sum(p * oracle.worth(bag) for (_, bag), p in chances.items())
            self.agree(float(lean.value_mean[row]), mean, f"value at {depth}")

    def test_a_retry_whose_guard_rises_to_certainty_before_it_is_sure(self) -> None:
        """At a chance of 1 another line can still be tried first, so the misses count on."""
        lines = [
            {
                "id": "a",
                "weight": 1,
                "chance": 0.85,
                "guard": {"rise": 0.1, "sure_at": 6},
                "yields": [{"item": "claw"}],
            },
            {"id": "b", "weight": 9, "chance": 1, "yields": [{"item": "sand"}]},
        ]
        six = {"min": 6, "max": 6}
        table = {"id": "bits", "name": "Bits", "rule": "retry", "tries": 2, "rolls": six, "lines": lines}
        made = game([table])
        self.assertEqual(odds(made, CRAB)["items"]["claw"]["p_any"], 1.0)
        self.next_event(made, 1)


class FirstEvents(Agreement):
    """A fresh player's first three events: what they carry from one to the next matters."""

    events = 3

    @SEARCHED
    @given(games(state=True))
    def test_none_so_far(self, made: Game) -> None:
        oracle = Oracle(made, 1)
        after = [outcomes(made, 1, count)[1] for count in range(1, self.events + 1)]
        prospect = Prospect(Evaluator(Conditions(made, [1])), View("source", "crab"))
        for item, at in oracle.items.items():
            none = prospect.none_by(prospect.columns.item(at), self.events)
            for count, chances in enumerate(after, start=1):
                wanted = sum(p for (_, bag), p in chances.items() if not bag[at])
                self.agree(float(none[count]), wanted, f"no {item} in {count}")

    @SEARCHED
    @given(games(state=True))
    def test_moments(self, made: Game) -> None:
        oracle, chances = outcomes(made, 1, self.events)
        prospect = Prospect(Evaluator(Conditions(made, [1])), View("source", "crab"))
        mean, var = prospect.value_after(self.events)
        worths = [(oracle.worth(bag), p) for (_, bag), p in chances.items()]
        wanted = sum(p * worth for worth, p in worths)
        self.agree(mean, wanted, "mean value")
        second = sum(p * worth**2 for worth, p in worths)
        self.assertAlmostEqual(var, second - wanted**2, delta=1e-7 * (1 + second))
        for item, at in oracle.items.items():
            mean, var = prospect.count_after(prospect.columns.item(at), self.events)
            counts = [(bag[at], p) for (_, bag), p in chances.items()]
            wanted = sum(p * count for count, p in counts)
            self.agree(mean, wanted, f"mean of {item}")
            second = sum(p * count**2 for count, p in counts)
            self.assertAlmostEqual(var, second - wanted**2, delta=1e-7 * (1 + second))

    @settings(SEARCHED, max_examples=8)
    @given(games(state=True))
    def test_the_whole_distribution(self, made: Game) -> None:
        oracle, chances = outcomes(made, 1, self.events)
        under = Conditions(made, [1])
        law = value_after(under, View("source", "crab"), self.events)
        worths: dict[int, float] = defaultdict(float)
        for (_, bag), p in chances.items():
            worths[oracle.worth(bag)] += p
        for at, p in worths.items():
            self.assertAlmostEqual(law.of(at), p, delta=1e-9)
        some = next(iter(oracle.items))
        counts: dict[int, float] = defaultdict(float)
        for (_, bag), p in chances.items():
            counts[bag[0]] += p
        law = count_after(under, View("source", "crab"), self.events, some)
        for count, p in counts.items():
            self.assertAlmostEqual(law.of(count), p, delta=1e-9)


class Played(Agreement):
    """The kernel against the oracle: the other of the two that have to agree."""

    @settings(SEARCHED, max_examples=15)
    @given(games(state=True))
    def test_counts_after_two_events(self, made: Game) -> None:
        oracle, chances = outcomes(made, 1, 2)
        program = compiled(Conditions(made, [1]), View("source", "crab"))
        players = 40_000
        bags = played(Unit.of(program, 11, 0, players, 2, np.zeros(0, dtype=np.int64)))
        slots = {int(item): slot for slot, item in enumerate(program.items)}
        for at in oracle.items.values():
            p = sum(q for (_, bag), q in chances.items() if bag[at])
            got = float((bags.counts[:, slots[at]] > 0).mean()) if at in slots else 0.0
            error = math.sqrt(max(p * (1 - p), 1e-12) / players)
            self.assertLess(abs(got - p), 5.5 * error + 1e-9)


class OracleItself(unittest.TestCase):
    """Hand-worked cases: what the others are held against has to be right itself."""

    def test_chances_sum_to_one(self) -> None:
        made = game([pick((1, "sand"), (3, "@inner 1-2"), nothing=2), each((0.5, "claw"), name="inner")])
        chances = Oracle(made, 1).events("crab", 2)
        self.assertAlmostEqual(sum(chances.values()), 1.0, places=12)

    def test_a_guard_that_is_sure_at_three(self) -> None:
        table = each((0.2, "lens"))
        table["lines"][0]["guard"] = {"sure_at": 3}
        oracle = Oracle(game([table]), 1)
        none = [sum(p for (_, bag), p in oracle.events("crab", n).items() if not any(bag)) for n in (1, 2, 3)]
        np.testing.assert_allclose(none, [0.8, 0.64, 0.0], atol=1e-15)

    def test_a_deck_of_two_cards(self) -> None:
        lines = [
            {"id": "a", "copies": 1, "yields": [{"item": "sand"}]},
            {"id": "b", "copies": 1, "yields": []},
        ]
        deck = {"id": "bits", "name": "Bits", "rule": "deck", "lines": lines}
        after = Oracle(game([deck]), 1).events("crab", 2)
        self.assertEqual(after, {(FRESH, (1, 0, 0, 0)): 1.0})

    def test_a_limit(self) -> None:
        table = pick((1, "lens"))
        table["lines"][0]["limit"] = 2
        after = Oracle(game([table]), 1).events("crab", 5)
        ((_, bag),) = after
        self.assertEqual(bag, (0, 0, 2, 0))

    def test_distinct_picks_take_no_line_twice(self) -> None:
        table = pick((1, "sand"), (1, "claw"), distinct=True, rolls={"min": 2, "max": 2})
        after = Oracle(game([table]), 1).events("crab", 1)
        ((world, p),) = after.items()
        self.assertEqual((world, round(p, 12)), ((FRESH, (1, 1, 0, 0)), 1.0))

    def test_stochastic_rounding_keeps_the_mean(self) -> None:
        swell = [{"id": "swell", "name": "Swell", "points": [[1, 0.35]]}]
        table = pick((1, "sand"))
        table["lines"][0]["yields"][0]["quantity"] = {"min": 3, "max": 3, "curve": "swell"}
        after = Oracle(game([table], curves=swell), 1).events("crab", 1)
        self.assertAlmostEqual(sum(p * bag[0] for (_, bag), p in after.items()), 1.05, places=12)
        self.assertEqual({bag[0] for _, bag in after}, {1, 2})

    def test_steps_and_players(self) -> None:
        player = with_value(FRESH, ("misses", "a", "b"), 2)
        self.assertEqual(with_value(player, ("misses", "a", "b"), 0), FRESH)
        halves = then({(FRESH, (0,)): 1.0}, lambda p, b: [(0.5, (p, b)), (0.5, (p, (1,)))])
        self.assertEqual(halves, {(FRESH, (0,)): 0.5, (FRESH, (1,)): 0.5})


class Demo(Agreement):
    def test_sources_of_the_demo_that_can_be_played_out(self) -> None:
        made, done = demo(), 0
        for source in made.sources:
            depth = max(14, source.depths[0]) if source.depths else 14
            oracle = Oracle(made, depth)
            try:
                chances = oracle.events(source.id, 1)
            except TooMany:
                continue
            report = odds(made, View("source", source.id), depth=depth)
            for item, at in oracle.items.items():
                any_of = sum(p for (_, bag), p in chances.items() if bag[at])
                self.agree(report["items"][item]["p_any"], any_of, f"{item} of {source.id}")
            mean = sum(p * oracle.worth(bag) for (_, bag), p in chances.items())
            self.agree(report["value"]["mean"], mean, source.id)
            done += 1
        self.assertGreaterEqual(done, 8)


if __name__ == "__main__":
    unittest.main()
