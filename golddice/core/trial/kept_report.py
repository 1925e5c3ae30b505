"""What a cohort kept, added up unit by unit, and told: bag, purse, kit, sets and properties."""

from __future__ import annotations

from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.quantiles import of_sample
from golddice.core.trial.keeps import Keeps
from golddice.core.trial.kept import Arrays, bounded
from golddice.core.trial.tallies import WAITS, Spreads, Tallies, Tally

MOST_KEPT_PLAYERS = 20_000  # whose ways are held, for quantiles along a route
QUANTILES = (0.05, 0.5, 0.95)
_TALLIED = ("upgrades", "upgraded_first", "complete", "full_first")
_HELD = ("worn_at", "purse", "cells", "properties", "inside")
_ITEM_SUMS = ("bag", "aside", "sold", "lost", "missed", "left")


class KeptSummary:
    """The units so far. `marks` are the events, or `by_stops` the stops, at which it was noted how things
    stand; `events` is more than any wait."""

    def __init__(self, keeps: Keeps, marks: list[int], events: int, by_stops: bool) -> None:
        self.keeps, self.marks, self.never, self._by_stops = keeps, marks, events + 1, by_stops
        self.players = 0
        self._sums: dict[str, Any] = {}
        self._held: dict[str, list[Any]] = {name: [] for name in _HELD}
        self._tallies: dict[str, Tallies] = {}
        self._spreads: dict[str, Spreads] = {}

    def add(self, kept: Arrays, players: int) -> None:
        room = MOST_KEPT_PLAYERS - self.players
        for name, array in kept.items():
            if name.endswith("_sum"):
                self._sums[name] = array if name not in self._sums else self._sums[name] + array
            elif name in _HELD and room > 0:
                self._held[name].append(array[:room])
            if name in _TALLIED:
                self._tally(name, np.asarray(array, dtype=np.int64))
        for name, last in (("worn", kept["worn"]), ("purse", kept["purse"][:, -1])):
            self._spread(name, np.asarray(last, dtype=np.float64))
        self.players += players

    def _tally(self, name: str, values: IntArray) -> None:
        rows = np.ascontiguousarray(values.reshape(values.shape[0], -1).T)
        if name != "upgrades":
            rows = np.where(rows == 0, self.never, rows)
        self._tallies.setdefault(name, Tallies(rows.shape[0])).add(rows)

    def _spread(self, name: str, values: FloatArray) -> None:
        self._spreads.setdefault(name, Spreads(values.shape[1])).add(np.ascontiguousarray(values.T))

    def _ways(self, name: str) -> Any:
        return np.concatenate(self._held[name])

    # --- what is told ------------------------------------------------------------------------------------

    def told(self) -> dict[str, Any]:
        """Each part only where the game has such."""
        keeps, found = self.keeps, {}
        if keeps.carry is not None and (keeps.carries or keeps.has_cells or keeps.has_ground):
            found["kept"] = self._kept()
        if keeps.has_purse:
            found["purse"] = self._purse()
        if keeps.kit:
            found["slots"] = {name: self._slot(at, name) for at, name in enumerate(keeps.kit)}
        if keeps.sets:
            found["sets"] = {keeps.game.sets[at].id: self._set(row) for row, at in enumerate(keeps.sets)}
        if keeps.has_properties:
            properties = enumerate(keeps.game.properties)
            found["properties"] = {one.id: self._property(at) for at, one in properties}
        return found

    def _kept(self) -> dict[str, Any]:
        goods = self.keeps.goods
        means = {name: self._sums[f"{name}_sum"] / self.players for name in _ITEM_SUMS}
        items = {
            item.id: {name: float(of[slot]) for name, of in means.items()} for slot, item in enumerate(goods)
        }
        worth = np.array([item.value for item in goods])
        found: dict[str, Any] = {
            "items": items,
            "worth": {name: float(of @ worth) for name, of in means.items()},
            "openings": self._openings(),
            "bag": None,
        }
        carry = self.keeps.carry
        if carry is not None and carry.bag is not None:
            cells = self._ways("cells")
            full = self._tallies["full_first"][0]
            half = full.quantiles((0.5,))[0]
            found["bag"] = {
                "cells": carry.bag[0] * carry.bag[1],
                "full_for_half": half - 1 if half < self.never else None,
                "ever_full": 1.0 - full.at_least(self.never) / self.players,
                "along": [
                    {"at": mark, "full": float(now) / self.players, **figures(cells[:, at])}
                    for at, (mark, now) in enumerate(zip(self.marks, self._sums["full_sum"], strict=True))
                ],
            }
        return found

    def _openings(self) -> dict[str, float] | None:
        """Of containers: how many openings a player comes to, and the share of them in which something was
        lost."""
        opened, short = (int(one) for one in self._sums["openings_sum"])
        return {"mean": opened / self.players, "short": short / opened} if opened else None

    def _purse(self) -> dict[str, Any]:
        keeps, ways = self.keeps, self._ways("purse")
        money = {
            item: {
                **_mean_sd(self._spreads["purse"], at),
                "along": [{"at": mark, **figures(ways[:, n, at])} for n, mark in enumerate(self.marks)],
            }
            for at, item in enumerate(keeps.money)
        }
        counts = (self._sums[f"{name}_sum"] / self.players for name in ("bought", "refused", "never"))
        bought = {
            source.id: {"bought": float(done), "refused": float(refused), "never": float(never)}
            for source, done, refused, never in zip(keeps.sources, *counts, strict=True)
            if source.price is not None
        }
        return {"money": money, "bought": bought}

    def _slot(self, at: int, name: str) -> dict[str, Any]:
        ways, tried = self._ways("worn_at"), self._sums["tried_sum"][at]
        upgrades, first = self._tallies["upgrades"][at], self._tallies["upgraded_first"][at]
        steps = np.diff([0, *self._sums["upgrades_sum"][:, at]]) / self.players
        spans = np.diff([0, *self.marks])
        return {
            "worn": {**figures(ways[:, -1, at]), **_mean_sd(self._spreads["worn"], at)},
            "upgrades": {
                "mean": float(self._sums["upgrades_sum"][-1, at]) / self.players,
                **_counted(upgrades),
            },
            **{f"first_{round(100 * q)}": self._wait(first, q) for q in WAITS},
            "never_worn": 1.0 - float(tried[0]) / float(tried[1]) if tried[1] else None,
            "tiers": self._worn_tiers(name),
            "along": [
                {
                    "at": mark,
                    "upgrades": float(step),
                    "chance": None if self._by_stops else float(step) / int(span),
                    **figures(ways[:, n, at]),
                }
                for n, (mark, step, span) in enumerate(zip(self.marks, steps, spans, strict=True))
            ],
        }

    def _worn_tiers(self, slot: str) -> dict[str, float]:
        """The share of players who wear something of each tier."""
        found = {tier.id: 0.0 for tier in self.keeps.game.tiers}
        for at, item in enumerate(self.keeps.goods):
            if item.slot == slot:
                found[item.tier] += float(self._sums["worn_by_item_sum"][at]) / self.players
        return found

    def _wait(self, tally: Tally, q: float) -> int | None:
        wait = tally.quantiles((q,))[0]
        return wait if wait < self.never else None

    def _set(self, row: int) -> dict[str, Any]:
        one = self.keeps.game.sets[self.keeps.sets[row]]
        done = int(self._sums["complete_sum"][-1, row])
        waits = self._tallies["complete"][row]
        names = list(dict.fromkeys(piece.item for piece in one.items))
        own = [at for at, (of, _, _) in enumerate(self.keeps.pieces) if of == row]
        last = {name: float(self._sums["last_sum"][at]) for name, at in zip(names, own, strict=True)}
        return {
            "complete": done / self.players,
            **{f"first_{round(100 * q)}": self._wait(waits, q) for q in WAITS},
            "pieces": float(self._sums["have_sum"][row]) / self.players,
            "of": len(names),
            "spare": float(self._sums["spare_sum"][row]) / done if done else None,
            "last": {name: share / done for name, share in last.items()} if done else {},
            "along": [
                {"at": mark, "complete": float(now) / self.players}
                for mark, now in zip(self.marks, self._sums["complete_sum"][:, row], strict=True)
            ],
        }

    def _property(self, at: int) -> dict[str, Any]:
        one, held = self.keeps.game.properties[at], self._ways("properties")[:, :, at]
        ways = bounded(held, one)
        beyond = np.abs(held[:, -1] - ways[:, -1])
        return {
            **figures(ways[:, -1]),
            "at_least": None if one.least is None else float((ways[:, -1] <= one.least).mean()),
            "at_most": None if one.most is None else float((ways[:, -1] >= one.most).mean()),
            "beyond": float(beyond.mean()),
            "along": [{"at": mark, **figures(ways[:, n])} for n, mark in enumerate(self.marks)],
        }


def figures(values: FloatArray | IntArray) -> dict[str, float]:
    """Mean and quantiles of what players have."""
    ordered = np.sort(values).astype(np.float64)
    found = {f"p{round(100 * q):02d}": of_sample(ordered, q) for q in QUANTILES}
    return {"mean": float(ordered.mean()), **found}


def _mean_sd(spreads: Spreads, at: int) -> dict[str, float]:
    return {"mean": float(spreads.mean[at]), "sd": float(spreads.sd[at])}


def _counted(tally: Tally) -> dict[str, float]:
    return {
        f"p{round(100 * q):02d}": value
        for q, value in zip(QUANTILES, tally.quantiles(QUANTILES), strict=True)
    }
