"""The numbers of a game that may move: what they are called, how they move, and a game with others."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from golddice.core.errors import QueryError
from golddice.core.game.kin import followed, is_stated
from golddice.core.game.models import BaseLine, Curve, Drop, Game, Guard, Source, Table
from golddice.core.game.quantity import Quantity
from golddice.core.game.reading import plain

Sort = Literal["weight", "chance", "nothing", "point", "rise", "after", "sure-at", "least", "most", "copies"]
WHOLE: frozenset[Sort] = frozenset({"after", "sure-at", "least", "most", "copies"})
CHANCES: frozenset[Sort] = frozenset({"chance"})
FARTHEST = 12.0  # by which a logarithm or log-odds may move


@dataclass(frozen=True)
class Number:
    """One number.

    of : the table, source or curve that it is in. part : the line or drop, "" for a table's own number; of a
    curve the depth of the point. at : which of a line's yields, -1 for what is not of a yield.
    """

    sort: Sort
    of: Literal["table", "source", "curve"]
    id: str
    part: str
    value: float
    at: int = -1

    @property
    def where(self) -> str:
        """`TABLE/LINE/weight`, `TABLE/nothing`, `SOURCE/DROP/chance`, `CURVE@DEPTH`."""
        if self.of == "curve":
            return f"{self.id}@{self.part}"
        more = self.sort if self.at < 0 else f"{self.sort}-{self.at + 1}" if self.at else str(self.sort)
        return "/".join(part for part in (self.id, self.part, more) if part)

    @property
    def is_whole(self) -> bool:
        return self.sort in WHOLE

    def moved(self, step: float) -> float:
        """The number after a step: of its logarithm, of a chance's log-odds. A whole number goes to the next
        one there is; 0 counts as a half, from where a ratio leads on."""
        if step == 0.0:
            return self.value
        if self.is_whole:
            return float(max(_least(self.sort), round(max(self.value, 0.5) * math.exp(step) - 1e-9)))
        if self.sort not in CHANCES:
            return self.value * math.exp(step)
        odds = math.log(self.value / (1.0 - self.value)) + step
        return 1.0 / (1.0 + math.exp(-odds))

    def step_to(self, value: float) -> float:
        """The step that leads there."""
        if self.is_whole:
            return math.log(max(value, 0.5) / max(self.value, 0.5))
        if self.sort not in CHANCES:
            return math.log(value / self.value)
        return math.log(value / (1.0 - value)) - math.log(self.value / (1.0 - self.value))

    def change(self, value: float) -> float:
        """How large a change to this value is: the logarithm of its ratio, of the odds for a chance."""
        return 0.0 if value == self.value else self.step_to(value)

    @property
    def can_move(self) -> bool:
        """Not 0, from where no ratio leads away, and of a chance not 1 either."""
        if self.is_whole:
            return True
        return self.value > 0.0 and (self.sort not in CHANCES or self.value < 1.0)


def _least(sort: Sort) -> int:
    return 1 if sort in ("sure-at", "copies", "most") else 0


def numbers_of(game: Game) -> list[Number]:
    """Every number of a game that can be moved, in file order; pinned ones aside."""
    found: list[Number] = []
    for table in game.tables:
        found += _of_table(table)
    for source in game.sources:
        for drop in source.drops:
            if is_stated(source, drop, "chance"):
                found.append(Number("chance", "source", source.id, drop.id, drop.chance))
            if is_stated(source, drop, "times"):
                found += _of_quantity(drop.times, "source", source.id, drop.id, -1)
            if is_stated(source, drop, "guard"):
                found += _of_guard(drop.guard, "source", source.id, drop.id)
    for curve in game.curves:
        found += [Number("point", "curve", curve.id, str(depth), value) for depth, value in curve.points]
    return [number for number in found if number.can_move]


def _of_table(table: Table) -> Iterator[Number]:
    if table.rule == "pick":
        yield Number("nothing", "table", table.id, "", table.nothing)
    for line in table.lines:
        if getattr(line, "pinned", False):
            continue
        for sort in ("weight", "chance", "copies"):
            value = getattr(line, sort, None)
            if value is not None:
                yield Number(sort, "table", table.id, line.id, value)
        for at, given in enumerate(line.yields):
            yield from _of_quantity(given.quantity, "table", table.id, line.id, at)
        yield from _of_guard(line.guard, "table", table.id, line.id)


def _of_quantity(
    quantity: Quantity, of: Literal["table", "source"], owner: str, part: str, at: int
) -> Iterator[Number]:
    if quantity.dice is None and quantity.step == 1:
        yield Number("least", of, owner, part, quantity.least, max(at, 0))
        if quantity.most != quantity.least:
            yield Number("most", of, owner, part, quantity.most, max(at, 0))


def _of_guard(guard: Guard | None, of: Literal["table", "source"], owner: str, part: str) -> Iterator[Number]:
    if guard is None:
        return
    if guard.rise > 0:
        yield Number("rise", of, owner, part, guard.rise)
        yield Number("after", of, owner, part, guard.after)
    if guard.sure_at is not None:
        yield Number("sure-at", of, owner, part, guard.sure_at)


# --- a game with other numbers ---------------------------------------------------------------------------

Values = Mapping[Number, float]


def with_values(game: Game, values: Values) -> Game:
    """The game with these numbers; what they are not in is the very same."""
    by_owner: dict[tuple[str, str], dict[Number, float]] = {}
    for number, value in values.items():
        by_owner.setdefault((number.of, number.id), {})[number] = value
    if not by_owner:
        return game

    def each(kind: str, parts: Iterable[Any], changed: Any) -> list[Any]:
        return [
            changed(part, by_owner[(kind, part.id)]) if (kind, part.id) in by_owner else part
            for part in parts
        ]

    return game.model_copy(
        update={
            "tables": each("table", game.tables, _table_with),
            "sources": followed(each("source", game.sources, _source_with)),
            "curves": each("curve", game.curves, _curve_with),
        }
    )


def numbers_named(game: Game, wanted: Mapping[str, float]) -> dict[Number, float]:
    """Numbers by what they are called (`Number.where`), with what they shall be. Raises QueryError for one
    that is not there or cannot be that."""
    every = {number.where: number for number in numbers_of(game)}
    found: dict[Number, float] = {}
    for where, value in wanted.items():
        if where not in every:
            raise QueryError(f"there is no number “{where}” any more; ask again")
        number = every[where]
        if number.is_whole and value != int(value):
            raise QueryError(f"“{where}” is a whole number, not {value}")
        if number.sort in CHANCES and value > 1:
            raise QueryError(f"“{where}” is a chance, at most 1, not {value}")
        found[number] = value
    return found


def entities_with(game: Game, values: Values) -> list[tuple[str, Table | Source | Curve]]:
    """The tables, sources and curves that these numbers make others, each with its kind."""
    after = with_values(game, values)
    lists = (("table", game.tables, after.tables), ("source", game.sources, after.sources))
    pairs = [(kind, new, old) for kind, before, now in lists for old, new in zip(before, now, strict=True)]
    curves = [("curve", new, old) for old, new in zip(game.curves, after.curves, strict=True)]
    return [(kind, new) for kind, new, old in [*pairs, *curves] if new is not old and _is_own(new, old)]


def _is_own(new: Table | Source | Curve, old: Table | Source | Curve) -> bool:
    """Whether an entity's own numbers are others, and not only those that it takes from its family."""
    return not isinstance(new, Source) or new.like is None or plain(new) != plain(old)


def _table_with(table: Table, values: Values) -> Table:
    update: dict[str, Any] = {n.sort: value for n, value in values.items() if n.sort == "nothing"}
    mine = _by_part(values)
    update["lines"] = [_line_with(line, mine[line.id]) if line.id in mine else line for line in table.lines]
    return table.model_copy(update=update)


def _source_with(source: Source, values: Values) -> Source:
    mine = _by_part(values)
    drops = [_drop_with(drop, mine[drop.id]) if drop.id in mine else drop for drop in source.drops]
    return source.model_copy(update={"drops": drops})


def _curve_with(curve: Curve, values: Values) -> Curve:
    mine = {int(number.part): value for number, value in values.items()}
    return curve.model_copy(update={"points": [(at, mine.get(at, value)) for at, value in curve.points]})


def _line_with(line: BaseLine, values: Values) -> BaseLine:
    update = _plain(values) | _guard_with(line.guard, values)
    quantities = {n: value for n, value in values.items() if n.sort in ("least", "most")}
    if quantities:
        update["yields"] = [
            given.model_copy(update={"quantity": _quantity_with(given.quantity, quantities, at)})
            for at, given in enumerate(line.yields)
        ]
    return line.model_copy(update=update)


def _drop_with(drop: Drop, values: Values) -> Drop:
    quantities = {n: value for n, value in values.items() if n.sort in ("least", "most")}
    update = _plain(values) | _guard_with(drop.guard, values)
    if quantities:
        update["times"] = _quantity_with(drop.times, quantities, 0)
    return drop.model_copy(update=update)


def _plain(values: Values) -> dict[str, Any]:
    found: dict[str, Any] = {n.sort: value for n, value in values.items() if n.sort in ("weight", "chance")}
    return found | {n.sort: int(value) for n, value in values.items() if n.sort == "copies"}


def _guard_with(guard: Guard | None, values: Values) -> dict[str, Any]:
    names = {"rise": "rise", "after": "after", "sure-at": "sure_at"}
    mine: dict[str, Any] = {
        names[n.sort]: int(value) if n.is_whole else value for n, value in values.items() if n.sort in names
    }
    return {} if guard is None or not mine else {"guard": guard.model_copy(update=mine)}


def _quantity_with(quantity: Quantity, values: Values, at: int) -> Quantity:
    """Ends stay in order; where both are one number they move together."""
    mine = {number.sort: int(value) for number, value in values.items() if number.at == at}
    least = mine.get("least", quantity.least)
    most = mine.get("most", least if quantity.most == quantity.least else quantity.most)
    return quantity.model_copy(update={"min": min(least, most), "max": max(least, most)})


def _by_part(values: Values) -> dict[str, dict[Number, float]]:
    found: dict[str, dict[Number, float]] = {}
    for number, value in values.items():
        found.setdefault(number.part, {})[number] = value
    return found
