"""Picks without replacement: sets, clocks and every order written out."""

from __future__ import annotations

import math
import unittest
from itertools import combinations, permutations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.arrays import FloatArray
from golddice.core.game.quantity import parse_quantity
from golddice.core.game.views import View
from golddice.core.odds.event.distinct import Inclusion, inclusion_chances
from golddice.core.odds.event.subsets import averaged_sets, is_few, subset_chances
from golddice.core.sheets.report import odds
from golddice.core.terms.law import law_of
from tests.games import game, pick

weights = st.lists(st.sampled_from([0.0, 0.01, 0.5, 1.0, 3.0, 40.0]), min_size=1, max_size=5)


def by_order(weights: list[float], rolls: int) -> dict[frozenset[int], float]:
    """The chance of each set after so many rolls without a blank: every order of picks, added up."""
    open_lines = [at for at, weight in enumerate(weights) if weight > 0]
    taken = min(rolls, len(open_lines))
    found: dict[frozenset[int], float] = {}
    for order in permutations(open_lines, taken):
        p, left = 1.0, sum(weights)
        for at in order:
            p *= weights[at] / left
            left -= weights[at]
        found[frozenset(order)] = found.get(frozenset(order), 0.0) + p
    return found


class Sets(unittest.TestCase):
    @given(weights, st.integers(0, 5))
    def test_without_a_blank_every_order_adds_up(self, given_weights: list[float], rolls: int) -> None:
        n = len(given_weights)
        got = subset_chances(np.array(given_weights)[:, None], np.zeros(1), rolls)[-1][:, 0]
        wanted = by_order(given_weights, rolls)
        for mask in range(1 << n):
            lines = frozenset(at for at in range(n) if mask >> at & 1)
            self.assertAlmostEqual(got[mask], wanted.get(lines, 0.0), places=11, msg=f"{lines}")

    @given(weights, st.floats(0.01, 20), st.integers(1, 4))
    def test_a_blank_stays_in(self, given_weights: list[float], blank: float, rolls: int) -> None:
        """A blank is as good as picks of a line that is always put back."""
        got = subset_chances(np.array(given_weights)[:, None], np.array([blank]), rolls)
        for sets in got:
            self.assertAlmostEqual(float(sets.sum()), 1.0, places=12)
        only_blank = math.prod([blank / (blank + sum(given_weights))] * rolls)
        self.assertAlmostEqual(float(got[-1][0, 0]), only_blank, places=12)

    def test_many_depths_are_worked_out_side_by_side(self) -> None:
        rows = np.array([[1.0, 2.0, 0.0], [3.0, 0.5, 1.0]])
        together = subset_chances(rows, np.array([0.0, 1.0, 2.0]), 2)[-1]
        for depth in range(3):
            alone = subset_chances(rows[:, depth : depth + 1], np.array([[0.0, 1.0, 2.0][depth]]), 2)[-1]
            np.testing.assert_allclose(together[:, depth], alone[:, 0], rtol=1e-14)


class Clocks(unittest.TestCase):
    def sets_of(self, weights: FloatArray, blank: float, text: str) -> FloatArray:
        return averaged_sets(weights[:, None], np.array([blank]), law_of(parse_quantity(text)))[:, 0]

    @settings(max_examples=40)
    @given(
        st.lists(st.sampled_from([0.001, 0.5, 1.0, 7.0, 300.0]), min_size=2, max_size=6),
        st.sampled_from([0.0, 0.5, 30.0]),
        st.sampled_from(["1", "2", "1-3", "2d2"]),
    )
    def test_one_and_two_lines_as_the_sets_say(self, lines: list[float], blank: float, text: str) -> None:
        weights = np.array(lines)
        sets = self.sets_of(weights, blank, text)
        inclusion = Inclusion(weights, blank, law_of(parse_quantity(text)))
        for i in range(weights.size):
            one = sum(p for mask, p in enumerate(sets) if mask >> i & 1)
            self.assertAlmostEqual(inclusion.one[i], one, delta=1e-11)
        for i, j in combinations(range(weights.size), 2):
            both = sum(p for mask, p in enumerate(sets) if mask >> i & mask >> j & 1)
            apart = both - inclusion.one[i] * inclusion.one[j]
            self.assertAlmostEqual(inclusion.covariance[i, j], apart, delta=1e-11)
        np.testing.assert_allclose(inclusion.out, 1.0 - inclusion.one, atol=1e-11)

    def test_any_of_some_lines(self) -> None:
        weights, blank, text = np.array([1.0, 2.0, 5.0, 0.1]), 3.0, "1-3"
        gives = np.array([[0.5, 0.0], [0.0, 1.0], [0.8, 0.0], [0.0, 0.7]])
        sets = self.sets_of(weights, blank, text)
        inclusion = Inclusion(weights, blank, law_of(parse_quantity(text)))
        for column in range(2):
            wanted = sum(
                p * (1 - math.prod(1 - gives[at, column] for at in range(4) if mask >> at & 1))
                for mask, p in enumerate(sets)
            )
            got = inclusion.any_of(np.ascontiguousarray(gives[:, column]))
            self.assertAlmostEqual(got, wanted, places=11)

    def test_lines_that_hardly_ever_come_keep_their_digits(self) -> None:
        """Two of weight 1e-12 among heavy ones: any of them is in with the sum of their chances."""
        weights = np.array([*[5.0] * 20, 1e-12, 2e-12])
        inclusion = Inclusion(weights, 1.0, law_of(parse_quantity("3")))
        gives = np.where(weights < 1, 1.0, 0.0)
        both = inclusion.one[-1] + inclusion.one[-2]
        self.assertAlmostEqual(inclusion.any_of(gives) / both, 1.0, places=11)
        self.assertEqual(inclusion.any_of(np.zeros(22)), 0.0)

    def test_what_is_nearly_certain_keeps_its_digits(self) -> None:
        """All but one of thirty alike, and a feather: who is out is worked out by itself."""
        weights = np.array([*[1.0] * 29, 1e-9])
        inclusion = Inclusion(weights, 0.0, law_of(parse_quantity("29")))
        self.assertAlmostEqual(inclusion.out[:29].sum() / inclusion.one[29], 1.0, places=9)
        np.testing.assert_allclose(np.diag(inclusion.covariance), inclusion.one * inclusion.out, rtol=1e-12)
        np.testing.assert_allclose(inclusion.covariance.sum(axis=1), 0.0, atol=1e-16)

    def test_ten_of_two_hundred_lines(self) -> None:
        """Equal weights: each is in with 10 in 200, each pair with 10 x 9 in 200 x 199."""
        law = law_of(parse_quantity("10"))
        self.assertFalse(is_few(np.ones((200, 1)), law))
        inclusion = Inclusion(np.ones(200), 0.0, law)
        np.testing.assert_allclose(inclusion.one, 0.05, rtol=1e-12)
        off = inclusion.covariance[np.triu_indices(200, 1)]
        np.testing.assert_allclose(off, 90 / (200 * 199) - 0.05**2, rtol=1e-9)

    def test_every_line_is_in_when_there_are_rolls_enough(self) -> None:
        chances = inclusion_chances(np.array([[1.0], [0.0], [4.0]]), np.zeros(1), law_of(parse_quantity("7")))
        np.testing.assert_allclose(chances[:, 0], [1.0, 0.0, 1.0], atol=1e-12)

    def test_a_sheet_of_thirty_lines_sums_to_its_rolls(self) -> None:
        names = ["sand", "claw", "lens"]
        table = pick(distinct=True, rolls={"min": 4, "max": 4})
        table["lines"] = [
            {"id": f"l{at}", "weight": 1 + at % 5, "yields": [{"item": names[at % 3]}]} for at in range(30)
        ]
        found = odds(game([table]), View("source", "crab"))["items"]
        self.assertAlmostEqual(sum(found[name]["mean"] for name in names), 4.0, places=11)


if __name__ == "__main__":
    unittest.main()
