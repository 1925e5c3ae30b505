"""Questions about odds at one depth, and their answers."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from golddice.core.trial.trial import MOST_EVENTS
from golddice.server.schemas.common import DepthNumber, Wire
from golddice.server.schemas.games import Asked, EntryIn


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


class Looked(Asked):
    """What every question about odds names."""

    view: ViewIn
    depth: DepthNumber
    flags: list[str] = []


class OddsIn(Looked):
    """Without a focus the wait is that of the rarest tier that falls."""

    focus: FocusIn | None = None


class SpreadIn(Looked):
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)]


class Waits(BaseModel):
    first_50: int | None
    first_90: int | None
    first_99: int | None


class LongRun(BaseModel):
    """How many per event in the long run; `long_run_error` is its standard error, 0 where it is exact. Where
    players who are played have not settled, `late_mean` is the average over their last events instead."""

    long_run_mean: float | None
    long_run_error: float
    late_mean: float | None


class ItemOdds(LongRun):
    p_any: float
    mean: float
    sd: float
    one_in: float | None


class TierOdds(LongRun):
    p_any: float
    mean: float
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
    long_run_100_error: float
    long_run_one_in: float | None
    long_run_one_in_error: float
    share: float | None


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
    share: float | None


class ValueOdds(LongRun):
    mean: float
    sd: float
    cv: float | None


class LaterOut(BaseModel):
    """How the waits and the long run are known; `why` not exactly, `players` and `events` played; `over`
    which of these events what has not settled is told of."""

    method: Literal["exact", "simulated", "untold"]
    why: str | None
    players: int
    events: int
    over: tuple[int, int] | None


class NextOut(BaseModel):
    """How the next event is known; `why` not exactly, and how many `players` were played."""

    method: Literal["exact", "simulated"]
    why: str | None
    players: int


class SheetOut(BaseModel):
    """`carries`: whether the long run differs."""

    next: NextOut
    depth: int
    carries: bool
    later: LaterOut
    value: ValueOdds
    per_hour: float | None
    items: dict[str, ItemOdds]
    tiers: dict[str, TierOdds]
    drops: dict[str, DropOdds]
    tables: dict[str, TableOdds]


class WaitOut(Waits, LongRun):
    """`errors`: standard errors of the waits by name, where they are simulated; `more_than` how long one
    takes at the least that had not come in the events that were played; `all` whether nobody waits longer
    than `first_99`; `p_any_error` that of the chance, 0
    where the next event is exact."""

    focus: FocusIn
    method: Literal["exact", "simulated", "untold"]
    errors: dict[str, float]
    more_than: dict[str, int]
    all: bool
    p_any: float
    p_any_error: float
    one_in: float | None
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


class AnswerIn(Looked):
    """The answer typed for one line: the weight or chance that makes it true is asked for."""

    table: str
    line: str
    answer: Literal["chance", "one_in", "per_100"]
    wanted: float


class AnswerOut(BaseModel):
    body: dict[str, Any]


class CompareIn(Asked):
    """A table as it is, or as a draft edit would make it, under every rule."""

    table: str
    depth: DepthNumber
    flags: list[str] = []


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


class RouteIn(Asked):
    route: Annotated[str, Field(min_length=1, max_length=80)]


class Moments(BaseModel):
    mean: float
    sd: float


class RouteStop(BaseModel):
    """Since the start of the route; the figures are there where they are told exactly."""

    leg: str
    depth: int
    events_mean: float | None = None
    seconds_mean: float | None = None
    items: dict[str, Moments] = {}
    tiers: dict[str, Moments] = {}
    value: Moments | None = None


class RouteOut(BaseModel):
    revision: int
    method: Literal["exact", "untold"]
    why: str | None = None
    stops: list[RouteStop]
