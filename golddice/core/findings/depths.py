"""Depths at which a source rolls a table that has no open line."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from golddice.core.arrays import BoolArray
from golddice.core.findings.finding import Finding
from golddice.core.findings.survey import Survey
from golddice.core.game.models import Table


def look(survey: Survey) -> Iterator[Finding]:
    for table in survey.game.tables:
        reached = survey.reached.get(("table", table.id))
        if reached is None or not table.lines:
            continue
        gap = reached & ~_some_open(survey, table)
        if bool(gap.any()):
            names = [
                source.name
                for source in survey.game.sources
                if bool((survey.reached_from(source).get(("table", table.id), ~gap) & gap).any())
                and ("table", table.id) in survey.reached_from(source)
            ]
            message = f"{survey.words(gap)} {table.name} has no open line, though {_some(names)} rolls it"
            yield survey.of_table(table, message, field="depths", depths=survey.span(gap))


def _some_open(survey: Survey, table: Table) -> BoolArray:
    found = np.zeros(survey.under.depths.size, dtype=bool)
    for line in table.lines:
        found |= survey.line_open(table, line)
    return found


def _some(names: list[str]) -> str:
    if len(names) < 3:
        return " and ".join(names)
    return f"{names[0]} and {len(names) - 1} others"
