"""The stats of items by depth, and how far those of different tiers overlap."""

from __future__ import annotations

from typing import Any

from golddice.core.game.models import Item
from golddice.core.terms.conditions import Conditions


def stat_ranges(under: Conditions, item: Item) -> dict[str, dict[str, list[float]]]:
    """Each stat's ends by depth: entered, times its curve, times the tier's factor."""
    factor = under.game.tiers[under.tier_index[item.tier]].stat_factor
    return {
        name: {
            "low": (stat.min * factor * under.curve(stat.curve)).tolist(),
            "high": (stat.max * factor * under.curve(stat.curve)).tolist(),
        }
        for name, stat in item.stats.items()
    }


def rivals(under: Conditions, item: Item) -> list[dict[str, Any]]:
    """Items of other tiers for the same slot with the same stat: by depth, the ends of theirs and the
    chance that a roll of `item` beats one of them."""
    mine, found = stat_ranges(under, item), []
    for other in under.game.items:
        if item.slot is None or other.slot != item.slot or other.tier == item.tier:
            continue
        theirs = stat_ranges(under, other)
        for stat in [name for name in mine if name in theirs]:
            ends = zip(mine[stat]["low"], mine[stat]["high"], strict=True)
            others = zip(theirs[stat]["low"], theirs[stat]["high"], strict=True)
            chances = [beats(a, b) for a, b in zip(ends, others, strict=True)]
            found.append({"item": other.id, "stat": stat, "beats": chances, **theirs[stat]})
    return found


def upsets(under: Conditions, item: Item) -> list[dict[str, Any]]:
    """Each stat beside the same of a neighbouring tier: the chance that a roll of the lower tier beats
    one of the higher. Depth does not matter: the curve scales both alike."""
    tiers, at = under.game.tiers, under.tier_index[item.tier]
    found = []
    for other in (at - 1, at + 1):
        if not 0 <= other < len(tiers):
            continue
        lower, higher = (tiers[rung].stat_factor for rung in sorted((at, other)))
        for name, stat in item.stats.items():
            scaled = [(stat.min * factor, stat.max * factor) for factor in (lower, higher)]
            found.append({"tier": tiers[other].id, "stat": name, "chance": beats(*scaled)})
    return found


def beats(low: tuple[float, float], high: tuple[float, float]) -> float:
    """Chance that a uniform roll of the first range is above one of the second; ties count half."""
    (a, b), (c, d) = low, high
    if a == b and c == d:
        return 1.0 if a > c else 0.5 if a == c else 0.0
    if a == b:
        return min(1.0, max(0.0, (a - c) / (d - c)))
    if c == d:
        return min(1.0, max(0.0, (b - c) / (b - a)))
    # The mean over x in [a, b] of the share of [c, d] below x, which is piecewise linear in x.
    inner_low, inner_high = min(max(a, c), b), max(min(b, d), a)
    rising = ((inner_high - c) ** 2 - (inner_low - c) ** 2) / (2 * (d - c)) if inner_high > inner_low else 0.0
    return float((rising + max(0.0, b - max(a, d))) / (b - a))
