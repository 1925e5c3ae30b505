"""What a figure does not rest on is not followed: the same figures as where all is, and far beyond that."""

from __future__ import annotations

import math
import random
import unittest
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from golddice.core.errors import TooLarge
from golddice.core.forecast.later import Players
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.group import Group
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.results import RESULTS
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.terms.conditions import Conditions
from tests.games import each, game, game_data, pick
from tests.strategies import games

CRAB = View("source", "crab")
Table = dict[str, Any]


def held(table: Table, at: int, limit: int | None = None, **guard: Any) -> Table:
    """With a limit or a guard for one line."""
    if limit is not None:
        table["lines"][at]["limit"] = limit
    if guard:
        table["lines"][at]["guard"] = {"rise": 0, "after": 0, **guard}
    return table


def dropped(table: Table, chance: float) -> Game:
    """Rolled by a drop that does not always hit."""
    data = game_data([table])
    data["sources"][0]["drops"][0]["chance"] = chance
    return read_game(data)


def prospect(made: Game, detail: bool = True) -> Prospect:
    return Prospect(Evaluator(Conditions(made, [1]), detail), CRAB)


def figures(made: Game, detail: bool = True) -> dict[str, Any]:
    """Of every item: long run, waits, mean wait and chances of none; None where they are not told."""
    one = prospect(made, detail)
    found: dict[str, Any] = {}

    def told(name: str, figure: Any) -> None:
        try:
            found[name] = figure()
        except TooLarge:
            found[name] = None

    columns = [*range(len(made.items)), one.columns.tier(0), one.columns.units]
    for at in columns:
        told(f"{at} long run", lambda at=at: one.long_run_mean(at))
        told(f"{at} wait", lambda at=at: one.wait_of(at))
        told(f"{at} mean wait", lambda at=at: one.mean_wait(at))
        told(f"{at} none", lambda at=at: one.none_at(at, np.array([1, 7, 60])))
        told(f"{at} after", lambda at=at: one.count_after(at, 9))
    told("value", lambda: one.value_after(9))
    return found


class AsWhereAllIsFollowed(unittest.TestCase):
    """With next to no state allowed, whatever is still told is the same."""

    told = 0

    def agree(self, made: Game) -> None:
        wanted = figures(made)
        # As if everything were too much: then only what is narrowed is told.
        with (
            patch("golddice.core.odds.carried.group.MOST_DENSE", 1),
            patch("golddice.core.odds.carried.narrowing.MOST_DENSE", 1),
            patch.object(Group, "_check", side_effect=lambda *_, **__: None),
        ):
            RESULTS.clear()
            narrowed = figures(made)
        RESULTS.clear()
        for name, figure in narrowed.items():
            if figure is not None and wanted[name] is not None:
                type(self).told += 1
                self.near(figure, wanted[name], name)

    def near(self, got: Any, wanted: Any, name: str) -> None:
        if isinstance(wanted, dict):
            self.assertEqual(got, wanted, name)
        else:
            np.testing.assert_allclose(got, wanted, rtol=1e-9, atol=1e-12, err_msg=name)

    @settings(max_examples=60, deadline=None)
    @given(games(state=True))
    def test_random_games(self, made: Game) -> None:
        self.agree(made)

    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from([0.001, 0.2, 0.7]),
        st.sampled_from([{"sure_at": 9}, {"rise": 0.05, "after": 3}, {"rise": 0.3, "sure_at": 6}]),
        st.sampled_from(["lens", "lens 0-1", "lens 0-3"]),
        st.sampled_from([1.0, 0.4]),
        st.booleans(),
    )
    def test_a_guard_by_itself(
        self, chance: float, guard: dict[str, Any], what: str, drop: float, weighed: bool
    ) -> None:
        if weighed:
            table = held(pick((chance, what), (0.3, "sand"), nothing=1), 0, **guard)
        else:
            table = held(each((chance, what), (0.3, "sand")), 0, **guard)
        self.agree(dropped(table, drop))

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 40), st.integers(1, 40), st.booleans(), st.sampled_from([1.0, 0.4]))
    def test_limits(self, one: int, other: int, weighed: bool, drop: float) -> None:
        make = pick if weighed else each
        table = held(held(make((0.2, "lens"), (0.1, "claw 0-2"), (0.3, "sand")), 0, one), 1, other)
        self.agree(dropped(table, drop))

    @classmethod
    def tearDownClass(cls) -> None:
        assert cls.told > 500, cls.told


class FarBeyond(unittest.TestCase):
    """States that could not be followed, with figures that are known otherwise."""

    def test_twenty_things_that_each_come_once(self) -> None:
        items = [{"id": f"u{n}", "name": f"u{n}", "tier": "pearl", "value": 10} for n in range(20)]
        table = each(*[(0.0005, f"u{n}") for n in range(20)])
        for at in range(20):
            held(table, at, limit=1)
        told = odds(game([table], items=items), CRAB, events=1_000)
        self.assertEqual(told["method"], "exact")
        have = -math.expm1(1_000 * math.log1p(-0.0005))
        self.assertAlmostEqual(told["after"]["value"]["mean"], 200 * have, delta=1e-9)
        self.assertAlmostEqual(
            told["after"]["value"]["sd"], 10 * math.sqrt(20 * have * (1 - have)), delta=1e-9
        )
        self.assertEqual(told["after"]["value"]["p50"], 10 * stats.binom(20, have).ppf(0.5))
        for item in told["items"].values():
            self.assertEqual((item["long_run_mean"], item["first_50"]), (0.0, 1_386))

    def test_the_same_behind_a_drop_that_may_miss(self) -> None:
        items = [{"id": f"u{n}", "name": f"u{n}", "tier": "pearl", "value": 10} for n in range(20)]
        table = each(*[(0.0005, f"u{n}") for n in range(20)])
        for at in range(20):
            held(table, at, limit=1)
        data = game_data([table], items=items)
        data["sources"][0]["drops"][0]["chance"] = 0.5
        for item in odds(read_game(data), CRAB)["items"].values():
            self.assertEqual((item["long_run_mean"], item["first_50"]), (0.0, 2_773))

    def test_sure_after_very_many(self) -> None:
        for chance, sure in ((1e-5, 6_000), (1e-9, 10**6), (1e-7, 10**5)):
            with self.subTest(sure=sure):
                item = odds(game([held(each((chance, "lens")), 0, sure_at=sure)]), CRAB)["items"]["lens"]
                tries = -math.expm1(sure * math.log1p(-chance)) / chance
                self.assertAlmostEqual(item["long_run_mean"] * tries, 1.0, delta=1e-9)
                self.assertEqual(item["first_50"], sure)

    def test_a_long_streak_of_a_rising_weight(self) -> None:
        table = held(pick((1, "lens"), (0.5, "sand"), nothing=1e6), 0, rise=0.01, after=10)
        item = odds(game([table]), CRAB)["items"]["lens"]
        coming, total, none = 1.0, 0.0, {}
        for misses in range(200_000):
            total += coming
            weight = 1.0 + 0.01 * max(0, misses - 10)
            coming *= (1e6 + 0.5) / (1e6 + 0.5 + weight)
            for q in (0.5, 0.1, 0.01):
                if coming <= q:
                    none.setdefault(q, misses + 1)
        self.assertAlmostEqual(item["long_run_mean"] * total, 1.0, delta=1e-9)
        self.assertEqual([item[f"first_{q}"] for q in (50, 90, 99)], [none[q] for q in (0.5, 0.1, 0.01)])

    def test_limits_of_a_million(self) -> None:
        for table in (each((0.3, "lens"), (0.5, "sand")), pick((0.3, "lens"), (0.5, "sand"))):
            with self.subTest(rule=table["rule"]):
                free = odds(game([table]), CRAB, events=1_000)
                limited = odds(game([held(table, 0, limit=10**6)]), CRAB, events=1_000)
                self.assertEqual(limited["method"], "exact")
                for name, figure in free["after"]["value"].items():
                    if name != "method":
                        self.assertAlmostEqual(limited["after"]["value"][name], figure, delta=1e-9 * figure)
                item = limited["items"]["lens"]
                self.assertEqual(item["first_99"], free["items"]["lens"]["first_99"])
                self.assertEqual(item["long_run_mean"], 0.0)
        self.assertEqual(limited["items"]["sand"]["long_run_mean"], 1.0)

    def test_a_limit_that_a_wait_may_come_to_is_not_left_out(self) -> None:
        """All sand is gone before half have a lens: a million rolls of a limit of 5 000 twice over."""
        table = held(held(pick((1e-9, "lens"), (1, "sand"), (1, "claw")), 1, limit=5_000), 2, limit=5_000)
        told = odds(game([table]), CRAB)["items"]["lens"]
        self.assertNotEqual(told.get("first_50"), 1_386_294_361)

    def test_a_million_coins_beside_a_unique(self) -> None:
        items = [
            {"id": name, "name": name, "tier": "silt", "value": worth}
            for name, worth in (("sand", 1e6), ("lens", 40))
        ]
        table = held(each((1, f"sand {10**9}"), (0.01, "lens")), 1, limit=1)
        one = prospect(game([table], items=items))
        for events in (10, 100, 1_000):
            none = 0.99**events
            sd = math.sqrt(one.value_after(events)[1])
            self.assertAlmostEqual(sd / (40 * math.sqrt(none * (1 - none))), 1.0, delta=1e-9)


class WaitsToldOnASheet(unittest.TestCase):
    """The points of the wait, and beside each what it would be if all events were like the first."""

    def wait(self, **guard: Any) -> dict[str, Any]:
        made = game([held(pick((1, "lens"), (9, "sand")), 0, None, **guard)])
        return SheetOdds(made, CRAB, 1).wait({"kind": "item", "id": "lens"})

    def test_each_point_has_one_beside_it(self) -> None:
        told = self.wait(rise=0.2, after=3)
        events = [event for event, _ in told["points"]]
        self.assertGreater(len(events), 10)
        self.assertEqual([event for event, _ in told["without"]], events)
        for event, chance in told["without"]:
            self.assertAlmostEqual(chance, -math.expm1(event * math.log1p(-0.1)), delta=1e-12)

    def test_whether_everybody_has_one(self) -> None:
        sure = self.wait(sure_at=8)
        self.assertEqual((sure["first_99"], sure["all"]), (8, True))
        self.assertFalse(self.wait(rise=0.2, after=3)["all"])


class WhatIsPlayed(unittest.TestCase):
    """Where states are too many: what has not settled, or not come, is told as that."""

    def made(self, limit: int | None, **guard: Any) -> Game:
        table = pick(*[(1, name) for name in ("sand", "claw", "lens", "crown")], nothing=5)
        table |= {"rolls": {"min": 1, "max": 2}}
        for at in range(4):
            held(table, at, limit, **guard)
        return game([table])

    def test_a_guard_goes_round(self) -> None:
        told = odds(self.made(None, rise=0.3, after=3), CRAB)
        item = told["items"]["lens"]
        self.assertEqual((told["method"], told["later"]["over"]), ("simulated", None))
        self.assertGreater(item["long_run_mean_error"], 0.0)

    def test_a_limit_does_not(self) -> None:
        told = odds(self.made(40, rise=0.3, after=3), CRAB)
        self.assertEqual(told["later"]["over"], (1_001, 2_000))
        for item in told["items"].values():
            self.assertNotIn("long_run_mean", item)
            self.assertGreater(item["late_mean_error"], 0.0)  # also of what never came

    def test_a_wait_that_has_not_come_is_more_than_that(self) -> None:
        table = pick(*[(1, name) for name in ("sand", "claw", "lens")], (1e-4, "crown"), nothing=5)
        table |= {"rolls": {"min": 1, "max": 2}}
        for at in range(4):
            held(table, at, None, rise=0.003, after=3)
        item = odds(game([table]), CRAB)["items"]["crown"]
        self.assertNotIn("first_99", item)
        self.assertGreater(item["first_99_more_than"], 1_000)

    def test_a_stated_error_is_what_errors_are(self) -> None:
        """Two standard errors hold the truth in 95 of 100 games, give or take what 160 cases tell."""
        rng, asked, held_true = random.Random(11), 0, 0
        while asked < 160:
            made = self.drawn(rng)
            one, column = prospect(made), rng.randrange(4)
            players = Players(one, most=300)
            pairs = (
                (players.long_run(column), one.long_run_mean(column)),
                (players.mean_wait(column), one.mean_wait(column)),
            )
            for estimate, truth in pairs:
                if estimate.figure is not None and 0 < truth < math.inf and estimate.over is None:
                    asked += 1
                    held_true += abs(estimate.figure - truth) <= 1.96 * estimate.error
        self.assertGreaterEqual(held_true / asked, 0.89)
        self.assertLessEqual(held_true / asked, 0.995)

    def drawn(self, rng: random.Random) -> Game:
        """A game whose few states can be followed."""
        names = ["sand", "claw", "lens", "crown"]
        rng.shuffle(names)
        weighed = rng.random() < 0.5
        lines = [(round(rng.uniform(0.02, 0.6), 3), f"{name} 1-{rng.randint(1, 4)}") for name in names[:3]]
        table = pick(*lines, nothing=rng.choice([0, 1])) if weighed else each(*lines)
        held(table, 0, None, rise=0.0, after=0, sure_at=rng.randint(4, 20))
        held(table, 1, None, rise=0.0, after=0, sure_at=rng.randint(3, 15))
        return dropped(table, rng.choice([1.0, 0.5]))


if __name__ == "__main__":
    unittest.main()
