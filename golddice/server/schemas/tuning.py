"""Finding numbers that meet targets, as it goes over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from golddice.server.schemas.common import DepthNumber, Wire
from golddice.server.schemas.games import Asked, EntryIn

Where = Annotated[str, Field(min_length=1, max_length=300)]
Patterns = Annotated[list[Where], Field(max_length=2_000)]


class TuneIn(Asked):
    """Without `targets` all that are not put aside. `unlock` and `keep` name tables, lines, drops, curves or
    numbers, as the command line does."""

    targets: Annotated[list[str], Field(max_length=2_000)] | None = None
    unlock: Patterns = []
    keep: Patterns = []
    rounded: bool = True
    whole: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    keep_totals: bool = True


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


class MovedOut(BaseModel):
    """A figure of a source that no target asked about, where it moves furthest."""

    source: str
    of: str
    id: str
    depth: int
    before: float
    after: float


class TuneOut(BaseModel):
    """`conflict` are targets that contradict each other, each needed for it; `untold` those that were left
    out, and why. `free` is how many numbers might move."""

    revision: int
    status: Literal["met", "nearest", "nothing-to-do"]
    numbers: list[NumberOut]
    targets: list[TunedTargetOut]
    moved: list[MovedOut]
    conflict: list[str]
    untold: dict[str, str]
    free: int
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
