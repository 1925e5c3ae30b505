"""Things of a game in words."""

from __future__ import annotations

from typing import Any

from golddice.core.game.models import Game, ItemNamed, Pool
from golddice.core.game.views import View


def line_name(game: Game, line: Any) -> str:
    """What a line gives, in words: `Eelskin and Lamp oil`, `any Salvage, metal`, `nothing`."""
    names = {("item", item.id): item.name for item in game.items}
    names |= {("table", table.id): table.name for table in game.tables}
    names |= {("source", source.id): source.name for source in game.sources}
    tiers = {tier.id: tier.name for tier in game.tiers}
    parts = []
    for given in line.yields:
        match given.what:
            case Pool() as pool:
                kinds = " or ".join(tiers[tier] for tier in pool.tiers) or "item"
                parts.append(", ".join([f"any {kinds}", *pool.tags]))
            case ItemNamed(item):
                parts.append(names["item", item])
            case View() as view:
                parts.append(names[view])
    return " and ".join(parts) or "nothing"
