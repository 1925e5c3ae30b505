"""Chances that are not what they look like: cut at 1, or certain in the head alone."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.findings.finding import Finding, Mend
from golddice.core.findings.survey import Survey, mended_drop, mended_line, mended_table
from golddice.core.game.models import ChanceLine, RetryLine, RetryTable, Table
from golddice.core.odds.event.rules import retry_chances

_ALMOST = 1e-9
_WANTED_MISS = 0.01
_MOST_TRIES = 1_000


def look(survey: Survey) -> Iterator[Finding]:
    for table in survey.game.tables:
        yield from _over_one(survey, table)
        if isinstance(table, RetryTable):
            yield from _retry(survey, table)
        elif table.rule in ("each", "first"):
            yield from _adds_up(survey, table)
    for source in survey.game.sources:
        for at, drop in enumerate(source.drops):
            high = drop.chance * survey.under.curve(drop.curve)
            where = survey.met(source) & survey.gate(drop) & (high > 1 + _ALMOST)
            if bool(where.any()):
                kept = _floor(drop.chance / float(high[where].max()))
                mend = mended_drop(
                    source, at, f"enter {100 * kept:g} %, which just reaches 100 %", chance=kept
                )
                message = _cut(survey, high, where)
                yield survey.of_source(
                    source, message, at, field="chance", depths=survey.span(where), mend=mend
                )


def _over_one(survey: Survey, table: Table) -> Iterator[Finding]:
    for at, line in enumerate(table.lines):
        if not isinstance(line, (ChanceLine, RetryLine)):
            continue
        high = line.chance * survey.under.line_multiplier(line)
        where = survey.line_open(table, line) & (high > 1 + _ALMOST)
        if bool(where.any()):
            kept = _floor(line.chance / float(high[where].max()))
            mend = mended_line(table, at, f"enter {100 * kept:g} %, which just reaches 100 %", chance=kept)
            message = _cut(survey, high, where)
            yield survey.of_table(table, message, at, field="entry", depths=survey.span(where), mend=mend)


def _cut(survey: Survey, high: FloatArray, where: BoolArray) -> str:
    most = 100 * float(high[where].max())
    return f"{survey.words(where)} its curve makes it {most:.4g} %; it is cut at 100 %"


def _floor(chance: float) -> float:
    """Four figures, rounded down, so that the mended chance stays within 1."""
    unit = 10.0 ** (math.floor(math.log10(chance)) - 3)
    return math.floor(chance / unit + 1e-9) * unit


def _retry(survey: Survey, table: RetryTable) -> Iterator[Finding]:
    """Tries that add up to certainty in the head, and do not. For the first flags where that is so."""
    if table.tries < 2:
        return
    for under, words in survey.flagged(table):
        weights, chances = under.weights(table), under.chances(table)
        _, nothing = retry_chances(weights, chances, table.tries)
        once = retry_chances(weights, chances, 1)[0].sum(axis=0)
        where = (table.tries * once >= 1 - _ALMOST) & (nothing >= _WANTED_MISS)
        if bool(where.any()):
            worst = int(np.argmax(np.where(where, nothing, -1.0)))
            message = (
                f"{_at(survey, worst, where, nothing)}{words}{table.tries} tries at "
                f"{100 * once[worst]:.3g} % look certain, "
                f"but {100 * nothing[worst]:.3g} % of rolls give nothing"
            )
            mend = _enough_tries(survey, table)
            depths = survey.span(where)
            yield survey.of_table(table, message, within="tries", field="tries", depths=depths, mend=mend)
            return


def _enough_tries(survey: Survey, table: RetryTable) -> Mend | None:
    """Enough at every depth, and with all flags, where it gives anything at all."""
    every = [
        retry_chances(under.weights(table), under.chances(table), 1)[0].sum(axis=0)
        for under, _ in survey.flagged(table)
    ]
    once = np.concatenate(every)
    enough = math.ceil(math.log(_WANTED_MISS) / math.log1p(-float(once[once > 0].min())))
    if enough > _MOST_TRIES:
        return None
    return mended_table(table, f"try {enough} times, which leaves under 1 %", tries=enough)


def _at(survey: Survey, row: int, where: BoolArray, nothing: FloatArray) -> str:
    """The depth that is told of, where it is not so at all of them alike."""
    same = bool(where.all()) and float(np.ptp(nothing)) < _ALMOST
    return "" if same else f"{survey.words(np.arange(where.size) == row)} "


def _adds_up(survey: Survey, table: Table) -> Iterator[Finding]:
    """Chances of separate tests that add up to 100 % in the head, and still can all miss.

    Lines of `each` often add up to more on purpose; there only exactly 100 % looks like a mistake.
    """
    if len(table.lines) < 2:
        return
    for under, words in survey.flagged(table):
        chances = under.chances(table)
        total, nothing = chances.sum(axis=0), np.prod(1.0 - chances, axis=0)
        looks = total >= 1 - _ALMOST if table.rule == "first" else np.abs(total - 1) < _ALMOST
        where = looks & (nothing > _ALMOST)
        if bool(where.any()):
            worst = int(np.argmax(np.where(where, nothing, -1.0)))
            message = (
                f"{_at(survey, worst, where, nothing)}{words}the chances add up to "
                f"{100 * total[worst]:.4g} %, but in {100 * nothing[worst]:.3g} % of rolls no line hits"
            )
            yield survey.of_table(table, message, field="rolls", depths=survey.span(where))
            return
