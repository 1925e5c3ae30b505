"""What a table's lines say, side by side: all that neither depth nor flags nor the catalogue decide; and
what a curve says at every depth.

Worked out once and kept for as long as the table or curve lives: a drag asks hundreds of questions, each
of them about all depths, and of the tables in them one changes.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.curves import multiplier
from golddice.core.game.links import links_of
from golddice.core.game.models import BaseLine, Curve, ItemNamed, Pool, Table
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.results import RESULTS, OfPart
from golddice.core.terms.law import AnyLaw, law_of


@dataclass(frozen=True, eq=False)
class Form:
    """Attributes
    ----------
    weights, chances : ndarray, shape (n,)
        As entered; 0 where lines of the rule have none.
    curves : list of str or None
        The curves that lines name, each once.
    curve : ndarray of int, shape (n,)
        Which of them each line names.
    gated : list of int
        Lines that depths or flags can close.
    plain : ndarray of int, shape (m,)
        Lines that give so many of one item, alike at all depths: most lines are such.
    named : list of str
        The item of each.
    some, mean, var : ndarray, shape (m,)
        Chance of at least one, mean and variance of how many.
    others : list of int
        The other lines; `items`, `pools` and `links` are what those yield: line, thing, how many.
    tiered : list of (int, line)
        Those of them that may have one definite tier all the same.
    inner : tuple of View
        The tables and sources that the table leads to, each once.
    holds : bool
        Whether a player carries anything for the table.
    named_curves : frozenset of str
        Every curve that the table itself names, tiers aside.
    """

    weights: FloatArray
    chances: FloatArray
    curves: list[str | None]
    curve: IntArray
    gated: list[int]
    plain: IntArray
    named: list[str]
    some: FloatArray
    mean: FloatArray
    var: FloatArray
    others: list[int]
    tiered: list[tuple[int, BaseLine]]
    inner: tuple[View, ...]
    holds: bool
    named_curves: frozenset[str]
    items: list[tuple[int, str, Quantity]] = field(default_factory=list)
    pools: list[tuple[int, Pool, Quantity]] = field(default_factory=list)
    links: list[tuple[int, View, Quantity]] = field(default_factory=list)

    @cached_property
    def ones(self) -> FloatArray:
        return np.ones(self.curve.size)


_SMALL = 100  # a range no longer than this
_MOST_WHOLE = 2_000  # depths; a curve over more is worked out where it is asked for


def curve_at(curve: Curve, scale: tuple[int, int], depths: IntArray) -> FloatArray:
    """A curve's multiplier at some depths of a game, shape (d,); worked out once for all of them."""
    low, high = scale
    if high - low >= _MOST_WHOLE:
        return multiplier(curve, depths)
    known = _whole(curve)
    found = known.get(scale)
    if found is None:
        found = known[scale] = multiplier(curve, np.arange(low, high + 1))
    return found[depths - low]


def _nowhere(curve: Curve) -> dict[tuple[int, int], FloatArray]:
    """Of a curve by the depths from, to: filled as they are asked for."""
    return {}


_whole = OfPart(_nowhere)


def _form(table: Table) -> Form:
    lines: list[BaseLine] = list(table.lines)
    curves = list(dict.fromkeys(line.curve for line in lines))
    plain = [at for at, line in enumerate(lines) if _is_plain(line)]
    given = [lines[at].yields[0] for at in plain]
    some, mean, var = np.array([fixed_law(one.quantity).figures for one in given]).reshape(-1, 3).T.copy()
    others = sorted(set(range(len(lines))).difference(plain))
    form = Form(
        weights=np.array([getattr(line, "weight", 0.0) for line in lines], dtype=np.float64),
        chances=np.array([getattr(line, "chance", 0.0) for line in lines], dtype=np.float64),
        curves=curves,
        curve=np.array([curves.index(line.curve) for line in lines], dtype=np.int64),
        gated=[at for at, line in enumerate(lines) if line.depths or line.needs or line.unless],
        plain=np.array(plain, dtype=np.int64),
        named=[one.item or "" for one in given],
        some=some,
        mean=mean,
        var=var,
        others=others,
        tiered=[(at, lines[at]) for at in others if _may_have_tier(lines[at])],
        inner=tuple(links_of(table)),
        named_curves=_named_curves(table),
        holds=table.rule == "deck" or any(line.guard or line.limit is not None for line in lines),
    )
    for at in others:
        _yields_into(form, at, lines[at])
    return form


def _named_curves(table: Table) -> frozenset[str]:
    found = [table.rolls.curve, table.nothing_curve if table.rule == "pick" else None]
    for line in table.lines:
        found += [line.curve, *(given.quantity.curve for given in line.yields)]
    return frozenset(name for name in found if name is not None)


def _yields_into(form: Form, at: int, line: BaseLine) -> None:
    for given in line.yields:
        match given.what:
            case View() as link:
                form.links.append((at, link, given.quantity))
            case Pool() as pool:
                form.pools.append((at, pool, given.quantity))
            case ItemNamed(item):
                form.items.append((at, item, given.quantity))


def _is_plain(line: BaseLine) -> bool:
    given = line.yields
    return len(given) == 1 and given[0].item is not None and given[0].quantity.curve is None


def _may_have_tier(line: BaseLine) -> bool:
    """It yields an item or a pool, and no pool of several tiers."""
    pools = [one.pool for one in line.yields if one.pool is not None]
    items = [one.item for one in line.yields if one.item is not None]
    return bool(items or pools) and all(len(set(pool.tiers)) == 1 for pool in pools)


def small_law(quantity: Quantity) -> AnyLaw | None:
    """The law of a quantity that is a short range, the same at all depths; None of any other."""
    if quantity.curve is not None or quantity.dice is not None or quantity.min is None:
        return None
    most = quantity.min if quantity.max is None else quantity.max
    return fixed_law(quantity) if most - quantity.min <= _SMALL else None


def fixed_law(quantity: Quantity) -> AnyLaw:
    """The law of a quantity as it is entered, whatever its curve."""
    same = (quantity.min, quantity.max, quantity.step, quantity.dice)
    return RESULTS.get(("law", *same, None), lambda: law_of(quantity))


form_of: OfPart[Table, Form] = OfPart(_form)
