"""Whether what a player carries can make a difference within one event.

It seldom can: a guard that rises after twenty misses does nothing within an event of three rolls.
Where it cannot, a fresh player's next event is worked out as if nothing were carried.
"""

from __future__ import annotations

from collections.abc import Set

from golddice.core.game.models import Guard, Source, Table, Yield
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.size import inner_of, missing, most_rolls, part_of


def rests_on_state(under: Conditions, view: View) -> bool:
    """Within one event of a source or execution of a table."""
    if not carries(under, view):
        return False
    return any(
        _table_rests(under, under.table(name), count)
        if kind == "table"
        else any(_guard_rests(drop.guard, count) for drop in under.source(name).drops)
        for (kind, name), count in most_rolls(under, view).items()
    )


def carries(under: Conditions, view: View) -> bool:
    """Whether a player carries anything from event to event, of all that is reached from here."""
    known = under.carried
    for one in missing(under, view, known):
        part = part_of(under, one)
        if isinstance(part, Source):
            own = any(drop.guard is not None for drop in part.drops)
        else:
            own = form_of(part).holds
        known[one] = own or any(known[link] for link in inner_of(under, one))
    return known[view]


def carried_to_first(under: Conditions, view: View, wanted: Set[str]) -> bool:
    """Whether what a player carries can make a difference before they first have one of some items. Where
    nothing but lines of a limit is carried, and each of them gives one of these for certain, it cannot:
    until then none of them hit, and each event is as the first."""
    return carries(under, view) and any(
        _table_before_first(under.table(name), wanted)
        if kind == "table"
        else any(drop.guard is not None for drop in under.source(name).drops)
        for kind, name in most_rolls(under, view)
    )


def is_distinct(under: Conditions, table: Table) -> bool:
    """Whether rolls of one execution take lines away from each other."""
    return table.rule == "pick" and table.distinct and under.law(table.rolls).most > 1


def _table_before_first(table: Table, wanted: Set[str]) -> bool:
    if not form_of(table).holds:
        return False
    if table.rule == "deck" or any(line.guard is not None for line in table.lines):
        return True
    limited = (line for line in table.lines if line.limit is not None)
    return not all(any(_is_sure(given, wanted) for given in line.yields) for line in limited)


def _is_sure(given: Yield, wanted: Set[str]) -> bool:
    quantity = given.quantity
    is_some = quantity.curve is None and quantity.min is not None and quantity.min >= 1
    return given.item in wanted and is_some


def _table_rests(under: Conditions, table: Table, rolls: int) -> bool:
    if not form_of(table).holds:
        return False
    if any(_guard_rests(line.guard, rolls) for line in table.lines):
        return True
    if rolls <= 1:
        return False
    if table.rule == "deck":
        return True
    limits = [line.limit for line in table.lines if line.limit is not None]
    if not limits:
        return False
    # A line of a distinct pick hits once in an execution at most.
    executions = rolls // max(1, under.law(table.rolls).most)
    return min(limits) < (executions if is_distinct(under, table) else rolls)


def _guard_rests(guard: Guard | None, rolls: int) -> bool:
    """Whether a guard can do anything within so many rolls, all misses before the last."""
    if guard is None:
        return False
    rises = guard.rise > 0 and rolls - 1 > guard.after
    return rises or (guard.sure_at is not None and rolls >= guard.sure_at)
