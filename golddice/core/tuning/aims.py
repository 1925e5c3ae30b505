"""What a target asks of its numbers: a smooth figure at each depth, and the bounds that it must keep.

Figures are taken in coordinates in which they move nearly straight with the logarithms of numbers: chances
and shares as log-odds, amounts as logarithms. A wait is no smooth figure; what is asked is the chance to
have one by the event that is wanted.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import BoolArray, FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.terms.resting import carries
from golddice.core.tuning.figures import OPENINGS_OF_A_TARGET, Figures, counted
from golddice.core.tuning.flow import Noted, Notes, NotNoted
from golddice.core.tuning.numbers import Number, Values, with_values
from golddice.core.tuning.slopes import curves_of_quantities, is_felt, is_smooth, slopes, touched_by
from golddice.core.tuning.tape import Node
from golddice.core.tuning.targets import asked_at

HAIR = 1e-6  # of the wanted, by which a proposal aims inside
_STEP = 1e-5
# Of the same players enough must fare otherwise, or a difference says nothing.
_STEPS_OF_PLAYED, _ENOUGH = (0.25, 1.0, 2.5), 20
_NEAR = 0.01  # of a coordinate: rows with more room than this are not looked at by differences
_MOST_NEAR = 2
_AGAINST = 1e-4
_CHANCES = frozenset(
    {"chance", "one-in", "wait", "none", "share", "worth", "less", "swing-of", "cost", "complete", "fits"}
)
_NOT_NOTED = frozenset({"less", "swing-of", "complete", "upgrades", "fits"})
_READ_AS_CHANCE = frozenset({"one-in", "wait", "none", "cost"})
_AFTER_EVENTS = frozenset({"none", "spread", "cost"})
Scale = Literal["odds", "log"]


class Book:
    """A game with the numbers as they are now, and what was worked out about it."""

    def __init__(self, game: Game, like: Book | None = None) -> None:
        """`like` is of the same game with other values of its numbers."""
        self.game = game
        self._touched: dict[tuple[str, frozenset[str]], frozenset[tuple[str, str]]] = {}
        if like is not None:
            self._touched, self.rough_curves = like._touched, like.rough_curves
        self._figures: dict[tuple[frozenset[str], str | None], Figures] = {}
        self._notes: dict[frozenset[str], Notes] = {}
        self._noted: dict[tuple[View, frozenset[str]], Noted | None] = {}

    def with_(self, values: Values) -> Book:
        return Book(with_values(self.game, values), self)

    def figures(self, flags: frozenset[str], tag: str | None = None) -> Figures:
        key = flags, tag
        if key not in self._figures:
            self._figures[key] = Figures(self.game, flags, tag)
        return self._figures[key]

    def touched_by(self, target: Target) -> frozenset[tuple[str, str]]:
        """The tables, sources and curves that a target's figure rests on, as (of, id). Other values of its
        numbers change nothing about that."""
        key = target.id, frozenset(target.flags)
        if key not in self._touched:
            under = self.figures(key[1]).under
            self._touched[key] = frozenset(touched_by(under, target))
        return self._touched[key]

    @cached_property
    def rough_curves(self) -> set[str]:
        return curves_of_quantities(self.game)

    def noted(self, view: View, flags: frozenset[str]) -> Noted | None:
        key = (view, flags)
        if key not in self._noted:
            try:
                if flags not in self._notes:
                    self._notes[flags] = Notes(self.figures(flags).under)
                self._noted[key] = Noted(self._notes[flags], view)
            except NotNoted:
                self._noted[key] = None
        return self._noted[key]


@dataclass(frozen=True)
class Aim:
    """A figure of a target at its depths and the bounds of its coordinate, -inf and inf for none.

    by : for a wait that rests on what is carried, the event by which so many shall have one.
    steps : where an order along the depths is wanted, 1 for never falling, -1 for never rising; its rows are
        then the steps from one depth to the next.
    """

    target: Target
    where: BoolArray
    low: float
    high: float
    scale: Scale
    is_noted: bool
    by: int | None = None
    steps: int = 0

    @property
    def slack(self) -> float:
        """By how much a coordinate may be outside its bounds, which are a hair inside what is wanted."""
        if self.steps:
            return self.low + 1e-10  # to stay alike is in order
        width = self.high - self.low
        return 1e-10 if width < HAIR else 0.5 * HAIR

    @cached_property
    def flags(self) -> frozenset[str]:
        return frozenset(self.target.flags)

    def inside(self, room: float, here: FloatArray) -> Aim:
        """The same with those of its bounds that much further in, or not quite to the middle between them,
        against which the figures stand; what they keep away from by itself may stay as it is."""
        less = min(room, 0.4 * (self.high - self.low))
        low = self.low + less * bool(here.min(initial=np.inf) < self.low + _AGAINST)
        high = self.high - less * bool(here.max(initial=-np.inf) > self.high - _AGAINST)
        return replace(self, low=low, high=high)

    @property
    def rows(self) -> int:
        return max(int(self.where.sum()) - bool(self.steps), 0)

    def off(self, here: FloatArray) -> FloatArray:
        """By how much each row is outside its bounds, 0 within; infinite where there is no figure."""
        off = -self._room(here)
        return np.where(np.isnan(here), np.inf, np.where(off <= self.slack, 0.0, off))

    def read(self, book: Book, some: BoolArray | None = None) -> FloatArray:
        """The coordinate at each of its depths, or at some of its rows. Raises TooLarge."""
        if self.steps:
            stairs = self.steps * _rises(self._read(book, None))
            return stairs if some is None else stairs[some]
        return self._read(book, some)

    def _read(self, book: Book, some: BoolArray | None) -> FloatArray:
        go_on()
        where = self.where if some is None else self._at(some)
        if not where.any():
            return np.zeros(0)
        if self.is_noted:
            noted = book.noted(self.target.view, self.flags)
            if noted is not None:
                return _coordinate(_figure(noted, self.target).value[where], self.scale)
        return self._exactly(book, where)

    def _exactly(self, book: Book, where: BoolArray) -> FloatArray:
        figures = book.figures(self.flags, self.target.tag)
        if self.by is not None:
            return _coordinate(figures.had_by(self.target, where, self.by), self.scale)
        target = self.target
        if target.figure == "spread" and target.spread == "p95/p5":
            return _coordinate(figures.leaning_ratio(target, where), self.scale)
        if target.figure in _READ_AS_CHANCE and self.scale == "odds":
            target = target.model_copy(update={"figure": "chance"})
        if target.is_played:
            return _coordinate(_between(figures.of(target, where)), self.scale)
        return _coordinate(figures.of(target, where), self.scale)

    # --- how it moves ------------------------------------------------------------------------------------

    def slopes(
        self, book: Book, numbers: Sequence[Number], wanted: BoolArray
    ) -> tuple[FloatArray, BoolArray]:
        """By how much its rows move with a step of each number, (rows, numbers), and which rows are told:
        all, or, where differences must be taken, those that are wanted."""
        if not self.steps:
            return self._slopes(book, numbers, wanted)
        ends = np.append(wanted, False) | np.append(False, wanted)
        lean, told = self._slopes(book, numbers, ends)
        return self.steps * np.diff(lean, axis=0), told[1:] & told[:-1]

    def _slopes(
        self, book: Book, numbers: Sequence[Number], wanted: BoolArray
    ) -> tuple[FloatArray, BoolArray]:
        depths = int(self.where.sum())
        found = np.zeros((depths, len(numbers)))
        near = book.touched_by(self.target)
        mine = [at for at, number in enumerate(numbers) if (number.of, number.id) in near]
        rough_curves, under = book.rough_curves, book.figures(self.flags).under
        noted = book.noted(self.target.view, self.flags) if self.is_noted else None
        smooth = [at for at in mine if noted is not None and is_smooth(numbers[at], rough_curves)]
        if noted is not None and smooth:
            node = _figure(noted, self.target)
            lean = slopes(noted, node, [numbers[at] for at in smooth])[:, self.where]
            found[:, smooth] = (lean * _steepness(node.value[self.where], self.scale)).T
        rough = [at for at in mine if at not in set(smooth)]
        if not rough:
            return found, np.ones(depths, dtype=bool)
        # Whole numbers have no derivative: the way to the next one says as much as there is to say.
        told = np.ones(depths, dtype=bool) if noted is not None else wanted
        if told.any():
            base = self._read(book, told)
            for at in rough:
                if self.target.route is None and not is_felt(under, numbers[at], self._at(told)):
                    continue
                with np.errstate(invalid="ignore"):
                    lean = self._difference(book, numbers[at], told, base)
                found[told, at] = np.nan_to_num(lean, posinf=0.0, neginf=0.0)
        return found, told

    def _difference(self, book: Book, number: Number, told: BoolArray, base: FloatArray) -> FloatArray:
        for step in _STEPS_OF_PLAYED if self.target.is_played else (_STEP,):
            value = _next(number, step)
            moved = self._read(book.with_({number: value}), told)
            if number.is_whole or not self.target.is_played:
                break
            others = np.abs(_chance_at(moved) - _chance_at(base)) * OPENINGS_OF_A_TARGET
            if others.min(initial=np.inf) >= _ENOUGH:
                break
        return (moved - base) / number.step_to(value)

    def _at(self, rows: BoolArray) -> BoolArray:
        """Some of its rows, among all depths of the game."""
        where = np.zeros_like(self.where)
        where[np.flatnonzero(self.where)[rows]] = True
        return where

    def near(self, here: FloatArray) -> BoolArray:
        """The rows that are outside or nearest to it: differences are dear."""
        return self.tightest(here, _NEAR)

    def tightest(self, here: FloatArray, room: float) -> BoolArray:
        """The few rows that have the least room, of those that have less than this."""
        found = np.zeros(self.rows, dtype=bool)
        found[np.argsort(self._room(here), kind="stable")[:_MOST_NEAR]] = True
        return found & (self._room(here) < room)

    def _room(self, here: FloatArray) -> FloatArray:
        """How far each row is within its bounds, below 0 where it is outside. A chance of 0 is at -inf, and
        within any bound from above."""
        with np.errstate(invalid="ignore"):
            above = here - self.low if self.low > -np.inf else np.full_like(here, np.inf)
            below = self.high - here if self.high < np.inf else np.full_like(here, np.inf)
        room = np.minimum(above, below)
        return np.where(np.isnan(room), -np.inf, room)


def _next(number: Number, step: float) -> float:
    """Where a difference is taken to: a little further, of a whole number the next."""
    return number.value + 1 if number.is_whole else number.moved(step)


def _between(shares: FloatArray) -> FloatArray:
    """Shares of players, with half a one for and half a one against: all of them are no infinite odds, and
    the way back can be seen."""
    return (shares * OPENINGS_OF_A_TARGET + 0.5) / (OPENINGS_OF_A_TARGET + 1)


def aims_of(book: Book, target: Target) -> list[Aim]:
    """What a target asks; none where it is met nowhere, and of a promise, which no number above 0 changes.
    Raises TooLarge where it cannot be told."""
    figures = book.figures(frozenset(target.flags))
    under = figures.under
    where = asked_at(under, target)
    if not where.any() or target.is_promise:
        return []
    if target.is_elsewhere:
        raise TooLarge("what is set out or put on sale comes in whole numbers: it is tuned by hand")
    low, high = bounds_of(target)
    if target.figure in ("wait", "none", "cost"):
        held = figures.carries_to_first(target)
    else:
        held = target.route is None and carries(under, target.view)
    is_noted = not ((target.long_run or target.figure in _AFTER_EVENTS) and held) and _can_be_noted(target)
    if target.is_order:
        return [_of_order(target, where, is_noted, held)]
    if target.is_played:
        low, high = _between(np.clip([low, high], 0.0, 1.0)).tolist()
        return [Aim(target, where, _odds(low) - HAIR, _odds(high) + HAIR, "odds", False)]
    if target.figure == "wait" and held:
        return _of_carried_wait(target, where, low, high)
    if target.figure == "none" and held:
        return [Aim(target, where, _odds(1 - high), _odds(1 - low), "odds", False, target.events)]
    if target.figure in _CHANCES and not (target.figure == "cost" and held):
        if target.figure == "cost":
            price = figures.price(target)
            low, high = (one / price if price > 0 else np.inf for one in (low, high))
        low, high = _as_chance(under, target, low, high)
        # An event is whole, so that a wait of exactly so many leaves room for a hair.
        hair = HAIR if target.figure == "wait" else 0.0
        return [Aim(target, where, _odds(low) + hair, _odds(high) - hair, "odds", is_noted)]
    return [Aim(target, where, _log(low), _log(high), "log", is_noted)]


def bounds_of(target: Target) -> tuple[float, float]:
    """The least and the most that is wanted, a hair inside."""
    hair = HAIR * target.wanted
    low = -np.inf if target.side == "at-most" else target.wanted - target.tolerance
    high = np.inf if target.side == "at-least" else target.wanted + target.tolerance
    if low + 2 * hair < high:
        low, high = low + hair, high - hair
    return low, high


def _as_chance(under: Conditions, target: Target, low: float, high: float) -> tuple[float, float]:
    if target.figure in ("one-in", "cost"):
        return (1.0 / high if high > 0 else 1.0), (1.0 / low if low > 0 else 1.0)
    if target.figure == "wait":
        return _chance_of_wait(target, low, high)
    if target.figure == "none":
        return _chance_of_one(high, target.events), _chance_of_one(low, target.events)
    return low, high


def _chance_of_one(none: float, events: int) -> float:
    """The chance in an event with which so many players have none after so many events."""
    if none <= 0.0:
        return 2.0 if np.isneginf(none) else 1.0
    return 0.0 if none >= 1.0 else float(-np.expm1(np.log(none) / events))


def _chance_of_wait(target: Target, low: float, high: float) -> tuple[float, float]:
    """The chances in an event with which the wait is within bounds: 1 - (1 - p)^n >= s."""
    log_miss = np.log1p(-target.sure / 100)
    by, after = _events(low, high)
    least = 0.0 if by is None else -np.expm1(log_miss / max(by, 1)) if by > 0 else 2.0
    most = 1.0 if after is None or after < 1 else -np.expm1(log_miss / after)
    return least, most


def _events(low: float, high: float) -> tuple[int | None, int | None]:
    """By which event so many must have one, and after which they must not yet have."""
    by = None if np.isinf(high) else int(np.floor(high * (1 + HAIR) + 1e-9))
    after = None if np.isinf(low) or low <= 0 else int(np.ceil(low * (1 - HAIR) - 1e-9)) - 1
    return by, after


def _of_order(target: Target, where: BoolArray, is_noted: bool, held: bool) -> Aim:
    if target.figure == "wait" and held:
        raise TooLarge("waits that rest on what is carried are not put in order")
    steps = 1 if target.side == "never-falls" else -1
    is_followed = target.figure == "cost" and held
    if target.figure in _READ_AS_CHANCE and not is_followed:
        steps = -steps  # what is read is the chance, which falls where these rise
    scale: Scale = "odds" if target.figure in _CHANCES and not is_followed else "log"
    by = target.events if target.figure == "none" and held else None
    return Aim(target, where, HAIR / 4, np.inf, scale, is_noted, by, steps)


def _of_carried_wait(target: Target, where: BoolArray, low: float, high: float) -> list[Aim]:
    by, after = _events(low, high)
    sure = _odds(target.sure / 100)
    found = []
    if by is not None:
        found.append(Aim(target, where, sure + HAIR, np.inf, "odds", False, max(by, 0)))
    if after is not None and after > 0:
        found.append(Aim(target, where, -np.inf, sure - HAIR, "odds", False, after))
    return found


# --- figures on the tape -----------------------------------------------------------------------------------


def _figure(noted: Noted, target: Target) -> Node:
    under, tape = noted.under, noted.tape
    values = under.item_values
    mine = counted(under, target)
    if target.figure in ("chance", *_READ_AS_CHANCE):
        return noted.hit(mine)
    if target.figure == "share":
        return tape.over(noted.mean(mine), noted.mean(np.ones_like(values)))
    if target.figure == "worth":
        return tape.over(noted.mean(mine * values), noted.mean(values))
    if target.figure in ("cv", "spread"):
        mean, var = noted.mean_and_var(values)
        if target.figure == "spread" and target.spread == "sd":
            return tape.root(tape.scaled(var, float(target.events)))
        events = target.events if target.figure == "spread" else 1
        return tape.scaled(tape.root(tape.over(var, tape.squared(mean))), events**-0.5)
    found = noted.mean(values if target.figure.startswith("value") else mine)
    if target.figure.endswith("per-hour"):
        return tape.scaled(found, events_per_hour(under.source(target.view.id)))
    return found


def _can_be_noted(target: Target) -> bool:
    """Whether a tape has the figure: no whole distributions, no routes, no parts of a variance."""
    if target.route is not None or target.figure in _NOT_NOTED:
        return False
    return target.figure != "spread" or target.spread != "p95/p5"


def _rises(here: FloatArray) -> FloatArray:
    """From each to the next; from never to never is no step."""
    with np.errstate(invalid="ignore"):
        return np.where(here[1:] == here[:-1], 0.0, np.diff(here))


def _coordinate(figures: FloatArray, scale: Scale) -> FloatArray:
    with np.errstate(divide="ignore", invalid="ignore"):
        logs = np.log(figures)
        return logs if scale == "log" else logs - np.log1p(-np.minimum(figures, 1.0))


def _steepness(figures: FloatArray, scale: Scale) -> FloatArray:
    """By how much the coordinate moves with the figure; 0 where it cannot move."""
    whole = figures if scale == "log" else figures * (1.0 - figures)
    return np.divide(1.0, whole, out=np.zeros_like(whole), where=whole > 0)


def _chance_at(odds: FloatArray) -> FloatArray:
    return 1.0 / (1.0 + np.exp(-odds))


def _odds(chance: float) -> float:
    if chance <= 0.0:
        return -np.inf
    if chance >= 1.0:
        return np.inf
    return float(np.log(chance) - np.log1p(-chance))


def _log(amount: float) -> float:
    return float(np.log(amount)) if amount > 0 else -np.inf


def told(book: Book, targets: Sequence[Target]) -> tuple[list[Aim], dict[str, str]]:
    """The aims of targets, and of those that cannot be told why not."""
    aims: list[Aim] = []
    untold: dict[str, str] = {}
    for target in targets:
        try:
            mine = aims_of(book, target)
            for aim in mine:
                aim.read(book)
            aims += mine
        except TooLarge as error:
            untold[target.id] = str(error)
    return aims, untold
