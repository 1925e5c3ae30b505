"""The real chance of each line in one roll, for the rules that pick at most one line.

Closed forms of `domain.md`, section 4, for a player without state.
"""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Table
from golddice.core.odds.event.distinct import inclusion_chances
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import is_distinct
from golddice.core.terms.rolling import first_that_hits, share_weights, tried_again


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
    if is_distinct(under, table):
        assert table.rule == "pick"
        return inclusion_chances(under.weights(table), under.nothing(table), rolls)
    return roll_chances(table, under)[0] * rolls.mean


def first_chances(chances: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Chance of each to be the first that hits, and that all miss; from shape (n, d)."""
    hits, none = first_that_hits(chances)
    return hits, none


def retry_chances(weights: FloatArray, chances: FloatArray, tries: int) -> tuple[FloatArray, FloatArray]:
    """Chance of each to be what a retry table gives, and that no try hits; both of shape (n, d)."""
    hits, none = tried_again(weights, chances, tries)
    return hits, none


def _first_card(table: Table, under: Conditions) -> tuple[FloatArray, FloatArray]:
    copies = np.array(
        [getattr(line, "copies") * under.line_open(line, scaled=False) for line in table.lines],  # noqa: B009
        dtype=np.float64,
    ).reshape(len(table.lines), under.depths.size)
    drawn, empty = share_weights(copies, np.zeros(under.depths.size))
    return drawn, empty
