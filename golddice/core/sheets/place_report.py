"""Everything that is told of a place at a depth."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.odds.places.coming_back import often, visit
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.places.setting_out import SetOut, set_out, setting
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.spots import place_of


def place_report(
    game: Game,
    name: str,
    *,
    depth: int | None = None,
    flags: Iterable[str] = (),
    every: int | None = None,
    seed: int | None = None,
) -> dict[str, Any]:
    """Lines, spots and items as they are set out; with `every` what is there for whoever comes back so often,
    in the long run; with `seed` one setting-out. Without a depth it is the game's first.

    Raises UnknownThing, QueryError and TooLarge.
    """
    place = place_of(game, name)
    at = depth if depth is not None else game.depth.from_
    lying = Lying(Conditions(game, [at], flags), place)
    out = set_out(lying)
    report: dict[str, Any] = {
        "method": out.method,
        "depth": at,
        "lines": _lines(lying, out),
        "spots": {
            spot.id: {
                **dict(zip(lying.lines, chances.tolist(), strict=True)),
                "empty": max(0.0, 1.0 - float(chances.sum())),
            }
            for spot, chances in zip(place.spots, out.spots, strict=True)
        },
        "items": {
            item.id: {"mean": float(out.mean[row]), "p_any": 1.0 - float(out.none[row])}
            for row, item in enumerate(game.items)
        },
    }
    if out.runs:
        report["runs"] = out.runs
    if every is not None:
        found = visit(lying, out, every)
        report["visit"] = {
            "mean": {item.id: float(found.mean[row]) for row, item in enumerate(game.items)},
            "per_hour": {
                item.id: float(found.mean[row]) * 3600 / every for row, item in enumerate(game.items)
            },
            "unseen_share": found.unseen_share,
            "curve": list(_curve(lying, out)),
        }
    if seed is not None:
        lines = setting(lying, seed)
        report["setting"] = {
            spot.id: lying.lines[line] for spot, line in zip(place.spots, lines, strict=True) if line >= 0
        }
    return report


def _curve(lying: Lying, out: SetOut) -> Iterator[dict[str, float]]:
    """What visits bring in worth, by how often one comes."""
    values = lying.under.item_values
    for seconds in often(lying.place):
        try:
            found = visit(lying, out, seconds)
        except TooLarge:
            return
        worth = float(found.mean @ values)
        yield {
            "every": seconds,
            "per_visit": worth,
            "per_hour": worth * 3600 / seconds,
            "unseen_share": found.unseen_share,
        }


def _lines(lying: Lying, out: SetOut) -> dict[str, dict[str, float]]:
    return {
        line: {
            "wanted": float(out.wanted[at]),
            "placed": float(out.placed[at]),
            "all_placed": float(out.all_placed[at]),
            "most": float(out.most[at]),
            "may": float(lying.allowed[:, at].sum()),
            **({"placed_error": float(out.errors[at])} if out.runs else {}),
        }
        for at, line in enumerate(lying.lines)
    }
