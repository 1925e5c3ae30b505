"""Families of sources that are resolved: what is a source's own, and how it follows its elder."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from golddice.core.game.families import OWN
from golddice.core.game.models import Drop, Source


def is_stated(source: Source, drop: Drop, key: str) -> bool:
    """Whether a key of a drop is the source's own, rather than its family's."""
    if source.like is None:
        return True
    return f"drops/{drop.id}" in source.stated or f"drops/{drop.id}/{key}" in source.stated


def followed(sources: Sequence[Source]) -> list[Source]:
    """The sources, those that are like another taking from it, as it is now, what they do not state; the very
    same where nothing is like anything."""
    if all(source.like is None for source in sources):
        return list(sources)
    by_id = {source.id: source for source in sources}
    done: dict[str, Source] = {}

    def follow(source: Source) -> Source:
        """Up to the eldest that is not done yet, and down again: families may be thousands of steps deep."""
        line: list[Source] = []
        while source.id not in done and (elder := by_id.get(source.like or "")) is not None:
            line.append(source)
            source = elder
        followed = done.setdefault(source.id, source)
        for own in reversed(line):
            followed = done[own.id] = _after(followed, own)
        return followed

    return [follow(source) for source in sources]


def _after(elder: Source, own: Source) -> Source:
    taken: dict[str, Any] = {
        name: getattr(elder, name)
        for name, field in type(own).model_fields.items()
        if (field.alias or name) not in (*OWN, "drops", *own.stated)
    }
    mine = {drop.id: drop for drop in own.drops}
    left_out = set(own.without)
    family = [_drop(drop, mine.get(drop.id), own) for drop in elder.drops if drop.id not in left_out]
    names = {drop.id for drop in elder.drops}
    new = [drop for drop in own.drops if drop.id not in names]
    after = own.model_copy(update={**taken, "drops": [*family, *new]})
    return own if after == own else after


def _drop(drop: Drop, mine: Drop | None, own: Source) -> Drop:
    if mine is None:
        return drop
    stated = {
        name: getattr(mine, name)
        for name in type(drop).model_fields
        if f"drops/{drop.id}/{name}" in own.stated
    }
    return drop.model_copy(update=stated) if stated else drop
