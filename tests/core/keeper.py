"""What a player keeps, worked out once more from what was received, event by event: slow and plain, with a
grid of cells that is looked through place by place. Shares nothing with the kernel."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from fractions import Fraction

from golddice.core.game.models import Game, Item, Route, Source


@dataclass
class Box:
    """Cells, and the stacks that lie in them."""

    columns: int
    rows: int
    taken: set[tuple[int, int]] = field(default_factory=set)
    stacks: list[list[object]] = field(default_factory=list)  # item, count

    def add(self, item: Item) -> bool:
        for stack in self.stacks:
            if stack[0] == item.id and stack[1] < item.stack:  # type: ignore[operator]
                stack[1] += 1  # type: ignore[operator]
                return True
        for width, height in dict.fromkeys([(item.width, item.height), (item.height, item.width)]):
            for row in range(self.rows - height + 1):
                for column in range(self.columns - width + 1):
                    cells = {(column + x, row + y) for x in range(width) for y in range(height)}
                    if not cells & self.taken:
                        self.taken |= cells
                        self.stacks.append([item.id, 1])
                        return True
        return False


@dataclass
class Keeper:
    """One player of a route. `missed` units are told, since they are a matter of luck."""

    game: Game
    route: Route

    def __post_init__(self) -> None:
        self.items = {item.id: item for item in self.game.items}
        self.bag = self._new_bag()
        self.held: Counter[str] = Counter()
        self.purse: Counter[str] = Counter(self.route.purse)
        self.lost: Counter[str] = Counter()
        self.left: Counter[str] = Counter()
        self.sold: Counter[str] = Counter()
        self.aside: Counter[str] = Counter()
        self.owned: Counter[str] = Counter()

    def _new_bag(self) -> Box | None:
        return None if self.route.bag is None else Box(*self.route.bag)

    def event(
        self, source: Source | None, received: list[tuple[str, int]], missed: list[Counter[str]]
    ) -> None:
        """`missed` of each thing received, in order."""
        box = Box(*source.cells) if source is not None and source.cells is not None else None
        for (name, count), out in zip(received, missed, strict=True):
            item = self.items[name]
            self.owned[name] += count
            came = count
            if box is not None and not item.currency:
                came = sum(box.add(item) for _ in range(count))
                self.lost[name] += count - came
            for _ in range(came - out[name]):
                self._take(item)

    def _take(self, item: Item) -> None:
        if item.currency:
            self.purse[item.id] += 1
        elif self.bag is None or self.bag.add(item):
            self.held[item.id] += 1
        else:
            self.left[item.id] += 1

    def leg_done(self, at: int) -> None:
        leg = self.route.legs[at]
        if leg.sells is None and not leg.stores:
            return
        if leg.sells is not None:
            worth = sum(
                (count * Fraction(str(self.items[name].value)) for name, count in self.held.items()),
                Fraction(0),
            )
            self.purse[leg.sells.item] += int(worth * Fraction(str(leg.sells.share)))
            self.sold += self.held
        else:
            self.aside += self.held
        self.held = Counter()
        self.bag = self._new_bag()
