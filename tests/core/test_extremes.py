"""Huge and tiny numbers: told to the last digit, or refused with a reason; nothing fails."""

from __future__ import annotations

import unittest
from fractions import Fraction
from math import comb
from typing import Any

import numpy as np

from golddice.core.errors import QueryError, TooLarge
from golddice.core.exchange.rolling import Roller
from golddice.core.exchange.thresholds import thresholds
from golddice.core.findings import findings
from golddice.core.game.kin import followed
from golddice.core.game.models import Game
from golddice.core.game.quantity import Quantity
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.event.waits import events_to_first
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.terms.law import law_of
from golddice.core.trial.plans import Trial, plan_of, play_unit
from golddice.core.trial.summary import Summary
from golddice.core.trial.tallies import Tally
from tests.games import each, game, game_data, pick, source

CRAB = View("source", "crab")


def retry(*lines: tuple[float, float, str]) -> dict[str, Any]:
    made = [
        {"id": f"l{at}", "weight": weight, "chance": chance, "yields": [{"item": item}]}
        for at, (weight, chance, item) in enumerate(lines)
    ]
    return {"id": "bits", "name": "Bits", "rule": "retry", "tries": 3, "lines": made}


def many(least: int, most: int, factor: float) -> Game:
    table = pick((1, "lens"), nothing=0)
    table["lines"][0]["yields"] = [{"item": "lens", "quantity": {"min": least, "max": most, "curve": "c"}}]
    curve = {"id": "c", "name": "C", "points": [[1, factor], [10, factor]]}
    return game([table], curves=[curve])


class Tiny(unittest.TestCase):
    def test_a_quantity_that_hardly_ever_comes_is_not_rounded_away(self) -> None:
        for factor in (1e-12, 2e-13, 1e-300):
            with self.subTest(factor):
                law = law_of(Quantity(min=1, max=1), np.array([factor]))
                self.assertEqual((float(law.mean[0]), float(law.some[0])), (factor, factor))
        self.assertEqual(law_of(Quantity(min=3, max=3), np.array([1 / 3])).most, 1)

    def test_what_is_all_but_certain_is_no_more_than_certain(self) -> None:
        """The chances of how often add up to 1 and a little more; what has all of them has no more than 1."""
        for most in (2, 3, 7, 9, 50):
            table = each((1 - 1e-12, "sand"), (1.0, "claw"), rolls={"min": 1, "max": most})
            report = odds(game([table], sources=[source("crab", "bits")]), CRAB, events=3)
            for item in ("sand", "claw"):
                self.assertLessEqual(report["items"][item]["p_any"], 1.0)
                self.assertEqual(report["items"][item]["first_99"], 1)

    def test_the_ends_of_many_dice(self) -> None:
        law = law_of(Quantity(dice="6d500"))
        self.assertAlmostEqual(float(law.chances[-1]) / 500.0**-6, 1.0, delta=1e-12)
        for beyond in (1, 5, 40):  # so far from the end: as many ways as to share it among the dice
            wanted = Fraction(comb(beyond + 5, 5), 500**6)
            for at in (beyond, -1 - beyond):
                self.assertAlmostEqual(float(law.chances[at]) / float(wanted), 1.0, delta=1e-11)
        self.assertAlmostEqual(float(law.chances.sum()), 1.0, delta=1e-12)

    def test_what_goes_out_keeps_a_tiny_quantity_too(self) -> None:
        document = thresholds(many(1, 1, 1e-13))
        low = Roller(document, 1, set(), lambda: 0)
        self.assertEqual(low.event("crab")[1], {"lens": 1})
        high = Roller(document, 1, set(), lambda: 2**64 - 1)
        self.assertEqual(high.event("crab")[1], {})

    def test_weights_and_chances_at_the_end_of_the_numbers(self) -> None:
        two = {"min": 2, "max": 2}
        tables = {
            "retry": retry((1, 1e-300, "lens"), (1e12, 0.5, "sand")),
            "retry alone": retry((1, 1e-300, "lens"), (1e12, 0.0, "sand")),
            "pick": pick((5e-324, "lens"), (1, "sand"), nothing=0),
            "smallest": pick((5e-324, "lens"), (5e-324, "sand"), nothing=0),
            "distinct": pick(
                (1e-310, "lens"), (1e-310, "sand"), (1, "claw"), nothing=0, distinct=True, rolls=two
            ),
            "all tiny": pick((5e-324, "lens"), (5e-324, "sand"), nothing=5e-324, distinct=True, rolls=two),
        }
        for name, table in tables.items():
            with self.subTest(name), np.errstate(all="raise", under="ignore"):
                made = game([table])
                told = odds(made, CRAB)["items"]["lens"]
                self.assertTrue(0 < told["p_any"] <= 1)
                self.assertTrue(SheetOdds(made, View("table", "bits"), 1).sheet())
                list(findings(made))
                plan = plan_of(made, Trial(CRAB, 1, 50, 20, 1, ()))
                self.assertEqual(play_unit(plan.unit(0, 50)).counts.shape[0], 50)
        both = odds(game([tables["distinct"]]), CRAB)["items"]
        self.assertAlmostEqual(both["lens"]["p_any"], 0.5, delta=1e-9)
        third = odds(game([tables["all tiny"]]), CRAB)["items"]["lens"]["p_any"]
        self.assertAlmostEqual(third, 1 / 3 + 1 / 6 + 1 / 9, delta=1e-9)

    def test_a_wait_beyond_all_numbers_is_never(self) -> None:
        self.assertIsNone(events_to_first(1e-312, 0.5))
        self.assertGreater(events_to_first(1e-200, 0.5) or 0, 10**199)


class Huge(unittest.TestCase):
    def test_amounts_that_cannot_be_counted_are_refused(self) -> None:
        for made in (many(10**9, 10**9, 1e9), many(0, 10**9, 1e9)):
            with self.assertRaisesRegex(TooLarge, "not counted"):
                plan_of(made, Trial(CRAB, 1, 10, 10, 1, ()))
        with self.assertRaisesRegex(TooLarge, "not counted"):
            law_of(Quantity(min=10**9, max=10**9), np.array([1e9]))
        with self.assertRaisesRegex(TooLarge, "not counted"):
            plan_of(many(10**9, 10**9, 1e6), Trial(CRAB, 1, 10, 1_000, 1, ()))

    def test_large_amounts_are_counted(self) -> None:
        plan = plan_of(many(10**9, 10**9, 1e6), Trial(CRAB, 1, 10, 10, 1, ()))
        bags = play_unit(plan.unit(0, 10))
        self.assertEqual(bags.counts.ravel().tolist(), [10**16] * 10)

    def test_a_histogram_of_values_that_are_nearly_equal(self) -> None:
        values = 1e18 + 128.0 * np.arange(5)
        found = Summary.value_bins.__get__(_Values(values))()
        self.assertEqual(sum(one["count"] for one in found), 5)
        self.assertEqual((found[0]["from"], found[-1]["to"]), (values[0], values[-1]))
        tally = Tally()
        tally.add(np.array([10**18, 10**18 + 1]))
        self.assertEqual(sum(one["count"] for one in tally.bins()), 2)

    def test_a_family_of_many_generations(self) -> None:
        data = game_data([each((0.5, "sand"))])
        eldest = source("s0", "bits")
        data["sources"] = [eldest] + [
            {"id": f"s{at}", "name": f"S{at}", "like": f"s{at - 1}"} for at in range(1, 1_500)
        ]
        made = read_game(data)
        self.assertEqual(made.sources[-1].drops, made.sources[0].drops)
        self.assertEqual(followed(made.sources[::-1])[0].id, "s1499")


class Ranges(unittest.TestCase):
    def test_depths_that_are_none_are_refused(self) -> None:
        made = game([each((0.5, "sand"))])
        for first, last in ((5, 2), (20, None), (None, 0)):
            with self.assertRaisesRegex(QueryError, "ask for some of 1 to 10"):
                thresholds(made, first, last)
        self.assertEqual(thresholds(made, 2, 5)["depths"], [2, 5])


class _Values:
    def __init__(self, values: Any) -> None:
        self.values = values


if __name__ == "__main__":
    unittest.main()
