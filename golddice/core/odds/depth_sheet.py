"""One source or table at every depth: each item, tier shares, value; and by band."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.models import Game, Source
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.depths import DepthOdds, Lean
from golddice.core.odds.pace import events_per_hour
from golddice.core.odds.report import View


def all_depths(game: Game, flags: Iterable[str] = ()) -> Conditions:
    return Conditions(game, range(game.depth.from_, game.depth.to + 1), flags)


def depth_sheet(game: Game, view: View, flags: Iterable[str] = ()) -> dict[str, Any]:
    """One view at every depth of the game: each item, tier shares, value. Lists go by depth."""
    under = all_depths(game, flags)
    lean = DepthOdds(under).of(view.kind, view.id)
    source = under.source(view.id) if view.kind == "source" else None
    falls, worth = tier_shares(under, lean)
    sd = np.sqrt(np.maximum(lean.value_var, 0.0))
    return {
        "depths": under.depths.tolist(),
        "met": list(source.depths if source and source.depths else (game.depth.from_, game.depth.to)),
        "per_hour": events_per_hour(source) if source else None,
        "items": {
            game.items[at].id: {"p_any": lean.hit[row].tolist(), "mean": lean.mean[row].tolist()}
            for row, at in enumerate(lean.places)
        },
        "falls": falls.T.tolist(),
        "worth": worth.T.tolist(),
        "value_mean": lean.value_mean.tolist(),
        "cv": [float(s / m) if m > 0 else None for s, m in zip(sd, lean.value_mean, strict=True)],
        "bands": by_band(under, lean, met_at(under, source)),
    }


def by_band(under: Conditions, lean: Lean, met: BoolArray) -> list[dict[str, Any]]:
    """One event at any depth of a band where the view is met, each of them alike.

    The variance is the mean of the depths' variances and the variance of their means.
    """
    found = []
    for band in under.game.depth.bands:
        here = met & (under.depths >= band.from_) & (under.depths <= band.to)
        if not bool(here.any()):
            continue
        means = lean.value_mean[here]
        mean, sd = float(means.mean()), math.sqrt(float(lean.value_var[here].mean() + means.var()))
        hit, many = lean.hit[:, here].mean(axis=1), lean.mean[:, here].mean(axis=1)
        found.append(
            {
                "name": band.name,
                "from": band.from_,
                "to": band.to,
                "items": {
                    under.game.items[at].id: {"p_any": float(hit[row]), "mean": float(many[row])}
                    for row, at in enumerate(lean.places)
                },
                "value_mean": mean,
                "cv": sd / mean if mean > 0 else None,
            }
        )
    return found


def tier_shares(under: Conditions, lean: Lean) -> tuple[FloatArray, FloatArray]:
    """Each tier's share of what falls and of what it is worth, shape (tiers, d)."""
    items = [under.game.items[at] for at in lean.places]
    of_tier = np.zeros((len(under.game.tiers), len(items)))
    of_tier[[under.tier_index[item.tier] for item in items], np.arange(len(items))] = 1.0
    falls = of_tier @ lean.mean
    worth = (of_tier * [item.value for item in items]) @ lean.mean
    return _columns_to_one(falls), _columns_to_one(worth)


def _columns_to_one(parts: FloatArray) -> FloatArray:
    whole = parts.sum(axis=0)
    return np.asarray(np.divide(parts, whole, out=np.zeros_like(parts), where=whole > 0))


def met_at(under: Conditions, source: Source | None) -> BoolArray:
    """The depths at which a source is met; a table is rolled at all."""
    if source is None or source.depths is None:
        return np.ones(under.depths.size, dtype=bool)
    low, high = source.depths
    return np.asarray((under.depths >= low) & (under.depths <= high))
