"""Outcomes put together, against lists of everything that can happen."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.arrays import FloatArray
from golddice.core.game.quantity import Quantity
from golddice.core.odds.event.outcome import (
    Outcome,
    Parts,
    independent,
    mixture,
    nothing,
    perhaps,
    repeat,
    total,
)
from golddice.core.terms.law import law_of

# Of a part: (chance, how many of column 0, 3 and 7). Values are 1, 10 and 100 each.
World = list[tuple[float, tuple[int, ...]]]
COLUMNS = np.array([0, 3, 7])
WORTH = np.array([1.0, 10.0, 100.0])

counts = st.tuples(st.integers(0, 2), st.integers(0, 2), st.integers(0, 1))


@st.composite
def worlds(draw: st.DrawFn) -> World:
    """Up to three things that can happen, chances from tiny to nearly 1."""
    first = draw(st.sampled_from([1e-9, 0.001, 0.3, 0.9, 1 - 1e-9, 1.0]))
    second = (1.0 - first) * draw(st.sampled_from([0.0, 0.5, 1.0]))
    return [(first, draw(counts)), (second, draw(counts)), (1.0 - first - second, draw(counts))]


def told(world: World) -> Outcome:
    """The outcome of a world by adding up what can happen; columns that never come are left out."""
    chances = np.array([chance for chance, _ in world])
    many = np.array([count for _, count in world], dtype=np.float64)
    value = many @ WORTH
    mean, worth = chances @ many, float(chances @ value)
    off, away = many - mean, value - worth
    kept = (many > 0).any(axis=0)
    figures = (
        chances @ (many > 0),
        mean,
        chances @ off**2,
        chances @ (off * away[:, None]),
    )
    return Outcome(
        COLUMNS[kept],
        *(figure[None, kept] for figure in figures),
        np.array([worth]),
        np.array([float(chances @ away**2)]),
    )


def both(first: World, second: World) -> World:
    """One and the other, independently."""
    return [
        (p * q, tuple(a + b for a, b in zip(one, two, strict=True)))
        for (p, one), (q, two) in itertools.product(first, second)
    ]


def one_of(chances: list[float], parts: list[World]) -> World:
    blank = 1.0 - math.fsum(chances)
    return [
        (blank, (0, 0, 0)),
        *((p * q, count) for p, part in zip(chances, parts, strict=True) for q, count in part),
    ]


def each(chances: list[float], parts: list[World]) -> World:
    whole: World = [(1.0, (0, 0, 0))]
    for p, part in zip(chances, parts, strict=True):
        whole = both(whole, one_of([p], [part]))
    return whole


class PutTogether(unittest.TestCase):
    def close(self, got: Outcome, wanted: Outcome) -> None:
        """A column that is there at chance 0 says no more than one that is not."""
        places = np.searchsorted(got.columns, wanted.columns)
        np.testing.assert_array_equal(got.columns[places], wanted.columns)
        rest = np.setdiff1d(np.arange(got.columns.size), places)
        self.assertFalse(np.any(got.hit[:, rest]))
        for name in ("hit", "mean", "var", "cov"):
            np.testing.assert_allclose(
                getattr(got, name)[:, places], getattr(wanted, name), rtol=1e-9, atol=1e-12, err_msg=name
            )
        np.testing.assert_allclose(got.value_mean, wanted.value_mean, rtol=1e-9)
        np.testing.assert_allclose(got.value_var, wanted.value_var, rtol=1e-9, atol=1e-9)

    @settings(deadline=None)
    @given(st.lists(worlds(), min_size=1, max_size=4), st.data())
    def test_one_of_several(self, parts: list[World], data: st.DataObject) -> None:
        shares = data.draw(st.lists(st.floats(0.01, 1), min_size=len(parts), max_size=len(parts)))
        whole = math.fsum(shares) / data.draw(st.sampled_from([1.0, 0.999999, 0.5]))
        chances = [share / whole for share in shares]
        blank = np.array([1.0 - math.fsum(chances)])
        got = mixture(column(chances), Parts.of([told(part) for part in parts], 1), blank)
        self.close(got, told(one_of(chances, parts)))

    @settings(deadline=None)
    @given(st.lists(worlds(), min_size=1, max_size=3), st.data())
    def test_each_on_its_own(self, parts: list[World], data: st.DataObject) -> None:
        every = st.sampled_from([0.0, 1e-9, 0.2, 0.999, 1.0])
        chances = data.draw(st.lists(every, min_size=len(parts), max_size=len(parts)))
        got = independent(column(chances), Parts.of([told(part) for part in parts], 1))
        self.close(got, told(each(chances, parts)))

    @settings(deadline=None)
    @given(worlds(), worlds())
    def test_all_of_them(self, first: World, second: World) -> None:
        self.close(total([told(first), told(second)], 1), told(both(first, second)))

    @settings(deadline=None)
    @given(worlds(), st.sampled_from([0.0, 1e-9, 0.5, 1.0]))
    def test_perhaps(self, part: World, chance: float) -> None:
        self.close(perhaps(np.array([chance]), told(part)), told(one_of([chance], [part])))

    @settings(deadline=None)
    @given(worlds(), st.integers(0, 2), st.integers(0, 2))
    def test_so_many_times(self, part: World, low: int, more: int) -> None:
        quantity = Quantity(min=low, max=low + more)
        world: World = []
        for times in range(low, low + more + 1):
            whole: World = [(1.0, (0, 0, 0))]
            for _ in range(times):
                whole = both(whole, part)
            world += [(p / (more + 1), count) for p, count in whole]
        self.close(repeat(law_of(quantity), told(part)), told(world))


class Digits(unittest.TestCase):
    def test_a_variance_near_certainty_keeps_its_digits(self) -> None:
        """Two of column 0 but once in 10^12: the variance is 4 p (1 - p), not a rounding error."""
        rare = 1e-12
        part = told([(1.0, (2, 0, 0))])
        got = mixture(column([1 - rare]), Parts.of([part], 1), np.array([rare]))
        self.assertAlmostEqual(float(got.var[0, 0]) / (4 * rare), 1.0, places=9)
        self.assertAlmostEqual(float(got.value_var[0]) / (4 * rare), 1.0, places=9)

    def test_the_others_are_added_up_where_one_is_nearly_certain(self) -> None:
        """Column 0 comes from the first part alone; the two others and the blank make its variance."""
        rare = 1e-13
        parts = [told([(1.0, count)]) for count in ((1, 0, 0), (0, 1, 0), (0, 0, 1))]
        got = mixture(column([1 - 3 * rare, rare, rare]), Parts.of(parts, 1), np.array([rare]))
        self.assertAlmostEqual(float(got.var[0, 0]) / (3 * rare), 1.0, places=9)

    def test_tiny_chances_add_up(self) -> None:
        parts = [told([(1.0, (1, 0, 0))])] * 3
        got = independent(column([1e-15, 2e-15, 3e-15]), Parts.of(parts, 1))
        self.assertAlmostEqual(float(got.hit[0, 0]) / 6e-15, 1.0, places=12)


class ManyDepths(unittest.TestCase):
    """Rows of depths side by side are what each would be alone, whatever their order in memory."""

    def test_rows(self) -> None:
        rng = np.random.default_rng(4)
        alone: list[list[Outcome]] = []
        for _ in range(3):
            weights = rng.random((5, 3))
            rows = [list(zip(w / w.sum(), [(1, 0, 2), (0, 2, 1), (1, 1, 0)], strict=True)) for w in weights]
            alone.append([told([(float(p), count) for p, count in row]) for row in rows])
        parts = [stacked(rows) for rows in alone]
        chances = rng.random((3, 5)) / 3
        blank = 1 - chances.sum(axis=0)
        for layout in (np.ascontiguousarray, np.asfortranarray):
            got = mixture(layout(chances), Parts.of([turned(part, layout) for part in parts], 5), blank)
            for depth in range(5):
                single = Parts.of([rows[depth] for rows in alone], 1)
                wanted = mixture(chances[:, depth : depth + 1], single, blank[depth : depth + 1])
                np.testing.assert_allclose(got.var[depth], wanted.var[0], rtol=1e-12)
                np.testing.assert_allclose(got.cov[depth], wanted.cov[0], rtol=1e-12)

    def test_nothing_at_all(self) -> None:
        got = mixture(np.zeros((0, 4)), Parts.of([], 4), np.ones(4))
        self.assertEqual((got.columns.size, got.value_mean.tolist()), (0, [0, 0, 0, 0]))
        self.assertEqual(total([], 4).value_var.tolist(), nothing(4).value_var.tolist())

    def test_parts_follow_each_other(self) -> None:
        first, second = (Parts.of([told([(1.0, count)])], 1) for count in ((1, 0, 0), (0, 1, 1)))
        joined = first.and_then(second)
        self.assertEqual(joined.starts.tolist(), [0, 1, 3])
        self.assertEqual(joined.columns.tolist(), [0, 3, 7])


def stacked(rows: list[Outcome]) -> Outcome:
    fields = ("hit", "mean", "var", "cov", "value_mean", "value_var")
    return Outcome(
        rows[0].columns, *(np.concatenate([getattr(row, name) for row in rows]) for name in fields)
    )


def turned(part: Outcome, layout: type | object) -> Outcome:
    fields = ("hit", "mean", "var", "cov", "value_mean", "value_var")
    return Outcome(part.columns, *(layout(getattr(part, name)) for name in fields))  # type: ignore[operator]


def column(chances: list[float]) -> FloatArray:
    return np.array(chances)[:, None]


if __name__ == "__main__":
    unittest.main()
