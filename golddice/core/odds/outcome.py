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
    columns = np.unique(np.concatenate([part.columns for part in parts]))
    shape = (blank.size, columns.size)
    hit, mean, var, cov = (np.zeros(shape) for _ in range(4))
    places = [part.places(columns) for part in parts]
    value_mean = sum((p * x.value_mean for p, x in zip(chances, parts, strict=True)), 0 * blank)
    for p, part, at in zip(chances, parts, places, strict=True):
        hit[:, at] += p[:, None] * part.hit
        mean[:, at] += p[:, None] * part.mean
    for p, part, at in zip(chances, parts, places, strict=True):
        off = part.mean - mean[:, at]
        var[:, at] += p[:, None] * (part.var + off * off)
        pull = part.cov + part.mean * (part.value_mean - value_mean)[:, None]
        cov[:, at] += p[:, None] * pull
    var += _chance_of_none(chances, places, blank, shape) * mean * mean
    value_var = blank * value_mean**2
    for p, part in zip(chances, parts, strict=True):
        value_var = value_var + p * (part.value_var + (part.value_mean - value_mean) ** 2)
    return Outcome(columns, np.minimum(hit, 1.0), mean, var, cov, value_mean, value_var)


def _chance_of_none(
    chances: Sequence[FloatArray],
    places: Sequence[IntArray],
    blank: FloatArray,
    shape: tuple[int, int],
) -> FloatArray:
    """Chance, by depth and column, that a part without the column (or the blank) happens.

    One minus the chance of the parts that have it, except where that would cancel: there the
    others are added up one by one.
    """
    having = np.zeros(shape)
    for p, at in zip(chances, places, strict=True):
        having[:, at] += p[:, None]
    none = np.maximum(1.0 - having, 0.0)
    close = np.flatnonzero((having > 0.75).any(axis=0))
    if close.size:
        exact = np.repeat(blank[:, None], close.size, axis=1)
        for p, at in zip(chances, places, strict=True):
            lacking = np.ones(shape[1])
            lacking[at] = 0.0
            exact += p[:, None] * lacking[close]
        none[:, close] = exact
    return none


def total(parts: Sequence[Outcome], depths: int) -> Outcome:
    """All parts happen, independently: chances of none multiply, moments add."""
    if len(parts) == 1:
        return parts[0]
    if not parts:
        return nothing(depths)
    columns = np.unique(np.concatenate([part.columns for part in parts]))
    log_miss, mean, var, cov = (np.zeros((depths, columns.size)) for _ in range(4))
    for part in parts:
        at = part.places(columns)
        with np.errstate(divide="ignore"):
            log_miss[:, at] += np.log1p(-part.hit)
        mean[:, at] += part.mean
        var[:, at] += part.var
        cov[:, at] += part.cov
    value_mean = np.sum([part.value_mean for part in parts], axis=0)
    value_var = np.sum([part.value_var for part in parts], axis=0)
    return Outcome(columns, -np.expm1(log_miss), mean, var, cov, value_mean, value_var)


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
