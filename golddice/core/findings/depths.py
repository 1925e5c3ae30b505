"""Depths at which a table is rolled that has no open line, or something is met that is not met there."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from golddice.core.arrays import BoolArray, IntArray
from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.survey import Reached, Survey, mended_line
from golddice.core.game.models import SETTINGS_KEYS, Band, Game, Source, Table
from golddice.core.game.reading import plain
from golddice.core.game.views import View
from golddice.core.terms.stops import bands_at


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
    """Depths that no band holds, which the band above is drawn down over; and bands that overlap."""
    counts = bands_at(survey.game, survey.under.depths)
    yield from _without_band(survey, counts < 0)
    for at, band in enumerate(survey.game.depth.bands):
        yield from _overlapped(survey, at, band, counts)


def _without_band(survey: Survey, free: BoolArray) -> Iterator[Finding]:
    ends: set[int] = set()
    for above, band in enumerate(survey.game.depth.bands):
        below = [one.from_ - 1 for one in survey.game.depth.bands if one.from_ > band.to]
        end = min(below, default=survey.game.depth.to)
        missing = free & (survey.under.depths > band.to) & (survey.under.depths <= end)
        if band.to in ends or not bool(missing[survey.under.depths == band.to + 1].any()):
            continue
        ends.add(band.to)
        make = partial(_with_span, survey.game, above, (band.from_, end))
        mend = Mend(f"draw {band.name} down to {end}", "settings", "game", make)
        message = f"{survey.words(missing)} there is no band"
        yield _of_band(above, "to", message, (band.to + 1, end), mend)


def _overlapped(survey: Survey, at: int, band: Band, counts: IntArray) -> Iterator[Finding]:
    """Depths of a band at which another counts, since it stands before it."""
    depths = survey.under.depths
    held = (depths >= band.from_) & (depths <= band.to)
    taken = held & (counts != at)
    if not bool(taken.any()):
        return
    first = survey.game.depth.bands[int(counts[np.flatnonzero(taken)[0]])].name
    message = f"{survey.words(taken)} {first} counts and not {band.name}: where bands overlap, the first does"
    left = depths[held & ~taken]
    mend = None
    if left.size and left[-1] - left[0] == left.size - 1:
        span = (int(left[0]), int(left[-1]))
        make = partial(_with_span, survey.game, at, span)
        mend = Mend(f"let {band.name} reach from {span[0]} to {span[1]}", "settings", "game", make)
    yield _of_band(at, "from", message, survey.span(taken), mend)


def _of_band(at: int, key: str, message: str, depths: tuple[int, int] | None, mend: Mend | None) -> Finding:
    path = f"depth.bands[{at}].{key}"
    return Finding("warning", path, "settings", "game", message, None, "depths", depths, mend)


def _with_span(game: Game, band: int, span: tuple[int, int]) -> Body:
    """The game's settings with one band from one depth to another."""
    settings = {key: value for key, value in plain(game).items() if key in SETTINGS_KEYS}
    settings["depth"]["bands"][band]["from"], settings["depth"]["bands"][band]["to"] = span
    return settings
