"""Places on a route as tables: emptying one is one execution of a table that gives all that lies there.

Where every spot rolls by itself it rolls what may lie there. Where numbers are fixed, how many of each line
find a spot is drawn from all ways in which they may be set out, each with its chance; or, where these are too
many, from some thousands that were drawn.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.errors import TooLarge
from golddice.core.game.models import (
    BaseLine,
    ChanceLine,
    EachTable,
    Game,
    PickLine,
    PickTable,
    Table,
    Yield,
)
from golddice.core.game.places import Place
from golddice.core.game.quantity import Quantity
from golddice.core.game.saying import line_name
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.shares import Free, Turn, order_of, set_out_by_line, units_of
from golddice.core.terms.places.spots import Spots, place_of
from golddice.core.terms.stops import Stop, laid_name

MOST_WAYS = 2_000
_MOST_STEPS = 20_000
_DRAWN = 4_000
_SEED = 20_417

States = dict[tuple[Free, tuple[int, ...]], float]
Ways = dict[tuple[int, ...], float]  # how many of each line are placed, and the chance of that


@dataclass(frozen=True)
class Laid:
    """A game with tables for all places that are emptied at some stops; `rough` are names of places of which
    the ways to set them out were too many and are those of some thousand that were drawn."""

    game: Game
    rough: Sequence[str] = ()


def laid_out(game: Game, stops: Sequence[Stop]) -> Laid:
    """Raises UnknownThing."""
    tables: dict[str, Table] = {}
    rough: dict[str, None] = {}
    for stop in stops:
        if stop.leg.place is None or stop.view is None or stop.view.id in tables:
            continue
        place = place_of(game, stop.leg.place)
        made, is_rough = _tables(Spots(Conditions(game, [stop.depth], stop.flags), place), stop)
        tables |= {table.id: table for table in made}
        if is_rough:
            rough[place.name] = None
    if not tables:
        return Laid(game)
    return Laid(game.model_copy(update={"tables": [*game.tables, *tables.values()]}), tuple(rough))


def _tables(spots: Spots, stop: Stop) -> tuple[list[Table], bool]:
    name = laid_name(spots.place, stop.depth, stop.flags)
    if spots.place.way == "each-rolls":
        return list(_rolling(spots, name)), False
    ways, is_rough = ways_of(spots)
    return list(_setting(spots, name, ways)), is_rough


# --- every spot by itself --------------------------------------------------------------------------------


def _rolling(spots: Spots, name: str) -> Iterator[Table]:
    """Spots at which the same may lie roll the same table; each is filled or not before."""
    place, filled = spots.place, float(spots.place.filled)  # type: ignore[arg-type]
    alike: dict[tuple[bool, ...], int] = {}
    for row in spots.fitting.tolist():
        alike[tuple(row)] = alike.get(tuple(row), 0) + 1
    lines = []
    for at, (fits, many) in enumerate(alike.items()):
        inner, outer = f"{name} lies {at}", f"{name} spot {at}"
        may = [_bare(line) for line, fit in zip(spots.stock.lines, fits, strict=True) if fit]
        stock = spots.stock
        yield PickTable.model_construct(
            id=inner,
            name=place.name,
            rule="pick",
            nothing=stock.nothing,
            nothing_curve=stock.nothing_curve,
            lines=may,
        )
        yield _each(outer, place, [("filled", filled, [_of_table(inner, 1)])])
        lines.append((f"spot {at}", 1.0, [_of_table(outer, many)]))
    yield _each(name, place, lines)


def _each(name: str, place: Place, lines: list[tuple[str, float, list[Yield]]]) -> EachTable:
    made = [ChanceLine.model_construct(id=line, chance=chance, yields=given) for line, chance, given in lines]
    return EachTable.model_construct(id=name, name=place.name, rule="each", lines=made)


def _bare(line: PickLine) -> PickLine:
    """Limits and guards of the stock play no part (P15)."""
    return line.model_copy(update={"limit": None, "guard": None})


def _of_table(name: str, many: int) -> Yield:
    return Yield.model_construct(table=name, quantity=Quantity(min=many, max=many))


# --- numbers that are fixed ------------------------------------------------------------------------------


def _setting(spots: Spots, name: str, ways: Ways) -> Iterator[Table]:
    names = {at: line_name(spots.under.game, line) for at, line in enumerate(spots.stock.lines)}
    lots = {at: f"{name} lot {line.id}" for at, line in enumerate(spots.stock.lines) if line.yields}
    for at, lot in lots.items():
        line: BaseLine = spots.stock.lines[at]
        alone = PickLine.model_construct(id=line.id, weight=1.0, yields=line.yields)
        yield PickTable.model_construct(id=lot, name=names[at], rule="pick", lines=[alone])
    lines = [
        PickLine.model_construct(
            id=f"way {at}",
            weight=chance,
            yields=[_of_table(lots[line], many) for line, many in enumerate(way) if many and line in lots],
        )
        for at, (way, chance) in enumerate(ways.items())
    ]
    yield PickTable.model_construct(id=name, name=spots.place.name, rule="pick", lines=lines)


def ways_of(spots: Spots) -> tuple[Ways, bool]:
    """How many of each line find a spot, jointly, (l,) with its chance; and whether that is of drawn
    settings-out only."""
    units = units_of(spots)
    found = _all_ways(spots, units)
    return (_drawn_ways(spots, units), True) if found is None else (found, False)


def _all_ways(spots: Spots, units: list[int]) -> Ways | None:
    """None of too many."""

    def turn(now: Turn, states: States) -> Iterator[tuple[Free, tuple[int, ...], float, int]]:
        for (free, placed), chance in states.items():
            many = now.placed(free)
            yield free, tuple(many if at == now.line else one for at, one in enumerate(placed)), chance, many

    try:
        states = set_out_by_line(spots, units, ((0,) * len(units), 1.0), turn, _MOST_STEPS)
    except TooLarge:
        return None
    found: Ways = {}
    for (_, placed), chance in states.items():
        found[placed] = found.get(placed, 0.0) + chance
    return found if len(found) <= MOST_WAYS else None


def _drawn_ways(spots: Spots, units: list[int]) -> Ways:
    draw, found = np.random.default_rng(_SEED), dict[tuple[int, ...], float]()
    allowed, order = spots.allowed, [line for line in order_of(spots) if units[line] > 0]
    for _ in range(_DRAWN):
        go_on()
        free, placed = np.ones(allowed.shape[0], dtype=bool), [0] * len(units)
        for line in order:
            here = (free & allowed[:, line]).nonzero()[0]
            placed[line] = min(units[line], here.size)
            free[draw.permutation(here)[: placed[line]]] = False
        found[tuple(placed)] = found.get(tuple(placed), 0.0) + 1 / _DRAWN
    return found
