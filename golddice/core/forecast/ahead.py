"""The next event of a fresh player: exact if it can be, else played many times, and it says which."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.forecast.marking import Marks, Part, marked
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.outcome import Outcome
from golddice.core.trial.compiling import Compiled, compiled
from golddice.core.trial.playing import Unit, played_side_by_side

PLAYERS = 100_000
SEED = 51_749
_MOST_ROLLS = 20_000_000
_FEWEST_PLAYERS = 100


class Ahead:
    """Figures of the next event by column, like those of `Prospect`, and how they are known.

    `lines` and `drops` are those that may be asked for, by (table id, line id) and (source id, drop id). Of a
    simulated event how much value came through a line is not told.
    """

    def __init__(self, prospect: Prospect, lines: Iterable[Part] = (), drops: Iterable[Part] = ()) -> None:
        self.prospect = prospect
        self._lines, self._drops = list(lines), list(drops)

    @cached_property
    def _exact(self) -> Outcome | TooLarge:
        try:
            return self.prospect.outcome
        except TooLarge as error:
            return error

    @property
    def why(self) -> str | None:
        """Why it is not exact, if it is not."""
        return str(self._exact) if isinstance(self._exact, TooLarge) else None

    @property
    def method(self) -> Literal["exact", "simulated"]:
        return "simulated" if isinstance(self._exact, TooLarge) else "exact"

    @cached_property
    def outcome(self) -> Outcome:
        """Raises TooLarge where even playing would take too long."""
        return self._sampled[0] if isinstance(self._exact, TooLarge) else self._exact

    @cached_property
    def players(self) -> int:
        """How many fresh players are played, 0 where it is exact."""
        if self.method == "exact":
            return 0
        found = min(PLAYERS, int(_MOST_ROLLS / self._program.work))
        if found < _FEWEST_PLAYERS:
            raise TooLarge("an event with so many rolls cannot be played often enough; run a trial")
        return found

    def hit(self, column: int) -> float:
        """Chance of at least one."""
        return self._figure(self.outcome.hit, column)

    def hit_error(self, column: int) -> float:
        """Its standard error, 0 where it is exact."""
        hit = self.hit(column)
        return math.sqrt(hit * (1.0 - hit) / self.players) if self.players else 0.0

    def mean(self, column: int) -> float:
        return self._figure(self.outcome.mean, column)

    def var(self, column: int) -> float:
        return self._figure(self.outcome.var, column)

    def mean_error(self, column: int) -> float:
        """The standard error of how many, 0 where it is exact."""
        return math.sqrt(self.var(column) / self.players) if self.players else 0.0

    def sd_error(self, column: int) -> float:
        """Of the sd of how many: from the fourth moment (Cramér, Mathematical Methods, 1946, 27.4)."""
        return self._sampled[1].get(column, (0.0, 0.0))[0] if self.players else 0.0

    def share_error(self, column: int) -> float:
        """Of a column's share of all units: a ratio of means (Cochran, Sampling Techniques, 1977, 2.11)."""
        return self._sampled[1].get(column, (0.0, 0.0))[1] if self.players else 0.0

    def cov(self, column: int) -> float | None:
        """Covariance of how many with the value of the event; None where it is not told."""
        if self.players and column not in self._places:
            return None
        return self._figure(self.outcome.cov, column)

    def reaches(self, column: int) -> bool:
        return column in self._places

    @cached_property
    def _places(self) -> dict[int, int]:
        return {int(column): at for at, column in enumerate(self.outcome.columns)}

    def _figure(self, figures: FloatArray, column: int) -> float:
        at = self._places.get(column)
        return 0.0 if at is None else float(figures[0, at])

    @cached_property
    def _marks(self) -> Marks:
        return marked(self.prospect.under, self._lines, self._drops)

    @cached_property
    def _program(self) -> Compiled:
        return compiled(self._marks.under, self.prospect.view)

    @cached_property
    def _sampled(self) -> tuple[Outcome, dict[int, tuple[float, float]]]:
        """The moments of so many fresh players' first events; by column the standard errors of the sd, and
        of the share of all units."""
        marks, program = self._marks, self._program
        bags = played_side_by_side(Unit.of(program, SEED, 0, self.players, 1))
        slots = {int(item): slot for slot, item in enumerate(program.items)}
        columns, counts = [], []
        for column, items in sorted(marks.counted.items()):
            held = [slots[item] for item in items if item in slots]
            if held:
                columns.append(column)
                counts.append(bags.counts[:, held].sum(axis=1))
        many = np.array(counts, dtype=np.float64).reshape(len(columns), self.players)
        off, off_value = many - many.mean(axis=1, keepdims=True), bags.value - bags.value.mean()
        found = Outcome(
            np.array(columns, dtype=np.int64),
            (many > 0).mean(axis=1)[None],
            many.mean(axis=1)[None],
            (off * off).mean(axis=1)[None],
            (off @ off_value / self.players)[None],
            np.array([bags.value.mean()]),
            np.array([(off_value * off_value).mean()]),
        )
        received = self.prospect.columns.units
        units = many[columns.index(received)] if received in columns else np.zeros(self.players)
        errors = (_errors(one, units) for one in many)
        return found, dict(zip(columns, errors, strict=True))


def _errors(many: FloatArray, units: FloatArray) -> tuple[float, float]:
    """Standard errors of a sample's sd, and of its share of all units."""
    off = many - many.mean()
    var, fourth = float((off**2).mean()), float((off**4).mean())
    count, received = many.size, float(units.mean())
    sd_error = math.sqrt(max(fourth - var * var, 0.0) / count) / (2 * math.sqrt(var)) if var > 0 else 0.0
    if received <= 0:
        return sd_error, 0.0
    apart = many - float(many.mean()) / received * units
    return sd_error, math.sqrt(float((apart**2).mean()) / count) / received
