"""What all parts of a game are made of: the base of every model, and the kinds of its plain fields."""

from __future__ import annotations

from typing import Annotated

from propcache.api import cached_property
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from golddice.core.game.naming import Id, Names

DEEPEST = 10_000

FlagId = Annotated[Id, Names("flag")]


def _kept(text: str) -> str:
    if "\x00" in text:
        raise ValueError("holds the character NUL, which cannot be kept; take it out")
    return text


Name = Annotated[str, Field(min_length=1, max_length=120), AfterValidator(_kept)]
Tag = Annotated[str, Field(min_length=1, max_length=60), AfterValidator(_kept)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Chance = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Weight = Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)]
Depth = Annotated[int, Field(ge=1, le=DEEPEST)]
DepthRange = tuple[Depth, Depth]
NoteText = Annotated[str, Field(max_length=20_000), AfterValidator(_kept)]


class Part(BaseModel):
    """What every part of a game shares: strict, immutable, no unknown keys."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, ignored_types=(cached_property,))
