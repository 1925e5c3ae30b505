"""Marks: items worth nothing that are put into a game to be counted. They come from no pool."""

from __future__ import annotations

from golddice.core.game.models import Item, PickLine, PickTable, Tier, Yield
from golddice.core.game.quantity import ONE

MARK = "#mark"  # no id of a game can hold the sign


def mark_tier() -> Tier:
    """The tier, without a curve, of marks that have no other."""
    return Tier.model_construct(id=MARK, name="", curve=None)


def mark_item(name: str | int, tier: str | None = None) -> Item:
    return Item.model_construct(id=f"{MARK}{name}", name="", tier=tier or MARK, abundance=0.0)


def mark_yield(mark: Item) -> Yield:
    return Yield.model_construct(item=mark.id, quantity=ONE)


def mark_table(mark: Item, *more: Yield) -> PickTable:
    """A table of the mark's id that always gives the mark, and whatever else."""
    line = PickLine.model_construct(id="", weight=1.0, yields=[mark_yield(mark), *more])
    return PickTable.model_construct(id=mark.id, name="", rule="pick", lines=[line])
