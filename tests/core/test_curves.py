"""Curves: each shape between its points, at them and beyond them."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from golddice.core.arrays import FloatArray
from golddice.core.game.curves import multiplier
from golddice.core.game.models import Curve

FAR = np.arange(1, 61)
multipliers = st.floats(0, 50).map(lambda value: round(value, 3))


@st.composite
def points(draw: st.DrawFn, least: int = 1) -> list[tuple[int, float]]:
    depths = draw(st.lists(st.integers(2, 58), min_size=least, max_size=7, unique=True))
    return [(depth, draw(multipliers)) for depth in sorted(depths)]


def at(shape: str, given_points: list[tuple[int, float]], depths: FloatArray = FAR) -> FloatArray:
    curve = Curve.model_validate({"id": "c", "name": "C", "shape": shape, "points": given_points})
    return multiplier(curve, depths)


class Shapes(unittest.TestCase):
    @given(points(), st.sampled_from(["line", "step", "ease"]))
    def test_the_points_are_kept_and_the_ends_are_held(
        self, some: list[tuple[int, float]], shape: str
    ) -> None:
        found = at(shape, some)
        for depth, value in some:
            self.assertAlmostEqual(found[depth - 1], value, places=12)
        first, last = some[0], some[-1]
        np.testing.assert_allclose(found[: first[0]], first[1], rtol=1e-12, atol=1e-12)
        np.testing.assert_allclose(found[last[0] - 1 :], last[1], rtol=1e-12, atol=1e-12)

    @given(points(), st.sampled_from(["line", "step", "ease"]))
    def test_it_stays_between_its_neighbours(self, some: list[tuple[int, float]], shape: str) -> None:
        """No shape overshoots: between two points a curve is between their multipliers, and so never
        below 0."""
        found = at(shape, some)
        for (a, low), (b, high) in pairwise(some):
            within = found[a - 1 : b]
            self.assertGreaterEqual(within.min(), min(low, high) - 1e-12)
            self.assertLessEqual(within.max(), max(low, high) + 1e-12)

    @given(points())
    def test_lines_are_linear(self, some: list[tuple[int, float]]) -> None:
        wanted = np.interp(FAR, *zip(*some, strict=True))
        np.testing.assert_allclose(at("line", some), wanted, rtol=1e-13, atol=1e-13)

    @given(points())
    def test_steps_hold_until_the_next(self, some: list[tuple[int, float]]) -> None:
        found = at("step", some)
        for (a, value), (b, _) in pairwise(some):
            np.testing.assert_array_equal(found[a - 1 : b - 1], value)

    @given(points(least=3))
    def test_ease_is_the_monotone_cubic(self, some: list[tuple[int, float]]) -> None:
        depths, values = zip(*some, strict=True)
        within = FAR[(depths[0] <= FAR) & (depths[-1] >= FAR)]
        wanted = PchipInterpolator(depths, values)(within)
        np.testing.assert_allclose(at("ease", some, within), wanted, rtol=1e-12, atol=1e-12)

    @given(points(least=2))
    def test_two_points_are_a_straight_line_however_they_are_joined(
        self, some: list[tuple[int, float]]
    ) -> None:
        two = [some[0], some[-1]]
        np.testing.assert_allclose(at("ease", two), at("line", two), rtol=1e-12, atol=1e-12)

    @given(points(), st.sampled_from(["line", "step", "ease"]), st.permutations(range(60)))
    def test_depths_may_come_in_any_order(
        self, some: list[tuple[int, float]], shape: str, order: list[int]
    ) -> None:
        np.testing.assert_array_equal(at(shape, some, FAR[order]), at(shape, some)[order])

    @given(points(), st.sampled_from(["line", "ease"]), st.floats(0.1, 10))
    def test_all_multipliers_times_the_same(
        self, some: list[tuple[int, float]], shape: str, factor: float
    ) -> None:
        scaled = [(depth, value * factor) for depth, value in some]
        np.testing.assert_allclose(at(shape, scaled), factor * at(shape, some), rtol=1e-9, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
