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
from golddice.core.odds.law import Law


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

    def places(self, wanted: IntArray) -> IntArray:
        """Where this outcome's columns stand among `wanted`, which holds them all."""
        return np.searchsorted(wanted, self.columns)


def nothing(depths: int) -> Outcome:
    """The outcome that gives nothing, at so many depths."""
    none, flat = np.zeros((depths, 0)), np.zeros(depths)
    return Outcome(np.zeros(0, dtype=np.int64), none, none, none, none, flat, flat)


def mixture(chances: Sequence[FloatArray], parts: Sequence[Outcome], blank: FloatArray) -> Outcome:
    """Exactly one part happens, part i with chances[i] of shape (d,), or nothing with `blank`.

    Notes
    -----
    mean = sum p m; variance = sum p (v + (m - mean)^2) over parts and the blank, which, unlike
    sum p (v + m^2) - mean^2, loses nothing when one outcome is nearly certain.
    """
    if not parts:
        return nothing(blank.size)
    p = np.stack(chances, axis=1)
    entries = _Entries(parts)
    each = entries.of_parts(p)
    worths = np.stack([part.value_mean for part in parts], axis=1)
    value_mean = (p * worths).sum(axis=1)
    means = entries.joined([part.mean for part in parts])
    mean = entries.summed(each * means)
    off = means - mean[:, entries.place]
    pull = entries.joined([part.cov for part in parts])
    pull = pull + means * entries.of_parts(worths - value_mean[:, None])
    var = entries.summed(each * (entries.joined([part.var for part in parts]) + off * off))
    var += _chance_of_none(p, entries, each, blank) * mean * mean
    spread = np.stack([part.value_var for part in parts], axis=1) + (worths - value_mean[:, None]) ** 2
    return Outcome(
        entries.columns,
        np.minimum(entries.summed(each * entries.joined([part.hit for part in parts])), 1.0),
        mean,
        var,
        entries.summed(each * pull),
        value_mean,
        blank * value_mean**2 + (p * spread).sum(axis=1),
    )


class _Entries:
    """Every column of every part side by side, and which of them are the same column.

    So that what is done for many parts is a few operations on long arrays, not many on short ones.
    """

    def __init__(self, parts: Sequence[Outcome]) -> None:
        every = np.concatenate([part.columns for part in parts])
        self._sizes = [part.columns.size for part in parts]
        self._order = np.argsort(every, kind="stable")
        rising = every[self._order]
        is_new = np.ones(rising.size, dtype=bool)
        is_new[1:] = rising[1:] != rising[:-1]
        self._starts = np.flatnonzero(is_new)
        self.columns: IntArray = rising[self._starts]
        self.place = np.empty(every.size, dtype=np.int64)
        self.place[self._order] = np.cumsum(is_new) - 1

    @property
    def part(self) -> IntArray:
        """Which part each entry is of."""
        return np.repeat(np.arange(len(self._sizes)), self._sizes)

    def joined(self, figures: Sequence[FloatArray]) -> FloatArray:
        """The parts' figures, each (d, k), as one row of entries for each depth."""
        return np.concatenate(figures, axis=1)

    def of_parts(self, figures: FloatArray) -> FloatArray:
        """A figure for each part, (d, n), at each of the part's entries."""
        return np.repeat(figures, self._sizes, axis=1)

    def summed(self, entries: FloatArray) -> FloatArray:
        """Entries of the same column added up."""
        if not self._starts.size:
            return entries
        return np.add.reduceat(entries[:, self._order], self._starts, axis=1)


def _chance_of_none(p: FloatArray, entries: _Entries, each: FloatArray, blank: FloatArray) -> FloatArray:
    """Chance, by depth and column, that a part without the column (or the blank) happens.

    One minus the chance of the parts that have it, except where that would cancel: there the
    others are added up one by one.
    """
    having = entries.summed(each)
    none = np.maximum(1.0 - having, 0.0)
    close = np.flatnonzero((having > 0.75).any(axis=0))
    if close.size:
        lacking = np.ones((p.shape[1], entries.columns.size))
        lacking[entries.part, entries.place] = 0.0
        none[:, close] = p @ lacking[:, close] + blank[:, None]
    return none


def total(parts: Sequence[Outcome], depths: int) -> Outcome:
    """All parts happen, independently: chances of none multiply, moments add."""
    if len(parts) == 1:
        return parts[0]
    if not parts:
        return nothing(depths)
    entries = _Entries(parts)
    with np.errstate(divide="ignore"):
        log_miss = entries.summed(np.log1p(-entries.joined([part.hit for part in parts])))
    return Outcome(
        entries.columns,
        -np.expm1(log_miss),
        entries.summed(entries.joined([part.mean for part in parts])),
        entries.summed(entries.joined([part.var for part in parts])),
        entries.summed(entries.joined([part.cov for part in parts])),
        np.sum([part.value_mean for part in parts], axis=0),
        np.sum([part.value_var for part in parts], axis=0),
    )


def independent(chances: FloatArray, parts: Sequence[Outcome]) -> Outcome:
    """Each part happens with its own chance, chances of shape (n, d): the total of `perhaps`."""
    if not parts:
        return nothing(chances.shape[1])
    p = chances.T
    entries = _Entries(parts)
    each = entries.of_parts(p)
    worths = np.stack([part.value_mean for part in parts], axis=1)
    means = entries.joined([part.mean for part in parts])
    var = each * (entries.joined([part.var for part in parts]) + (1.0 - each) * means**2)
    cov = entries.joined([part.cov for part in parts])
    cov = each * (cov + (1.0 - each) * means * entries.of_parts(worths))
    with np.errstate(divide="ignore"):
        log_miss = entries.summed(np.log1p(-each * entries.joined([part.hit for part in parts])))
    spread = np.stack([part.value_var for part in parts], axis=1)
    return Outcome(
        entries.columns,
        -np.expm1(log_miss),
        entries.summed(each * means),
        entries.summed(var),
        entries.summed(cov),
        (p * worths).sum(axis=1),
        (p * (spread + (1.0 - p) * worths**2)).sum(axis=1),
    )


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


def repeat(law: Law, part: Outcome) -> Outcome:
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
        hit=law.any_of(part.hit),
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
