"""The real chance of each line in one roll, for the rules that pick at most one line.

Closed forms of `domain.md`, section 4, for a player without state.
"""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Table
from golddice.core.odds.conditions import Conditions, shares
from golddice.core.odds.distinct import inclusion_chances
from golddice.core.odds.mixing import share_weights


def roll_chances(table: Table, under: Conditions) -> tuple[FloatArray, FloatArray]:
    """Chance of each line in one roll, shape (n, d), and of nothing, shape (d,).

    For `each` the lines are independent: they do not exclude each other, and the second array is
    the chance that none hits. For `deck` it is the first card of a full deck. Both are shared: not to
    be written to.
    """
    return under.remembered("roll", table, lambda: _roll_chances(table, under))


def _roll_chances(table: Table, under: Conditions) -> tuple[FloatArray, FloatArray]:
    if table.rule == "pick":
        chances, blank = share_weights(under.weights(table), under.nothing(table))
        return chances, blank
    if table.rule == "each":
        chances = under.chances(table)
        return chances, np.prod(1.0 - chances, axis=0)
    if table.rule == "first":
        return first_chances(under.chances(table))
    if table.rule == "retry":
        return retry_chances(under.weights(table), under.chances(table), table.tries)
    return _first_card(table, under)


def line_hits(under: Conditions, table: Table) -> FloatArray:
    """Expected hits of each line in one execution for a fresh player, shape (n, d). Shared as well."""
    return under.remembered("hits", table, lambda: _line_hits(under, table))


def _line_hits(under: Conditions, table: Table) -> FloatArray:
    rolls = under.law(table.rolls)
    if table.rule == "pick" and table.distinct and rolls.most > 1:
        return inclusion_chances(under.weights(table), under.nothing(table), rolls)
    return roll_chances(table, under)[0] * rolls.mean


def first_chances(chances: FloatArray) -> tuple[FloatArray, FloatArray]:
    """c_i * prod_{j<i} (1 - c_j), and the chance that all miss."""
    ones = np.ones((1, chances.shape[1]))
    reached = np.cumprod(np.vstack([ones, 1.0 - chances]), axis=0)
    return chances * reached[:-1], reached[-1]


def retry_chances(weights: FloatArray, chances: FloatArray, tries: int) -> tuple[FloatArray, FloatArray]:
    """p_i c_i (1 - (1 - s)^tries) / s with s = sum p c, and (1 - s)^tries.

    As tries nears 1 or s nears 0 the factor goes to `tries`; expm1 and log1p keep its digits.
    """
    p = shares(weights)
    s = np.minimum((p * chances).sum(axis=0), 1.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        some = -np.expm1(tries * np.log1p(-s))
        factor = np.where(s > 0, some / s, 0.0)
    return p * chances * factor, np.where(s > 0, (1.0 - s) ** tries, 1.0)


def _first_card(table: Table, under: Conditions) -> tuple[FloatArray, FloatArray]:
    copies = np.array(
        [getattr(line, "copies") * under.line_open(line, scaled=False) for line in table.lines],  # noqa: B009
        dtype=np.float64,
    ).reshape(len(table.lines), under.depths.size)
    drawn = shares(copies)
    return drawn, 1.0 - drawn.sum(axis=0) if table.lines else under.ones
