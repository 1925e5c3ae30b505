"""A container: whether everything that it rolls fits into its cells, and one packing of it, drawn."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.keeps import BARE
from golddice.core.trial.packing import Packing
from golddice.core.trial.playing import Unit, played
from golddice.core.trial.tallies import ranked
from golddice.core.trial.trace import rolled

OPENINGS = 10_000
SEED = 20_417
_MOST_ROLLS = 20_000_000


def container(
    game: Game, source: str, *, depth: int, flags: Iterable[str] = (), opening: int = 0
) -> dict[str, Any]:
    """The first opening of so many fresh players, each with its standard error; and the `opening`-th of them,
    packed.

    Raises UnknownThing, and QueryError of a source without cells.
    """
    under = Conditions(game, [depth], flags)
    cells = under.source(source).cells
    if cells is None:
        raise QueryError(f"“{source}” has no cells; say how many, and it is told what fits")
    view = View("source", source)
    program = compiled(under, view, BARE)
    players = max(100, min(OPENINGS, int(_MOST_ROLLS / program.work)))
    bags = played(Unit.of(program, SEED, 0, players, 1))
    kept: dict[str, Any] = dict(bags.kept)
    inside = np.sort(kept["inside"]).astype(np.float64)
    short, lost_worth = float((kept["lost_units"] > 0).mean()), kept["lost_worth"]
    return {
        "cells": list(cells),
        "players": players,
        "fits": 1.0 - short,
        "fits_error": math.sqrt(short * (1.0 - short) / players),
        "lost_units": float(kept["lost_units"].mean()),
        "lost_worth": float(lost_worth.mean()),
        "lost_worth_error": float(lost_worth.std()) / math.sqrt(players),
        "received_worth": float(bags.value.mean()),
        "items": {
            game.items[at].id: float(lost) / players
            for at, lost in zip(program.items.tolist(), kept["lost_sum"], strict=True)
            if lost
        },
        "used": {"mean": float(inside.mean()), "p50": ranked(inside, 0.5), "p95": ranked(inside, 0.95)},
        "packing": packed_once(game, view, cells, depth, tuple(flags), opening),
    }


def packed_once(
    game: Game, view: View, cells: tuple[int, int], depth: int, flags: tuple[str, ...], opening: int
) -> dict[str, Any]:
    """One opening, by the number of the player, stack by stack; what is lost, by item; and money."""
    found = rolled(game, view, depth=depth, seed=SEED, player=opening, flags=flags)
    items, packing = {item.id: item for item in game.items}, Packing(*cells)
    for name, count in found.events[0].received if found.events else ():
        for _ in range(count):
            packing.add(items[name])
    stacks = [
        {**vars(stack), "width": items[stack.item].width, "height": items[stack.item].height}
        for stack in packing.stacks
    ]
    return {"opening": opening, "stacks": stacks, "lost": packing.left, "purse": packing.purse}
