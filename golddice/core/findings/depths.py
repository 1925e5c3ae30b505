"""Depths at which a table is rolled that has no open line, or something is met that is not met there."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from golddice.core.arrays import BoolArray
from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.survey import Reached, Survey, mended_line
from golddice.core.game.models import SETTINGS_KEYS, Game, Source, Table
from golddice.core.game.reading import plain
from golddice.core.game.views import View


def look(survey: Survey) -> Iterator[Finding]:
    yield from _bands(survey)
    rollers = [
        *((source.name, survey.reached_from(source)) for source in survey.game.sources),
        *((band.name, survey.spawned_by(band)) for band in survey.game.depth.bands),
    ]
    for table in survey.game.tables:
        if table.lines:
            yield from _closed(survey, table, rollers)
    for source in survey.game.sources:
        yield from _met_elsewhere(survey, source)


def _closed(survey: Survey, table: Table, rollers: list[tuple[str, Reached]]) -> Iterator[Finding]:
    """Where sources or bands roll a table of which no line is open."""
    shut = ~_some_open(survey, table)
    rolled = [(name, reached.get(View("table", table.id), ~shut) & shut) for name, reached in rollers]
    rolled = [(name, where) for name, where in rolled if bool(where.any())]
    if rolled:
        gap = np.logical_or.reduce([where for _, where in rolled])
        names = _some([name for name, _ in rolled])
        message = f"{survey.words(gap)} {table.name} has no open line, though {names} rolls it"
        yield survey.of_table(table, message, field="depths", depths=survey.span(gap))


def _met_elsewhere(survey: Survey, source: Source) -> Iterator[Finding]:
    """A source of which the depths lie outside the game's, or which a band yields at other depths."""
    met = survey.met(source)
    if not bool(met.any()):
        low, high = source.depths or (0, 0)
        scale = survey.game.depth
        message = (
            f"nobody meets {source.name}: its depths {low} to {high} lie outside "
            f"the game's {scale.from_} to {scale.to}"
        )
        yield survey.of_source(source, message, field="depths")
        return
    for band in survey.game.depth.bands:
        spawned = survey.spawned_by(band).get(View("source", source.id))
        if spawned is not None and bool((spawned & ~met).any()):
            where = spawned & ~met
            message = (
                f"{band.name} spawns {source.name} {survey.words(where)}, where it is not met by its depths"
            )
            mend = _only_where_met(survey, survey.under.table(str(band.spawns)), source)
            yield survey.of_source(source, message, field="depths", depths=survey.span(where), mend=mend)


def _only_where_met(survey: Survey, spawns: Table, source: Source) -> Mend | None:
    """The one line of a spawn table that yields the source itself, open only where it is met."""
    rows = [
        row for row, line in enumerate(spawns.lines) if any(one.source == source.id for one in line.yields)
    ]
    if len(rows) != 1:
        return None
    open_ = survey.under.depths[survey.met(source) & survey.gate(spawns.lines[rows[0]])]
    if not open_.size:
        return None
    low, high = int(open_[0]), int(open_[-1])
    label = f"open its line in {spawns.name} at {low}-{high} only"
    return mended_line(spawns, rows[0], label, depths=[low, high])


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
