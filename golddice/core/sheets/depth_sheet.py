"""One source or table at every depth: each item, tier shares, value; and by band."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.game.models import Band, Game, Source
from golddice.core.game.views import View
from golddice.core.odds.depths.along import all_depths, bands_met, met_at, tier_shares
from golddice.core.odds.depths.depth_odds import DepthOdds, Lean, odds_of_view
from golddice.core.odds.depths.swings import Swings, Variances, pooled
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour


def depth_sheet(game: Game, view: View, flags: Iterable[str] = (), swings: bool = False) -> dict[str, Any]:
    """One view at every depth of the game: each item, tier shares, value. Lists go by depth.

    `swings` adds to every item the coefficient of variation of how many.
    """
    under = all_depths(game, flags)
    lean = odds_of_view(under, view)
    spread = Swings(under).of(view) if swings else {}
    source = under.source(view.id) if view.kind == "source" else None
    falls, worth = tier_shares(under, lean.places, lean.mean)
    return {
        "depths": under.depths.tolist(),
        "met": _met(game, source),
        "per_hour": events_per_hour(source) if source else None,
        "items": {
            game.items[at].id: by_depth(lean.hit[row], lean.mean[row], spread.get(at))
            for row, at in enumerate(lean.places.tolist())
        },
        "falls": falls.T.tolist(),
        "worth": worth.T.tolist(),
        "value_mean": lean.value_mean.tolist(),
        "cv": swing(lean.value_mean, lean.value_var),
        "bands": by_band(under, lean, met_at(under, source), spread),
    }


def profile(game: Game, view: View, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Tier shares of a view at every depth of the game: of what falls, and of what it is worth."""
    under = all_depths(game, flags)
    mean = DepthOdds(under).means(view)
    source = under.source(view.id) if view.kind == "source" else None
    return {**shares_told(under, mean), "met": _met(game, source)}


def shares_told(under: Conditions, mean: FloatArray) -> dict[str, Any]:
    """Tier shares by depth of so many of each item, shape (items, d), as they are told."""
    falls, worth = tier_shares(under, np.arange(len(under.game.items)), mean)
    return {"depths": under.depths.tolist(), "falls": falls.T.tolist(), "worth": worth.T.tolist()}


def _met(game: Game, source: Source | None) -> list[int]:
    """From and to which depth a source is met; a table is rolled at all."""
    return list(source.depths if source and source.depths else (game.depth.from_, game.depth.to))


def by_depth(hit: FloatArray, mean: FloatArray, var: FloatArray | None) -> dict[str, Any]:
    """The figures of one item, or tier, from arrays over depth."""
    figures: dict[str, Any] = {"p_any": hit.tolist(), "mean": mean.tolist()}
    return figures if var is None else {**figures, "cv": swing(mean, var)}


def by_band(under: Conditions, lean: Lean, met: BoolArray, spread: Variances) -> list[dict[str, Any]]:
    """One event at any depth of a band where the view is met, each of them alike."""
    return [
        {
            **told(band),
            "items": {
                under.game.items[at].id: over(here, lean.hit[row], lean.mean[row], spread.get(at))
                for row, at in enumerate(lean.places.tolist())
            },
            "value_mean": float(lean.value_mean[here].mean()),
            "cv": _cv(*pooled(lean.value_mean, lean.value_var, here)),
        }
        for band, here in bands_met(under, met)
    ]


def told(band: Band) -> dict[str, Any]:
    return {"name": band.name, "from": band.from_, "to": band.to}


def over(here: BoolArray, hit: FloatArray, mean: FloatArray, var: FloatArray | None) -> dict[str, Any]:
    """The same figures of one event at any of some depths."""
    figures: dict[str, Any] = {"p_any": float(hit[here].mean()), "mean": float(mean[here].mean())}
    return figures if var is None else {**figures, "cv": _cv(*pooled(mean, var, here))}


def _cv(mean: float, var: float) -> float | None:
    return math.sqrt(var) / mean if mean > 0 else None


def swing(mean: FloatArray, var: FloatArray) -> list[float | None]:
    """The coefficient of variation at each depth, sd / mean; None where nothing is given."""
    sd = np.sqrt(np.maximum(var, 0.0))
    return [float(s / m) if m > 0 else None for s, m in zip(sd, mean, strict=True)]
