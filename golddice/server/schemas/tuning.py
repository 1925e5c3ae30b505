"""Finding numbers that meet targets, as it goes over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from golddice.server.schemas.common import DepthNumber, Wire
from golddice.server.schemas.games import Asked, EntryIn, FigureMoved
from golddice.server.schemas.odds import ViewIn

Where = Annotated[str, Field(min_length=1, max_length=300)]
KindOfNumber = Literal["weights", "chances", "curves", "guards", "quantities"]
Patterns = Annotated[list[Where], Field(max_length=2_000)]


class TuneIn(Asked):
    """Without `targets` all that are not put aside. `unlock` and `keep` name tables, lines, drops, curves or
    numbers, as the command line does."""

    targets: Annotated[list[str], Field(max_length=2_000)] | None = None
    unlock: Patterns = []
    keep: Patterns = []
    kinds: list[KindOfNumber] = []
    rounded: bool = True
    whole: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    keep_totals: bool = True
    most: Annotated[float, Field(gt=1, le=1e6, allow_inf_nan=False)] | None = None
    way: Literal["smallest", "fewest", "weights", "curves"] = "smallest"
    hold_long_run: bool = False
    # Under which the game's news tell how far it is.
    token: Annotated[str, Field(min_length=1, max_length=80)] | None = None


class FreeOut(BaseModel):
    """A table, source or curve with numbers that may move: how many of each kind."""

    kind: Literal["table", "source", "curve"]
    id: str
    numbers: dict[KindOfNumber, int]


class MayMoveOut(BaseModel):
    """What may move, before anything is worked out. `missed` are the targets for whose sake."""

    missed: list[str]
    free: list[FreeOut]


class LongRunOut(BaseModel):
    """How many of a wait's thing an event gives in the long run, by depth, with and without the change."""

    target: str
    depths: list[int]
    before: list[float]
    after: list[float]


class NumberOut(BaseModel):
    """A number that moves. `kind` and `id` say which table, source or curve it is in, `part` which line, drop
    or depth; "" for a table's own."""

    where: str
    kind: Literal["table", "source", "curve"]
    id: str
    part: str
    sort: str
    before: float
    after: float


class TunedTargetOut(BaseModel):
    """Figures by depth, before and after; null where there is none."""

    id: str
    name: str
    depths: list[int]
    before: list[float | None]
    after: list[float | None]
    was_met: bool
    met: bool


class TuneOut(BaseModel):
    """`conflict` are targets that contradict each other, each needed for it; `untold` those that were left
    out, and why; `played` those whose figure is no exact one but of openings by the same players. `free` is
    how many numbers might move, `size` the root of the sum of squares of all steps, `rounding` by what share
    few digits made it larger. `long_run` is of waits
    that rest on what players carry."""

    revision: int
    status: Literal["met", "nearest", "nothing-to-do"]
    numbers: list[NumberOut]
    targets: list[TunedTargetOut]
    moved: list[FigureMoved]
    conflict: list[str]
    untold: dict[str, str]
    played: list[str]
    free: int
    size: float
    rounding: float
    long_run: list[LongRunOut]
    entries: list[EntryIn]


class LeversIn(Asked):
    target: str
    depth: DepthNumber


class LeverOut(BaseModel):
    """`elasticity`: per cent of the figure for one per cent of the number."""

    where: str
    kind: Literal["table", "source", "curve"]
    id: str
    part: str
    sort: str
    value: float
    elasticity: float


class LeversOut(BaseModel):
    levers: list[LeverOut]


class TakenNumber(Wire):
    where: Where
    value: Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)]


class TakeIn(Asked):
    numbers: Annotated[list[TakenNumber], Field(min_length=1, max_length=5_000)]


class TakeOut(BaseModel):
    """The edit with which these numbers stand."""

    entries: list[EntryIn]


class FrontierIn(Asked):
    """Of one event at a depth, or execution of a table. Of `kinds`, by default weights and chances, none
    moves by more than the factor `most`."""

    view: ViewIn
    depth: DepthNumber
    flags: list[str] = []
    kinds: list[KindOfNumber] = []
    most: Annotated[float, Field(gt=1, le=1_000, allow_inf_nan=False)] = 2.0


class PointOut(BaseModel):
    mean: float
    cv: float
    numbers: list[NumberOut]


class FrontierOut(BaseModel):
    """How it is, and for each mean the least swing that could be had."""

    revision: int
    here: PointOut
    least: list[PointOut]
