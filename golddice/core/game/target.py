"""Targets: what the designer wants of players' luck."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from golddice.core.game.bases import DepthRange, FlagId, Name, NoteText, Part, Tag
from golddice.core.game.naming import Id, Names, WhenGone
from golddice.core.game.views import View

Figure = Literal[
    "chance",
    "one-in",
    "wait",
    "none",
    "mean",
    "per-hour",
    "share",
    "worth",
    "value",
    "value-per-hour",
    "cv",
    "spread",
    "less",
    "swing-of",
    "least",
    "most",
    "below",
    "cost",
    "fits",
    "complete",
    "upgrades",
    "all-placed",
    "on-sale",
    "absence",
]
Amount = Annotated[float, Field(ge=0, le=1e15, allow_inf_nan=False)]


@dataclass(frozen=True)
class FigureKind:
    """What a figure can be of: a `thing` (an item, a tier or a tag), a `group` (a tier or a tag), a `tier`
    alone, the whole `event`, a `part` of it (a line or a drop), a `set`, a `slot` of what is worn, or a
    `good` of a stall.

    long_run : whether there is one of the long run. after : whether it is after so many events.
    on_route, in_place : whether there is one after a whole route, and of a place as it is set out.
    rolled : whether there is one of a source or a table.
    """

    of: Literal["thing", "group", "tier", "event", "part", "set", "slot", "good"]
    long_run: bool = False
    after: bool = False
    on_route: bool = False
    in_place: bool = False
    rolled: bool = True


FIGURES: dict[str, FigureKind] = {
    "chance": FigureKind("thing", in_place=True),
    "one-in": FigureKind("thing"),
    "wait": FigureKind("thing"),
    "none": FigureKind("thing", after=True),
    "mean": FigureKind("thing", long_run=True, on_route=True, in_place=True),
    "per-hour": FigureKind("thing", long_run=True),
    "share": FigureKind("group", long_run=True, on_route=True),
    "worth": FigureKind("group", long_run=True, on_route=True),
    "value": FigureKind("event", long_run=True, on_route=True),
    "value-per-hour": FigureKind("event", long_run=True),
    "cv": FigureKind("event", on_route=True),
    "spread": FigureKind("event", after=True),
    "less": FigureKind("event", after=True),
    "swing-of": FigureKind("part"),
    # Promises: of every event that can come, whatever a player carries.
    "least": FigureKind("thing"),
    "most": FigureKind("thing"),
    "below": FigureKind("tier"),
    # Of what is kept: what one costs that is bought, whether a container holds all, sets and kit.
    "cost": FigureKind("thing"),
    "fits": FigureKind("event"),
    "complete": FigureKind("set", after=True),
    "upgrades": FigureKind("slot", after=True),
    # Of places and stalls: that nothing is left over, the share of periods, and the longest without, of the
    # first 400.
    "all-placed": FigureKind("event", in_place=True, rolled=False),
    "on-sale": FigureKind("good", rolled=False),
    "absence": FigureKind("good", rolled=False),
}
OF_SOURCES = frozenset({"per-hour", "value-per-hour", "cost", "fits"})
KEPT = frozenset({"fits", "complete", "upgrades"})
PROMISES = frozenset({"least", "most", "below"})
ORDERS = frozenset({"never-falls", "never-rises"})


class SwingOf(Part):
    """A line of a table; or, without a table, a drop of the target's source."""

    table: Annotated[Id, Names("table", gone="holder")] | None = None
    part: Id


class Target(Part):
    """A number that the designer wants, with a tolerance, at every depth of a range.

    Of one event of a `source`, of one execution of a `table`, of what a `route` has given by its end, of a
    `place` as it is set out, or of a `good` (a line of what it is stocked from) of a `stall`; of an `item`,
    of any item of a `tier` or with a `tag`, or of the event's value. A `wait` is the event by which `sure` %
    of players have one; a `spread`, `none`, `less`, `complete` (of a `set`) and `upgrades` (of a `slot`) are
    after so many `events`. Only depths at which the source or place is met count; without `depths` all of
    them. A side `never-falls` or `never-rises` wants the figure in order along the depths, and no number.
    """

    id: Id
    name: Name
    source: Annotated[Id, Names("source", gone="marked")] | None = None
    table: Annotated[Id, Names("table", gone="marked")] | None = None
    route: Annotated[Id, Names("route", gone="marked")] | None = None
    place: Annotated[Id, Names("place", gone="marked")] | None = None
    stall: Annotated[Id, Names("stall", gone="marked")] | None = None
    good: Id | None = None
    figure: Figure
    item: Annotated[Id, Names("item", gone="marked")] | None = None
    tier: Annotated[Id, Names("tier", gone="marked")] | None = None
    tag: Tag | None = None
    set: Annotated[Id, Names("set", gone="marked")] | None = None
    slot: Name | None = None
    sure: Literal[50, 90, 99] = 50
    spread: Literal["cv", "sd", "p95/p5"] = "cv"
    events: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    less_than: Amount = 0.0
    swing_of: Annotated[SwingOf, WhenGone("marked")] | None = None
    side: Literal["near", "at-least", "at-most", "never-falls", "never-rises"] = "near"
    wanted: Amount
    tolerance: Amount = 0.0
    depths: DepthRange | None = None
    flags: list[FlagId] = []
    long_run: bool = False
    # What it is worth where not all can be met; put aside it is kept, but nothing is asked for its sake.
    weight: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] = 1.0
    aside: bool = False
    # What it was about and is no more, as "KIND/ID": it is kept until it is pointed elsewhere.
    gone: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    notes: NoteText = ""

    @model_validator(mode="after")
    def _is_of_something(self) -> Self:
        for problem in self._problems():
            raise ValueError(problem)
        return self

    def _problems(self) -> Iterator[str]:
        if self.gone is not None:
            return
        kind = FIGURES[self.figure]
        if [self.source, self.table, self.route, self.place, self.stall].count(None) != 4:
            yield "a target is of one source, table, route, place or stall"
        yield from self._of_what(kind)
        if self.source is None and self.figure in OF_SOURCES:
            yield f"only a source has “{self.figure}”; name one, or choose another figure"
        if self.long_run and not kind.long_run:
            yield f"“{self.figure}” is told of a fresh player; take long_run out"
        if self.route is not None:
            yield from self._of_route(kind)
        yield from self._of_elsewhere(kind)
        if self.depths is not None and self.depths[0] > self.depths[1]:
            yield f"from {self.depths[0]} is deeper than to {self.depths[1]}; swap them"
        if self.is_order and (self.wanted or self.tolerance):
            yield f"“{self.side}” wants an order and no number; let wanted and tolerance be 0"

    def _of_what(self, kind: FigureKind) -> Iterator[str]:
        things = 3 - [self.item, self.tier, self.tag].count(None)
        if kind.of == "thing" and things != 1:
            yield f"“{self.figure}” is of one item, of one tier or of one tag; name it"
        elif kind.of == "group" and (things != 1 or self.item is not None):
            yield f"“{self.figure}” is of a tier or a tag; name it, and no item"
        elif kind.of == "tier" and (things != 1 or self.tier is None):
            yield f"“{self.figure}” is of a tier; name it, and nothing else"
        elif kind.of in ("event", "part", "set", "slot", "good") and things:
            yield f"“{self.figure}” is of the event as a whole; take the item, tier or tag out"
        if (kind.of == "part") != (self.swing_of is not None):
            yield "“swing-of” is of a line or a drop, and it alone; name it as swing_of"
        if (kind.of == "set") != (self.set is not None):
            yield "“complete” is of a set, and it alone; name it as set"
        if (kind.of == "slot") != (self.slot is not None):
            yield "“upgrades” is of a slot, and it alone; name it as slot"

    def _of_elsewhere(self, kind: FigureKind) -> Iterator[str]:
        if (self.place or self.stall) is None:
            if not kind.rolled:
                yield f"“{self.figure}” is told of a place or a stall; name one, or choose another figure"
            return
        if self.place is not None and not kind.in_place:
            yield f"“{self.figure}” is not told of a place; choose mean, chance or all-placed"
        if self.place is not None and self.figure == "chance" and self.item is None:
            yield "of a place the chance is of an item; name one"
        if (self.stall is not None) != (kind.of == "good"):
            yield f"“{self.figure}” is not told of a stall; choose on-sale or absence"
        if (self.stall is None) != (self.good is None):
            yield "a stall's figures are of a good, and they alone; name it as good"
        if self.long_run:
            yield "nothing is carried there; take long_run out"
        if self.stall is not None and (self.flags or self.depths or self.is_order):
            yield "a stall has its own depth and no flags; take depths, flags and order out"

    def _of_route(self, kind: FigureKind) -> Iterator[str]:
        if not kind.on_route:
            yield f"“{self.figure}” is not told of a route; choose mean, share, worth, value or cv"
        if self.long_run or self.flags or self.depths or self.is_order:
            yield "a route has its own depths and flags; take depths, flags, long_run and order out"

    @property
    def is_order(self) -> bool:
        """Whether it wants figures in order along the depths rather than a number."""
        return self.side in ORDERS

    @property
    def is_promise(self) -> bool:
        """Whether it is decided by what can come at all, which no number above 0 changes."""
        return self.figure in PROMISES

    @property
    def is_played(self) -> bool:
        """Whether its figure is known from players who are played alone, the same whatever the numbers."""
        return self.figure == "fits"

    @property
    def is_elsewhere(self) -> bool:
        """Whether it is about a place or a stall."""
        return self.gone is None and (self.place is not None or self.stall is not None)

    @property
    def view(self) -> View:
        """What it looks at: of a route, a place or a stall there is none."""
        return View("source", self.source) if self.source is not None else View("table", str(self.table))
