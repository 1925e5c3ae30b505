"""What is held of each entity of a game: the part as a model, its plain body, and what it says of others.

Two that say the same are one object, in whatever game or revision they stand: so what was worked out of a
part is found again after an undo, in a copy, in an older revision, and nothing is read twice.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from typing import Any

from pydantic import BaseModel

from golddice.core.game.checking import Facts, facts_of
from golddice.core.game.models import Source
from golddice.core.game.reading import plain_of, whole
from golddice.core.results import Interned

Body = dict[str, Any]


class Held:
    """One entity. `whole` is its body with all that it takes from its family, `body` what it states itself:
    of all but kin the same."""

    __slots__ = ("__weakref__", "_full", "body", "facts", "like", "part", "whole")

    def __init__(self, kind: str, part: Any, whole: Body, body: Body, elder: Held | None = None) -> None:
        self.part, self.whole, self.body = part, whole, body
        self.like: str | None = part.like if isinstance(part, Source) else None
        self._full: Body | None = None
        self.facts: Facts
        if elder is not None and elder.part is not None and part.drops is elder.part.drops:
            self.facts = facts_of(kind, body).with_those_of(elder.facts, "drops")
        else:  # a drop that is stated in part still rolls what its family's rolls
            told = body if body is whole or "drops" not in whole else body | {"drops": whole["drops"]}
            self.facts = facts_of(kind, told)

    @property
    def full(self) -> Body:
        """The whole with its defaults written out."""
        if self._full is None:
            self._full = whole(self.part)
        return self._full


class Waiting(Held):
    """A source that is like another and was edited: it keeps its place until all edits are there."""

    def __init__(self, body: Body) -> None:
        self.part, self.whole, self.body, self.facts = None, body, body, Facts((), ())
        self.like = body["like"]


_alike: Interned[Held] = Interned()


def held(kind: str, part: BaseModel, body: Body | None = None, elder: Held | None = None) -> Held:
    """All that is held of a part, or of one that says the same. `body` where what it states is known, and
    its `elder` where that is and the part states no drop."""
    text = part.model_dump_json(by_alias=True, exclude_defaults=True)

    def make() -> Held:
        short = json.loads(text)
        return Held(kind, part, short, body or plain_of(part, short), elder)

    return _alike.get((kind, text), make)


class Side(Mapping[str, Mapping[str, Any]]):
    """One side of what is held, by kind and id: all the parts, or all the bodies."""

    def __init__(self, every: Mapping[str, Mapping[str, Held]], side: str) -> None:
        self._every, self._side = every, side

    def __getitem__(self, kind: str) -> Mapping[str, Any]:
        return _Column(self._every[kind], self._side)

    def __iter__(self) -> Iterator[str]:
        return iter(self._every)

    def __len__(self) -> int:
        return len(self._every)


class _Column(Mapping[str, Any]):
    def __init__(self, held: Mapping[str, Held], side: str) -> None:
        self._held, self._side = held, side

    def __getitem__(self, name: str) -> Any:
        return getattr(self._held[name], self._side)

    def __iter__(self) -> Iterator[str]:
        return iter(self._held)

    def __len__(self) -> int:
        return len(self._held)
