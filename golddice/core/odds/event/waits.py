"""How long until the first one."""

from __future__ import annotations

import math

CONFIDENCES = {"first_50": 0.5, "first_90": 0.9, "first_99": 0.99}


def events_to_first(chance: float, confidence: float) -> int | None:
    """Smallest k with 1 - (1 - chance)^k >= confidence; None where the chance is 0.

    The geometric law's quantile, ceil(log1p(-q) / log1p(-p)), in the form that stays true for
    p = 1e-9. A k that misses by less than rounding (a tie) is not pushed up by one.

    >>> events_to_first(0.02, 0.9)
    114
    """
    if chance <= 0:
        return None
    if chance >= 1:
        return 1
    exact = math.log1p(-confidence) / math.log1p(-chance)
    near = round(exact)
    if near >= 1 and abs(exact - near) <= 1e-12 * near:
        return near
    return max(1, math.ceil(exact))


def waits(chance: float) -> dict[str, int | None]:
    """The waits at 50, 90 and 99 % for a player without state."""
    return {name: events_to_first(chance, q) for name, q in CONFIDENCES.items()}
