"""Places at which spots are short, covers do nothing, and nothing may lie somewhere."""

from __future__ import annotations

from collections.abc import Iterator

from golddice.core.findings.finding import Finding
from golddice.core.findings.survey import Survey
from golddice.core.game.places import Place
from golddice.core.game.saying import line_name
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.places.setting_out import set_out
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

_LITTLE = 0.005  # units by which fewer are placed than could be, from where on it is told
_NAMED = 4


def look(survey: Survey) -> Iterator[Finding]:
    for place in survey.game.places:
        go_on()
        yield from _covers(survey, place)
        depth = place.depths[0] if place.depths else survey.game.depth.from_
        if survey.game.depth.from_ <= depth <= survey.game.depth.to:
            yield from _spots(survey, place, depth)
        message = _without_part(survey, place.stock, "in a place")
        if message:
            yield _told(survey, place, "stock", message)
    for stall in survey.game.stalls:
        message = _without_part(survey, stall.stock, "at a stall")
        if message:
            path = f"{survey.path('stall', stall.id)}.stock"
            yield Finding("warning", path, "stall", stall.id, message)


def _without_part(survey: Survey, stock: str, where: str) -> str | None:
    """What a stock has that plays no part where it is laid out: nobody rolls it."""
    table = survey.under.table(stock)
    has = [
        ("guards", any(line.guard is not None for line in table.lines)),
        ("limits", any(line.limit is not None for line in table.lines)),
        ("rolls", str(table.rolls) != "1"),
        ("“different lines”", bool(getattr(table, "distinct", False))),
    ]
    named = [name for name, is_there in has if is_there]
    if not named:
        return None
    listed = ", ".join(named[:-1]) + f" and {named[-1]}" if len(named) > 1 else named[0]
    return f"{listed} of {table.name} do not count {where}: its lines are laid out, not rolled"


def _told(survey: Survey, place: Place, within: str, message: str) -> Finding:
    path = f"{survey.path('place', place.id)}.{within}".rstrip(".")
    return Finding("warning", path, "place", place.id, message)


def _covers(survey: Survey, place: Place) -> Iterator[Finding]:
    for at, cover in enumerate(place.covers):
        name = cover.name or cover.id
        if not any("#" in row for row in cover.rows):
            message = f"{name} covers no cell: what it names lies nowhere"
            yield _told(survey, place, f"covers[{at}].rows", message)
        if not (cover.tags or cover.items or cover.sources):
            yield _told(survey, place, f"covers[{at}]", f"{name} names nothing: it changes nothing")


def _spots(survey: Survey, place: Place, depth: int) -> Iterator[Finding]:
    lying = Lying(Conditions(survey.game, [depth]), place)
    idle = [
        spot.name or spot.id
        for spot, allowed in zip(place.spots, lying.allowed, strict=True)
        if not allowed.any()
    ]
    if idle and place.spots:
        names = ", ".join(idle[:_NAMED]) + (f" and {len(idle) - _NAMED} more" if len(idle) > _NAMED else "")
        yield _told(survey, place, "spots", f"nothing may lie at {names}")
    if place.way == "each-rolls" or not place.spots:
        return
    out = set_out(lying)
    for at, line in enumerate(line_name(survey.game, one) for one in lying.stock.lines):
        wanted, placed, most = float(out.wanted[at]), float(out.placed[at]), float(out.most[at])
        spots = int(lying.allowed[:, at].sum())
        if most < wanted:
            why = f"it may lie at {spots} spots" + (", which others want too" if spots > most else "")
            message = f"of {line} {wanted:g} are wanted and {most:g} can be placed in any order: {why}"
            yield _told(survey, place, "spots", message)
        elif placed < most - _LITTLE:
            message = (
                f"of {line} {placed:.3g} of {wanted:g} are placed on average, though {most:g} could be: "
                "rarer ones come first and take its spots"
            )
            yield _told(survey, place, "spots", message)
