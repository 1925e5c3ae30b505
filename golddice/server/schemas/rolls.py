"""Events rolled one by one, with their traces."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from golddice.server.schemas.common import Seed
from golddice.server.schemas.odds import Looked


class RollIn(Looked):
    """`kernel` is the version that a trial was played by, whose player this is."""

    seed: Seed
    player: Annotated[int, Field(ge=0, le=2**31)] = 0
    first: Annotated[int, Field(ge=1, le=10_000)] = 1
    count: Annotated[int, Field(ge=1, le=1_000)] = 1
    kernel: int | None = None


class RolledItem(BaseModel):
    item: str
    count: int


class RollStep(BaseModel):
    kind: str
    text: str
    table: str | None = None
    line: str | None = None
    number: float | None = None


class RolledEvent(BaseModel):
    event: int
    value: float
    received: list[RolledItem]
    steps: list[RollStep]


class TierCount(BaseModel):
    """How many units of a tier fell, how many were expected, and the sd of that: null where it would take
    too long to say."""

    tier: str
    fell: int
    expected: float | None
    sd: float | None


class HeldOut(BaseModel):
    """What a player carries of one line or drop; null for what it has none of."""

    table: str | None
    source: str | None
    line: str
    misses: int | None
    hits: int | None
    left: int | None
    of: int | None


class RollOut(BaseModel):
    revision: int
    events: list[RolledEvent]
    rolled: int
    tiers: list[TierCount]
    held: list[HeldOut]
    value: float
    value_expected: float | None
    value_sd: float | None
