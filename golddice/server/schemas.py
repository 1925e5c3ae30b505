"""What goes over the wire. The parts of a game are the core's own models; the rest is here."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from golddice.core.game.models import Curve, Flag, Item, Settings, Source, Table, Tier
from golddice.core.trial.trial import LARGEST_SEED, MOST_EVENTS, MOST_PLAYERS

ShortText = Annotated[str, Field(min_length=1, max_length=120)]
Seed = Annotated[int, Field(ge=0, le=LARGEST_SEED)]
DepthNumber = Annotated[int, Field(ge=1, le=10_000)]


class Wire(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Problem(BaseModel):
    """Where something is wrong: an entity and a path within, or a path of a file."""

    kind: str | None = None
    id: str | None = None
    path: str
    message: str


class ProblemDetails(BaseModel):
    """RFC 9457, with our places; on a conflict the other side's version."""

    type: str
    title: str
    status: int
    detail: str
    places: list[Problem] = []
    theirs: list[dict[str, Any]] = []
    revision: int | None = None


class GameSummary(BaseModel):
    id: str
    name: str
    revision: int
    updated_at: datetime


class NewGame(Wire):
    name: ShortText


class Steps(BaseModel):
    """What undo and redo would do now."""

    undo: str | None
    redo: str | None


class GameBody(BaseModel):
    """A whole game as the client holds it."""

    id: str
    revision: int
    settings: Settings
    curves: list[Curve]
    tiers: list[Tier]
    flags: list[Flag]
    items: list[Item]
    tables: list[Table]
    sources: list[Source]
    steps: Steps


class EntryIn(Wire):
    """One entity's new body, null to remove it; `before` puts it in front of another."""

    kind: str
    id: str
    body: dict[str, Any] | None
    before: str | None = None


class ChangeIn(Wire):
    base: int
    label: Annotated[str, Field(min_length=1, max_length=200)]
    entries: Annotated[list[EntryIn], Field(min_length=1, max_length=5000)]


class RemovalIn(Wire):
    base: int
    kind: str
    id: str


class EntryOut(BaseModel):
    kind: str
    id: str
    body: dict[str, Any] | None
    position: float


class ChangeOut(BaseModel):
    revision: int
    label: str
    entries: list[EntryOut]
    steps: Steps


class HistoryEntry(BaseModel):
    revision: int
    at: datetime
    origin: str
    label: str


class UseOut(BaseModel):
    kind: str
    id: str
    path: str


class ViewIn(Wire):
    kind: Literal["source", "table"]
    id: str


class FocusIn(Wire):
    """What the reading is about: an item, a tier, a line of a table or a drop of a source."""

    kind: Literal["item", "tier", "line", "drop"]
    id: str | None = None
    table: str | None = None
    line: str | None = None
    source: str | None = None
    drop: str | None = None


class Looked(Wire):
    """What every question about odds names; `draft` are edits not made yet."""

    view: ViewIn
    depth: DepthNumber
    flags: list[str] = []
    draft: list[EntryIn] = []


class OddsIn(Looked):
    """Without a focus the wait is that of the rarest tier that falls."""

    focus: FocusIn | None = None


class SpreadIn(Looked):
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)]


class Waits(BaseModel):
    first_50: int | None
    first_90: int | None
    first_99: int | None


class ItemOdds(BaseModel):
    p_any: float
    mean: float
    sd: float
    one_in: float | None
    long_run_mean: float | None


class TierOdds(BaseModel):
    p_any: float
    mean: float
    long_run_mean: float | None
    share: float
    value_share: float
    one_in: float | None


class LineOdds(BaseModel):
    open: bool
    multiplier: float
    chance: float
    p_any: float
    one_in: float | None
    hits_100: float
    per_100: float
    long_run_100: float | None
    long_run_one_in: float | None
    share: float


class TableOdds(BaseModel):
    rolls: float
    nothing: float
    empty: float
    lines: dict[str, LineOdds]


class DropOdds(BaseModel):
    open: bool
    multiplier: float
    chance: float
    p_any: float
    rolls: float
    share: float


class ValueOdds(BaseModel):
    long_run_mean: float | None
    long_run_error: float
    mean: float
    sd: float
    cv: float | None


class LaterOut(BaseModel):
    """How the waits and the long run are known; `why` not exactly, `players` and `events` played."""

    method: Literal["exact", "simulated", "untold"]
    why: str | None
    players: int
    events: int


class SheetOut(BaseModel):
    """`carries`: whether the long run differs."""

    method: str
    depth: int
    carries: bool
    later: LaterOut
    value: ValueOdds
    per_hour: float | None
    items: dict[str, ItemOdds]
    tiers: dict[str, TierOdds]
    drops: dict[str, DropOdds]
    tables: dict[str, TableOdds]


class WaitOut(Waits):
    """`errors`: standard errors of the waits by name, where they are simulated."""

    focus: FocusIn
    method: Literal["exact", "simulated", "untold"]
    errors: dict[str, float]
    p_any: float
    one_in: float | None
    long_run_mean: float | None
    long_run_error: float
    points: list[tuple[float, float]]
    without: list[tuple[float, float]]


class OddsOut(BaseModel):
    revision: int
    sheet: SheetOut
    wait: WaitOut | None


class SpreadOut(BaseModel):
    """`errors`: standard errors of the quantiles by name, where they are simulated."""

    revision: int
    events: int
    method: str
    players: int
    dots: list[float]
    p05: float
    p25: float
    p50: float
    p75: float
    p95: float
    errors: dict[str, float]
    grid_error: float


class ProfileOut(BaseModel):
    revision: int
    depths: list[int]
    met: tuple[int, int]
    falls: list[list[float]]
    worth: list[list[float]]


class DepthItem(BaseModel):
    p_any: list[float]
    mean: list[float]


class BandItem(BaseModel):
    p_any: float
    mean: float


class BandFigures(BaseModel):
    """An event at any depth of a band at which the view is met."""

    name: str
    from_: Annotated[int, Field(alias="from")]
    to: int
    items: dict[str, BandItem]
    value_mean: float
    cv: float | None


class DepthSheetOut(BaseModel):
    """Lists go by depth; `falls` and `worth` are tier shares at each."""

    revision: int
    depths: list[int]
    met: tuple[int, int]
    items: dict[str, DepthItem]
    falls: list[list[float]]
    worth: list[list[float]]
    value_mean: list[float]
    cv: list[float | None]
    bands: list[BandFigures]


class DraftIn(Wire):
    """The game with edits not made yet."""

    flags: list[str] = []
    draft: list[EntryIn] = []


class ItemSource(BaseModel):
    """Units of the item an event and an hour, and the chance of any, by depth; 0 where not met."""

    id: str
    p_any: list[float]
    mean: list[float]
    hour: list[float]


class ItemWay(BaseModel):
    source: str
    drop: str
    tables: list[str]
    line: str
    mean: list[float]


class BestPlace(BaseModel):
    source: str
    depth: int
    figure: float


class StatEnds(BaseModel):
    low: list[float]
    high: list[float]


class Rival(BaseModel):
    """An item of another tier for the same slot: the chance to beat its roll, by depth."""

    item: str
    stat: str
    beats: list[float]


class ItemViewOut(BaseModel):
    revision: int
    depths: list[int]
    sources: list[ItemSource]
    ways: list[ItemWay]
    first: int | None
    best_event: BestPlace | None
    best_hour: BestPlace | None
    gaps: list[tuple[int, int]]
    stats: dict[str, StatEnds]
    rivals: list[Rival]


class MeetsIn(DraftIn):
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
    repeats: Repeats | None = None


class AnswerIn(Looked):
    """The answer typed for one line: the weight or chance that makes it true is asked for."""

    table: str
    line: str
    answer: Literal["chance", "one_in", "per_100"]
    wanted: float


class AnswerOut(BaseModel):
    body: dict[str, Any]


class CompareIn(Wire):
    """A table as it is, or as a draft edit would make it, under every rule."""

    table: str
    depth: DepthNumber
    flags: list[str] = []
    draft: list[EntryIn] = []


class RuleReading(BaseModel):
    """One rule's reading of the table's entries; `body` is the table so rolled."""

    rule: str
    body: dict[str, Any]
    chances: dict[str, float]
    nothing: float
    hits: float


class CompareOut(BaseModel):
    revision: int
    rules: list[RuleReading]


class MendOut(BaseModel):
    label: str
    entries: list[EntryIn]


class FindingOut(BaseModel):
    level: str
    path: str
    kind: str
    id: str
    message: str
    line: str | None
    field: str | None
    depths: tuple[int, int] | None
    mend: MendOut | None


class FindingsOut(BaseModel):
    revision: int
    count: int
    findings: list[FindingOut]


class RollIn(Looked):
    seed: Seed
    player: Annotated[int, Field(ge=0, le=2**31)] = 0
    first: Annotated[int, Field(ge=1, le=10_000)] = 1
    count: Annotated[int, Field(ge=1, le=1_000)] = 1


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
    """How many units of a tier fell, how many were expected, and the sd of that."""

    tier: str
    fell: int
    expected: float
    sd: float


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
    value_expected: float
    value_sd: float


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
