"""Stalls: what is on sale in each period, the same for everybody; how often, and how long one misses it.

The algorithm is written out in docs/stalls.md, with vectors: whoever writes it in another language has to
come to the same goods. Its random numbers are fixed for good, whatever trials come to use: xoshiro256++
(Blackman and Vigna 2019, in the public domain) whose words are the next four outputs of SplitMix64.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import QueryError
from golddice.core.game.finding import named
from golddice.core.game.models import Game, PickTable
from golddice.core.game.places import FixedSlot, Stall
from golddice.core.game.quantity import Quantity
from golddice.core.game.stocks import Stocked
from golddice.core.odds.event.distinct import inclusion_chances
from golddice.core.odds.stall_draws import counted_draws, drawn_calendar
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import law_of

COUNTED = 100_000  # periods that shares are counted over, where they are not told exactly
MOST_PERIODS = 10_000  # told at once
_WORD = 2**64 - 1
_GOLDEN = 0x9E3779B97F4A7C15
_MIX_1 = 0xBF58476D1CE4E5B9
_MIX_2 = 0x94D049BB133111EB


def mixed(z: int) -> int:
    """SplitMix64's output function."""
    z = ((z ^ (z >> 30)) * _MIX_1) & _WORD
    z = ((z ^ (z >> 27)) * _MIX_2) & _WORD
    return z ^ (z >> 31)


class Stream:
    """Numbers in [0, 1) of a seed and a number: of a period, or of a round."""

    def __init__(self, seed: int, number: int) -> None:
        at = mixed((seed + _GOLDEN) & _WORD) ^ mixed((number * _GOLDEN + _MIX_1) & _WORD)
        self._words = []
        for _ in range(4):
            at = (at + _GOLDEN) & _WORD
            self._words.append(mixed(at))

    def next(self) -> float:
        return float(self.word() >> 11) * 2.0**-53

    def word(self) -> int:
        """The next 64 bits."""
        a, b, c, d = self._words
        result = (_turned((a + d) & _WORD, 23) + a) & _WORD
        shifted = (b << 17) & _WORD
        c ^= a
        d ^= b
        b ^= c
        a ^= d
        c ^= shifted
        self._words = [a, b, c, _turned(d, 45)]
        return result


def _turned(word: int, by: int) -> int:
    return ((word << by) | (word >> (64 - by))) & _WORD


def stall_of(game: Game, name: str) -> Stall:
    """Raises UnknownThing."""
    return named(game.stalls, "stall", name)


@dataclass(frozen=True)
class Sale:
    """A stall of a game. Goods are told by the ids of their lines."""

    game: Game
    stall: Stall

    @cached_property
    def _under(self) -> Conditions:
        return Conditions(self.game, [self.stall.depth])

    @cached_property
    def _table(self) -> PickTable:
        table = self._under.table(self.stall.stock)
        assert isinstance(table, PickTable)
        return table

    @cached_property
    def goods(self) -> list[tuple[str, float]]:
        """Each open line with its weight at the depth, above 0, in the order of the file."""
        weights = self._under.weights(self._table)[:, 0].tolist()
        lines = zip(self._table.lines, weights, strict=True)
        return [(line.id, weight) for line, weight in lines if weight > 0]

    @cached_property
    def prices(self) -> dict[str, float]:
        """Of each good: its line's own, else its first item's value times the factor."""
        values = {item.id: item.value for item in self.game.items}
        found = {}
        for line in self._table.lines:
            first = next((given.item for given in line.yields if given.item is not None), None)
            own = values.get(first or "", 0.0) * self.stall.price_factor
            found[line.id] = own if line.price is None else line.price
        return {name: found[name] for name, _ in self.goods}

    def period_at(self, moment: float) -> int:
        """The number of the period of a moment in Unix time; below 0 before the stall begins."""
        return int((moment - self.stall.starts_at) // self.stall.period_seconds)

    def begins(self, period: int) -> int:
        return self.stall.starts_at + period * self.stall.period_seconds

    def on_sale(self, period: int) -> list[str]:
        """The goods by slot; none before the stall begins."""
        if period < 0:
            return []
        return self._dealt(period) if self.stall.way == "deal" else self._drawn(period)

    # --- ways --------------------------------------------------------------------------------------------

    def _drawn(self, period: int) -> list[str]:
        stream, left = Stream(self.stall.seed, period), list(self.goods)
        slots: dict[int, str] = {}
        for fixed in self.stall.fixed:
            fitting = [one for one in left if one[0] in self._fitting[fixed]]
            if fitting:
                slots[fixed.slot] = _picked(stream, fitting)
                left = [one for one in left if one[0] != slots[fixed.slot]]
        for slot in range(1, self.stall.slots + 1):
            if slot not in slots:
                slots[slot] = _picked(stream, left)
                left = [one for one in left if one[0] != slots[slot]]
        return [slots[slot] for slot in range(1, self.stall.slots + 1)]

    @cached_property
    def _fitting(self) -> dict[FixedSlot, frozenset[str]]:
        """The goods of each fixed slot's tier, or with its tag."""
        found, stocked = {}, Stocked(self.game)
        for fixed in self.stall.fixed:
            fits = [
                line.id
                for line in self._table.lines
                if (
                    stocked.tier_of(line) == fixed.tier
                    if fixed.tier is not None
                    else fixed.tag in stocked.kinds_of(line)
                )
            ]
            found[fixed] = frozenset(fits)
        return found

    @property
    def round(self) -> int:
        """Of goods that are dealt, how many periods a round has."""
        return -(-len(self.goods) // self.stall.slots)

    def _dealt(self, period: int) -> list[str]:
        number, place = divmod(period, self.round)
        order = self._shuffled(number)
        slots = self.stall.slots
        part = list(order[place * slots : (place + 1) * slots])
        front = (one for one in order if one not in part)
        while len(part) < slots:
            part.append(next(front))
        return part

    def _shuffled(self, number: int) -> tuple[str, ...]:
        return _shuffled(self.stall.seed, number, tuple(self.goods))

    # --- figures -----------------------------------------------------------------------------------------

    @cached_property
    def shares(self) -> dict[str, float]:
        """The share of periods in which each good is on sale: exactly, or counted over COUNTED periods."""
        if not self.is_counted:
            return self._exact_shares
        names, weights = zip(*self.goods, strict=True)
        fixed = tuple(tuple(name in self._fitting[one] for name in names) for one in self.stall.fixed)
        counts = _counted(self.stall.seed, weights, self.stall.slots, fixed)
        return {name: count / COUNTED for name, count in zip(names, counts, strict=True)}

    @property
    def is_counted(self) -> bool:
        """Whether shares are counted: with fixed slots."""
        return bool(self.stall.fixed)

    @cached_property
    def _exact_shares(self) -> dict[str, float]:
        """Drawn goods by the chance to be among the first so many. Dealt ones are on sale once a round, and
        again in its last period if they are among the first that it is filled up with."""
        slots = self.stall.slots
        if self.stall.way == "draw":
            return self._among_first(slots)
        again = self._among_first(-len(self.goods) % slots)
        return {name: (1.0 + chance) / self.round for name, chance in again.items()}

    def _among_first(self, many: int) -> dict[str, float]:
        """Chance of each good to be among so many that are drawn one after another."""
        if many == 0:
            return dict.fromkeys((name for name, _ in self.goods), 0.0)
        weights = np.array([[weight] for _, weight in self.goods])
        hits = inclusion_chances(weights, np.zeros(1), law_of(Quantity(min=many, max=many)))
        return {name: float(hit) for (name, _), hit in zip(self.goods, hits[:, 0], strict=True)}

    def calendar(self, first: int, periods: int) -> BoolArray:
        """bool[g, periods]: whether each good is on sale in each of the periods from `first` on, from 0.
        Every period is worked out once."""
        names = [name for name, _ in self.goods]
        if self.stall.way == "draw":
            weights = np.array([weight for _, weight in self.goods])
            fixed = [np.array([name in self._fitting[one] for name in names]) for one in self.stall.fixed]
            return drawn_calendar(self.stall.seed, first, periods, weights, self.stall.slots, fixed)
        place = {name: at for at, name in enumerate(names)}
        found = np.zeros((len(names), periods), dtype=bool)
        for period in range(periods):
            go_on()
            found[[place[name] for name in self.on_sale(first + period)], period] = True
        return found

    def absences(self, first: int, periods: int) -> dict[str, int]:
        """The longest stretch without each good among the next periods."""
        calendar = self.calendar(first, periods)
        longest = {}
        for at, (name, _) in enumerate(self.goods):
            ends = np.concatenate([[-1], np.flatnonzero(calendar[at]), [periods]])
            longest[name] = int(np.diff(ends).max() - 1)
        return longest


def _picked(stream: Stream, left: Sequence[tuple[str, float]]) -> str:
    """The first whose running sum of weights over all that are left is above the next number."""
    total = 0.0
    for _, weight in left:
        total += weight
    number, running = stream.next(), 0.0
    for name, weight in left:
        running += weight
        if number < running / total:
            return name
    return left[-1][0]


def _counted(
    seed: int, weights: tuple[float, ...], slots: int, fixed: tuple[tuple[bool, ...], ...]
) -> tuple[int, ...]:
    def make() -> tuple[int, ...]:
        fits = [np.array(one) for one in fixed]
        return tuple(counted_draws(seed, COUNTED, np.array(weights), slots, fits).tolist())

    return RESULTS.get(("counted periods", seed, weights, slots, fixed), make)


def _shuffled(seed: int, number: int, goods: tuple[tuple[str, float], ...]) -> tuple[str, ...]:
    return RESULTS.get(("round", seed, number, goods), lambda: _in_order(seed, number, goods))


def _in_order(seed: int, number: int, goods: tuple[tuple[str, float], ...]) -> tuple[str, ...]:
    """All goods of a round, drawn by weight one after another, as by `_picked`: sums run in the order of the
    goods, and what is gone adds nothing to them."""
    stream, order = Stream(seed, number), list[str]()
    weights = np.array([weight for _, weight in goods])
    while len(order) < len(goods):
        go_on()
        running = np.cumsum(weights)
        at = int(np.searchsorted(running / running[-1], stream.next(), side="right"))
        if at == len(goods):  # rounding left the number above all of them
            at = int(np.flatnonzero(weights)[-1])
        order.append(goods[at][0])
        weights[at] = 0.0
    return tuple(order)


def absence_of(share: float, sure: float) -> int | None:
    """Periods in a row without a good that is drawn anew in each, which are not exceeded with such a chance
    after any of its sales; None where it is never on sale."""
    if share <= 0:
        return None
    if share >= 1:
        return 0
    return int(np.ceil(np.log1p(-sure) / np.log1p(-share) - 1e-12))


def seen_within(sale: Sale, every: int, looks: int) -> dict[str, float]:
    """Chance that someone who looks every so many periods sees each good within so many looks: drawn periods
    have nothing to do with each other; of dealt ones it is counted over all places in the calendar."""
    if every < 1 or looks < 1:
        raise QueryError("one looks every period or more seldom, once or more often")
    if sale.stall.way == "draw":
        return {name: 1.0 - (1.0 - share) ** looks for name, share in sale.shares.items()}
    starts = min(400, max(1, 40_000 // looks))
    counts: Counter[str] = Counter()
    for start in range(starts):
        go_on()
        seen: set[str] = set()
        for look in range(looks):
            seen.update(sale.on_sale(start + look * every))
        counts.update(seen)
    return {name: counts[name] / starts for name, _ in sale.goods}


def until_all(sale: Sale, most: int = 2_000) -> FloatArray:
    """How many periods it takes until every good has been on sale, from each of 200 starts."""
    starts = np.arange(0, 200 * 7, 7)
    calendar = sale.calendar(0, int(starts[-1]) + most)
    waits = np.zeros(starts.size)
    for row in calendar:
        go_on()
        times = np.append(np.flatnonzero(row), calendar.shape[1] + most)
        waits = np.maximum(waits, times[np.searchsorted(times, starts)] - starts + 1)
    return np.minimum(waits, float(most))
