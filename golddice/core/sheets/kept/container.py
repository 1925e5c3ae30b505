"""A container: whether everything that it rolls fits into its cells, and one packing of it, drawn."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from golddice.core.errors import QueryError
from golddice.core.forecast.openings import SEED, openings_of
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.quantiles import of_sample
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.packing import Packing
from golddice.core.trial.trace import rolled


def container(
    game: Game, source: str, *, depth: int, flags: Iterable[str] = (), opening: int = 0
) -> dict[str, Any]:
    """The first opening of so many fresh players, with standard errors; and the `opening`-th of them, packed.

    Raises UnknownThing, TooLarge, and QueryError of a source without cells.
    """
    under = Conditions(game, [depth], flags)
    cells = under.source(source).cells
    if cells is None:
        raise QueryError(f"“{source}” has no cells; say how many, and it is told what fits")
    found = openings_of(under, source)
    return {
        "cells": list(cells),
        "players": found.players,
        "fits": found.fits,
        "fits_error": found.fits_error,
        "lost_units": float(found.lost_units.mean()),
        "lost_worth": float(found.lost_worth.mean()),
        "lost_worth_error": float(found.lost_worth.std()) / math.sqrt(found.players),
        "received_worth": found.received,
        "items": found.lost,
        "used": {
            "mean": float(found.used.mean()),
            "p50": of_sample(found.used, 0.5),
            "p95": of_sample(found.used, 0.95),
        },
        "packing": packed_once(game, source, cells, depth, tuple(flags), opening),
    }


def packed_once(
    game: Game, source: str, cells: tuple[int, int], depth: int, flags: tuple[str, ...], opening: int
) -> dict[str, Any]:
    """One opening, by the number of the player, stack by stack; what is lost, by item; and money."""
    view = View("source", source)
    found = rolled(game, view, depth=depth, seed=SEED, player=opening, flags=flags)
    items, packing = {item.id: item for item in game.items}, Packing(*cells)
    for name, count in found.events[0].received if found.events else ():
        for _ in range(count):
            packing.add(items[name])
    return {"opening": opening, **drawn(game, packing)}


def drawn(game: Game, packing: Packing) -> dict[str, Any]:
    """A packing as it is drawn: its stacks with the sizes of what lies there."""
    items = {item.id: item for item in game.items}
    stacks = [
        {**vars(stack), "width": items[stack.item].width, "height": items[stack.item].height}
        for stack in packing.stacks
    ]
    return {"stacks": stacks, "lost": packing.left, "purse": packing.purse}
