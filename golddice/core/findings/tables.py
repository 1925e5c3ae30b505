"""Tables that nobody reaches or that have nothing to give, and lines that can never hit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from golddice.core.findings.finding import Finding
from golddice.core.findings.survey import Survey, mended_line, mended_table, without_line
from golddice.core.game.models import BaseLine, DeckLine, Guard, PickTable, Source, Table


def look(survey: Survey) -> Iterator[Finding]:
    used = _used(survey)
    for table in survey.game.tables:
        if table.id not in used:
            message = f"nobody reaches {table.name}: no drop, line, band, place or stall names it"
            yield survey.of_table(table, message)
        yield from _empty(survey, table)
        for at, line in enumerate(table.lines):
            yield from _line(survey, table, at, line)
        yield from _shadowed(survey, table)
        yield from _like_percent(survey, table)
    for source in survey.game.sources:
        yield from _source(survey, source)


def _used(survey: Survey) -> set[str | None]:
    """Tables that a drop, a line, a band, a place or a stall names."""
    used: set[str | None] = {drop.table for source in survey.game.sources for drop in source.drops}
    every = (given for table in survey.game.tables for line in table.lines for given in line.yields)
    used |= {given.table for given in every}
    used |= {place.stock for place in survey.game.places}
    used |= {stall.stock for stall in survey.game.stalls}
    return used | {band.spawns for band in survey.game.depth.bands}


def _empty(survey: Survey, table: Table) -> Iterator[Finding]:
    if not table.lines:
        yield survey.of_table(table, f"{table.name} gives nothing: it has no lines")
    elif table.rule == "deck" and not any(line.copies for line in table.lines):
        yield survey.of_table(table, f"{table.name} gives nothing: its deck has no cards")


def _line(survey: Survey, table: Table, at: int, line: BaseLine) -> Iterator[Finding]:
    why = _never(survey, table, line)
    if why:
        mend = without_line(table, at, "remove the line")
        yield survey.of_table(table, f"this line can never hit: {why}", at, field="entry", mend=mend)
    for place, given in enumerate(line.yields):
        if given.pool is not None and not survey.under.pool_items(given.pool).size:
            message = "this line can hit and give nothing: no item fits its pool"
            yield survey.of_table(table, message, at, within=f"yields[{place}].pool", field="gives")
    if line.guard is not None:
        yield from _guard(survey, table, at, line.guard)


def _never(survey: Survey, table: Table, line: BaseLine) -> str | None:
    """Why a line cannot hit at any depth, if it cannot."""
    if set(line.needs) & set(line.unless):
        return "it needs a flag and must not have it"
    if not bool(survey.line_open(table, line).any()):
        shut = "its depths and its curve leave it" if line.depths and line.curve else "its depths leave it"
        return f"{shut if line.depths else 'its curve keeps it'} closed at every {survey.game.words.depth}"
    if isinstance(line, DeckLine):
        return None if line.copies or len(table.lines) == 1 else "it has no copies"
    saved = line.guard is not None and (line.guard.sure_at is not None or line.guard.rise > 0)
    weight, chance = getattr(line, "weight", 1.0), getattr(line, "chance", 1.0)
    if table.rule == "pick":
        sure = line.guard is not None and line.guard.sure_at is not None
        return "its weight is 0" if weight == 0 and not sure else None
    if weight == 0:
        return "its weight is 0"
    return "its chance is 0" if chance == 0 and not saved else None


def _guard(survey: Survey, table: Table, at: int, guard: Guard) -> Iterator[Finding]:
    if guard.sure_at == 1:
        message = "its guard is sure at 1, so it hits every time: meant is the number of misses?"
        mend = mended_line(table, at, "take the guard off", guard=None)
        yield survey.of_table(table, message, at, within="guard.sure_at", field="limits", mend=mend)
    elif guard.sure_at is None and guard.rise == 0:
        mend = mended_line(table, at, "take the guard off", guard=None)
        message = "its guard does nothing: it neither rises nor makes sure"
        yield survey.of_table(table, message, at, within="guard", field="limits", mend=mend)


def _shadowed(survey: Survey, table: Table) -> Iterator[Finding]:
    """Lines of a `first` table behind one that always hits wherever they are open."""
    if table.rule != "first":
        return
    chances = survey.under.chances(table)
    taken = np.zeros(survey.under.depths.size, dtype=bool)
    for at, line in enumerate(table.lines):
        here = survey.line_open(table, line)
        if bool(here.any()) and not bool((here & ~taken).any()):
            message = "this line is never tested: an earlier one always hits"
            mend = without_line(table, at, "remove the line")
            yield survey.of_table(table, message, at, field="entry", mend=mend)
        if not line.needs and not line.unless and line.limit is None:
            taken |= here & (chances[at] >= 1.0)


def _like_percent(survey: Survey, table: Table) -> Iterator[Finding]:
    """Whole weights that nearly add up to 100 were meant to."""
    if not isinstance(table, PickTable) or len(table.lines) < 2:
        return
    weights = [*(line.weight for line in table.lines), table.nothing]
    total = sum(weights)
    if total == 100 or not 98 <= total <= 102 or any(weight != int(weight) for weight in weights):
        return
    nothing = table.nothing + 100 - total
    message = f"the weights look like percentages but add up to {total:g}, not 100"
    mend = None
    if nothing >= 0:
        mend = mended_table(table, f"make the blank weight {nothing:g}, so that they do", nothing=nothing)
    yield survey.of_table(table, message, field="nothing", mend=mend)


def _source(survey: Survey, source: Source) -> Iterator[Finding]:
    if not source.drops:
        yield survey.of_source(source, f"{source.name} gives nothing: it has no drops")
    for at, drop in enumerate(source.drops):
        saved = drop.guard is not None and (drop.guard.rise > 0 or drop.guard.sure_at is not None)
        if drop.chance == 0 and not saved:
            yield survey.of_source(source, "this drop never happens: its chance is 0", at, field="chance")
        elif not bool(survey.drop_open(drop).any()):
            yield survey.of_source(source, "this drop is closed everywhere", at, field="depths")
