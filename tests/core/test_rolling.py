"""The compiled loops over lines and depths, against fractions that lose nothing."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from golddice.core.odds.depths.mixing import ranked
from golddice.core.terms.forms import form_of
from golddice.core.terms.rolling import (
    any_of_tries,
    first_that_hits,
    scaled,
    share_weights,
    tried_again,
)
from tests.games import game, pick

CLOSE = {"rtol": 1e-12, "atol": 1e-300}
weights = st.sampled_from([0.0, 1e-9, 0.1, 1.0, 2.5, 60.0, 1e9])
chances = st.sampled_from([0.0, 1e-14, 1e-6, 0.01, 0.3, 0.5, 0.999, 1.0])
rows = st.integers(0, 5)


def column(values: list[float]) -> np.ndarray:
    return np.array(values, dtype=np.float64).reshape(-1, 1)


class Rules(unittest.TestCase):
    @given(st.lists(weights, max_size=6), weights)
    def test_shares_of_weights(self, entered: list[float], blank: float) -> None:
        shares, nothing = share_weights(column(entered), np.array([blank]))
        total = sum(map(Fraction, entered)) + Fraction(blank)
        wanted = [float(Fraction(one) / total) if total else 0.0 for one in entered]
        np.testing.assert_allclose(shares[:, 0], wanted, **CLOSE)
        np.testing.assert_allclose(nothing[0], float(Fraction(blank) / total) if total else 1.0, **CLOSE)

    @given(st.lists(chances, max_size=6))
    def test_the_first_that_hits(self, entered: list[float]) -> None:
        hits, none = first_that_hits(column(entered))
        reached = Fraction(1)
        for at, one in enumerate(entered):
            np.testing.assert_allclose(hits[at, 0], float(reached * Fraction(one)), **CLOSE)
            reached *= 1 - Fraction(one)
        # One minus a chance near 1 is rounded once for each line: that much is all that is lost.
        np.testing.assert_allclose(none[0], float(reached), rtol=1e-12, atol=1e-15)

    @given(st.lists(st.tuples(weights, chances), min_size=1, max_size=4), st.sampled_from([1, 2, 3, 40]))
    def test_lines_that_are_tried_again(self, lines: list[tuple[float, float]], tries: int) -> None:
        """p c summed over tries: (1 - s)^t for the one that hits at last, s the chance of a hit."""
        entered, hit = ([line[at] for line in lines] for at in (0, 1))
        found, none = tried_again(column(entered), column(hit), tries)
        total = sum(map(Fraction, entered)) or Fraction(1)
        each = [Fraction(weight) / total * Fraction(chance) for weight, chance in lines]
        missed = 1 - sum(each)
        so_far = sum(missed**tried for tried in range(tries))
        np.testing.assert_allclose(found[:, 0], [float(one * so_far) for one in each], **CLOSE)
        np.testing.assert_allclose(none[0], float(missed**tries), rtol=1e-9, atol=1e-15)

    def test_very_many_tries_at_a_tiny_chance_keep_their_digits(self) -> None:
        found, _ = tried_again(column([1.0, 3.0]), column([1e-13, 0.0]), 10_000)
        np.testing.assert_allclose(found[0, 0], 2.5e-14 * 10_000, rtol=1e-9)
        self.assertEqual(found[1, 0], 0.0)

    @given(st.lists(chances, min_size=1, max_size=4), st.lists(chances, min_size=1, max_size=5))
    def test_any_of_so_many_tries(self, hits: list[float], law: list[float]) -> None:
        found = column(hits)
        any_of_tries(np.array(law), found)
        for at, one in enumerate(hits):
            wanted = sum(Fraction(p) * (1 - (1 - Fraction(one)) ** n) for n, p in enumerate(law))
            np.testing.assert_allclose(found[at, 0], float(wanted), **CLOSE)


class Places(unittest.TestCase):
    @given(st.lists(st.booleans(), max_size=20))
    def test_ranks(self, reached: list[bool]) -> None:
        places, ranks = ranked(np.array(reached, dtype=bool))
        self.assertEqual(places.tolist(), [at for at, one in enumerate(reached) if one])
        for at, one in enumerate(reached):
            self.assertEqual(ranks[at], places.tolist().index(at) if one else -1)

    @given(st.lists(st.tuples(weights, rows, st.integers(-1, 2)), max_size=6))
    def test_entered_times_curve_times_tier(self, lines: list[tuple[float, int, int]]) -> None:
        """A tier of -1 is none: the last row, all ones."""
        curves = np.arange(12.0).reshape(6, 2)
        tiers = np.array([[2.0, 3.0], [5.0, 7.0], [11.0, 13.0], [1.0, 1.0]])
        entered, curve, tier = (np.array([line[at] for line in lines]) for at in range(3))
        found = scaled(entered.astype(float), curves, curve.astype(np.int64), tiers, tier.astype(np.int64))
        for at, (weight, row, of_tier) in enumerate(lines):
            np.testing.assert_allclose(found[at], weight * curves[row] * tiers[of_tier], **CLOSE)

    def test_the_form_of_a_table(self) -> None:
        """Which lines are plain, what the others yield, which can have one tier."""
        many = {"min": 2, "max": 2, "curve": "swell"}
        yields = [
            [{"item": "sand", "quantity": {"min": 0, "max": 3}}],
            [{"table": "inner", "quantity": {"min": 2, "max": 4}}],
            [{"pool": {"tiers": ["silt"]}}],
            [{"pool": {"tags": ["glass"]}}, {"item": "lens"}],
            [{"item": "claw", "quantity": many}],
            [],
        ]
        lines = [
            {"id": "abcdef"[at], "weight": at, "yields": given, "curve": "swell" if at % 2 else None}
            for at, given in enumerate(yields)
        ]
        lines[2]["depths"], lines[5]["limit"] = [2, 9], 1
        swell = {"id": "swell", "name": "Swell", "points": [[1, 1.0], [10, 2.0]]}
        made = game([{**pick(), "lines": lines}, pick((1, "crown"), name="inner")], curves=[swell])
        form = form_of(made.tables[0])
        self.assertEqual((form.plain.tolist(), form.named), ([0], ["sand"]))
        self.assertEqual((form.some.tolist(), form.mean.tolist()), ([0.75], [1.5]))
        self.assertEqual(form.others, [1, 2, 3, 4, 5])
        self.assertEqual([(at, link) for at, link, _ in form.links], [(1, ("table", "inner"))])
        self.assertEqual([at for at, _, _ in form.pools], [2, 3])
        self.assertEqual([(at, item) for at, item, _ in form.items], [(3, "lens"), (4, "claw")])
        self.assertEqual(([at for at, _ in form.tiered], form.gated), ([2, 4], [2]))
        self.assertEqual([form.curves[at] for at in form.curve], [None, "swell"] * 3)
        self.assertEqual(form.weights.tolist(), [0, 1, 2, 3, 4, 5])
        self.assertTrue(form.holds)
        self.assertFalse(form_of(made.tables[1]).holds)


if __name__ == "__main__":
    unittest.main()
