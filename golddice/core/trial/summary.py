"""What a cohort received, in a form that can be added up unit by unit in flat memory."""

from __future__ import annotations

import hashlib
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.quantiles import of_sample
from golddice.core.trial.kept_report import KeptSummary
from golddice.core.trial.playing import Bags
from golddice.core.trial.route import RouteBags
from golddice.core.trial.tallies import BINS, WAITS, Spreads, Tallies, totals_of

MOST_FAN_PLAYERS = 20_000
QUANTILES = (0.05, 0.25, 0.5, 0.75, 0.95)


class Summary:
    """The cohort so far. Add units in player order; the digest depends on it."""

    def __init__(self, items: IntArray, catalogue: int, events: int, kept: KeptSummary | None = None) -> None:
        self.items = items
        self.catalogue = catalogue
        self.events = events
        self.players = 0
        self.totals = [0] * items.size  # of each item, like all that is told by item
        self.counts, self._first, self._drought = (Tallies(items.size) for _ in range(3))
        self._spreads = Spreads(items.size)
        self._values: list[FloatArray] = []
        self._value = Spreads(1)
        self._fans: list[FloatArray] = []
        self._digest = hashlib.sha256()
        self.kept = kept
        self.events_total = 0
        self._pairs = self._same = 0
        self.seconds_total = 0.0
        self.events_at: FloatArray = np.zeros(0)
        self.seconds_at: FloatArray = np.zeros(0)

    def add(self, bags: Bags) -> None:
        first = np.where(bags.first == 0, self.events + 1, bags.first)
        counts, first, drought = (np.ascontiguousarray(part.T) for part in (bags.counts, first, bags.drought))
        self.totals = [so_far + more for so_far, more in zip(self.totals, totals_of(counts), strict=True)]
        self._spreads.add(counts)
        self.counts.add(counts)
        self._first.add(first)
        self._drought.add(drought)
        room = MOST_FAN_PLAYERS - sum(fan.shape[0] for fan in self._fans)
        if room > 0:
            self._fans.append(bags.fan[:room].copy())
        self._values.append(bags.value)
        self._value.add(bags.value[None])
        self.players += bags.value.size
        self._hash(bags.counts)
        self._pairs += int(np.maximum(bags.receipts - 1, 0).sum())
        self._same += int(bags.same.sum())
        if self.kept is not None and bags.kept:
            self.kept.add(bags.kept, bags.value.size)
        if isinstance(bags, RouteBags):
            self._add_stops(bags)
        else:
            self.events_total += bags.value.size * self.events

    def _add_stops(self, bags: RouteBags) -> None:
        self.events_total += int(bags.events.sum())
        self.seconds_total += float(bags.seconds.sum())
        if not self.events_at.size:
            self.events_at, self.seconds_at = np.zeros((2, bags.events_at.size))
        self.events_at = self.events_at + bags.events_at
        self.seconds_at = self.seconds_at + bags.seconds_at

    def _hash(self, counts: IntArray) -> None:
        """Per-player counts of the whole catalogue, little-endian int64, player-major."""
        wide = np.zeros((counts.shape[0], self.catalogue), dtype="<i8")
        wide[:, self.items] = counts
        self._digest.update(wide.tobytes())

    @property
    def digest(self) -> str:
        return self._digest.hexdigest()

    def item(self, slot: int) -> dict[str, Any]:
        """The figures of one item; `None` where a wait is beyond the last event."""
        counts = self.counts[slot]
        figures: dict[str, Any] = {
            "total": self.totals[slot],
            "mean": self.totals[slot] / self.players,
            "sd": float(self._spreads.sd[slot]),
        }
        for q, units in zip(QUANTILES, counts.quantiles(QUANTILES), strict=True):
            figures[f"p{round(100 * q):02d}"] = units
        figures["none_share"] = counts.zeros / self.players
        for q, wait in zip(WAITS, self._first[slot].quantiles(WAITS), strict=True):
            figures[f"first_{round(100 * q)}"] = wait if wait <= self.events else None
        for q, drought in zip(WAITS, self._drought[slot].quantiles(WAITS), strict=True):
            figures[f"drought_{round(100 * q)}"] = drought
        return figures

    def mean_of(self, slot: int | None) -> tuple[float, float]:
        """Mean and sd of how many each has of an item (0 of one that nothing gives), or of the value."""
        if slot is None:
            return float(self._value.mean[0]), float(self._value.sd[0])
        if slot < 0:
            return 0.0, 0.0
        return self.totals[slot] / self.players, float(self._spreads.sd[slot])

    def value(self) -> dict[str, Any]:
        """The value per player: mean, sd, cv and quantiles."""
        return _figures(self.values)

    def inequality(self) -> dict[str, float | None]:
        """How unlike players end: the 95th over the 5th in a hundred, Gini's coefficient of value, and the
        shares of players under a quarter, half and three quarters of the mean."""
        ordered = np.sort(self.values)
        mean, low, high = float(ordered.mean()), of_sample(ordered, 0.05), of_sample(ordered, 0.95)
        ranks = 2.0 * np.arange(1, ordered.size + 1) - ordered.size - 1
        whole = float(ordered.sum())
        found: dict[str, float | None] = {
            "p95_p05": high / low if low > 0 else None,
            "gini": float(ranks @ ordered) / (ordered.size * whole) if whole > 0 else None,
        }
        for share in (25, 50, 75):
            under = np.searchsorted(ordered, share / 100 * mean, side="left")
            found[f"under_{share}"] = float(under) / ordered.size
        return found

    @property
    def repeats(self) -> float | None:
        """How often the next thing received is the item that was received last."""
        return self._same / self._pairs if self._pairs else None

    @property
    def fan_players(self) -> int:
        """Of how many players the paths are known."""
        return sum(fan.shape[0] for fan in self._fans)

    def fan_figures(self) -> list[dict[str, Any]]:
        """Mean, sd, cv and quantiles of value so far, at each checkpoint (of the first players, if many)."""
        return [_figures(column) for column in np.concatenate(self._fans).T]

    @property
    def values(self) -> FloatArray:
        return np.concatenate(self._values)

    def value_bins(self) -> list[dict[str, float]]:
        """A histogram of value per player."""
        low, high = float(self.values.min()), float(self.values.max())
        if high - low < BINS * np.spacing(high):  # bins would be narrower than numbers are apart
            return [{"from": low, "to": high, "count": int(self.values.size)}]
        counts, edges = np.histogram(self.values, bins=BINS)
        return [
            {"from": float(low), "to": float(high), "count": int(count)}
            for low, high, count in zip(edges[:-1], edges[1:], counts, strict=True)
        ]

    def fan(self) -> list[list[float]]:
        """At each checkpoint, the quantiles of value so far (of the first players, if many)."""
        every = np.ascontiguousarray(np.concatenate(self._fans).T)
        return np.quantile(every, QUANTILES, axis=1, method="inverted_cdf").T.tolist()  # type: ignore[no-any-return]

    def extremes(self) -> dict[str, int]:
        """The numbers of the unluckiest, median and luckiest player, by value."""
        order = np.argsort(self.values, kind="stable")
        return {
            "unluckiest": int(order[0]),
            "median": int(order[(order.size - 1) // 2]),
            "luckiest": int(order[-1]),
        }


def _figures(values: FloatArray) -> dict[str, Any]:
    mean, sd, ordered = float(values.mean()), float(values.std()), np.sort(values)
    quantiles = {f"p{round(100 * q):02d}": of_sample(ordered, q) for q in QUANTILES}
    return {"mean": mean, "sd": sd, "cv": sd / mean if mean > 0 else None, **quantiles}
