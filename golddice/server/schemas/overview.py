"""What is asked and told of the whole game."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from golddice.core.overview.collection import MOST_RUNS, RUNS
from golddice.server.schemas.games import Asked


class CollectionIn(Asked):
    route: str
    runs: Annotated[list[Annotated[int, Field(ge=1, le=MOST_RUNS)]], Field(min_length=1, max_length=10)] = (
        list(RUNS)
    )


class Stretch(BaseModel):
    id: str
    from_: Annotated[int, Field(alias="from")]
    to: int


class BestWay(BaseModel):
    """Where an item comes soonest: the chance of any in an event there, the events by which half of all
    players have one, and the hours, or what is spent. None where it is not told."""

    source: str
    depth: int
    chance: float
    events: int | None
    hours: float | None
    price: float | None


class Covered(BaseModel):
    """Of one item: how many sources give it and the first few, the best; whether it comes so many times,
    ever; flags with which it comes, though not now, or which shut it out; whether it can come at all."""

    count: int
    sources: list[Stretch]
    best: BestWay | None
    limited: bool
    with_: Annotated[list[str], Field(alias="with")]
    without: list[str]
    ever: bool


class ParcelPrice(BaseModel):
    source: str
    price: float
    hours: float | None


class MoneyOut(BaseModel):
    """Of one money, how much an hour brings, by band and by depth; and the parcels that it buys."""

    item: str
    income: dict[str, float]
    income_by_depth: list[float]
    parcels: list[ParcelPrice]


class SalesOut(BaseModel):
    item: str
    share: float
    income: dict[str, float]


class StallCost(BaseModel):
    stall: str
    an_hour: float
    a_period: float


class AllMoney(BaseModel):
    money: list[MoneyOut]
    sales: SalesOut | None
    stalls: list[StallCost]


class OverviewOut(BaseModel):
    """`worth` an hour by tier and depth; of each source that is met its events an hour, by depth."""

    revision: int
    depths: list[int]
    worth: dict[str, list[float]]
    met: dict[str, list[float]]
    coverage: dict[str, Covered]
    money: AllMoney


class OwnedAfter(BaseModel):
    runs: int
    owned: float
    by_half: int


class CollectionOut(BaseModel):
    """After so many runs: chances by item, in their order. Played by so many where it is simulated."""

    revision: int
    route: str
    method: Literal["exact", "simulated"]
    players: int | None
    error: float
    runs: list[OwnedAfter]
    items: dict[str, list[float]]
    last: str | None
