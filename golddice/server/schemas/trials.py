"""Trials, as they go over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Self

from pydantic import BaseModel, Field, model_validator

from golddice.core.trial.trial import MOST_EVENTS, MOST_PLAYERS
from golddice.server.schemas.common import DepthNumber, Seed, ShortText, Token, Wire
from golddice.server.schemas.games import EntryIn
from golddice.server.schemas.kept import KeptParts
from golddice.server.schemas.odds import ViewIn, Waits
from golddice.server.schemas.rolls import RolledEvent

EntityId = Annotated[str, Field(min_length=1, max_length=80)]


class UntilIn(Wire):
    """End as soon as the mean (of an item, or of value) is known so well: half of its 95 % interval."""

    within: Annotated[float, Field(ge=1e-6, le=1)]
    item: EntityId | None = None


class TrialIn(Wire):
    """Of a source or table at a depth, so many events each; or of a route. Of the game at a `revision`, the
    latest where it is None, with the edits of a `draft`. `beside` is another trial that it is to be held
    against."""

    name: Annotated[str, Field(max_length=120)] = ""
    view: ViewIn | None = None
    depth: DepthNumber | None = None
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)] | None = None
    flags: list[str] = []
    route: EntityId | None = None
    players: Annotated[int, Field(ge=1, le=MOST_PLAYERS)]
    seed: Seed
    until: UntilIn | None = None
    revision: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    draft: Annotated[list[EntryIn], Field(max_length=1000)] = []
    knowingly: bool = False
    beside: EntityId | None = None
    token: Token | None = None  # its own id: sent again under it, no second one is run

    @model_validator(mode="after")
    def _of_one_thing(self) -> Self:
        of_view = (self.view, self.depth, self.events)
        if self.route is None and None in of_view:
            raise ValueError("a trial is of a view at a depth with so many events, or of a route")
        if self.route is not None and (of_view != (None, None, None) or self.flags):
            raise ValueError("a route has depths, events and flags of its own; leave them out")
        return self


class TrialChange(Wire):
    name: ShortText | None = None
    note: Annotated[str, Field(max_length=20_000)] | None = None
    pinned: bool | None = None
    beside: Annotated[str, Field(max_length=80)] | None = None  # empty: beside none


class Estimate(BaseModel):
    """Of a trial before it is started: seconds on this machine, bytes that would be kept."""

    seconds: float
    bytes: int


class TrialSummary(BaseModel):
    id: str
    number: int
    name: str
    note: str
    pinned: bool
    beside: str | None
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


class TrialTier(BaseModel):
    mean: float
    share: float
    expected_mean: float | None
    z: float | None


class Spread(BaseModel):
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


class TrialStop(BaseModel):
    """Since the start of the route. `value` is told of some sixty stops at most."""

    leg: str
    depth: int
    events: float
    seconds: float
    value: Spread | None = None


class TrialResult(KeptParts):
    items: dict[str, TrialItem]
    tiers: dict[str, TrialTier] = {}
    value: Spread
    inequality: dict[str, float | None] = {}
    repeats: float | None = None
    events: int
    players_done: int | None = None
    digest: str
    histogram: list[Bin]
    fan: Fan
    players: dict[str, TrialPlayer]
    untold: str | None = None
    stops: list[TrialStop] | None = None
    seconds_mean: float | None = None


class Pace(BaseModel):
    events_a_second: float | None
    seconds_left: float | None
    precision: float | None


class TrialOut(TrialSummary):
    """`partial` and `pace` while it runs: what is told of the players so far, without what is expected."""

    result: TrialResult | None
    partial: TrialResult | None = None
    pace: Pace | None = None


class ReplayedEvent(RolledEvent):
    """`stop` is the number of the stop on a route; `event` is negative for what an encounter itself gives."""

    stop: int | None


class ReplayOut(BaseModel):
    """`counts` and `value` are of what the player has up to the last event that was played."""

    player: int
    events: list[ReplayedEvent]
    counts: dict[str, int]
    value: float


class NearOut(BaseModel):
    player: int
    value: float


class CompareTrialsIn(Wire):
    other: EntityId


class DifferenceOut(BaseModel):
    before: float | None
    after: float | None
    difference: float
    error: float
    unpaired_error: float
    noise: bool


class CompareTrialsOut(BaseModel):
    """What is different in the trial from `other`, the one before."""

    paired: bool
    why_unpaired: str | None
    players: int
    value: DifferenceOut
    items: dict[str, DifferenceOut]
