"""Routes on which a leg meets nothing or nobody, or flags come and go to no end."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.finding import found_one
from golddice.core.game.models import Route, RouteLeg
from golddice.core.game.reading import plain
from golddice.core.terms.stops import band_at


def look(survey: Survey) -> Iterator[Finding]:
    for route in survey.game.routes:
        told = partial(_finding, survey, route)
        if not route.legs:
            yield told("nobody goes anywhere: it has no legs")
        for at, leg in enumerate(route.legs):
            yield from _outside(survey, leg, at, told)
            yield from _meets_nothing(survey, leg, at, told)
            yield from _met_elsewhere(survey, leg, at, told)
        yield from _flags(survey, route, told)


def _finding(
    survey: Survey, route: Route, message: str, at: int | None = None, field: str = "", **more: Any
) -> Finding:
    path = survey.path("route", route.id)
    if at is not None:
        path += f".legs[{at}]"
        more["line"] = route.legs[at].id
    return Finding("warning", f"{path}.{field}" if field else path, "route", route.id, message, **more)


def _depths(leg: RouteLeg) -> range:
    low, high = sorted((leg.from_, leg.to))
    return range(low, high + 1)


def _outside(survey: Survey, leg: RouteLeg, at: int, told: Callable[..., Finding]) -> Iterator[Finding]:
    scale = survey.game.depth
    if min(leg.from_, leg.to) < scale.from_ or max(leg.from_, leg.to) > scale.to:
        word = survey.game.words.depth
        yield told(
            f"leg {at + 1} goes to {word}s {leg.from_} to {leg.to}, outside the game's "
            f"{scale.from_} to {scale.to}: nobody can go along it",
            at,
            "from",
        )


def _meets_nothing(survey: Survey, leg: RouteLeg, at: int, told: Callable[..., Finding]) -> Iterator[Finding]:
    """Visits where there is no band, or a band without a spawn table (R4)."""
    if leg.visits is None:
        return
    bands = {depth: band_at(survey.game, depth) for depth in _depths(leg)}
    empty = [depth for depth, band in bands.items() if band is None or band.spawns is None]
    if empty:
        word = survey.game.words.depth
        yield told(
            f"leg {at + 1} meets nothing at {word} {_ranges(empty)}: no band there names a spawn table",
            at,
            "visits",
            depths=(empty[0], empty[-1]),
        )


def _met_elsewhere(survey: Survey, leg: RouteLeg, at: int, told: Callable[..., Finding]) -> Iterator[Finding]:
    """A source acted on, or a place emptied, where it is not; it is done all the same (A16, R4)."""
    place = found_one(survey.game.places, leg.place)
    source = None if leg.source is None else survey.under.source(leg.source)
    what = source or place
    if what is None or what.depths is None:
        return
    low, high = what.depths
    elsewhere = [depth for depth in _depths(leg) if not low <= depth <= high]
    if elsewhere:
        word = survey.game.words.depth
        does, how = ("acts on", "met") if source is not None else ("empties", "found")
        yield told(
            f"leg {at + 1} {does} {what.name} at {word} {_ranges(elsewhere)}, "
            f"where it is not {how}: its {word}s are {low} to {high}",
            at,
            "place" if source is None else "source",
            depths=(elsewhere[0], elsewhere[-1]),
        )


def _flags(survey: Survey, route: Route, told: Callable[..., Finding]) -> Iterator[Finding]:
    """Flags gained where they are set already, lost where they are not, or asked about by nothing."""
    names = {flag.id: flag.name for flag in survey.game.flags}
    held, needed = set(route.flags), _needed(survey)
    for at, leg in enumerate(route.legs):
        for flag in leg.gains:
            if flag in held:
                mend = _without(route, at, "gains", flag)
                yield told(
                    f"leg {at + 1} gains “{names[flag]}”, which is set already", at, "gains", mend=mend
                )
            elif flag not in needed:
                yield told(f"leg {at + 1} gains “{names[flag]}”, which nothing asks about", at, "gains")
        held |= set(leg.gains)
        for flag in leg.loses:
            if flag not in held:
                mend = _without(route, at, "loses", flag)
                yield told(f"leg {at + 1} loses “{names[flag]}”, which is not set", at, "loses", mend=mend)
        held -= set(leg.loses)


def _needed(survey: Survey) -> set[str]:
    """The flags that any line or drop asks about."""
    lines = [line for table in survey.game.tables for line in table.lines]
    drops = [drop for source in survey.game.sources for drop in source.drops]
    return {flag for part in (*lines, *drops) for flag in (*part.needs, *part.unless)}


def _without(route: Route, at: int, key: str, flag: str) -> Mend:
    def make() -> Body:
        body = plain(route)
        leg = body["legs"][at]
        leg[key] = [one for one in leg[key] if one != flag]
        return body

    return Mend("take it out", "route", route.id, make)


def _ranges(depths: list[int]) -> str:
    """`3`, `3 to 5`, `1, 3 to 5`."""
    runs: list[list[int]] = []
    for depth in depths:
        if runs and depth == runs[-1][-1] + 1:
            runs[-1].append(depth)
        else:
            runs.append([depth])
    return ", ".join(str(run[0]) if len(run) == 1 else f"{run[0]} to {run[-1]}" for run in runs)
