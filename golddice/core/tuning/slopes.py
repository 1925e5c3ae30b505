"""How a figure moves with every number: the derivatives noted on a tape, brought to the numbers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.curves import multiplier
from golddice.core.game.finding import by_id
from golddice.core.game.models import Curve, Game, Source
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import in_order, part_of
from golddice.core.tuning.along_routes import views_on
from golddice.core.tuning.elsewhere import stock_of
from golddice.core.tuning.flow import Noted
from golddice.core.tuning.numbers import Number
from golddice.core.tuning.tape import Node

_STEP = 1e-5


def slopes(noted: Noted, figure: Node, numbers: Sequence[Number]) -> FloatArray:
    """By how much a figure moves with a step of each number (`Number.moved`), shape (numbers, d). Numbers
    must be among those that `is_smooth`."""
    way = _WayBack(noted, figure, numbers)
    return np.array([way.by(number) for number in numbers]).reshape(len(numbers), noted.under.depths.size)


def touched(under: Conditions, view: View) -> set[tuple[str, str]]:
    """The tables, sources and curves whose numbers an event rests on, as (of, id)."""
    found: set[tuple[str, str]] = set()
    tiers = {tier.id: tier.curve for tier in under.game.tiers}
    for one in in_order(under, [view]):
        found.add((one.kind, one.id))
        part = part_of(under, one)
        if isinstance(part, Source):
            names = [name for drop in part.drops for name in (drop.curve, drop.times.curve)]
        else:
            names = [part.rolls.curve, getattr(part, "nothing_curve", None)]
            for line in part.lines:
                names += [line.curve, tiers.get(under.catalogue.line_tier(line) or "")]
                names += [given.quantity.curve for given in line.yields]
                if any(given.pool is not None for given in line.yields):
                    names += tiers.values()
        found |= {("curve", name) for name in names if name is not None}
    return found


def touched_by(under: Conditions, target: Target) -> set[tuple[str, str]]:
    """Those that a target's figure rests on."""
    if target.is_elsewhere:
        return touched(under, stock_of(under.game, target))
    if target.route is None:
        return touched(under, target.view)
    return set().union(*(touched(under, view) for view in views_on(under.game, target.route)))


def curves_of_quantities(game: Game) -> set[str]:
    """Curves that make other quantities: what these give is no smooth formula of a curve's points."""
    names = [table.rolls.curve for table in game.tables]
    names += [given.quantity.curve for table in game.tables for line in table.lines for given in line.yields]
    names += [drop.times.curve for source in game.sources for drop in source.drops]
    return {name for name in names if name is not None}


def is_smooth(number: Number, rough_curves: set[str]) -> bool:
    """Whether a figure that is noted has its derivative by this number on the tape."""
    if number.sort in ("weight", "chance", "nothing"):
        return True
    return number.sort == "point" and number.id not in rough_curves


def is_felt(under: Conditions, number: Number, where: BoolArray) -> bool:
    """Whether anything at these depths is another with another number: a point of a curve makes a difference
    only near its depth."""
    if number.of != "curve":
        return True
    curve, depths = by_id(under.game.curves, number.id), under.depths[where]
    return bool((multiplier(_with_point(curve, number, _STEP), depths) != multiplier(curve, depths)).any())


class _WayBack:
    """The derivatives of one figure by where numbers enter, each times what stands there."""

    def __init__(self, noted: Noted, figure: Node, numbers: Sequence[Number]) -> None:
        self._under, self._leaves = noted.under, noted.leaves
        anywhere = any(number.of == "curve" for number in numbers)
        nodes = noted.leaves.all() if anywhere else noted.leaves.of({number.id for number in numbers})
        back = noted.tape.back(figure, nodes)
        self._lean = {id(node): part * node.value for node, part in zip(nodes, back, strict=True)}
        self._flat = np.zeros(self._under.depths.size)
        self._curves: dict[str, FloatArray] = {}

    def by(self, number: Number) -> FloatArray:
        """Shape (d,)."""
        if number.of == "curve":
            return np.asarray(self._of_curve(number.id) * self._share_of_point(number))
        if number.of == "source":
            if number.id not in self._leaves.drops:
                return self._flat
            drops = self._under.source(number.id).drops
            at = next(at for at, drop in enumerate(drops) if drop.id == number.part)
            return np.asarray(self._open(self._leaves.drops[number.id])[at] * (1.0 - number.value))
        if number.id not in self._under.tables:
            return self._flat
        if number.sort == "nothing":
            return self._of(self._leaves.nothing.get(number.id))
        at = self._row(number)
        if number.sort == "weight":
            node = self._leaves.weights.get(number.id)
            return self._flat if node is None else self._of(node)[at]
        node = self._leaves.chances.get(number.id)
        return self._flat if node is None else self._open(node)[at] * (1.0 - number.value)

    def _row(self, number: Number) -> int:
        lines = self._under.table(number.id).lines
        return next(at for at, line in enumerate(lines) if line.id == number.part)

    def _of(self, node: Node | None) -> FloatArray:
        return self._flat if node is None else self._lean[id(node)]

    def _open(self, node: Node) -> FloatArray:
        """Of chances: none where it is 1 already and a curve would only push it further."""
        return np.where(node.value < 1.0, self._lean[id(node)], 0.0)

    # --- curves ------------------------------------------------------------------------------------------

    def _of_curve(self, name: str) -> FloatArray:
        """By the logarithm of a curve's multiplier at each depth, wherever it stands; (d,)."""
        if name not in self._curves:
            self._curves[name] = self._everywhere(name)
        return self._curves[name]

    def _everywhere(self, name: str) -> FloatArray:
        under, total = self._under, self._flat.copy()
        tiers = {tier.id for tier in under.game.tiers if tier.curve == name}
        tables = {*self._leaves.weights, *self._leaves.chances}
        for table in sorted(tables):
            part = under.table(table)
            scaled = self._leaves.weights if part.rule == "pick" else self._leaves.chances
            rows = self._of(scaled[table]) if part.rule == "pick" else self._open(scaled[table])
            for at, line in enumerate(part.lines):
                times = (line.curve == name) + (under.catalogue.line_tier(line) in tiers)
                total = total + times * rows[at]
            if part.rule == "pick" and part.nothing_curve == name:
                total = total + self._of(self._leaves.nothing[table])
        for source, node in self._leaves.drops.items():
            for at, drop in enumerate(under.source(source).drops):
                if drop.curve == name:
                    total = total + self._open(node)[at]
        for pool, node in self._leaves.pools.values():
            members = under.pool_items(pool)
            mine = [under.game.items[at].tier in tiers for at in members.tolist()]
            total = total + self._of(node)[np.array(mine, dtype=bool)].sum(axis=0)
        return np.asarray(total)

    def _share_of_point(self, number: Number) -> FloatArray:
        """d log multiplier / d log point, by depth; also of eased curves, which are of no simple form."""
        curve = by_id(self._under.game.curves, number.id)
        here = multiplier(curve, self._under.depths)
        up = multiplier(_with_point(curve, number, _STEP), self._under.depths)
        down = multiplier(_with_point(curve, number, -_STEP), self._under.depths)
        return np.divide(up - down, 2 * _STEP * here, out=np.zeros_like(here), where=here > 0)


def _with_point(curve: Curve, number: Number, step: float) -> Curve:
    """The same with one point moved, from where it stands."""
    depth = int(number.part)
    points = [(at, value * float(np.exp(step)) if at == depth else value) for at, value in curve.points]
    return curve.model_copy(update={"points": points})
