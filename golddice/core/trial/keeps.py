"""What of a game and a route decides what is kept, as records for the kernel (see `belongings`)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.finding import by_id
from golddice.core.game.models import Game, Item, Route, Source
from golddice.core.game.quantity import Quantity
from golddice.core.trial import program as p


@dataclass(frozen=True)
class Carry:
    """What a player sets out with. bag : columns and rows, or no end of them. purse : units of money, by
    item; None where nothing is paid for. empties : whether the bag is sold or put aside on the way."""

    bag: tuple[int, int] | None = None
    purse: dict[str, int] | None = None
    empties: bool = False

    @staticmethod
    def of(route: Route) -> Carry:
        empties = any(leg.sells is not None or leg.stores for leg in route.legs)
        return Carry(route.bag, dict(route.purse), empties)


BARE = Carry()  # of a source by itself


@dataclass(frozen=True)
class Keeps:
    """What is kept of the items (k,) and sources that can be reached, the same at every depth; nothing
    without `carry`.

    kit : names of slots; money : items, by index; sets : by index, those with pieces.
    """

    game: Game
    items: IntArray
    sources: Sequence[Source]
    carry: Carry | None
    _columns: dict[int, int] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        self._columns.update({int(at): slot for slot, at in enumerate(self.items)})

    @property
    def goods(self) -> list[Item]:
        return [self.game.items[at] for at in self.items]

    @cached_property
    def kit(self) -> list[str]:
        return list(dict.fromkeys(item.slot for item in self.goods if item.slot is not None))

    @cached_property
    def money(self) -> list[str]:
        return [item.id for item in self.game.items if item.currency]

    @cached_property
    def sets(self) -> list[int]:
        """Those of which something can come, by their place in the game."""
        names = {item.id for item in self.goods}
        return [
            at for at, one in enumerate(self.game.sets) if any(piece.item in names for piece in one.items)
        ]

    @cached_property
    def pieces(self) -> list[tuple[int, int, int]]:
        """(set, column of the item or -1, how many) of every piece of every set, in order."""
        index = {item.id: at for at, item in enumerate(self.game.items)}
        found = []
        for row, at in enumerate(self.sets):
            asked: dict[str, int] = {}
            for piece in self.game.sets[at].items:
                asked[piece.item] = max(piece.count, asked.get(piece.item, 0))
            found += [(row, self._columns.get(index[item], -1), count) for item, count in asked.items()]
        return found

    @cached_property
    def has_purse(self) -> bool:
        """Whether money is told apart: some is there at the start, something has a price, or the bag is
        sold."""
        if self.carry is None:
            return False
        purse = self.carry.purse
        priced = any(source.price is not None for source in self.sources)
        return purse is not None and bool(purse or priced or self.carry.empties)

    @property
    def carries(self) -> bool:
        """Whether it is told what is in the bag."""
        return self.carry is not None and (self.carry.bag is not None or self.carry.empties)

    @property
    def has_cells(self) -> bool:
        return any(source.cells is not None for source in self.sources)

    @property
    def has_ground(self) -> bool:
        return any(_is_lossy(source) for source in self.sources)

    @property
    def has_properties(self) -> bool:
        """Whether something that can come has an effect."""
        sets = (self.game.sets[at] for at in self.sets)
        return any(item.effects for item in self.goods) or any(one.effects for one in sets)

    @cached_property
    def whither(self) -> bool:
        """Whether it is told what becomes of units: bagged, paid with, lost, out of reach."""
        if self.carry is None:
            return False
        return self.carries or self.has_purse or self.has_cells or self.has_ground

    @cached_property
    def used(self) -> bool:
        if self.carry is None:
            return False
        return bool(self.kit or self.sets or self.whither or self.has_properties)

    def room(self) -> p.Room:
        if self.carry is None or not self.used:
            return p.Room()
        inside = max((source.cells[1] for source in self.sources if source.cells is not None), default=0)
        return p.Room(True, self.whither, len(self.money), len(self.kit), self.carry.bag or (0, 0), inside)

    def blocks(
        self, depth_curve: Callable[[str | None], float], quantity: Callable[[Quantity], int]
    ) -> KeptBlocks:
        """At one depth, whose curves and quantities are told by the two functions."""
        if not self.used:
            return KeptBlocks.none()
        scores: list[tuple[float, float]] = []
        widths: list[float] = []
        goods: list[list[int]] = []
        pieces_of: list[int] = []
        for slot, item in enumerate(self.goods):
            low, wide = self._score(item, depth_curve)
            scores.append((low, sum(wide, low)))
            own = [at for at, (_, column, _) in enumerate(self.pieces) if column == slot]
            kit = -1 if item.slot is None else self.kit.index(item.slot)
            money = self.money.index(item.id) if item.currency else -1
            ends = [len(widths), len(widths) + len(wide), money, item.width, item.height, item.stack]
            mine = [len(pieces_of), len(pieces_of) + len(own)]
            is_asked = bool(kit >= 0 or own or self.whither)
            goods.append([int(self.items[slot]), kit, *ends, *mine, int(is_asked)])
            widths += wide
            pieces_of += own
        return KeptBlocks(
            goods=_ints(goods, p.GOODS_FIELDS),
            own=_ints([self._own(source, quantity) for source in self.sources], p.OWN_FIELDS),
            pieces=_ints(self.pieces, p.PIECE_FIELDS),
            pieces_of=np.array(pieces_of, dtype=np.int64),
            sets=self._ends(),
            scores=np.array(scores, dtype=np.float64).reshape(-1, 2),
            widths=np.array(widths, dtype=np.float64),
            ground=np.array([[one.lasts or 0.0, one.missed] for one in self.sources], dtype=np.float64),
        )

    def _score(self, item: Item, depth_curve: Callable[[str | None], float]) -> tuple[float, list[float]]:
        """The least score of a unit, and how far each of its stats adds to it at the most."""
        factor = by_id(self.game.tiers, item.tier).stat_factor
        low, widths = 0.0, []
        for name, stat in item.stats.items() if item.slot is not None else ():
            by = self.game.scores.get(name, 1.0) * factor * depth_curve(stat.curve)
            ends = sorted((by * stat.min, by * stat.max))
            low += ends[0]
            widths.append(ends[1] - ends[0])
        return low, widths

    def _own(self, source: Source, quantity: Callable[[Quantity], int]) -> list[int]:
        is_paid = self.carry is not None and self.carry.purse is not None
        price = source.price if is_paid else None
        money = -1 if price is None else self.money.index(price.item)
        pick_up = -1 if source.pick_up is None else quantity(source.pick_up)
        paid = 0 if price is None else price.amount
        takes = source.cells is not None or _is_lossy(source)
        return [*(source.cells or (0, 0)), money, paid, pick_up, int(source.lasts is not None), int(takes)]

    def _ends(self) -> IntArray:
        """First and end piece of each set."""
        sets = [row for row, _, _ in self.pieces]
        return _ints([(sets.index(row), sets.index(row) + sets.count(row)) for row in dict.fromkeys(sets)], 2)


@dataclass(frozen=True)
class KeptBlocks:
    """The blocks of a program (`program.Blocks`) that are about what is kept."""

    goods: IntArray
    own: IntArray
    pieces: IntArray
    pieces_of: IntArray
    sets: IntArray
    scores: FloatArray
    widths: FloatArray
    ground: FloatArray

    @staticmethod
    def none() -> KeptBlocks:
        ints, floats = np.zeros(0, dtype=np.int64), np.zeros(0)
        empty = ints.reshape(0, p.GOODS_FIELDS), ints.reshape(0, p.OWN_FIELDS), ints.reshape(0, 3), ints
        pairs = floats.reshape(0, 2)
        return KeptBlocks(*empty, ints.reshape(0, 2), pairs, floats, pairs)


def _is_lossy(source: Source) -> bool:
    """Whether something that fell there may stay on the ground."""
    return source.missed > 0 or (source.lasts is not None and source.pick_up is not None)


def _ints(rows: Sequence[Sequence[int]], fields: int) -> IntArray:
    return np.array(rows, dtype=np.int64).reshape(len(rows), fields)
