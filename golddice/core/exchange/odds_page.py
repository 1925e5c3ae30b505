"""A page of odds for players: of every parcel and stall what can come, how likely, and what is promised.

One HTML document that needs nothing else: no script, no picture, no network. It prints as it stands.
"""

from __future__ import annotations

from collections.abc import Iterator
from html import escape
from typing import NamedTuple

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.exchange.document import document
from golddice.core.game.finding import by_id
from golddice.core.game.models import Drop, Game, Guard, Line, Source
from golddice.core.game.saying import line_name
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds
from golddice.core.odds.stalls import Sale
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carries
from golddice.core.terms.size import check_size

_BESIDE = 7  # stretches of depths in one table
_FEW = 2  # so many have a table of their own, with all figures


class Stretch(NamedTuple):
    """Depths, one after another, at which chances are alike; (items,) the chance of any, and how many."""

    first: int
    last: int
    chance: FloatArray
    mean: FloatArray


def odds_page(game: Game, first: int | None = None, last: int | None = None, changed: str = "") -> str:
    """Of some depths, or all. `changed` says when the game was last changed, as it is to be read. Raises
    TooLarge where odds cannot be told."""
    low, high = first or game.depth.from_, last or game.depth.to
    depths = range(max(low, game.depth.from_), min(high, game.depth.to) + 1)
    title = f"Odds of {game.name}"
    parts = [
        f"<h1>{escape(title)}</h1>",
        f"<p class=small>Last changed: {escape(changed)}</p>" if changed else "",
        *_parcels(game, depths),
        *("".join(_stall(game, Sale(game, stall))) for stall in game.stalls),
    ]
    if len(parts) == 2:
        parts.append("<p>Nothing is sold: there is no parcel and no stall.</p>")
    return document(title, parts)


def _parcels(game: Game, depths: range) -> Iterator[str]:
    if not len(depths):
        return
    under = Conditions(game, depths)
    odds = DepthOdds(under)
    for source in game.sources:
        if source.kind == "parcel":
            go_on()
            yield "".join(_parcel(game, under, odds, source))


# --- parcels ---------------------------------------------------------------------------------------------


def _parcel(game: Game, under: Conditions, odds: DepthOdds, source: Source) -> Iterator[str]:
    view = View("source", source.id)
    check_size(under, view)
    yield f"<h2>{escape(source.name)}</h2>"
    if source.price is not None:
        money = by_id(game.items, source.price.item).name
        yield f"<p>Costs {source.price.amount:,} {escape(money)}.</p>"
    if carries(under, view):
        yield "<p class=small>Chances of a new player’s next purchase; they change as is said below.</p>"
    found = list(_stretches(under, odds, source))
    if len(found) <= _FEW:
        for stretch in found:
            yield from _table(game, stretch, whole=len(found) == 1)
    else:
        for at in range(0, len(found), _BESIDE):
            yield from _beside(game, found[at : at + _BESIDE])
    promises = list(_promises(game, source))
    if promises:
        yield "<ul>" + "".join(f"<li>{escape(one)}</li>" for one in promises) + "</ul>"


def _stretches(under: Conditions, odds: DepthOdds, source: Source) -> Iterator[Stretch]:
    view = View("source", source.id)
    tried, means = odds.tried(view), odds.means(view)
    chances = np.zeros_like(means)
    chances[tried.places] = tried.hit
    depths = under.depths.tolist()
    low, high = source.depths or (depths[0], depths[-1])
    rows = [row for row, depth in enumerate(depths) if low <= depth <= high]
    start = 0
    for at in range(1, len(rows) + 1):
        if at < len(rows) and _alike(chances, means, rows[start], rows[at]):
            continue
        row = rows[start]
        yield Stretch(depths[row], depths[rows[at - 1]], chances[:, row], means[:, row])
        start = at


def _alike(chances: FloatArray, means: FloatArray, one: int, other: int) -> bool:
    return all(np.allclose(each[:, one], each[:, other], rtol=1e-12, atol=0) for each in (chances, means))


def _table(game: Game, stretch: Stretch, whole: bool) -> Iterator[str]:
    yield "<table>"
    if not whole:
        yield f"<caption>At {escape(game.words.depth)} {_depths(stretch)}</caption>"
    yield "<tr><th>Item<th class=n>Chance<th class=n>One in<th class=n>On average</tr>"
    for name, at in _rows(game, [stretch]):
        if at is None:
            yield name
            continue
        chance = float(stretch.chance[at])
        yield (
            f"<tr><td>{name}<td class=n>{_percent(chance)}<td class=n>{_number(1 / chance)}"
            f"<td class=n>{_number(float(stretch.mean[at]))}</tr>"
        )
    yield "</table>"


def _beside(game: Game, stretches: list[Stretch]) -> Iterator[str]:
    """Chances alone, a column for each stretch of depths."""
    heads = "".join(f"<th class=n>{_depths(one)}" for one in stretches)
    yield f"<table><caption>Chance of any, by {escape(game.words.depth)}</caption><tr><th>Item{heads}</tr>"
    for name, at in _rows(game, stretches):
        if at is None:
            yield name
            continue
        cells = (float(one.chance[at]) for one in stretches)
        told = "".join(f"<td class=n>{_percent(cell) if cell > 0 else '–'}" for cell in cells)
        yield f"<tr><td>{name}{told}</tr>"
    yield "</table>"


def _rows(game: Game, stretches: list[Stretch]) -> Iterator[tuple[str, int | None]]:
    """The items that can come somewhere, by tier: the tier's own row first, without a place."""
    can = np.any([one.chance > 0 for one in stretches], axis=0)
    for tier in game.tiers:
        rows = [at for at, item in enumerate(game.items) if item.tier == tier.id and can[at]]
        if rows:
            style = f'style="color:{escape(tier.colour)}"'
            yield f"<tr class=tier {style}><td colspan={_BESIDE + 1}>{escape(tier.name)}</tr>", None
        yield from ((escape(game.items[at].name), at) for at in rows)


def _depths(stretch: Stretch) -> str:
    return f"{stretch.first}" if stretch.first == stretch.last else f"{stretch.first}–{stretch.last}"


def _percent(chance: float) -> str:
    """Never 100 % or 0 % of what is neither."""
    if chance >= 1.0:
        return "100 %"
    for digits in range(2, 12):
        text = f"{100 * chance:.{digits}f}"
        if 0 < float(text) < 100:
            return f"{text} %"
    return f"{100 * chance:.3g} %"


def _number(number: float) -> str:
    if number >= 100:
        return f"{number:,.0f}"
    return f"{number:.3g}"


def _promises(game: Game, source: Source) -> Iterator[str]:
    """Guards and limits of all that is rolled, in words."""
    tables = {table.id: table for table in game.tables}
    for drop in source.drops:
        yield from _guarded(drop, f"{tables[drop.table].name}")
    pending, seen = [drop.table for drop in source.drops], set[str]()
    while pending:
        table = tables[pending.pop(0)]
        if table.id in seen:
            continue
        seen.add(table.id)
        if table.rule == "deck":
            yield f"{table.name} is a deck: what was drawn does not come again until the deck is empty."
        for line in table.lines:
            name = line_name(game, line)
            if line.limit is not None:
                yield f"{name}: at most {_times(line.limit)} for each player."
            yield from _guarded(line, name)
            pending += [given.table for given in line.yields if given.table is not None]


def _times(count: int) -> str:
    return {1: "once", 2: "twice"}.get(count, f"{count:,} times")


def _guarded(part: Drop | Line, name: str) -> Iterator[str]:
    guard: Guard | None = part.guard
    if guard is None:
        return
    if guard.sure_at is not None:
        yield f"{name}: at the latest at the {guard.sure_at:,}th try without."
    if guard.rise > 0:
        yield f"{name}: more likely with every try without, after the {guard.after:,}th."


# --- stalls ----------------------------------------------------------------------------------------------


def _stall(game: Game, sale: Sale) -> Iterator[str]:
    lines = {line.id: line for table in game.tables if table.id == sale.stall.stock for line in table.lines}
    counted = ", counted over 100 000 of them" if sale.is_counted else ""
    yield f"<h2>{escape(sale.stall.name)}</h2>"
    yield (
        f"<p>{sale.stall.slots} goods at a time, the same for everybody, others every "
        f"{_span(sale.stall.period_seconds)}.</p>"
    )
    yield f"<table><tr><th>Good<th class=n>Costs, {escape(game.currency)}<th class=n>On sale{counted}</tr>"
    for name, share in sale.shares.items():
        yield (
            f"<tr><td>{escape(line_name(game, lines[name]))}<td class=n>{_number(sale.prices[name])}"
            f"<td class=n>{_percent(share)} of the time</tr>"
        )
    yield "</table>"


def _span(seconds: int) -> str:
    for size, word in ((86_400, "day"), (3_600, "hour"), (60, "minute")):
        if seconds % size == 0:
            many = seconds // size
            return word if many == 1 else f"{many:,} {word}s"
    return f"{seconds:,} seconds"
