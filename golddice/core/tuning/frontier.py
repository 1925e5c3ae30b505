"""Mean against swing: what pairs of a mean value and a swing (sd over mean) an event could have, if numbers
moved within bounds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from scipy.optimize import minimize

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.tuning.flow import Noted, Notes, NotNoted
from golddice.core.tuning.numbers import Number, Values, with_values
from golddice.core.tuning.rounding import to_digits
from golddice.core.tuning.slopes import curves_of_quantities, is_smooth, slopes

POINTS = 9
DIGITS = 3
_ROUNDS = 60
_CLOSE = 1e-7
_NEAR = 1e-4  # of a logarithm: so near a wanted mean a point must be


@dataclass(frozen=True)
class Point:
    """A pair that can be had, and the numbers with which it is."""

    mean: float
    cv: float
    values: dict[Number, float]


@dataclass(frozen=True)
class Frontier:
    """here : as it is. least : for each mean the least swing, by rising mean."""

    here: Point
    least: list[Point]

    def plain(self) -> dict[str, Any]:
        return {"here": _plain(self.here), "least": [_plain(point) for point in self.least]}


def _plain(point: Point) -> dict[str, Any]:
    numbers = [
        {"where": number.where, "before": number.value, "after": value}
        for number, value in point.values.items()
    ]
    return {"mean": point.mean, "cv": point.cv, "numbers": numbers}


def frontier(
    game: Game,
    view: View,
    depth: int,
    numbers: Sequence[Number],
    far: float,
    flags: frozenset[str] = frozenset(),
) -> Frontier:
    """The least swing for each of some means between the least and the greatest that can be had, when no
    number's logarithm (log-odds of a chance) moves further than `far`.

    For each mean the least is sought from where the one before was found (sequential quadratic programming),
    with exact derivatives; every point is checked by the odds. Raises TooLarge for an event of which no
    derivatives are noted, QueryError where no number of it can move or it is worth nothing.
    """
    rough = curves_of_quantities(game)
    smooth = [number for number in numbers if is_smooth(number, rough)]
    worth = _Worth(game, view, depth, smooth, flags)
    here = worth.at(np.zeros(len(smooth)))
    if not smooth:
        raise QueryError("no number that the event rests on may move; unlock some")
    if not here.mean > 0:
        raise QueryError("an event that is worth nothing has no swing")
    low, high = worth.furthest(-1.0, far), worth.furthest(1.0, far)
    found = []
    for means in _ways(_means(low, high), float(np.log(here.mean))):
        steps = np.zeros(len(smooth))
        for mean in means:
            go_on()
            steps, is_there = worth.least_swing(mean, far, steps)
            if is_there:
                found.append(worth.at(steps))
    return Frontier(here, sorted(found, key=lambda point: point.mean))


def _ways(means: FloatArray, here: float) -> tuple[list[float], list[float]]:
    """From here up, and from here down: each least swing is sought from the one before."""
    up, down = means[means >= here].tolist(), means[means < here].tolist()
    return up, down[::-1]


def _means(low: float, high: float) -> FloatArray:
    """Evenly by their logarithms, the ends a little inside."""
    room = 0.02 * (high - low)
    return np.linspace(low + room, high - room, POINTS) if high - low > _CLOSE else np.array([low])


class _Worth:
    """The logarithms of mean and swing of an event's value, as its numbers step."""

    def __init__(
        self, game: Game, view: View, depth: int, numbers: Sequence[Number], flags: frozenset[str]
    ) -> None:
        self._game, self._view, self._depth, self._flags = game, view, depth, flags
        self._numbers = numbers
        self._known: tuple[bytes | None, dict[str, tuple[float, FloatArray]]] = None, {}

    def at(self, steps: FloatArray) -> Point:
        """By the odds, the numbers as people write them."""
        written = {number: to_digits(number, value, DIGITS) for number, value in self._values(steps).items()}
        values = {number: value for number, value in written.items() if value != number.value}
        lean = depth_odds(with_values(self._game, values), self._view, [self._depth], self._flags)
        mean, var = float(lean.value_mean[0]), float(lean.value_var[0])
        cv = float(np.sqrt(max(var, 0.0)) / mean) if mean > 0 else float("nan")
        return Point(mean, cv, values)

    def furthest(self, sign: float, far: float) -> float:
        """The logarithm of the least (sign -1) or greatest mean."""
        start = np.full(len(self._numbers), 0.0)
        found = minimize(
            lambda steps: self._told(steps, "mean", -sign),
            start,
            jac=True,
            bounds=[(-far, far)] * start.size,
            options={"maxiter": _ROUNDS},
            method="L-BFGS-B",
        )
        return float(-sign * found.fun)

    def least_swing(self, mean: float, far: float, start: FloatArray) -> tuple[FloatArray, bool]:
        """Steps to the least swing with this logarithm of a mean, and whether the mean is reached."""
        bound = {
            "type": "eq",
            "fun": lambda steps: self._told(steps, "mean", 1.0)[0] - mean,
            "jac": lambda steps: self._told(steps, "mean", 1.0)[1],
        }
        found = minimize(
            lambda steps: self._told(steps, "swing", 1.0),
            start,
            jac=True,
            bounds=[(-far, far)] * start.size,
            constraints=[bound],
            options={"maxiter": _ROUNDS, "ftol": _CLOSE},
            method="SLSQP",
        )
        steps = np.clip(found.x, -far, far)
        return steps, abs(self._told(steps, "mean", 1.0)[0] - mean) < _NEAR

    def _told(
        self, steps: FloatArray, what: Literal["mean", "swing"], sign: float
    ) -> tuple[float, FloatArray]:
        """The logarithm and its derivatives by the steps."""
        key = steps.tobytes()
        if self._known[0] != key:  # one and the same place is asked for its value, its slopes, its bound
            self._known = key, self._noted(steps)
        value, lean = self._known[1][what]
        return sign * value, sign * lean

    def _noted(self, steps: FloatArray) -> dict[str, tuple[float, FloatArray]]:
        go_on()
        values = self._values(steps)
        under = Conditions(with_values(self._game, values), [self._depth], self._flags)
        try:
            noted = Noted(Notes(under), self._view)
        except NotNoted as error:
            raise TooLarge(
                "what a player carries matters within the event; its swing is not traced"
            ) from error
        tape = noted.tape
        mean, var = noted.mean_and_var(under.item_values)
        swing = tape.root(tape.over(var, tape.squared(mean)))
        moved = [replace(number, value=values.get(number, number.value)) for number in self._numbers]
        found = {}
        for name, node in (("mean", mean), ("swing", swing)):
            value = max(float(node.value[0]), 1e-300)
            found[name] = float(np.log(value)), slopes(noted, node, moved)[:, 0] / value
        return found

    def _values(self, steps: FloatArray) -> Values:
        return {
            number: number.moved(float(step))
            for number, step in zip(self._numbers, steps, strict=True)
            if step
        }
