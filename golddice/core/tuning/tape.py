"""A tape of what was computed, and the way back along it: the derivatives of one figure by all that it came
from cost a few times as much as the figure.

Every value has the depths last, (..., d), and no depth looks at another; so one way back, begun with ones,
gives the derivatives at every depth at once (reverse accumulation: Linnainmaa 1970).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from golddice.core.arrays import FloatArray

Pull = Callable[[FloatArray], FloatArray]


@dataclass(eq=False)
class Node:
    """A value on the tape, and for each value that it came from what a change of it passes back."""

    value: FloatArray
    at: int
    came_from: Sequence[tuple[Node, Pull]] = ()


class Tape:
    """Notes values in the order in which they are worked out."""

    def __init__(self) -> None:
        self._nodes: list[Node] = []

    def put(self, value: FloatArray, *came_from: tuple[Node, Pull]) -> Node:
        node = Node(value, len(self._nodes), came_from)
        self._nodes.append(node)
        return node

    def back(self, figure: Node, leaves: Sequence[Node]) -> list[FloatArray]:
        """The derivatives of a figure, (d,), by each of the leaves, in their shapes. Only what the figure
        came from is gone through, and of that only what leads to a leaf."""
        wanted = {leaf.at for leaf in leaves}
        ways = self._ways(figure, wanted)
        passed: dict[int, FloatArray] = {figure.at: np.ones_like(figure.value)}
        for at in reversed(ways):
            here = passed[at] if at in wanted else passed.pop(at)
            for parent, pull in self._nodes[at].came_from:
                if parent.at in passed:
                    passed[parent.at] = passed[parent.at] + pull(here)
                elif parent.at in ways:
                    passed[parent.at] = pull(here)
        return [passed.get(leaf.at, np.zeros_like(leaf.value)) for leaf in leaves]

    def _ways(self, figure: Node, wanted: set[int]) -> dict[int, None]:
        """What a figure came from that came from any that is wanted, or is it, in order."""
        met, pending = {figure.at}, [figure]
        while pending:
            for parent, _ in pending.pop().came_from:
                if parent.at not in met:
                    met.add(parent.at)
                    pending.append(parent)
        found: dict[int, None] = {}
        for at in sorted(met):
            if at in wanted or any(parent.at in found for parent, _ in self._nodes[at].came_from):
                found[at] = None
        return found

    # --- arithmetic --------------------------------------------------------------------------------------

    def times(self, one: Node, other: Node) -> Node:
        return self.put(
            one.value * other.value,
            (one, lambda back: back * other.value),
            (other, lambda back: _like(back * one.value, other.value)),
        )

    def scaled(self, one: Node, factor: FloatArray | float) -> Node:
        return self.put(one.value * factor, (one, lambda back: back * factor))

    def plus(self, parts: Sequence[Node]) -> Node:
        return self.put(
            np.sum([part.value for part in parts], axis=0), *((part, lambda back: back) for part in parts)
        )

    def over(self, one: Node, whole: Node) -> Node:
        """A quotient; 0 where the whole is 0."""
        inverse = np.divide(1.0, whole.value, out=np.zeros_like(whole.value), where=whole.value != 0)
        value = one.value * inverse
        return self.put(
            value, (one, lambda back: back * inverse), (whole, lambda back: -back * value * inverse)
        )

    def squared(self, one: Node) -> Node:
        return self.put(one.value**2, (one, lambda back: 2.0 * back * one.value))

    def root(self, one: Node) -> Node:
        """A square root; flat at 0."""
        value = np.sqrt(np.maximum(one.value, 0.0))
        slope = np.divide(0.5, value, out=np.zeros_like(value), where=value > 0)
        return self.put(value, (one, lambda back: back * slope))

    def stacked(self, parts: Sequence[Node]) -> Node:
        """Parts of shape (d,) as rows, (n, d)."""

        def row(at: int) -> Pull:
            return lambda back: back[at]

        return self.put(np.stack([part.value for part in parts]), *((p, row(n)) for n, p in enumerate(parts)))

    def laid(self, base: FloatArray, parts: Sequence[tuple[int, Node]]) -> Node:
        """Rows (n, d) that are what they are, but for some that are parts of shape (d,)."""
        value = base.copy()
        for at, part in parts:
            value[at] = part.value

        def row(at: int) -> Pull:
            return lambda back: back[at]

        return self.put(value, *((part, row(at)) for at, part in parts))

    def row(self, one: Node, at: int) -> Node:
        """A row of (n, d)."""

        def spread(back: FloatArray) -> FloatArray:
            found = np.zeros_like(one.value)
            found[at] = back
            return found

        return self.put(one.value[at], (one, spread))

    def summed(self, one: Node) -> Node:
        """All rows of (n, d) together."""
        return self.put(one.value.sum(axis=0), (one, lambda back: np.broadcast_to(back, one.value.shape)))

    # --- what rolls are made of --------------------------------------------------------------------------

    def any_of(self, chances: Node) -> Node:
        """Chance that any of n independent things happens; (n, d) to (d,)."""
        miss = 1.0 - chances.value
        before, after = np.ones_like(miss), np.ones_like(miss)
        some = np.zeros(miss.shape[1])
        for at, chance in enumerate(chances.value):
            if at:
                before[at] = before[at - 1] * miss[at - 1]
            some = some + chance * (1.0 - some)
        for at in range(len(miss) - 2, -1, -1):
            after[at] = after[at + 1] * miss[at + 1]
        return self.put(some, (chances, lambda back: back * before * after))

    def shares(self, weights: Node, nothing: Node | None = None) -> Node:
        """Each weight's share of all; of a pick, nothing included."""
        total = weights.value.sum(axis=0) + (0.0 if nothing is None else nothing.value)
        inverse = np.divide(1.0, total, out=np.zeros_like(total), where=total > 0)
        share = weights.value * inverse

        def less(back: FloatArray) -> FloatArray:
            return np.asarray((back * share).sum(axis=0) * inverse)

        into = [(weights, lambda back: back * inverse - less(back))]
        if nothing is not None:
            into.append((nothing, lambda back: -less(back)))
        return self.put(share, *into)

    def firsts(self, chances: Node) -> Node:
        """Chance of each to be the first that hits."""
        miss = 1.0 - chances.value
        reached = np.concatenate([np.ones_like(miss[:1]), np.cumprod(miss[:-1], axis=0)])

        def pull(back: FloatArray) -> FloatArray:
            # what comes after a line is worth so much to those that reach it
            found, worth = np.empty_like(miss), np.zeros(miss.shape[1])
            for at in range(len(miss) - 1, -1, -1):
                found[at] = reached[at] * (back[at] - worth)
                worth = chances.value[at] * back[at] + miss[at] * worth
            return found

        return self.put(chances.value * reached, (chances, pull))

    def tried(self, once: Node, tries: int) -> Node:
        """Of chances p_i c_i of one try those of so many: each times (1 - (1 - s)^tries) / s, s their sum."""
        s = np.minimum(once.value.sum(axis=0), 1.0)
        small = s < 1e-7
        safe = np.where(small, 1.0, s)
        with np.errstate(divide="ignore"):
            some = -np.expm1(tries * np.log1p(-s))
        factor = np.where(small, tries * (1.0 - (tries - 1) / 2 * s), some / safe)
        steep = (tries * (1.0 - s) ** (tries - 1) * s - some) / safe**2
        slope = np.where(small, -tries * (tries - 1) / 2.0, steep)
        return self.put(
            once.value * factor,
            (once, lambda back: back * factor + (back * once.value).sum(axis=0) * slope),
        )


def _like(back: FloatArray, value: FloatArray) -> FloatArray:
    """Summed over the rows where what it came from has none."""
    return back if back.shape == value.shape else np.asarray(back.sum(axis=0))
