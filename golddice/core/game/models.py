"""The only schema of a game. Files, database bodies, HTTP and the web's types all come from here, and
who may name whom: an id that stands for another entity is marked so where its field is declared.

Reading is strict: an unknown key or a wrong type is an error. What holds between things
(references, loops) is checked in `checking`.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Any, Literal, Self, get_args

from propcache.api import cached_property
from pydantic import Field, field_validator, model_validator

from golddice.core.game.bases import (
    Chance,
    Colour,
    Depth,
    DepthRange,
    FlagId,
    Name,
    NoteText,
    Part,
    Tag,
    Weight,
)
from golddice.core.game.naming import Id, Kind, Names, WhenGone
from golddice.core.game.places import Place, Stall
from golddice.core.game.quantity import ONE, CurveId, Quantity
from golddice.core.game.target import Target
from golddice.core.game.views import View

FORMAT = "golddice-game"
VERSION = 1


class Words(Part):
    """The game's own nouns, used on screen."""

    player: Name = "player"
    depth: Name = "depth"


class Band(Part):
    """A named range of depth."""

    id: Id
    name: Name
    from_: Depth = Field(alias="from")
    to: Depth
    spawns: Annotated[Id, Names("table")] | None = None
    # What a visit to one depth of the band meets: so many rolls of the spawn table, so far apart.
    encounters: Quantity = ONE
    between_seconds: Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)] = 0.0

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.from_ > self.to:
            raise ValueError(f"from {self.from_} is deeper than to {self.to}; swap them")
        return self


class DepthScale(Part):
    """How deep the game goes, first to last, and its bands.

    A source's top tier that is more than `leap` times as frequent one depth further is told.
    """

    from_: Depth = Field(default=1, alias="from")
    to: Depth = 1
    bands: list[Band] = []
    leap: Annotated[float, Field(gt=1, le=1e6, allow_inf_nan=False)] = 3.0

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.from_ > self.to:
            raise ValueError(f"from {self.from_} is deeper than to {self.to}; swap them")
        return self


class Curve(Part):
    """A multiplier by depth: points (depth, multiplier), depths strictly rising.

    A `private` one is meant for one place alone and is not offered elsewhere.
    """

    id: Id
    name: Name
    private: bool = False
    shape: Literal["line", "step", "ease"] = "line"
    points: Annotated[
        list[tuple[Depth, Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]]],
        Field(min_length=1, max_length=1000),
    ]

    @field_validator("points")
    @classmethod
    def _rising(cls, points: list[tuple[int, float]]) -> list[tuple[int, float]]:
        for (before, _), (after, _) in pairwise(points):
            if before >= after:
                raise ValueError(f"depths must rise, but {after} follows {before}; sort the points")
        return points


class Tier(Part):
    """One step of the rarity ladder."""

    id: Id
    name: Name
    pips: Annotated[int, Field(ge=1, le=6)] = 1
    colour: Colour = "#8c8579"
    curve: CurveId | None = None
    stat_factor: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] = 1.0


class Flag(Part):
    """A named condition of the run."""

    id: Id
    name: Name


class StatRange(Part):
    """A rolled property of an item, uniform between its ends.

    Both ends are multiplied by the curve at the depth and by the item's tier's `stat_factor`.
    """

    min: Annotated[float, Field(allow_inf_nan=False)]
    max: Annotated[float, Field(allow_inf_nan=False)]
    curve: CurveId | None = None


class Effect(Part):
    """What owning something does to a property: each unit adds `amount`, so many `units` of them at most."""

    property: Annotated[Id, Names("property", gone="holder")]
    amount: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]


class UnitEffect(Effect):
    units: Annotated[int, Field(ge=1, le=10**6)] = 1


class Item(Part):
    """Something a player can receive."""

    id: Id
    name: Name
    tier: Annotated[Id, Names("tier", gone="refused")]
    tags: list[Tag] = []
    value: Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)] = 0.0
    abundance: Weight = 1.0
    stack: Annotated[int, Field(ge=1, le=10**9)] = 1
    width: Annotated[int, Field(ge=1, le=100)] = 1
    height: Annotated[int, Field(ge=1, le=100)] = 1
    currency: bool = False
    slot: Name | None = None
    stats: dict[Name, StatRange] = {}
    effects: Annotated[list[UnitEffect], Field(max_length=100)] = []


class Pool(Part):
    """Any catalogue item with one of these tiers and at least one of these tags; empty means any."""

    # The last one takes the pool with it: without tiers it would be of any.
    tiers: Annotated[list[Annotated[Id, Names("tier")]], WhenGone("holder")] = []
    tags: list[Tag] = []


@dataclass(frozen=True, slots=True)
class ItemNamed:
    """One item, by its id."""

    id: str


# What a yield gives: one item, any item of a pool, or whatever comes of a table or source.
Gives = ItemNamed | Pool | View


class Yield(Part):
    """What a line gives: exactly one of item, table, source and pool, so many times."""

    item: Annotated[Id, Names("item", gone="holder")] | None = None
    table: Annotated[Id, Names("table", gone="holder", leads=True)] | None = None
    source: Annotated[Id, Names("source", gone="holder", leads=True)] | None = None
    pool: Annotated[Pool, WhenGone("holder")] | None = None
    quantity: Quantity = ONE

    @cached_property
    def what(self) -> Gives:
        """What is given, told apart once."""
        if self.item is not None:
            return ItemNamed(self.item)
        if self.pool is not None:
            return self.pool
        return View("table", self.table) if self.table is not None else View("source", str(self.source))

    @model_validator(mode="after")
    def _one_kind(self) -> Self:
        given = [self.item, self.table, self.source, self.pool]
        if sum(part is not None for part in given) != 1:
            raise ValueError("a yield names exactly one of item, table, source and pool")
        return self


class Guard(Part):
    """Protection against long dry streaks: see `domain.md`, state that a player carries."""

    after: Annotated[int, Field(ge=0, le=10**6)] = 0
    rise: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    sure_at: Annotated[int, Field(ge=1, le=10**6)] | None = None


class Gated(Part):
    """What lines and drops share: where and when they are open, and their guard."""

    curve: CurveId | None = None
    depths: DepthRange | None = None
    needs: list[FlagId] = []
    unless: list[FlagId] = []
    guard: Guard | None = None


class BaseLine(Gated):
    """One row of a table. No yields is a stated nothing."""

    id: Id
    yields: Annotated[list[Yield], WhenGone("holder")] = []
    limit: Annotated[int, Field(ge=1, le=10**6)] | None = None


class PickLine(BaseLine):
    """`pinned`: keeps its chance when another line's answer is typed."""

    weight: Weight
    pinned: bool = False
    # What it costs at a stall, in the game's currency; else its item's value times the stall's factor.
    price: Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)] | None = None


class ChanceLine(BaseLine):
    chance: Chance


class RetryLine(BaseLine):
    weight: Weight = 1.0
    chance: Chance


class DeckLine(BaseLine):
    copies: Annotated[int, Field(ge=0, le=10_000)]


class BaseTable(Part):
    id: Id
    name: Name
    rolls: Quantity = ONE
    notes: NoteText = ""


class PickTable(BaseTable):
    """Exactly one line, or nothing, by weight."""

    rule: Literal["pick"]
    nothing: Weight = 0.0
    nothing_curve: CurveId | None = None
    distinct: bool = False
    lines: list[PickLine] = []


class EachTable(BaseTable):
    """Every line on its own chance, independently."""

    rule: Literal["each"]
    lines: list[ChanceLine] = []


class FirstTable(BaseTable):
    """Lines tested in order; the first that hits is the result."""

    rule: Literal["first"]
    lines: list[ChanceLine] = []


class RetryTable(BaseTable):
    """A line by weight, then its chance; on a miss choose again, up to `tries` times."""

    rule: Literal["retry"]
    tries: Annotated[int, Field(ge=1, le=10_000)] = 1
    lines: list[RetryLine] = []


class DeckTable(BaseTable):
    """Cards drawn without replacement; an empty deck is reshuffled."""

    rule: Literal["deck"]
    lines: list[DeckLine] = []


Table = Annotated[PickTable | EachTable | FirstTable | RetryTable | DeckTable, Field(discriminator="rule")]
Line = PickLine | ChanceLine | RetryLine | DeckLine
RULES: tuple[str, ...] = tuple(
    get_args(model.model_fields["rule"].annotation)[0] for model in get_args(get_args(Table)[0])
)


class Price(Part):
    item: Annotated[Id, Names("item", gone="holder", money=True)]
    amount: Annotated[int, Field(ge=0, le=10**12)]


class Drop(Gated):
    """A source's link to a table: a chance, and how many times the table is rolled."""

    id: Id
    table: Annotated[Id, Names("table", gone="holder", leads=True)]
    chance: Chance = 1.0
    times: Quantity = ONE


class Source(Part):
    """What the player acts on: one event is a kill, an opening, a harvest or a purchase.

    One that is `like` another takes from it what is not `stated`, less the drops in `without`: `families`.
    """

    id: Id
    name: Name
    kind: Literal["enemy", "container", "node", "parcel"]
    tags: list[Tag] = []
    depths: DepthRange | None = None
    seconds: Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)] = 1.0
    cells: tuple[Annotated[int, Field(ge=1, le=100)], Annotated[int, Field(ge=1, le=100)]] | None = None
    charges: Annotated[int, Field(ge=1, le=10**6)] | None = None
    respawn_seconds: Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)] | None = None
    price: Price | None = None
    # How long what fell lies there, when the player gets to it, and a unit's chance to be out of reach.
    lasts: Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)] | None = None
    pick_up: Quantity | None = None
    missed: Chance = 0.0
    drops: list[Drop] = []
    notes: NoteText = ""
    like: Annotated[Id, Names("source")] | None = None
    without: list[Id] = []
    stated: list[str] = []


class Sale(Part):
    """After a leg all that is in the bag is sold for so much of its worth, in this money."""

    item: Annotated[Id, Names("item", gone="holder", money=True)]
    share: Chance = 1.0


class RouteLeg(Part):
    """A stretch of a route: its depths one by one, down or up; each of them is a stop.

    At a stop so many events of the `source`, or so many visits, or all that lies in the `place`, set out
    afresh, or nothing. After the last stop flags are
    gained, then lost.
    """

    id: Id
    from_: Depth = Field(alias="from")
    to: Depth
    source: Annotated[Id, Names("source", gone="holder")] | None = None
    times: Quantity | None = None
    visits: Quantity | None = None
    place: Annotated[Id, Names("place", gone="holder")] | None = None
    gains: list[FlagId] = []
    loses: list[FlagId] = []
    sells: Sale | None = None
    stores: bool = False

    @model_validator(mode="after")
    def _does_one_thing(self) -> Self:
        if [self.source, self.visits, self.place].count(None) < 2:
            raise ValueError("a leg acts on its source, visits, or empties its place; take the others out")
        if self.times is not None and self.source is None:
            raise ValueError("times are of a source's events; name the source")
        if self.sells is not None and self.stores:
            raise ValueError("a leg either sells what is in the bag or stores it")
        return self


class Route(Part):
    """What a player does, in order."""

    id: Id
    name: Name
    notes: NoteText = ""
    flags: list[FlagId] = []
    purse: dict[Annotated[Id, Names("item", money=True)], Annotated[int, Field(ge=0, le=10**12)]] = {}
    bag: tuple[Annotated[int, Field(ge=1, le=100)], Annotated[int, Field(ge=1, le=100)]] | None = None
    legs: Annotated[list[RouteLeg], Field(max_length=100)] = []


class Piece(Part):
    """So many of an item that a set asks for."""

    item: Annotated[Id, Names("item", gone="holder")]
    count: Annotated[int, Field(ge=1, le=10**6)] = 1


class ItemSet(Part):
    """Items that belong together: complete once so many of every one of them are owned. Its effects are then
    added once."""

    id: Id
    name: Name
    items: Annotated[list[Piece], Field(max_length=100)] = []
    effects: Annotated[list[Effect], Field(max_length=100)] = []
    notes: NoteText = ""


class Property(Part):
    """Something of the player that what they own adds to: `base` and all that is added, held between `least`
    and `most`."""

    id: Id
    name: Name
    base: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)] = 0.0
    least: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)] | None = None
    most: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.least is not None and self.most is not None and self.least > self.most:
            raise ValueError(f"least {self.least:g} is more than most {self.most:g}; swap them")
        return self


class Settings(Part):
    """What holds for the game as a whole."""

    name: Name
    currency: Name = "value"
    words: Words = Words()
    depth: DepthScale = DepthScale()
    # What a point of each stat is worth in a score; one without counts 1.
    scores: dict[Name, Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]] = {}


class Game(Settings):
    """Everything, for one game under design."""

    format: Literal["golddice-game"]
    version: Literal[1]
    curves: Annotated[list[Curve], Kind("curve")] = []
    tiers: Annotated[list[Tier], Kind("tier")] = []
    flags: Annotated[list[Flag], Kind("flag")] = []
    items: Annotated[list[Item], Kind("item")] = []
    tables: Annotated[list[Table], Kind("table")] = []
    sources: Annotated[list[Source], Kind("source")] = []
    properties: Annotated[list[Property], Kind("property")] = []
    sets: Annotated[list[ItemSet], Kind("set")] = []
    places: Annotated[list[Place], Kind("place")] = []
    stalls: Annotated[list[Stall], Kind("stall")] = []
    routes: Annotated[list[Route], Kind("route")] = []
    targets: Annotated[list[Target], Kind("target")] = []


def _kinds() -> Iterator[tuple[str, str, Any]]:
    """(kind, the game's key for its list, model of each) of every kind of entity, in the file's order."""
    for key, info in Game.model_fields.items():
        for mark in info.metadata:
            if isinstance(mark, Kind):
                yield mark.name, key, get_args(info.annotation)[0]


KINDS: dict[str, Any] = {kind: model for kind, _, model in _kinds()}
LISTS: dict[str, str] = {kind: key for kind, key, _ in _kinds()}
SETTINGS_KEYS = tuple(info.alias or name for name, info in Settings.model_fields.items())


def list_name(kind: str) -> str:
    """The game's key for a kind: `table` is held in `tables`."""
    return LISTS[kind]
