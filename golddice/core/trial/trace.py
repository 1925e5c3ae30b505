"""Traces: every decision of a roll, in order, in numbers and in words."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.saying import line_name
from golddice.core.game.views import View
from golddice.core.stopping import Stop
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.laid import laid_out
from golddice.core.terms.size import executions
from golddice.core.terms.stops import is_laid
from golddice.core.trial import notes as n
from golddice.core.trial import program as p
from golddice.core.trial.compiling import Compiled, compiled
from golddice.core.trial.holdings import Held, holdings
from golddice.core.trial.keeps import BARE
from golddice.core.trial.notes import new_trace
from golddice.core.trial.playing import Unit, played_with_trace
from golddice.core.trial.route import Course, RouteUnit

REFUSED = 0  # the number of what is no event, since it was not paid for
MOST_TRACED_EVENTS = 10_000
MOST_NOTES = 200_000
MOST_ROLLED = 100_000_000  # rolls of tables in all events together, at the most


_KEPT_KINDS = {
    n.N_LOST: "lost",
    n.N_OUT: "missed",
    n.N_LEFT: "left",
    n.N_WORN: "worn",
    n.N_SET: "set",
    n.N_PAID: "paid",
    n.N_REFUSED: "refused",
}


@dataclass
class EventTrace:
    """One event: what came of it and how.

    `stop` is the number of the stop, on a route; `event` is negative for what an encounter itself gives, and
    0 for a purchase that was refused.
    `received` is (item id, count) in order. `steps` are dictionaries, each with a `kind` and a
    `text` that reads as prose. Of an event that has more steps than are noted, the last says so.
    """

    event: int
    stop: int | None = None
    value: float = 0.0
    received: list[tuple[str, int]] = field(default_factory=list)
    steps: list[dict[str, Any]] = field(default_factory=list)


@dataclass(frozen=True)
class Rolled:
    """Events of one player.

    `events` are those asked for, as far as they were noted; `counts` and `value` what the player has
    received from the first event of all to the last, by item id; `held` what they carry then.
    """

    events: list[EventTrace]
    held: list[Held]
    counts: dict[str, int]
    value: float


def rolled(
    game: Game,
    view: View,
    *,
    depth: int,
    seed: int,
    player: int = 0,
    first: int = 1,
    count: int = 1,
    flags: tuple[str, ...] = (),
    stop: Stop | None = None,
) -> Rolled:
    """Events `first` to `first + count - 1` of one player, with every decision, up to MOST_NOTES.

    The events before are played too, since what a player carries depends on them. Raises QueryError,
    TooLarge.
    """
    if first < 1 or count < 1 or first + count - 1 > MOST_TRACED_EVENTS:
        raise QueryError(f"events 1 to {MOST_TRACED_EVENTS:,} of a player can be traced")
    under = Conditions(game, [depth], flags)
    program = compiled(under, view, BARE)
    last = first + count - 1
    if last * executions(under, view) > MOST_ROLLED:
        raise TooLarge(
            f"{last:,} events that may roll tables {executions(under, view):,} times each; "
            f"the limit is {MOST_ROLLED:,} in all. Roll fewer"
        )
    unit = Unit.of(program, seed, player, 1, last)
    bags, trace, state = played_with_trace(unit, first, MOST_NOTES, stop)
    noted = min(int(trace[0, n.COUNT]), MOST_NOTES)
    events = _Reader(game, program).read(trace[1 : noted + 1])
    if noted < int(trace[0, n.COUNT]) and events:
        text = f"more than {MOST_NOTES:,} steps; the rest was rolled, and is not told"
        events[-1].steps.append({"kind": "stopped", "text": text})
    items = [game.items[at].id for at in program.items]
    counts = dict(zip(items, bags.counts[0].tolist(), strict=True))
    return Rolled(events, holdings(game, program, state), counts, float(bags.value[0]))


def replayed(
    course: Course,
    game: Game,
    *,
    seed: int,
    player: int,
    first: int = 1,
    count: int = 1,
    stop: Stop | None = None,
) -> Rolled:
    """The same of a player on a route: events and, with negative numbers, encounters of visits, each with the
    number of its stop. What a player carries is not told."""
    if first < 1 or count < 1 or first + count - 1 > MOST_TRACED_EVENTS:
        raise QueryError(f"events 1 to {MOST_TRACED_EVENTS:,} of a player can be traced")
    program, trace = course.any, new_trace(MOST_NOTES, first)
    if program is None:
        return Rolled([], [], {}, 0.0)
    ends: list[int] = []
    unit = RouteUnit(course, seed, player, 1)
    bags = unit.traced(trace, lambda: ends.append(int(trace[0, n.COUNT])), first + count - 1, stop)
    noted = min(int(trace[0, n.COUNT]), MOST_NOTES)
    reader, events, start = _Reader(laid_out(game, course.stops).game, program), [], 0
    for at, end in enumerate(ends):
        own = course.programs[at]
        is_visit = course.stops[at].doing == "visits"
        reader.root = -1 if is_visit or own is None else own.root
        for one in reader.read(trace[start + 1 : min(end, noted) + 1]):
            if one.event < first + count and (one.event > 0 or one.received or one.event == REFUSED):
                one.stop = at
                events.append(one)
        start = min(end, noted)
    items = [game.items[at].id for at in program.items]
    counts = dict(zip(items, bags.counts[0].tolist(), strict=True))
    return Rolled(events, [], counts, float(bags.value[0]))


class _Reader:
    """Turns the kernel's notes into events and steps."""

    def __init__(self, game: Game, program: Compiled) -> None:
        self.game, self.program = game, program
        self.root = program.root if program.root_kind == p.SOURCE else -1  # the source that everyone knows of
        self.tables = {table.id: table for table in game.tables}
        self.sources = {source.id: source for source in game.sources}
        self.items = {item.id: item.name for item in game.items}
        self._names: dict[int, str] = {}

    def read(self, notes: FloatArray) -> list[EventTrace]:
        """Split where events begin."""
        events: list[EventTrace] = []
        for note in notes:
            if int(note[0]) == n.N_BEGINS:
                events.append(EventTrace(event=int(note[1])))
            elif int(note[0]) == n.N_REFUSED:
                events.append(EventTrace(event=REFUSED))
                self._step(events[-1], note)
            else:
                self._step(events[-1], note)
        return events

    def _step(self, event: EventTrace, note: FloatArray) -> None:
        kind, row, line = (int(part) for part in note[:3])
        number, low, high, extra = (float(part) for part in note[3:])
        if kind == n.N_ITEM:
            item = self.game.items[row]
            event.received.append((item.id, int(extra)))
            event.value += item.value * extra
            event.steps.append(
                {
                    "kind": "item",
                    "item": item.id,
                    "count": int(extra),
                    "text": self._items(row, extra),
                }
            )
            return
        step = self._worded(kind, row, line, number, low, high, extra)
        if step is not None:
            event.steps.append(step)

    def _items(self, row: int, count: float) -> str:
        name = self.game.items[row].name
        return name if count == 1 else f"{name} ×{int(count)}"

    def _worded(
        self, kind: int, row: int, line: int, number: float, low: float, high: float, extra: float
    ) -> dict[str, Any] | None:
        """One step in words; None for what needs no words (a single roll, a single time)."""
        if kind == n.N_DROP:
            return self._drop(row, number, low, high, extra)
        if kind == n.N_PICK:
            return self._pick(row, line, number, low, high)
        if kind == n.N_TEST:
            return self._test(line, number, high, extra)
        if kind == n.N_CARD:
            text = f"draws one of {int(high)} cards: {self._line(line)}, {int(low)} left of it"
            return {"kind": "card", **self._place(line), "number": number, "text": text}
        if kind == n.N_DUE:
            return {"kind": "due", **self._place(line), "text": f"{self._line(line)} is due"}
        if kind == n.N_ROLLS:
            table = self.tables[self.program.tables[row]]
            text = f"{table.name} is {'set out' if is_laid(table.id) else 'rolled'} {_times(extra)}"
            return {"kind": "rolls", "table": table.id, "count": int(extra), "text": text}
        if kind == n.N_NONE:
            return {"kind": "none", "table": self.program.tables[row], "text": "nothing"}
        if kind == n.N_QUANTITY:
            return {
                "kind": "quantity",
                **self._place(line),
                "text": f"{self._line(line)}, none of it",
            }
        if kind == n.N_MISSES:
            text = f"{self._line(line)}{_in_a_row(low, extra)}"
            return {"kind": "misses", **self._place(line), "count": int(low), "text": text}
        if kind == n.N_GIVES:
            text = f"gives {self._line(line)}{'' if extra == 1 else f', {int(extra)} times'}"
            return {"kind": "gives", **self._place(line), "count": int(extra), "text": text}
        if kind in _KEPT_KINDS:
            return self._kept(kind, row, line, low, high, extra)
        if kind == n.N_EVENT and row != self.root:
            name = self.sources[self.program.sources[row]].name
            return {"kind": "event", "source": self.program.sources[row], "text": f"meets {name}"}
        return None

    def _kept(self, kind: int, row: int, line: int, low: float, high: float, extra: float) -> dict[str, Any]:
        """What became of something that was received, or of a purchase."""
        if kind == n.N_SET:
            one = self.game.sets[self.program.keeps.sets[row]]
            return {"kind": "set", "text": f"{one.name} is complete"}
        if kind in (n.N_PAID, n.N_REFUSED):
            return self._bought(kind, row, low, high, extra)
        item = self.game.items[row]
        found: dict[str, Any] = {"kind": _KEPT_KINDS[kind], "item": item.id, "count": int(extra)}
        if kind == n.N_WORN:
            instead = "" if line < 0 else f" instead of {self.game.items[line].name}, {_score(high)}"
            return found | {"text": f"{item.name} is worn{instead}: {_score(low)}", "score": low}
        what = self._items(row, extra)
        if kind == n.N_LOST:
            holder = self.sources[self.program.sources[line]].name
            return found | {"text": f"{what} does not fit into {holder}; lost"}
        if kind == n.N_LEFT:
            text = f"{what} does not fit, {int(low)} of {int(high)} cells in use; left behind"
            return found | {"text": text}
        why = "gone before it was picked up" if low else "out of reach"
        return found | {"text": f"{what} {why}"}

    def _bought(self, kind: int, row: int, low: float, high: float, extra: float) -> dict[str, Any]:
        source = self.sources[self.program.sources[row]]
        assert source.price is not None
        money = self.items[source.price.item]
        if kind == n.N_PAID:
            text = f"pays {int(extra)} {money} for {source.name}; {int(low)} left"
            return {"kind": "paid", "source": source.id, "count": int(extra), "text": text}
        times = "" if extra == 1 else f", {int(extra)} times"
        text = f"{source.name} is refused{times}: {int(low)} of {int(high)} {money}"
        return {"kind": "refused", "source": source.id, "count": int(extra), "text": text}

    def _drop(self, row: int, number: float, misses: float, chance: float, hit: float) -> dict[str, Any]:
        source, at = self.program.drops[row]
        drop = self.sources[source].drops[at]
        verdict = "hit" if hit else "miss"
        drawn = _drawn(number, chance, certain="always")
        text = f"{drawn}: {verdict}, {self.tables[drop.table].name}"
        if misses >= 0:
            text += _in_a_row(misses, hit)
        return {
            "kind": "drop",
            "source": source,
            "drop": drop.id,
            "number": number if number >= 0 else None,
            "chance": chance,
            "hit": bool(hit),
            "text": text,
        }

    def _pick(self, row: int, line: int, number: float, low: float, high: float) -> dict[str, Any]:
        what = self._line(line) if line >= 0 else "nothing"
        place = self._place(line) if line >= 0 else {"table": self.program.tables[row], "line": None}
        text = f"{number:.4f} lies in {low:.4f} to {high:.4f}: {what}"
        return {"kind": "pick", **place, "number": number, "from": low, "to": high, "text": text}

    def _test(self, line: int, number: float, chance: float, hit: float) -> dict[str, Any]:
        verdict = "hit" if hit else "miss"
        text = f"{_drawn(number, chance, certain='always')}: {verdict}, {self._line(line)}"
        return {
            "kind": "test",
            **self._place(line),
            "number": number if number >= 0 else None,
            "chance": chance,
            "hit": bool(hit),
            "text": text,
        }

    def _place(self, line: int) -> dict[str, Any]:
        table, at = self.program.lines[line]
        return {"table": table, "line": self.tables[table].lines[at].id}

    def _line(self, line: int) -> str:
        """A line by what it gives."""
        table, at = self.program.lines[line]
        if line not in self._names:
            self._names[line] = line_name(self.game, self.tables[table].lines[at])
        return self._names[line]


def _score(score: float) -> str:
    return f"scores {score:.4g}"


def _in_a_row(misses: float, hit: float) -> str:
    """What a guard counted: the misses before this roll, or with it."""
    if hit:
        return f", after {int(misses)} without" if misses else ""
    return f", {int(misses) + 1} in a row without"


def _times(count: float) -> str:
    return {0: "not at all", 1: "once", 2: "twice"}.get(int(count), f"{int(count)} times")


def _drawn(number: float, chance: float, certain: str) -> str:
    if number < 0:
        return certain if chance >= 1 else "never"
    return f"{number:.4f} against {chance:.4g}"
