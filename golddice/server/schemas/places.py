"""Questions about places and stalls, and their answers."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from golddice.server.schemas.common import DepthNumber
from golddice.server.schemas.games import Asked


class PlaceIn(Asked):
    """`every`: who comes back so often; `seed`: one setting-out."""

    place: str
    depth: DepthNumber
    flags: list[str] = []
    every: Annotated[int, Field(ge=1, le=10**9)] | None = None
    seed: Annotated[int, Field(ge=0, le=10**9)] | None = None


class PlacedLine(BaseModel):
    """`may`: at how many spots it may lie. `placed_error` where it is simulated."""

    wanted: float
    placed: float
    all_placed: float
    most: float
    may: float
    placed_error: float | None = None


class LyingItem(BaseModel):
    mean: float
    p_any: float


class VisitPoint(BaseModel):
    """What visits bring in worth, where they are so many seconds apart."""

    every: int
    per_visit: float
    per_hour: float
    unseen_share: float


class VisitOut(BaseModel):
    mean: dict[str, float]
    per_hour: dict[str, float]
    unseen_share: float
    curve: list[VisitPoint]


class PlaceOut(BaseModel):
    """`spots`: the chance of each line there, and of `empty`. `setting`: the line at each spot with one."""

    revision: int
    method: str
    depth: int
    lines: dict[str, PlacedLine]
    spots: dict[str, dict[str, float]]
    items: dict[str, LyingItem]
    runs: int | None = None
    visit: VisitOut | None = None
    setting: dict[str, str] | None = None


class StallIn(Asked):
    stall: str
    at: Annotated[str, Field(max_length=60)]
    count: Annotated[int, Field(ge=1, le=1_000)] = 30
    look_every: Annotated[int, Field(ge=1, le=1_000)] | None = None
    looks: Annotated[int, Field(ge=1, le=1_000)] = 1


class Period(BaseModel):
    k: int
    from_: str = Field(alias="from")
    to: str
    goods: list[str]


class Good(BaseModel):
    """`absence_mean`, `absence_99`: periods in a row without it, where drawn; `longest` of the next 400."""

    share: float
    share_error: float
    absence_mean: float | None
    absence_99: int | None
    longest: int
    seen: float


class UntilAll(BaseModel):
    mean: float
    most: float


class Goods(BaseModel):
    until_all: UntilAll
    by_good: dict[str, Good]


class StallOut(BaseModel):
    revision: int
    method: str
    periods: list[Period]
    shares: dict[str, float]
    prices: dict[str, float]
    goods: Goods | None = None
