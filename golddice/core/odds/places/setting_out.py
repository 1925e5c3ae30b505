"""Setting out: the chance of each line at each spot, how many are placed, and what lies there in all."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.odds.places.lying import Lying
from golddice.core.stopping import go_on
from golddice.core.terms.places.shares import (
    Free,
    Turn,
    classes_of,
    most_placed,
    order_of,
    set_out_by_line,
    units_of,
)

MOST_STEPS = 8_000  # from state to state
RUNS = 4_000
_MOST_DRAWN = 3_000_000
SEED = 20_417


@dataclass(frozen=True)
class SetOut:
    """wanted, placed, all_placed, most (l,); spots (s, l) the chance of each line; mean, none (k,) of items.
    Where it is simulated `runs` says of how many settings-out, and `errors` (l,) are those of `placed`."""

    method: Literal["exact", "simulated"]
    wanted: FloatArray
    placed: FloatArray
    all_placed: FloatArray
    most: FloatArray
    spots: FloatArray
    mean: FloatArray
    none: FloatArray
    errors: FloatArray
    runs: int = 0


def set_out(lying: Lying) -> SetOut:
    return _rolled(lying) if lying.place.way == "each-rolls" else _shared(lying)


def rolled_chances(lying: Lying) -> FloatArray:
    """Of each line at each spot that rolls by itself, (s, l)."""
    filled = float(lying.place.filled)  # type: ignore[arg-type]
    weights = lying.allowed * lying.weights
    total = weights.sum(axis=1, keepdims=True)
    whole = total + lying.nothing
    return np.asarray(filled * np.divide(weights, whole, out=np.zeros_like(weights), where=total > 0))


def _rolled(lying: Lying) -> SetOut:
    spots = rolled_chances(lying)
    mean = spots.sum(axis=0)
    lost = 1.0 - lying.none
    none = np.prod(1.0 - spots @ lost, axis=0)
    most = (spots > 0).sum(axis=0).astype(np.float64)
    ones = np.ones(mean.size)
    return SetOut("exact", mean, mean, ones, most, spots, mean @ lying.given, none, np.zeros(mean.size))


def _shared(lying: Lying) -> SetOut:
    units = units_of(lying)
    try:
        return _followed(lying, units)
    except TooLarge:
        return _played(lying, units)


# --- exactly ---------------------------------------------------------------------------------------------


def _followed(lying: Lying, units: list[int]) -> SetOut:
    """With each state goes its chance, and for every item the same times the chance that none of it has come.
    Raises TooLarge of too many."""
    classes, members = classes_of(lying)
    in_class = np.zeros((len(units), len(classes)))
    placed, all_placed = np.zeros(len(units)), np.ones(len(units))

    def turn(
        now: Turn, states: dict[tuple[Free, None], FloatArray]
    ) -> Iterator[tuple[Free, None, FloatArray, int]]:
        line, sure = now.line, 0.0
        for (state, _), weight in states.items():
            many, free = now.placed(state), sum(state[at] for at in now.may)
            chance = float(weight[0])
            sure += chance if many == units[line] else 0.0
            placed[line] += chance * many
            for at in now.may if free else ():
                in_class[line, at] += chance * many * state[at] / free
            carried = weight.copy()
            carried[1:] *= lying.none[line] ** many
            yield state, None, carried, many
        all_placed[line] = min(sure, 1.0)

    states = set_out_by_line(lying, units, (None, np.ones(1 + lying.none.shape[1])), turn, MOST_STEPS)
    whole = sum(states.values())
    spots = np.zeros(lying.allowed.shape)
    for row, allowed in enumerate(lying.allowed):
        at = classes.index(frozenset(allowed.nonzero()[0].tolist()))
        spots[row] = in_class[:, at] / members[at]
    return SetOut(
        "exact",
        np.array(units, dtype=np.float64),
        placed,
        all_placed,
        np.array(most_placed(lying, units), dtype=np.float64),
        spots,
        placed @ lying.given,
        np.clip(np.asarray(whole)[1:], 0.0, 1.0),
        np.zeros(len(units)),
    )


# --- by playing ------------------------------------------------------------------------------------------


def _played(lying: Lying, units: list[int]) -> SetOut:
    """Some thousands of settings-out at once, line by line."""
    spots, lines = lying.allowed.shape
    runs = max(200, min(RUNS, _MOST_DRAWN // max(1, int(lying.allowed.sum()))))
    draw = np.random.default_rng(SEED)
    free = np.ones((runs, spots), dtype=bool)
    counts, placed = np.zeros((spots, lines)), np.zeros((runs, lines))
    none = np.ones((runs, lying.none.shape[1]))
    for line in order_of(lying):
        if units[line] == 0:
            continue
        go_on()
        here = lying.allowed[:, line].nonzero()[0]
        if not here.size:
            continue
        taken = _drawn(draw, free[:, here], units[line])
        free[:, here] &= ~taken
        counts[here, line] = taken.sum(axis=0)
        placed[:, line] = taken.sum(axis=1)
        none *= lying.none[line] ** placed[:, line, None]
    mean = placed.mean(axis=0)
    return SetOut(
        "simulated",
        np.array(units, dtype=np.float64),
        mean,
        (placed >= np.array(units)).mean(axis=0),
        np.array(most_placed(lying, units), dtype=np.float64),
        counts / runs,
        mean @ lying.given,
        none.mean(axis=0),
        placed.std(axis=0) / np.sqrt(runs),
        runs,
    )


def _drawn(draw: np.random.Generator, free: np.ndarray, units: int) -> np.ndarray:
    """So many of the free ones of each row, evenly, or all of them where there are fewer."""
    keys = np.where(free, draw.random(free.shape, dtype=np.float32), np.float32(2.0))
    if units >= free.shape[1]:
        return free.copy()
    bound = np.partition(keys, units - 1, axis=1)[:, units - 1 : units]
    return np.asarray((keys <= bound) & free)


def setting(lying: Lying, seed: int) -> list[int]:
    """One setting-out: the line at each spot, -1 for none."""
    draw = np.random.default_rng(seed)
    found = [-1] * len(lying.place.spots)
    if lying.place.way == "each-rolls":
        for row, chances in enumerate(rolled_chances(lying)):
            at = int(np.searchsorted(np.cumsum(chances), draw.random(), side="right"))
            found[row] = at if at < chances.size else -1
        return found
    units, free = units_of(lying), np.ones((1, len(found)), dtype=bool)
    for line in order_of(lying):
        if units[line]:
            taken = _drawn(draw, free & lying.allowed[:, line], units[line])
            free &= ~taken
            for row in taken[0].nonzero()[0]:
                found[int(row)] = line
    return found
