"""How long until the first one, for who carries nothing."""

from __future__ import annotations

import math

NEVER = 1e-300
CONFIDENCES = {"first_50": 0.5, "first_90": 0.9, "first_99": 0.99}


def events_to_first(chance: float, confidence: float) -> int | None:
    """Smallest k with 1 - (1 - chance)^k >= confidence; None where the chance is 0, or so small (below some
    1e-300) that k is no number any more.

    The geometric law's quantile, ceil(log1p(-q) / log1p(-p)), in the form that stays true for
    p = 1e-9. A k that misses by less than rounding (a tie) is not pushed up by one.

    >>> events_to_first(0.02, 0.9)
    114
    """
    if chance >= 1:
        return 1
    log_miss = math.log1p(-max(chance, 0.0))
    if -log_miss < NEVER:
        return None
    return max(1, rounded_up(math.log1p(-confidence) / log_miss))


def one_in(chance: float) -> float | None:
    """One in how many; None where that is never, or no number any more."""
    return 1.0 / chance if chance > NEVER else None


def rounded_up(exact: float) -> int:
    """The next whole number, but the nearest one where only rounding lies between."""
    near = round(exact)
    if near >= 1 and abs(exact - near) <= 1e-12 * near:
        return near
    return math.ceil(exact)


def waits(chance: float) -> dict[str, int | None]:
    """The waits at 50, 90 and 99 % for a player without state."""
    return {name: events_to_first(chance, q) for name, q in CONFIDENCES.items()}
