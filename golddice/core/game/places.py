"""Places, where things lie at fixed spots; and stalls, whose stock changes by the clock."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from golddice.core.game.bases import Depth, DepthRange, Name, NoteText, Part, Tag
from golddice.core.game.naming import Id, Names

MOST_SPOTS = 2_000
LARGEST_SEED = 2**53 - 1

Label = Annotated[str, Field(max_length=120)]
Side = Annotated[int, Field(ge=1, le=200)]
Seconds = Annotated[int, Field(ge=1, le=10**9)]


def _cells(row: str) -> str:
    if set(row) - {".", "#"}:
        raise ValueError("a row of a cover is written with . and #, # for what is covered")
    return row


class Cover(Part):
    """Cells of the plan outside of which what it names may not lie: # for a covered cell."""

    id: Id
    name: Label = ""
    tags: list[Tag] = []
    items: list[Annotated[Id, Names("item")]] = []
    sources: list[Annotated[Id, Names("source")]] = []
    rows: Annotated[
        list[Annotated[str, Field(max_length=200), AfterValidator(_cells)]], Field(max_length=200)
    ] = []


class Spot(Part):
    """A cell at which one thing may lie, of these kinds only, or of any."""

    id: Id
    name: Label = ""
    x: Annotated[int, Field(ge=0, le=199)]
    y: Annotated[int, Field(ge=0, le=199)]
    kinds: list[Tag] = []


class Filled(Part):
    """So many of the spots, rather than a share of them."""

    count: Annotated[int, Field(ge=0, le=MOST_SPOTS)]


class AtLeast(Part):
    """So many of a line for certain."""

    line: Id
    count: Annotated[int, Field(ge=1, le=MOST_SPOTS)]


class Place(Part):
    """Somewhere with fixed spots at which the lines of its stock, a pick table, may lie or stand.

    `each-rolls`: every spot rolls by itself. `shared-out`: the numbers are fixed, and set out rarest first.
    With `refill_seconds` empty spots try again; what lies there is gone after `lasts_seconds`.
    """

    id: Id
    name: Name
    depths: DepthRange | None = None
    size: tuple[Side, Side]
    covers: Annotated[list[Cover], Field(max_length=100)] = []
    spots: Annotated[list[Spot], Field(max_length=MOST_SPOTS)] = []
    stock: Annotated[Id, Names("table", gone="refused")]
    way: Literal["each-rolls", "shared-out"] = "shared-out"
    filled: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | Filled = 1.0
    least: list[AtLeast] = []
    refill_seconds: Seconds | None = None
    lasts_seconds: Seconds | None = None
    at_start: bool = True
    notes: NoteText = ""

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.depths is not None and self.depths[0] > self.depths[1]:
            raise ValueError(f"from {self.depths[0]} is deeper than to {self.depths[1]}; swap them")
        return self


class FixedSlot(Part):
    """A slot, counted from 1, that is filled first, from goods of a tier or with a tag."""

    slot: Annotated[int, Field(ge=1, le=1_000)]
    tier: Annotated[Id, Names("tier", gone="holder")] | None = None
    tag: Tag | None = None

    @model_validator(mode="after")
    def _of_one(self) -> Self:
        if (self.tier is None) == (self.tag is None):
            raise ValueError("a fixed slot is of one tier or of one tag")
        return self


class Stall(Part):
    """So many goods of a pick table, others every period, the same for everybody: see docs/stalls.md."""

    id: Id
    name: Name
    stock: Annotated[Id, Names("table", gone="refused")]
    slots: Annotated[int, Field(ge=1, le=1_000)] = 1
    period_seconds: Annotated[int, Field(ge=1, le=10**9)] = 86_400
    starts_at: Annotated[int, Field(ge=-(10**12), le=10**12)] = 0
    seed: Annotated[int, Field(ge=0, le=LARGEST_SEED)] = 0
    way: Literal["draw", "deal"] = "draw"
    fixed: Annotated[list[FixedSlot], Field(max_length=1_000)] = []
    depth: Depth = 1
    price_factor: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 1.0
    grace_seconds: Annotated[int, Field(ge=0, le=10**9)] = 0
    notes: NoteText = ""
