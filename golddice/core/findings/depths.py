"""Depths at which a source rolls a table that has no open line."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from golddice.core.arrays import BoolArray
from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.models import SETTINGS_KEYS, Game, Table
from golddice.core.game.reading import plain


def look(survey: Survey) -> Iterator[Finding]:
    yield from _bands(survey)
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


def _bands(survey: Survey) -> Iterator[Finding]:
    """Depths between or around the bands that no band holds; the band above is drawn down over them."""
    scale = survey.game.depth
    bands = scale.bands
    for at, band in enumerate(bands):
        end = bands[at + 1].from_ - 1 if at + 1 < len(bands) else scale.to
        if band.to >= end:
            continue
        make = partial(_drawn_down, survey.game, at, end)
        mend = Mend(f"draw {band.name} down to {end}", "settings", "game", make)
        missing = (survey.under.depths > band.to) & (survey.under.depths <= end)
        message = f"{survey.words(missing)} there is no band"
        path = f"depth.bands[{at}].to"
        yield Finding("warning", path, "settings", "game", message, None, "depths", (band.to + 1, end), mend)


def _drawn_down(game: Game, band: int, end: int) -> Body:
    """The game's settings with one band reaching down to a depth."""
    settings = {key: value for key, value in plain(game).items() if key in SETTINGS_KEYS}
    settings["depth"]["bands"][band]["to"] = end
    return settings
