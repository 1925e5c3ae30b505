"""The whole distribution of a total after many events: right at the edges, or told with what it is off by."""

from __future__ import annotations

import math
import random
import unittest
from fractions import Fraction
from typing import Any

import numpy as np
from scipy import stats

from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.totals import TotalLaw, value_after
from golddice.core.terms.conditions import Conditions
from tests.games import each, game, pick

QS = np.array([0.05, 0.5, 0.95])
CRAB = View("source", "crab")


def after(made: Game, events: int, **more: Any) -> TotalLaw:
    return value_after(Conditions(made, [1]), CRAB, events, **more)


def valued(*values: float) -> list[dict[str, Any]]:
    names = ("sand", "claw", "lens", "crown")
    return [
        {"id": name, "name": name, "tier": "silt", "value": value}
        for name, value in zip(names, values, strict=False)
    ]


class ManyEvents(unittest.TestCase):
    """Binomial counts, whose quantiles are known."""

    def test_coins(self) -> None:
        for chance, events in (
            (0.9999, 10**6),
            (0.99999, 10**5),
            (1e-7, 10**7),
            (0.5, 10**7),
            (1e-12, 10**9),
            (1 - 1e-9, 10**9),
            (0.3, 1),
        ):
            with self.subTest(chance=chance, events=events):
                law = after(game([each((chance, "sand"))]), events)
                wanted = stats.binom(events, chance).ppf(QS)
                np.testing.assert_array_equal(law.quantiles(QS), wanted)
                np.testing.assert_array_equal(law.errors(QS), 0.0)

    def test_a_certain_coin_and_a_seldom_gem(self) -> None:
        made = game([each((1, "sand"), (0.001, "lens"))], items=valued(1, 3, 50, 500))
        law = after(made, 10**6)
        gems = stats.binom(10**6, 0.001).ppf(QS)
        np.testing.assert_array_equal(law.quantiles(QS), 10**6 + 50 * gems)

    def test_every_chance_to_the_last_digits(self) -> None:
        law = after(game([each((0.001, "sand"))]), 20_000)
        for count in range(60):
            self.assertAlmostEqual(law.of(count), float(stats.binom(20_000, 0.001).pmf(count)), delta=1e-12)

    def test_a_window_is_as_wide_as_the_spread(self) -> None:
        law = after(game([each((0.5, "sand"))]), 10**7)
        self.assertLess(law.values.size, 40 * math.sqrt(10**7) / 2)

    def test_a_jackpot_that_hardly_ever_comes(self) -> None:
        made = game([each((1e-6, "crown"), (0.5, "sand"))], items=valued(1, 3, 40, 1e5))
        law = after(made, 100)
        self.assertAlmostEqual(1 - law.less_than(1e5), -math.expm1(100 * math.log1p(-1e-6)), delta=1e-12)
        self.assertAlmostEqual(law.mean, 60.0, delta=1e-9)

    def test_a_total_far_beyond_its_mean(self) -> None:
        """A jackpot of 1e18 that comes once in 1e24 events is far outside of any window about the mean."""
        items = valued(1e12)
        tables = [each((1e-12, "@more")), each((1e-12, "sand 1000000"), name="more")]
        law = after(game(tables, items=items), 1)
        self.assertAlmostEqual(law.of(0.0), 1.0, delta=1e-12)
        np.testing.assert_array_equal(law.quantiles(QS), 0.0)


class FineValues(unittest.TestCase):
    """Values so fine or so far apart that no grid holds them."""

    def test_few_values_are_told_one_by_one(self) -> None:
        made = game(
            [pick((1, "sand"), (1, "claw"), (1, "lens"))], items=valued(36867.6, 1e9 + 0.125, 38133.15)
        )
        law = after(made, 2)
        np.testing.assert_array_equal(
            law.quantiles(np.array([0.05, 0.12, 1 / 3])), [73735.2, 75000.75, 75000.75]
        )
        np.testing.assert_array_equal(law.errors(QS), 0.0)
        self.assertEqual(law.values.size, 6)

    def test_what_is_blurred_says_by_how_much(self) -> None:
        """Against the same on whole numbers, where a large grid can hold them."""
        rng = random.Random(5)
        for _ in range(6):
            worth = [rng.randint(1, 90) for _ in range(3)]
            made = game(
                [pick((rng.random(), "sand 1-30"), (1, "claw"), (0.2, "lens 1-9"), nothing=1)],
                items=valued(*worth),
            )
            exact, blurred = after(made, 3_000), after(made, 3_000, largest=1 << 13)
            self.assertEqual(exact.blur, 0.0)
            self.assertGreater(blurred.blur, 0.0)
            off = np.abs(blurred.quantiles(QS) - exact.quantiles(QS))
            self.assertTrue((off <= blurred.errors(QS) + 1e-6).all(), (off, blurred.blur))
            spread = exact.quantile(0.95) - exact.quantile(0.05)
            self.assertLess(blurred.blur, spread / 100)

    def test_a_blur_does_not_grow_with_the_events(self) -> None:
        made = game(
            [pick((1, "sand 1-1000"), (1, "claw"), (1, "lens"))],
            items=valued(36867.613, 1e9 + 0.12543, 8133.157),
        )
        for events in (1_000, 10**6, 10**9):
            law = after(made, events)
            spread = law.quantile(0.95) - law.quantile(0.05)
            self.assertLess(law.blur, spread / 1000)
            third = 1 / 3
            mean = events * third * (500.5 * 36867.613 + 1e9 + 0.12543 + 8133.157)
            self.assertAlmostEqual(law.quantile(0.5) / mean, 1.0, delta=2e-2 / math.sqrt(events / 1000))

    def test_no_value_at_all(self) -> None:
        law = after(game([pick((1, "sand"))], items=valued(0, 0, 0, 0)), 50)
        np.testing.assert_array_equal(law.quantiles(QS), 0.0)


class Nested(unittest.TestCase):
    """Every rule and every way to nest, by whole distributions that are written out."""

    def test_against_sums_of_fractions(self) -> None:
        tables = [
            pick((2, "sand 0-2"), (1, "@more"), (1, "lens"), nothing=1, rolls={"min": 0, "max": 2}),
            each((0.25, "claw"), (0.5, "sand"), name="more"),
        ]
        law = after(game(tables), 2)
        more = _sum({0: Fraction(3, 4), 3: Fraction(1, 4)}, {0: Fraction(1, 2), 1: Fraction(1, 2)})
        roll = _mixed(
            (Fraction(2, 5), {n: Fraction(1, 3) for n in range(3)}),
            (Fraction(1, 5), more),
            (Fraction(1, 5), {40: Fraction(1)}),
            (Fraction(1, 5), {0: Fraction(1)}),
        )
        third = Fraction(1, 3)
        event = _mixed((third, {0: Fraction(1)}), (third, roll), (third, _sum(roll, roll)))
        for value, chance in _sum(event, event).items():
            self.assertAlmostEqual(law.of(value), float(chance), delta=1e-15)


def _sum(one: dict[int, Fraction], other: dict[int, Fraction]) -> dict[int, Fraction]:
    found: dict[int, Fraction] = {}
    for a, p in one.items():
        for b, q in other.items():
            found[a + b] = found.get(a + b, Fraction(0)) + p * q
    return found


def _mixed(*parts: tuple[Fraction, dict[int, Fraction]]) -> dict[int, Fraction]:
    found: dict[int, Fraction] = {}
    for chance, part in parts:
        for value, p in part.items():
            found[value] = found.get(value, Fraction(0)) + chance * p
    return found


if __name__ == "__main__":
    unittest.main()
