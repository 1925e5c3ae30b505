"""Verdicts: what is said of all that is tested at once."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from scipy.special import bdtr, bdtrc, ndtr, pdtrc

LEVEL = 0.01  # of false alarms among what is said not to agree (Benjamini and Hochberg 1995)
FEW = 5.0  # events, or players, that are due, below which there is too little to say


@dataclass
class Tests:
    """What each is of, its p, and whether there is too little to say."""

    every: list[tuple[dict[str, Any], float, bool]] = field(default_factory=list)

    def add(self, of: dict[str, Any], p: float, few: bool = False) -> dict[str, Any]:
        """Gives what it is of, whose `verdict` comes with `judge`."""
        self.every.append((of, min(p, 1.0), few))
        return of

    def judge(self) -> None:
        """`differs` where false alarms among all that is said so are at most LEVEL."""
        ordered = sorted(self.every, key=lambda one: one[1])
        last = -1
        for at, (_, p, _) in enumerate(ordered):
            if p <= LEVEL * (at + 1) / len(ordered):
                last = at
        for at, (of, _, few) in enumerate(ordered):
            of["verdict"] = "differs" if at <= last else "few" if few else "agrees"


def binomial(hits: int, tries: int, chance: float) -> float:
    """How likely it is to be at least so far off on either side."""
    below = float(bdtr(hits, tries, chance))
    above = float(bdtrc(hits - 1, tries, chance)) if hits > 0 else 1.0
    return two_sided(below, above)


def steps(off: float, var: float, step: float) -> float:
    """How likely a sum of many small parts is to be at least so far off on either side, where each of them
    adds or leaves out at most about `step`. Bounded as by Bennett (1962): of a sum that hardly varies one
    step is no surprise, which the normal law would take it to be."""
    if var <= 0.0:
        return float(abs(off) < 0.5 * step)
    rate = var / (step * step)
    at_least = math.ceil(rate + abs(off) / step - 1e-6)
    poisson = float(pdtrc(at_least - 1, rate)) if at_least > 0 else 1.0
    return min(1.0, 2.0 * max(poisson, float(ndtr(-abs(off) / math.sqrt(var)))))


def two_sided(below: float, above: float) -> float:
    """Of the chances of no more than was seen, and of no less."""
    return min(1.0, 2.0 * min(below, above))
