"""What lies there for whoever comes back every so many seconds and takes all: in the long run, exactly.

Whoever comes leaves every spot empty, so that each visit depends on the one before by its time alone. In a
stretch from one visit to the next an empty spot tries at every refill time; what came is gone after a while.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import gcd

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.errors import QueryError, TooLarge
from golddice.core.game.places import Place
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.places.setting_out import SetOut, rolled_chances

MOST_PHASES = 1_000_000
MOST_TRIES = 1_000_000
_LONGEST = 24  # refills between two visits, at least, up to which is looked


@dataclass(frozen=True)
class Visit:
    """mean (k,) of each item a visit finds; unseen_share of all that came."""

    mean: FloatArray
    unseen_share: float


def visit(lying: Lying, out: SetOut, every: int) -> Visit:
    """Raises QueryError and TooLarge."""
    if every < 1:
        raise QueryError("one comes back every second or later")
    items = lying.given.shape[1]
    place = lying.place
    if place.refill_seconds is None:
        return Visit(np.zeros(items), 0.0)
    if place.way == "each-rolls":
        lines = rolled_chances(lying)
        tries = lines.sum(axis=1)
        shares = np.divide(lines, tries[:, None], out=np.zeros_like(lines), where=tries[:, None] > 0)
        there = np.ones(tries.size)
    else:
        # A spot regains its own line for certain; one that had none stays empty.
        there = out.spots.sum(axis=1)
        shares = np.divide(out.spots, there[:, None], out=np.zeros_like(out.spots), where=there[:, None] > 0)
        tries = np.ones(there.size)
    mean, came, seen = np.zeros(items), 0.0, 0.0
    for chance in np.unique(tries):
        spots = tries == chance
        found, brought = _stretch(float(chance), place.refill_seconds, place.lasts_seconds, every)
        mean += found * (there[spots] @ shares[spots]) @ lying.given
        came += brought * float(there[spots].sum())
        seen += found * float(there[spots].sum())
    return Visit(mean, max(0.0, (came - seen) / came) if came > 0 else 0.0)


def often(place: Place) -> list[int]:
    """Seconds between visits at which it is worth looking: about the refills and what lasts, so chosen that
    few phases meet."""
    refill = place.refill_seconds
    if refill is None:
        return []
    last = max(_LONGEST * refill, 4 * (place.lasts_seconds or 0))
    parts = [refill // part for part in (8, 4, 2) if refill % part == 0]
    times = [round(2 ** (step / 2)) for step in range(2 * 40)]
    whole = [refill * many for many in dict.fromkeys(times) if refill * many <= last]
    return [seconds for seconds in (*parts, *whole) if seconds >= 1]


def _stretch(chance: float, refill: int, lasts: int | None, every: int) -> tuple[float, float]:
    """Of one spot on average over all visits: the chance that something is there, and how much came since the
    visit before."""
    phases = refill // gcd(refill, every)
    if phases > MOST_PHASES:
        raise TooLarge(
            f"visits every {every:,} s meet refills every {refill:,} s at {phases:,} different times"
        )
    visits = np.arange(1, phases + 1, dtype=np.int64) * every
    counts = visits // refill - (visits - every) // refill  # tries in each stretch
    most = int(counts.max())
    if most == 0 or chance == 0.0:
        return 0.0, 0.0
    if most > MOST_TRIES:
        raise TooLarge(f"{most:,} tries between two visits")
    if lasts is None:
        there = -np.expm1(counts * np.log1p(-chance)) if chance < 1.0 else (counts > 0).astype(np.float64)
        return float(there.mean()), float(there.mean())
    came = _coming(chance, -(-lasts // refill), most)
    so_far = np.concatenate([[0.0], np.cumsum(came)])
    # What came at a try still lies there if that was less than `lasts` before the visit.
    since = visits % refill
    fresh = np.where(lasts > since, -(-(lasts - since) // refill), 0)
    there = so_far[counts] - so_far[np.maximum(counts - fresh, 0)]
    return float(there.mean()), float(so_far[counts].mean())


def _coming(chance: float, holds: int, tries: int) -> FloatArray:
    """The chance that something comes at each try, where what came holds the spot for so many tries, its own
    among them."""
    came = np.zeros(tries)
    held = 0.0
    for at in range(tries):
        if at >= holds:
            held -= came[at - holds]
        came[at] = chance * max(0.0, 1.0 - held)
        held += came[at]
    return came
