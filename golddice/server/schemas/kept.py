"""What players keep, as it goes over the wire: in the report of a trial, and of some thousands played at
once."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from golddice.core.trial.trial import MOST_EVENTS
from golddice.server.schemas.common import DepthNumber
from golddice.server.schemas.games import Asked


class Quantiles(BaseModel):
    mean: float
    p05: float
    p50: float
    p95: float


class Mark(Quantiles):
    """After so many events; on a route after the stop of this number, from 0."""

    at: int


class KeptItem(BaseModel):
    """Units of one player on average: in the bag, put aside, sold; lost in a container, missed on the ground,
    left behind for want of room."""

    bag: float
    aside: float
    sold: float
    lost: float
    missed: float
    left: float


class Openings(BaseModel):
    mean: float
    short: float


class BagMark(Mark):
    full: float


class Bag(BaseModel):
    """`full_for_half`: the stop at which at least half have left something behind."""

    cells: int
    full_for_half: int | None
    ever_full: float
    along: list[BagMark]


class Kept(BaseModel):
    items: dict[str, KeptItem]
    worth: KeptItem
    openings: Openings | None
    bag: Bag | None


class Money(BaseModel):
    mean: float
    sd: float
    along: list[Mark]


class Bought(BaseModel):
    bought: float
    refused: float
    never: float


class Purse(BaseModel):
    """`bought`: by source with a price, of one player on average; `never` the share who could not buy at
    all."""

    money: dict[str, Money]
    bought: dict[str, Bought]


class WornNow(Quantiles):
    sd: float
    expected_mean: float | None = None
    z: float | None = None


class SlotMark(Mark):
    """`upgrades` since the mark before; `chance` that an event since then is one."""

    upgrades: float
    chance: float | None


class SlotKept(BaseModel):
    worn: WornNow
    upgrades: Quantiles
    first_50: int | None
    first_90: int | None
    first_99: int | None
    never_worn: float | None
    tiers: dict[str, float]
    along: list[SlotMark]


class Complete(BaseModel):
    at: int
    complete: float


class SetKept(BaseModel):
    """`last`: the share of those who have it complete for whom each piece came last."""

    complete: float
    first_50: int | None
    first_90: int | None
    first_99: int | None
    pieces: float
    of: int
    spare: float | None
    last: dict[str, float]
    along: list[Complete]
    expected: float | None = None
    z: float | None = None


class PropertyKept(Quantiles):
    """`at_least`, `at_most`: the share at either bound; `beyond` how much it cuts off on average."""

    at_least: float | None
    at_most: float | None
    beyond: float
    along: list[Mark]


class KeptParts(BaseModel):
    kept: Kept | None = None
    purse: Purse | None = None
    slots: dict[str, SlotKept] | None = None
    sets: dict[str, SetKept] | None = None
    properties: dict[str, PropertyKept] | None = None


class KeptIn(Asked):
    """Of a route; or of so many events of a source at a depth."""

    route: str | None = None
    source: str | None = None
    depth: DepthNumber | None = None
    flags: list[str] = []
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)] = 1


class WornExactly(Quantiles):
    upgrades: float


class SlotExactly(BaseModel):
    """`chances`: that the event of a number is an upgrade; `next` of the one after the last."""

    after: WornExactly | None = None
    first_50: int | None = None
    first_90: int | None = None
    first_99: int | None = None
    next: float | None = None
    chances: list[tuple[int, float]] = []
    along: list[Mark] = []


class SetExactly(BaseModel):
    complete: float
    first_50: int | None
    first_90: int | None
    first_99: int | None
    along: list[Complete]


class Exactly(BaseModel):
    slots: dict[str, SlotExactly]
    sets: dict[str, SetExactly]


class KeptOut(KeptParts):
    revision: int
    players: int
    by_stops: bool
    received: dict[str, float]
    exact: Exactly


class KitIn(Asked):
    source: str
    events: Annotated[int, Field(ge=1, le=MOST_EVENTS)]
    flags: list[str] = []


class KitAtDepth(BaseModel):
    depth: int
    slots: dict[str, WornExactly]


class KitOut(BaseModel):
    """`depths` is null where something is carried from event to event."""

    revision: int
    depths: list[KitAtDepth] | None


class CellsIn(Asked):
    source: str
    depth: DepthNumber
    flags: list[str] = []
    opening: Annotated[int, Field(ge=0, le=10**6)] = 0


class StackOut(BaseModel):
    item: str
    column: int
    row: int
    turned: bool
    count: int
    width: int
    height: int


class PackingOut(BaseModel):
    opening: int
    stacks: list[StackOut]
    lost: dict[str, int]
    purse: dict[str, int]


class CellsOut(BaseModel):
    revision: int
    cells: tuple[int, int]
    players: int
    fits: float
    fits_error: float
    lost_units: float
    lost_worth: float
    lost_worth_error: float
    received_worth: float
    items: dict[str, float]
    used: dict[str, float]
    packing: PackingOut


class BagIn(Asked):
    route: str
    player: Annotated[int, Field(ge=0, le=10**6)] = 0


class BagOut(BaseModel):
    """After stop `stop`, from 0, where it holds the most; `left_at` is the first at which something stayed
    behind."""

    revision: int
    player: int
    cells: tuple[int, int]
    stop: int
    left_at: int | None
    stacks: list[StackOut]
    lost: dict[str, int]
    purse: dict[str, int]


class PriceIn(Asked):
    source: str
    depth: DepthNumber
    flags: list[str] = []


class Cost(BaseModel):
    """None: never; of the mean, some never have one. `more_than` by name, where it had not come in play."""

    mean: float | None
    cost_50: int | None
    cost_90: int | None
    cost_99: int | None
    more_than: dict[str, int]


class PriceOut(BaseModel):
    revision: int
    item: str
    amount: int
    pays_back: float | None
    method: str
    items: dict[str, Cost]
