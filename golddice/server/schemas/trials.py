"""Trials, as they go over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from golddice.core.trial.trial import MOST_EVENTS, MOST_PLAYERS
from golddice.server.schemas.common import DepthNumber, Seed, ShortText, Wire
from golddice.server.schemas.odds import ViewIn, Waits


class TrialIn(Wire):
    name: Annotated[str, Field(max_length=120)] = ""
    view: ViewIn
    depth: DepthNumber
    flags: list[str] = []
    players: Annotated[int, Field(ge=1, le=MOST_PLAYERS)]
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)]
    seed: Seed


class TrialRename(Wire):
    name: ShortText


class TrialSummary(BaseModel):
    id: str
    number: int
    name: str
    revision: int
    kernel: int | None
    spec: TrialIn
    status: str
    done: int
    seconds: float | None
    error: str | None
    created_at: datetime


class Bin(BaseModel):
    from_: float = Field(alias="from")
    to: float
    count: int


class TrialItem(Waits):
    total: int
    mean: float
    sd: float
    p05: int
    p25: int
    p50: int
    p75: int
    p95: int
    none_share: float
    drought_50: int
    drought_90: int
    drought_99: int
    expected_mean: float | None
    z: float | None
    histogram: list[Bin]


class TrialValue(BaseModel):
    mean: float
    sd: float
    cv: float | None
    p05: float
    p25: float
    p50: float
    p75: float
    p95: float
    expected_mean: float | None
    expected_sd: float | None
    z: float | None


class Fan(BaseModel):
    events: list[int]
    quantiles: list[list[float]]


class TrialPlayer(BaseModel):
    player: int
    value: float
    items: dict[str, int]
    path: list[float]


class TrialResult(BaseModel):
    items: dict[str, TrialItem]
    value: TrialValue
    events: int
    digest: str
    histogram: list[Bin]
    fan: Fan
    players: dict[str, TrialPlayer]


class TrialOut(TrialSummary):
    result: TrialResult | None
