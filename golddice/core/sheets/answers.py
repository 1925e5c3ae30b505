"""The way back: from an answer that a designer types to the entry that makes it true."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Literal

from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.models import Game, Line, PickTable, Table
from golddice.core.game.views import View
from golddice.core.odds.event.rules import first_chances, retry_chances, roll_chances
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.terms.conditions import Conditions

Answer = Literal["chance", "one_in", "per_100"]
_DIGITS = 12


def table_answering(
    game: Game,
    view: View,
    table: str,
    line: str,
    answer: Answer,
    wanted: float,
    *,
    depth: int,
    flags: Iterable[str] = (),
) -> Table:
    """The table with one line's weight (pick) or chance (other rules) set so that the answer holds.

    In a pick, pinned lines keep their chances too; their weights follow.

    `chance`: of the line in one roll, 0 to 1. `one_in`: events of the view for one, at least 1.
    `per_100`: units per 100 events of the view. The other lines keep what was entered, so in a pick
    they keep their proportions. Raises QueryError, with the range that can be had, where no entry
    can make the answer true.
    """
    if not math.isfinite(wanted) or wanted < 0:
        raise QueryError("an answer is a number, 0 or more")
    sheet = SheetOdds(game, view, depth, flags)
    found = sheet.under.table(table)
    place = next((at for at, entry in enumerate(found.lines) if entry.id == line), None)
    if place is None:
        raise UnknownThing("line", line)
    chance = _roll_chance(sheet, game, found, place, answer, wanted)
    return _with_chance(found, place, chance, sheet.under)


def _roll_chance(
    sheet: SheetOdds, game: Game, table: Table, place: int, answer: Answer, wanted: float
) -> float:
    """The chance in one roll that the answer asks for."""
    if answer == "chance":
        if wanted > 1:
            raise QueryError("a chance is at most 100 %")
        return wanted
    line = table.lines[place]
    now = float(roll_chances(table, sheet.under)[0][place, 0])
    hits = sheet.prospect.mean(sheet.columns.line_hits(table.id, line.id))
    if now <= 0 or hits <= 0:
        raise QueryError("this line never comes up here now; give it a weight first")
    if answer == "per_100":
        quantity = sheet.under.law(line.yields[0].quantity).mean[0] if line.yields else 1.0
        return wanted * now / (100.0 * hits * float(quantity))
    if wanted < 1:
        raise QueryError("one in how many is at least 1")
    return _chance_for_wait(sheet, game, table, place, 1.0 / wanted)


def _chance_for_wait(sheet: SheetOdds, game: Game, table: Table, place: int, p_any: float) -> float:
    """The chance in one roll at which the line comes up in an event with chance p_any.

    The event's chance rises with the roll's, so a bracketing root finder cannot miss; it works on
    logarithms because both can be tiny.
    """
    top = _highest_chance(table, place, sheet.under)
    column = sheet.columns.line_hits(table.id, table.lines[place].id)

    def reached(chance: float) -> float:
        tried = _replaced(game, _with_chance(table, place, chance, sheet.under))
        again = SheetOdds(tried, sheet.view, int(sheet.under.depths[0]), sheet.under.flags)
        return again.prospect.hit(column)

    most = reached(top)
    if p_any > most:
        raise QueryError(f"at most 1 in {1 / most:.4g} can be had here: the table is not rolled often enough")
    if most - p_any <= 1e-14 * most:
        return top
    return _root(reached, p_any, top)


def _root(reached: Callable[[float], float], p_any: float, top: float) -> float:
    def off(log_chance: float) -> float:
        value = reached(math.exp(log_chance))
        return math.log(value) - math.log(p_any) if value > 0 else -math.inf

    low = math.log(top)
    while off(low) > 0:  # the event's chance is at most proportional to the roll's times rolls
        low -= 3.0
    return math.exp(_zero_of(off, low, math.log(top), 1e-13))


def _highest_chance(table: Table, place: int, under: Conditions) -> float:
    """The largest chance in one roll that this line's entry can reach."""
    if table.rule == "pick":
        pinned, rest = _pinned(table, place, under)
        return 1.0 - sum(pinned.values()) - (0.0 if rest <= 0 else 1e-9)
    if table.rule == "each":
        return 1.0
    chances = under.chances(table).copy()
    chances[place] = 1.0
    if table.rule == "first":
        return float(first_chances(chances)[0][place, 0])
    if table.rule == "retry":
        return float(retry_chances(under.weights(table), chances, table.tries)[0][place, 0])
    raise QueryError("a deck's chances follow from its copies; change those")


def _with_chance(table: Table, place: int, chance: float, under: Conditions) -> Table:
    """The table with one line entered so that its chance in one roll is this."""
    line = table.lines[place]
    if not bool(under.line_open(line)[0]):
        raise QueryError("this line is closed at this depth")
    top = _highest_chance(table, place, under)
    if chance > top * (1 + 1e-12):
        pinned = isinstance(table, PickTable) and any(one.pinned for one in table.lines if one is not line)
        why = ": the pinned lines keep theirs" if pinned else ""
        raise QueryError(f"at most {100 * top:.4g} % a roll can be had here{why}")
    factor = float(under.line_multiplier(line)[0])
    if isinstance(table, PickTable):
        return _with_weights(table, _weights(table, place, chance, under), under)
    if table.rule == "each":
        return _with_entry(table, place, chance=min(1.0, chance / factor))
    if table.rule == "first":
        before = float(first_chances(under.chances(table)[:place])[1][0])
        return _with_entry(table, place, chance=min(1.0, chance / before / factor))
    return _with_entry(table, place, chance=_retry_entry(table, place, chance, under) / factor)


def _pinned(table: PickTable, place: int, under: Conditions) -> tuple[dict[int, float], float]:
    """The chances that other pinned lines keep, by place, and the weight of all that gives way."""
    weights = under.weights(table)[:, 0]
    chances = roll_chances(table, under)[0][:, 0]
    every = enumerate(table.lines)
    pinned = {at: float(chances[at]) for at, line in every if line.pinned and at != place}
    held = sum(float(weights[at]) for at in pinned)
    return pinned, float(weights.sum() - weights[place] - held + under.nothing(table)[0])


def _weights(table: PickTable, place: int, chance: float, under: Conditions) -> dict[int, float]:
    """The weights at depth of the line and of what is pinned, so that it has the chance and they keep
    theirs: w = p T, where T = (all that gives way) / (1 - p - what is pinned)."""
    pinned, rest = _pinned(table, place, under)
    left = 1.0 - chance - sum(pinned.values())
    if rest <= 0:
        if abs(left) > 1e-12:
            raise QueryError("there is nothing that could give way; add a weight of nothing, or unpin a line")
        return {}
    if left <= 0:
        raise QueryError("this leaves no chance for the others; set their weights to 0 instead")
    total = rest / left
    return {at: share * total for at, share in (*pinned.items(), (place, chance))}


def _with_weights(table: PickTable, weights: dict[int, float], under: Conditions) -> Table:
    """The table with weights entered that come to these at depth."""
    result: Table = table
    for at, weight in weights.items():
        factor = float(under.line_multiplier(table.lines[at])[0])
        if factor > 0:
            result = _with_entry(result, at, weight=weight / factor)
    return result


def _retry_entry(table: Table, place: int, chance: float, under: Conditions) -> float:
    """The line's own chance in a retry, by a root finder: its share of the tries rises with it."""
    assert table.rule == "retry"
    weights, chances, tries = under.weights(table), under.chances(table).copy(), table.tries

    def off(entry: float) -> float:
        chances[place] = entry
        return float(retry_chances(weights, chances, tries)[0][place, 0]) - chance

    if off(1.0) <= 0:
        return 1.0
    return _zero_of(off, 0.0, 1.0, 1e-15)


def _with_entry(table: Table, place: int, **entry: float) -> Table:
    rounded = {key: _shortest(value) for key, value in entry.items()}
    lines: list[Line] = list(table.lines)
    lines[place] = lines[place].model_copy(update=rounded)
    return table.model_copy(update={"lines": lines})


def _shortest(value: float) -> float:
    """12 significant digits: far below what shows, and 0.1 does not become 0.10000000000000002."""
    return float(f"{value:.{_DIGITS}g}")


def _replaced(game: Game, table: Table) -> Game:
    tables = [table if entry.id == table.id else entry for entry in game.tables]
    return game.model_copy(update={"tables": tables})


def _zero_of(off: Callable[[float], float], low: float, high: float, close: float) -> float:
    """Where it is 0, by Brent's method."""
    # Loaded when it is first needed: it would take a third of a second of every start.
    from scipy.optimize import brentq

    return float(brentq(off, low, high, xtol=close, rtol=1e-13))
