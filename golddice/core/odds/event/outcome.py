"""Outcomes: what one try of something gives, as moments that can be put together exactly.

Every table, line, drop and source has an outcome. Four ways of putting outcomes together are all
that the roll rules need: a mixture (one of them happens), a sum (all happen, independently), a
chance (it happens or not) and a repeat (it happens a random number of times). Each is written so
that no digits are lost for chances near 0 or 1.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.odds.event.merging import columns_of, each_of, one_of
from golddice.core.terms.law import AnyLaw


@dataclass(frozen=True)
class Outcome:
    """Moments of one try at d depths, for k columns (items, tiers, lines ...; see `Columns`).

    Attributes
    ----------
    columns : ndarray of int, shape (k,), rising
    hit : ndarray, shape (d, k)
        Chance of at least one.
    mean, var : ndarray, shape (d, k)
        Of how many.
    cov : ndarray, shape (d, k)
        Covariance of how many with the value of the whole outcome.
    value_mean, value_var : ndarray, shape (d,)
        Of the value of everything received, in the game's currency.
    """

    columns: IntArray
    hit: FloatArray
    mean: FloatArray
    var: FloatArray
    cov: FloatArray
    value_mean: FloatArray
    value_var: FloatArray

    def figure(self, figures: FloatArray, column: int) -> float:
        """One of its figures, (d, k), of a column at the first depth; 0 of one that it does not have."""
        at = np.flatnonzero(self.columns == column)
        return float(figures[0, at[0]]) if at.size else 0.0

    def places(self, wanted: IntArray) -> IntArray:
        """Where this outcome's columns stand among `wanted`, which holds them all."""
        return np.searchsorted(wanted, self.columns)


def nothing(depths: int) -> Outcome:
    """The outcome that gives nothing, at so many depths."""
    none, flat = np.zeros((depths, 0)), np.zeros(depths)
    return Outcome(np.zeros(0, dtype=np.int64), none, none, none, none, flat, flat)


@dataclass(frozen=True)
class Parts:
    """n outcomes at d depths side by side: entries of part i are starts[i] to starts[i + 1].

    Attributes
    ----------
    columns : ndarray of int, shape (e,); each part's rising
    starts : ndarray of int, shape (n + 1,)
    hit, mean, var, cov : ndarray, shape (d, e)
    value_mean, value_var : ndarray, shape (d, n)
    """

    columns: IntArray
    starts: IntArray
    hit: FloatArray
    mean: FloatArray
    var: FloatArray
    cov: FloatArray
    value_mean: FloatArray
    value_var: FloatArray

    @staticmethod
    def of(parts: Sequence[Outcome], depths: int) -> Parts:
        if not parts:
            none, flat = np.zeros((depths, 0)), np.zeros(0, dtype=np.int64)
            return Parts(flat, np.zeros(1, dtype=np.int64), none, none, none, none, none, none)
        return Parts(
            np.concatenate([part.columns for part in parts]),
            np.cumsum([0, *(part.columns.size for part in parts)]),
            np.concatenate([part.hit for part in parts], axis=1),
            np.concatenate([part.mean for part in parts], axis=1),
            np.concatenate([part.var for part in parts], axis=1),
            np.concatenate([part.cov for part in parts], axis=1),
            np.array([part.value_mean for part in parts]).T.copy(),
            np.array([part.value_var for part in parts]).T.copy(),
        )

    def and_then(self, more: Parts) -> Parts:
        """These parts, then the others."""
        if self.starts.size == 1:
            return more
        if more.starts.size == 1:
            return self
        both = [
            np.concatenate([getattr(self, name), getattr(more, name)], axis=1)
            for name in ("hit", "mean", "var", "cov", "value_mean", "value_var")
        ]
        starts = np.concatenate([self.starts, self.starts[-1] + more.starts[1:]])
        return Parts(np.concatenate([self.columns, more.columns]), starts, *both)


def mixture(chances: FloatArray, parts: Parts, blank: FloatArray) -> Outcome:
    """Exactly one part happens, part i with chances[i] of shape (d,), or nothing with `blank`.

    Notes
    -----
    mean = sum p m; variance = sum p (v + (m - mean)^2) over parts and the blank, which, unlike
    sum p (v + m^2) - mean^2, loses nothing when one outcome is nearly certain.
    """
    columns, place = columns_of(parts.columns)
    figures = _in_rows(chances, blank, *_figures(parts))
    return Outcome(columns, *one_of(columns.size, place, parts.starts, *figures))


def independent(chances: FloatArray, parts: Parts) -> Outcome:
    """Each part happens with its own chance, chances of shape (n, d)."""
    columns, place = columns_of(parts.columns)
    figures = _in_rows(chances, *_figures(parts))
    return Outcome(columns, *each_of(columns.size, place, parts.starts, *figures))


def total(parts: Sequence[Outcome], depths: int) -> Outcome:
    """All parts happen, independently."""
    if len(parts) == 1:
        return parts[0]
    return independent(np.ones((len(parts), depths)), Parts.of(parts, depths))


def _figures(parts: Parts) -> tuple[FloatArray, ...]:
    return parts.hit, parts.mean, parts.var, parts.cov, parts.value_mean, parts.value_var


def _in_rows(*arrays: FloatArray) -> list[FloatArray]:
    """Depth after depth in memory, the one order that the compiled loops are compiled for."""
    return [np.ascontiguousarray(array) for array in arrays]


def perhaps(chance: FloatArray, part: Outcome) -> Outcome:
    """It happens with a chance of shape (d,), otherwise nothing."""
    c = chance[:, None]
    miss = 1.0 - c
    return replace(
        part,
        hit=c * part.hit,
        mean=c * part.mean,
        var=c * (part.var + miss * part.mean**2),
        cov=c * (part.cov + miss * part.mean * part.value_mean[:, None]),
        value_mean=chance * part.value_mean,
        value_var=chance * (part.value_var + (1.0 - chance) * part.value_mean**2),
    )


def repeat(law: AnyLaw, part: Outcome) -> Outcome:
    """It happens N times independently, N drawn from `law`.

    Notes
    -----
    A compound sum: mean E[N] m, variance E[N] v + Var[N] m^2 (Feller, vol. 1, ch. XII).
    """
    if law.is_one:
        return part
    n, spread = law.mean, law.var
    return replace(
        part,
        hit=np.minimum(law.any_of(part.hit), 1.0),
        mean=n[:, None] * part.mean,
        var=n[:, None] * part.var + spread[:, None] * part.mean**2,
        cov=n[:, None] * part.cov + spread[:, None] * part.mean * part.value_mean[:, None],
        value_mean=n * part.value_mean,
        value_var=n * part.value_var + spread * part.value_mean**2,
    )


def with_mark(part: Outcome, hit_column: int, flow_column: int) -> Outcome:
    """The same outcome with two columns more: that it happened, and the value that it carried.

    They let a line's hits per event, and its share of the variance, be read off the source.
    """
    depths = part.value_mean.size
    one, none = np.ones((depths, 1)), np.zeros((depths, 1))
    mean, var = part.value_mean[:, None], part.value_var[:, None]
    return _in_order(
        np.concatenate([part.columns, [hit_column, flow_column]]),
        np.hstack([part.hit, one, one]),
        np.hstack([part.mean, one, mean]),
        np.hstack([part.var, none, var]),
        np.hstack([part.cov, none, var]),
        part,
    )


def _in_order(
    columns: IntArray,
    hit: FloatArray,
    mean: FloatArray,
    var: FloatArray,
    cov: FloatArray,
    like: Outcome,
) -> Outcome:
    order = np.argsort(columns)
    return Outcome(
        columns[order],
        hit[:, order],
        mean[:, order],
        var[:, order],
        cov[:, order],
        like.value_mean,
        like.value_var,
    )
