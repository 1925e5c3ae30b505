"""Questions about all depths, and their answers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from golddice.server.schemas.common import DepthNumber
from golddice.server.schemas.games import Asked
from golddice.server.schemas.odds import Looked


class DepthsIn(Looked):
    """`swings` asks for each item's coefficient of variation too, which takes longer."""

    swings: bool = False


class ByDepth(BaseModel):
    """Of an item or tier: chance of any and how many an event, by depth."""

    p_any: list[float]
    mean: list[float]
    cv: list[float | None] | None = None


class InBand(BaseModel):
    """The same of one event at any depth of a band."""

    p_any: float
    mean: float
    cv: float | None = None


class BandFigures(BaseModel):
    """An event at any depth of a band at which the view is met."""

    name: str
    from_: Annotated[int, Field(alias="from")]
    to: int
    items: dict[str, InBand]
    value_mean: float
    cv: float | None


class DepthSheetOut(BaseModel):
    """Lists go by depth; `falls` and `worth` are tier shares at each."""

    revision: int
    depths: list[int]
    met: tuple[int, int]
    per_hour: float | None
    items: dict[str, ByDepth]
    falls: list[list[float]]
    worth: list[list[float]]
    value_mean: list[float]
    cv: list[float | None]
    bands: list[BandFigures]


class FlaggedIn(Asked):
    flags: list[str] = []


class WhereIn(FlaggedIn):
    swings: bool = False


class ItemSource(ByDepth):
    """All 0 where the source is not met; `per_hour` events of it fit an hour."""

    id: str
    per_hour: float


class BandSources(BaseModel):
    name: str
    from_: Annotated[int, Field(alias="from")]
    to: int
    sources: dict[str, InBand]


class ItemWay(BaseModel):
    """`path`: the tables it goes through, and sources that lines yield, by kind and id."""

    source: str
    drop: str
    path: list[tuple[Literal["table", "source"], str]]
    line: str
    mean: list[float]


class BestPlace(BaseModel):
    source: str
    depth: int
    figure: float


class StatEnds(BaseModel):
    low: list[float]
    high: list[float]


class Rival(StatEnds):
    """An item of another tier for the same slot: its ends and the chance to beat its roll, by depth."""

    item: str
    stat: str
    beats: list[float]


class Upset(BaseModel):
    """The chance that a roll of the lower of two neighbouring tiers beats the higher, all else alike."""

    tier: str
    stat: str
    chance: float


class TierViewOut(BaseModel):
    """Where anything of a tier is found; or, with more to it, an item."""

    revision: int
    depths: list[int]
    sources: list[ItemSource]
    bands: list[BandSources]
    first: int | None
    best_event: BestPlace | None
    best_hour: BestPlace | None
    gaps: list[tuple[int, int]]


class ItemViewOut(TierViewOut):
    ways: list[ItemWay]
    stats: dict[str, StatEnds]
    rivals: list[Rival]
    upsets: list[Upset]


class MeetsIn(FlaggedIn):
    depth: DepthNumber
    points: Annotated[int, Field(ge=1, le=1_000)] = 3


class Repeats(BaseModel):
    points: int
    all_same: float
    distinct: float
    at_least_one: dict[str, float]


class MeetsOut(BaseModel):
    """What a visit to one depth comes to; without a spawn table only the band is told."""

    revision: int
    band: str | None
    spawns: str | None
    encounters: float = 0.0
    seconds: float = 0.0
    per_hour: float | None = None
    sources: dict[str, float] = {}
    items: dict[str, float] = {}
    later: dict[str, float] = {}
    repeats: Repeats | None = None
