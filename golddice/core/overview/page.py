"""The overview as a page, for somebody who has nothing installed: a picture down the depths, and tables."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from typing import Any

from golddice.core.errors import GoldDiceError
from golddice.core.exchange.document import document
from golddice.core.game.models import KINDS, Game, list_name
from golddice.core.overview.collection import collection
from golddice.core.overview.report import health, overview

_STYLE = """
svg text { font: 11px Georgia, serif; fill: #6b6255 }
table { font-size: .92em } td.none { color: #8a3324 }
@page { margin: 14mm } @media print { body { font-size: 11px } svg { max-height: 9cm } }
"""
_WIDTH, _ROW = 560, 13
_LEFT = 40
_FINDINGS = 12  # that are listed


def overview_page(game: Game, flags: frozenset[str] = frozenset()) -> str:
    """Raises UnknownThing and TooLarge."""
    found = overview(game, flags)
    parts = [
        f"<h1>{escape(game.name)}</h1>",
        "<h2>An hour, down the depths</h2>",
        "".join(_picture(game, found)),
        "<h2>Health</h2>",
        "".join(_health(game)),
        "<h2>Money</h2>",
        "".join(_money(game, found)),
        "".join(_collections(game)),
        "<h2>Every item</h2>",
        "".join(_coverage(game, found)),
    ]
    return document(f"Overview of {game.name}", parts, _STYLE)


def _health(game: Game) -> Iterator[str]:
    found = health(game)
    met = sum(one["is_met"] for one in found["targets"])
    names = {one.id: one.name for one in game.targets}
    if found["targets"]:
        yield f"<p>{met} of {len(found['targets'])} targets are met"
        missed = [escape(names[one["id"]]) for one in found["targets"] if not one["is_met"]]
        yield f"; missed: {', '.join(missed)}.</p>" if missed else ".</p>"
    many = len(found["findings"])
    yield (
        f"<p>{many} {'finding' if many == 1 else 'findings'}.</p>"
        if many
        else "<p>Nothing odd was found.</p>"
    )
    if many:
        of = _names(game)
        told = [f"{of.get(one['id'], game.name)}: {one['message']}" for one in found["findings"][:_FINDINGS]]
        yield "<ul>" + "".join(f"<li>{escape(one)}</li>" for one in told) + "</ul>"


def _picture(game: Game, found: dict[str, Any]) -> Iterator[str]:
    """Worth an hour by tier, stacked, a row a depth."""
    depths, worth = found["depths"], found["worth"]
    whole = [sum(worth[tier.id][row] for tier in game.tiers) for row in range(len(depths))]
    most = max(whole, default=0.0)
    if most <= 0:
        yield "<p>Nothing is met at any depth.</p>"
        return
    height = len(depths) * _ROW + 22
    yield f'<svg viewBox="0 0 {_WIDTH + _LEFT + 70} {height}" role="img" aria-label="worth an hour by depth">'
    for row, depth in enumerate(depths):
        y, x = row * _ROW, float(_LEFT)
        yield f'<text x="{_LEFT - 6}" y="{y + 10}" text-anchor="end">{depth}</text>'
        for tier in game.tiers:
            width = _WIDTH * worth[tier.id][row] / most
            if width > 0:
                place = f'x="{x:.1f}" y="{y + 1}" width="{width:.1f}" height="{_ROW - 2}"'
                yield f'<rect {place} fill="{tier.colour}"/>'
            x += width
        yield f'<text x="{x + 5:.1f}" y="{y + 10}">{_figure(whole[row])}</text>'
    yield "</svg><p class=small>Worth an hour as it is met: "
    yield ", ".join(
        f'<span style="border-bottom:3px solid {tier.colour}">{escape(tier.name)}</span>'
        for tier in game.tiers
    )
    yield ".</p>"


def _money(game: Game, found: dict[str, Any]) -> Iterator[str]:
    names = _names(game)
    money = found["money"]
    if not money["money"]:
        yield "<p>Nothing is money.</p>"
        return
    bands = [band for band in game.depth.bands if any(band.id in one["income"] for one in money["money"])]
    for one in money["money"]:
        yield f"<table><caption>{escape(names[one['item']])} an hour</caption><tr>"
        yield "".join(f"<th class=n>{escape(band.name)}</th>" for band in bands) + "</tr><tr>"
        yield "".join(f"<td class=n>{_figure(one['income'].get(band.id, 0.0))}</td>" for band in bands)
        yield "</tr></table>"
        for parcel in one["parcels"]:
            hours = "" if parcel["hours"] is None else f", {_figure(parcel['hours'])} hours of the best band"
            yield f"<p>{escape(names[parcel['source']])} costs {parcel['price']:,.0f}{hours}.</p>"
    for stall in money["stalls"]:
        each = f"{_figure(stall['an_hour'])} an hour"
        yield f"<p>All goods of {escape(names[stall['stall']])} cost {each}.</p>"
    if money["sales"]:
        share = f"{100 * money['sales']['share']:.3g} %"
        yield f"<p>Everything else sold for {share} of its worth brings an hour: "
        yield ", ".join(
            f"{escape(band.name)} {_figure(money['sales']['income'].get(band.id, 0.0))}" for band in bands
        )
        yield ".</p>"


def _collections(game: Game) -> Iterator[str]:
    names = _names(game)
    for route in game.routes:
        try:
            found = collection(game, route.id)
        except GoldDiceError as error:
            yield f"<h2>{escape(route.name)}, again and again</h2><p>Not told: {escape(str(error))}.</p>"
            continue
        yield f"<h2>{escape(route.name)}, again and again</h2><table><tr><th>runs<th class=n>different items "
        yield "on average<th class=n>items that half of all players own</tr>"
        for one in found["runs"]:
            yield f"<tr><td>{one['runs']}<td class=n>{one['owned']:.1f} of {len(game.items)}"
            yield f"<td class=n>{one['by_half']}</tr>"
        last = f" The last is {escape(names[found['last']])}." if found["last"] else ""
        how = "Exact." if found["players"] is None else f"Played by {found['players']} players."
        yield f"</table><p class=small>{how}{last}</p>"


def _coverage(game: Game, found: dict[str, Any]) -> Iterator[str]:
    names = _names(game)
    yield "<table><tr><th>item<th>best place<th class=n>depth<th class=n>chance<th class=n>half have one by"
    yield "<th>besides</tr>"
    for tier in game.tiers:
        mine = [item for item in game.items if item.tier == tier.id]
        if mine:
            yield f'<tr class=tier style="color:{tier.colour}"><td colspan=6>{escape(tier.name)}</tr>'
        for item in mine:
            one = found["coverage"][item.id]
            yield f"<tr><td>{escape(item.name)}" + _place(one, names)
            yield f"<td>{escape(', '.join(_besides(one, names)))}</tr>"
    yield "</table>"


def _place(one: dict[str, Any], names: dict[str, str]) -> str:
    best = one["best"]
    if best is None:
        return "<td class=none colspan=4>nowhere"
    when = "not told"
    if best["hours"] is not None:
        when = time_words(best["hours"])
    elif best["price"] is not None:
        when = f"{best['price']:,.0f} spent"
    return (
        f"<td>{escape(names[best['source']])}<td class=n>{best['depth']}"
        f"<td class=n>{100 * best['chance']:.3g} %<td class=n>{when}"
    )


def _besides(one: dict[str, Any], names: dict[str, str]) -> Iterator[str]:
    if one["count"] > 1:
        yield f"{one['count']} sources"
    if one["limited"]:
        yield "so many times, ever"
    if not one["count"] and not one["ever"]:
        yield "cannot be had at all"
    if one["with"]:
        yield "only once " + " or ".join(names[flag] for flag in one["with"])
    if one["without"]:
        yield "not any more once " + " or ".join(names[flag] for flag in one["without"])


def _names(game: Game) -> dict[str, str]:
    lists: tuple[Sequence[Any], ...] = tuple(getattr(game, list_name(kind)) for kind in KINDS)
    return {one.id: one.name for every in lists for one in every}


def time_words(hours: float) -> str:
    if hours < 1 / 60:
        return f"{3600 * hours:.3g} s"
    return f"{60 * hours:.3g} min" if hours < 1 else f"{hours:.3g} h"


def _figure(value: float) -> str:
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.3g}"
