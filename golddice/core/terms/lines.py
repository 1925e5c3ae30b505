"""The lines of a table that give so many of one item: most lines are such, and can be taken at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Table
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of


@dataclass(frozen=True)
class PlainLines:
    """Attributes
    ----------
    at : ndarray of int, shape (m,)
        Where they stand among the table's lines.
    items : ndarray of int, shape (m,)
        Index of the item of each.
    some, mean, var : ndarray, shape (m,)
        Chance of at least one, mean and variance of how many; the same at all depths.
    others : list of int
        Where the table's other lines stand.
    """

    at: IntArray
    items: IntArray
    some: FloatArray
    mean: FloatArray
    var: FloatArray
    others: list[int]

    @property
    def order(self) -> IntArray:
        """All lines, the plain ones first."""
        return np.concatenate([self.at, np.array(self.others, dtype=np.int64)])


def plain_lines(table: Table, under: Conditions) -> PlainLines:
    return under.once("plain", table, lambda: _plain_lines(table, under))


def _plain_lines(table: Table, under: Conditions) -> PlainLines:
    form = form_of(table)
    return PlainLines(form.plain, under.plain_items(table), form.some, form.mean, form.var, form.others)


def no_plain_lines(others: int) -> PlainLines:
    """Of something that has so many parts, none of them plain."""
    none, flat = np.zeros(0, dtype=np.int64), np.zeros(0)
    return PlainLines(none, none, flat, flat, flat, list(range(others)))
