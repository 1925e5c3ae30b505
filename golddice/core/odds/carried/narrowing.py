"""What a figure does not rest on is not followed: where all that a player can come to is too much, less of it
is often enough, and exact.

- A column rests on what leads to it alone.
- Over some events nothing goes further than their rolls.
- A limit that a wait does not come to might not be there.
- In the long run a limit has been reached, or what it is on comes no more.
- A guard by itself is a renewal process (`renewal`).
"""

from __future__ import annotations

import math

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.finding import by_id
from golddice.core.game.models import Drop, Guard, Table
from golddice.core.game.views import View
from golddice.core.odds.carried.axes import (
    Axis,
    Key,
    Reach,
    exclusive_axes,
    is_due,
    risen,
    rising_size,
    tested_axes,
)
from golddice.core.odds.carried.columns import drop_columns, line_columns, view_columns
from golddice.core.odds.carried.group import MOST_DENSE, Group
from golddice.core.odds.carried.parts import LineOf
from golddice.core.odds.carried.renewal import MOST_STATES, Renewal
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome, Parts, mixture, nothing, with_mark
from golddice.core.results import RESULTS
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import most_rolls

_UNLIKELY = -60.0  # the logarithm of a streak that is not followed


# --- what a column rests on --------------------------------------------------------------------------------


def about(group: Group, column: int) -> Group:
    """The group with only what leads to a column, where all of it is too much."""
    if group.is_dense:
        return group
    keys = [key for key in group.keys if column in _reached(group, key)]
    return group if len(keys) == len(group.keys) else group.narrowed(keys)


def _reached(group: Group, key: Key) -> set[int]:
    """All columns that what is in a pocket leads to."""
    return RESULTS.get((*group.rests_on, "led to", key), lambda: _led_to(group.evaluator, key))


def _led_to(evaluator: Evaluator, key: Key) -> set[int]:
    if key[0] == "drop":
        source = evaluator.under.source(key[1])
        return drop_columns(evaluator, source, by_id(source.drops, key[2]))
    table = evaluator.under.table(key[1])
    if key[0] == "table":
        return view_columns(evaluator, View("table", table.id))
    return line_columns(evaluator, LineOf(table, _place(table, key[2])), None)


def _place(table: Table, line: str) -> int:
    return next(at for at, one in enumerate(table.lines) if one.id == line)


# --- over some events --------------------------------------------------------------------------------------


def within(group: Group, events: int) -> Group:
    """The group as far as a fresh player can go in so many events, where all of it is too much."""
    if group.is_dense:
        return group
    rolls = events * _most_rolls(group)
    return group.narrowed(group.keys, Reach(rolls=rolls, is_whole=True, open_from=rolls))


def _most_rolls(group: Group) -> int:
    """Of one thing of which something is carried, in one event."""
    rolls = most_rolls(group.evaluator.under, group.view)
    views = (("source" if key[0] == "drop" else "table", key[1]) for key in group.keys)
    return max(1, *(rolls.get(View(*view), 0) for view in views))  # type: ignore[arg-type]


# --- waits -------------------------------------------------------------------------------------------------


def without_far_limits(group: Group, column: int) -> Group:
    """The group with as many of its limits as can be followed, shorter ones first; and until which event the
    others cannot have been reached by one who has none of the column."""
    under, states = group.evaluator.under, 1
    opened: set[tuple[Key, int]] = set()
    limits: list[tuple[int, Key, int]] = []
    for key in group.keys:
        for axis in axes_of(key, under):
            if axis.kind != "hits":
                states *= axis.size
            elif _is_sure_of(group, key, axis, column):
                opened.add((key, axis.line))
            else:
                limits.append((axis.size - 1, key, axis.line))
    until = math.inf
    for limit, key, line in sorted(limits):
        states *= limit + 1
        if states > MOST_DENSE:
            until = min(until, limit // _most_rolls(group))
            opened.add((key, line))
    found = group.narrowed(group.keys, Reach(opened=frozenset(opened)))
    found.until = until
    return found


def _is_sure_of(group: Group, key: Key, axis: Axis, column: int) -> bool:
    """Whether a line surely gives one of the column when it hits: until then its limit is as it was."""
    table = group.evaluator.under.table(key[1])
    at = _place(table, key[2]) if key[0] == "line" else axis.line
    given = group.evaluator.line(table, table.lines[at])
    return given.figure(given.hit, column) == 1.0


def axes_of(key: Key, under: Conditions) -> list[Axis]:
    """The axes of a pocket, without its contents."""
    if key[0] == "table":
        return exclusive_axes(under.table(key[1]), under)
    return tested_axes(*_tested(key, under))


def _tested(key: Key, under: Conditions) -> tuple[Guard | None, int | None, FloatArray]:
    """Guard and limit of a line or drop, and its chances where it is open."""
    if key[0] == "drop":
        drop = by_id(under.source(key[1]).drops, key[2])
        return drop.guard, None, under.drop_chance(drop)[under.drop_open(drop)]
    table = under.table(key[1])
    at = _place(table, key[2])
    line = table.lines[at]
    return line.guard, line.limit, under.chances(table)[at][under.line_open(line)]


# --- the long run ------------------------------------------------------------------------------------------


def settled(group: Group) -> Group:
    """The group once all limits are reached, as far as they surely are: of lines on a chance of their own,
    and of tables that have limits and nothing else. (A limit that is never come to, since its line never
    hits, makes no difference; but in a retry such a line still takes others' turn.)"""
    under = group.evaluator.under
    ended = set()
    for key in group.keys:
        kinds = {axis.kind for axis in axes_of(key, under)}
        if (kinds == {"hits"} and not _is_retry(key, under)) or ("hits" in kinds and key[0] == "line"):
            ended.add(key)
    if not ended:
        return group
    return group.narrowed(group.keys, Reach(settled=frozenset(ended)))


def _is_retry(key: Key, under: Conditions) -> bool:
    return key[0] == "table" and under.table(key[1]).rule == "retry"


# --- a guard by itself -------------------------------------------------------------------------------------


def renewal_of(group: Group) -> Renewal | None:
    """What a group is, if it is one guard that is tried once in an event, or with a chance of its own."""
    if len(group.keys) != 1:
        return None
    key, under, evaluator = group.keys[0], group.evaluator.under, group.evaluator
    if [axis.kind for axis in axes_of(key, under)] != ["misses"]:
        return None
    if key[0] == "table":
        return _weighed(group, under.table(key[1]))
    what = group.what
    if not isinstance(what, tuple) or len(what[1]) != 1:
        return None
    part = what[1][0]
    if key[0] == "line" and isinstance(part, LineOf):
        line = part.table.lines[part.at]
        is_plain = not group.carried.keys_within(line)
        chance = float(under.chances(part.table)[part.at, 0])
        guard, hit = line.guard, evaluator.line(part.table, line)
    elif key[0] == "drop" and isinstance(part, Drop) and what[0] is not None:
        is_plain = not group.carried.has(View("table", part.table))
        chance = float(under.drop_chance(part)[0])
        guard, hit = part.guard, evaluator.dropped(what[0], part)
    else:
        return None
    if guard is None or not is_plain:
        return None
    size = rising_size(guard, np.array([chance]), sure=True)
    if size > MOST_STATES:
        return None
    misses = np.arange(size)
    chances = np.minimum(1.0, chance + risen(guard, misses))
    chances[is_due(guard, misses)] = 1.0
    return Renewal(chances, 1.0, hit, nothing(1))


def _weighed(group: Group, table: Table) -> Renewal | None:
    """One roll of a pick with one guard, rolled by itself or by one drop."""
    under, evaluator = group.evaluator.under, group.evaluator
    tried = _tried_once(group, table)
    [axis] = exclusive_axes(table, under)
    is_plain = not any(group.carried.keys_within(line) for line in table.lines)
    if tried is None or table.rule != "pick" or not under.law(table.rolls).is_one or not is_plain:
        return None
    guard = table.lines[axis.line].guard
    weights, blank = under.weights(table)[:, 0].copy(), float(under.nothing(table)[0])
    own, weights[axis.line] = float(weights[axis.line]), 0.0
    rest = float(weights.sum()) + blank
    chances = None if guard is None else _weighed_chances(guard, own, rest)
    if chances is None or not bool(under.line_open(table.lines[axis.line])[0]):
        return None
    hit = evaluator.line(table, table.lines[axis.line])
    held = np.flatnonzero(weights > 0)
    outcomes = [evaluator.line(table, table.lines[at]) for at in held]
    shares = weights[held, None] / rest if rest > 0 else np.zeros((0, 1))
    miss = mixture(shares, Parts.of(outcomes, 1), np.array([blank / rest if rest > 0 else 1.0]))
    return Renewal(chances, tried, _marked(group, hit), _marked(group, miss))


def _tried_once(group: Group, table: Table) -> float | None:
    """The chance that an event rolls a table once; None where it is another number of times, or rests on
    something."""
    what, under = group.what, group.evaluator.under
    if not isinstance(what, tuple):
        return 1.0 if what.id == table.id else None
    source, parts = what
    if len(parts) != 1 or not isinstance(parts[0], Drop) or source is None:
        return None
    drop = parts[0]
    if drop.table != table.id or drop.guard is not None or not under.law(drop.times).is_one:
        return None
    return float(under.drop_chance(drop)[0])


def _marked(group: Group, given: Outcome) -> Outcome:
    """With the note that the drop hit by which it comes, if one does."""
    what, columns = group.what, group.evaluator.columns
    if not group.evaluator.detail or not isinstance(what, tuple) or what[0] is None:
        return given
    [drop] = what[1]
    assert isinstance(drop, Drop)
    hits = columns.drop_hits(what[0].id, drop.id)
    return with_mark(given, hits, hits + 1)


def _weighed_chances(guard: Guard, own: float, rest: float) -> FloatArray | None:
    """By misses in a row: until a hit is due, or a longer streak is out of the question."""
    size = 1 << 10
    while True:
        misses = np.arange(size if guard.sure_at is None else min(size, guard.sure_at))
        heavy = own * (1.0 + risen(guard, misses))
        total = heavy + rest
        chances = np.divide(heavy, total, out=np.zeros_like(heavy), where=total > 0)
        chances[is_due(guard, misses)] = 1.0
        with np.errstate(divide="ignore"):
            left = float(np.log1p(-chances).sum())
        if left < _UNLIKELY or (guard.sure_at is not None and misses.size == guard.sure_at):
            return chances
        if size >= MOST_STATES:
            return None
        size *= 2


# --- asked of all of these ---------------------------------------------------------------------------------


def long_run_mean(group: Group, column: int) -> float:
    """How many of a column per event in the long run. Raises TooLarge."""
    if group.is_dense:
        return group.long_run_means.get(column, 0.0)
    columns, catalogue = group.evaluator.columns, group.evaluator.under.catalogue
    if column == columns.units:
        members = list(range(len(catalogue.items)))
    elif columns.tier(0) <= column < columns.units:
        members = np.flatnonzero(catalogue.item_groups == column - columns.tier(0)).tolist()
    else:
        return RESULTS.get((*group.rests_on, "long run", column), lambda: _long_run_mean(group, column))
    given = set(group.columns.tolist())
    return math.fsum(long_run_mean(group, item) for item in members if item in given)


def _long_run_mean(group: Group, column: int) -> float:
    one = settled(about(group, column))
    if not one.is_dense and (renewal := renewal_of(one)) is not None:
        return renewal.long_run_mean(column)
    return one.long_run_means.get(column, 0.0)


def for_wait(group: Group, column: int) -> Group | Renewal:
    """What tells the wait for a first one of a column: the group, or as much of it as matters."""
    one = about(group, column)
    if one.is_dense:
        return one
    found = renewal_of(one)
    if found is not None:
        return found
    try:
        fewer = without_far_limits(one, column)
    except TooLarge:
        return one
    return fewer if fewer.is_dense else one
