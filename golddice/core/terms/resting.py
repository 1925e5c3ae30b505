"""Whether what a player carries can make a difference within one event.

It seldom can: a guard that rises after twenty misses does nothing within an event of three rolls.
Where it cannot, a fresh player's next event is worked out as if nothing were carried.
"""

from __future__ import annotations

from golddice.core.game.models import Guard, Table
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.size import Rolled


def rests_on_state(under: Conditions, rolls: Rolled) -> bool:
    """`rolls` is `size.most_rolls` of what is rolled."""
    return any(
        _table_rests(under, under.table(name), count)
        if kind == "table"
        else any(_guard_rests(drop.guard, count) for drop in under.source(name).drops)
        for (kind, name), count in rolls.items()
    )


def carries(under: Conditions, rolls: Rolled) -> bool:
    """Whether a player carries anything from event to event, of all that is rolled."""
    return any(
        form_of(under.table(name)).holds
        if kind == "table"
        else any(drop.guard is not None for drop in under.source(name).drops)
        for kind, name in rolls
    )


def is_distinct(under: Conditions, table: Table) -> bool:
    """Whether rolls of one execution take lines away from each other."""
    return table.rule == "pick" and table.distinct and under.law(table.rolls).most > 1


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
