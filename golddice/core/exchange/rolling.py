"""Events rolled from a thresholds document alone, as the code of a game would (docs/exchange.md).

Every draw is told with what it was for, so that another implementation can be fed the same draws and held
against this one step by step.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from math import floor
from typing import Any

from golddice.core.errors import TooLarge

WHOLE = 2**32
MOST_DRAWS = 100_000  # of one event
_NEAR = 1e-12

Part = dict[str, Any]


class Roller:
    """One player of a game, with what they carry: misses and hits of lines, misses of drops, decks.

    `word` gives the next 64 bits. A draw is told as the upper 32 of them, u, and as a number d from 0 to 1
    made of the upper 53.
    """

    def __init__(self, document: Part, depth: int, flags: set[str], word: Callable[[], int]) -> None:
        self._tables = {one["id"]: one for one in document["tables"]}
        self._sources = {one["id"]: one for one in document["sources"]}
        self._pools, self._depth, self._flags, self._word = document["pools"], depth, flags, word
        self.misses: Counter[str] = Counter()
        self.hits: Counter[str] = Counter()
        self._decks: dict[str, list[int]] = {}
        self.draws: list[Part] = []
        self.got: Counter[str] = Counter()

    def event(self, source: str) -> tuple[list[Part], dict[str, int]]:
        """The draws of one event, and what it gave. Raises TooLarge of an event without end."""
        self.draws, self.got = [], Counter()
        self._meet(source)
        return self.draws, dict(self.got)

    # --- draws -------------------------------------------------------------------------------------------

    def _draw(self, what: str) -> Part:
        if len(self.draws) >= MOST_DRAWS:
            raise TooLarge(f"an event draws more than {MOST_DRAWS:,} numbers")
        word = self._word()
        draw = {"u": word >> 32, "d": (word >> 11) * 2.0**-53, "for": what}
        self.draws.append(draw)
        return draw

    def _quantity(self, one: Part, what: str) -> int:
        if "dice" in one:
            count, sides, plus = dice_of(one["dice"])
            number = plus + sum(1 + floor(self._draw(f"{what}, die")["d"] * sides) for _ in range(count))
        else:
            values = (one["max"] - one["min"]) // one["step"] + 1
            number = one["min"]
            if values > 1:
                number += one["step"] * floor(self._draw(f"{what}, how many")["d"] * values)
        exact = float(max(number, 0) * one["factor"])
        near = round(exact)
        if exact == near or abs(exact - near) < _NEAR * near:
            return near
        low = floor(exact)
        return low + int(self._draw(f"{what}, rounded")["d"] < exact - low)

    # --- events and tables -------------------------------------------------------------------------------

    def _span(self, one: Part) -> Part | None:
        flags = sorted(self._flags & set(one.get("asks", ())))
        here = (
            span
            for span in one["spans"]
            if span["from"] <= self._depth <= span["to"] and span.get("flags", []) == flags
        )
        return next(here, None)

    def _meet(self, source: str) -> None:
        span = self._span(self._sources[source])
        for drop in span["drops"] if span else ():
            key = f"{source}/{drop['id']}"
            if self._tested(drop, drop["below"], self._draw(f"drop {key}"), key):
                for _ in range(self._quantity(drop["times"], f"drop {key}")):
                    self._open(drop["table"])

    def _open(self, name: str) -> None:
        table = self._tables[name]
        span = self._span(table)
        taken: set[str] = set()
        if span is None:
            return
        for _ in range(self._quantity(span["rolls"], f"rolls of {name}")):
            for line in self._rolled(table, span, taken):
                for given in line["yields"]:
                    self._give(given, f"{name}/{line['id']}")

    def _give(self, given: Part, what: str) -> None:
        for _ in range(self._quantity(given["quantity"], what)):
            if "table" in given:
                self._open(given["table"])
            elif "source" in given:
                self._meet(given["source"])
            elif "pool" in given:
                span = self._span(self._pools[given["pool"]])
                if span and span["items"]:
                    u = self._draw(f"pool {given['pool']}")["u"]
                    self.got[next(one["id"] for one in span["items"] if u < one["below"])] += 1
            else:
                self.got[given["item"]] += 1

    # --- one roll ----------------------------------------------------------------------------------------

    def _rolled(self, table: Part, span: Part, taken: set[str]) -> list[Part]:
        name, rule = table["id"], table["rule"]
        if rule == "deck":
            return self._card(name, span)
        lines = [line for line in span["lines"] if self._is_open(name, line)]
        if rule == "each":
            return [line for line in lines if self._tries(name, line)]
        if rule == "first":
            return next(([line] for line in lines if self._tries(name, line)), [])
        if rule == "retry":
            return self._retried(table, span, lines)
        return self._picked(table, span, [line for line in lines if line["id"] not in taken], taken)

    def _tries(self, name: str, line: Part) -> bool:
        key = f"{name}/{line['id']}"
        return self._tested(line, line["below"], self._draw(key), key)

    def _picked(self, table: Part, span: Part, lines: list[Part], taken: set[str]) -> list[Part]:
        name = table["id"]
        if not table["dynamic"]:
            u = self._draw(name)["u"]
            return [line for line in lines if u < line["below"]][:1]
        chosen = self._due(name, lines)
        if chosen is None:
            chosen = self._by_weight(name, lines, span["nothing"], rises=True)
        self._counted(name, lines, chosen)
        if chosen is not None and table["distinct"]:
            taken.add(chosen["id"])
        return [] if chosen is None else [chosen]

    def _retried(self, table: Part, span: Part, lines: list[Part]) -> list[Part]:
        name = table["id"]
        chosen = self._due(name, lines) if table["dynamic"] else None
        for _ in range(table["tries"] if chosen is None else 0):
            line = self._by_weight(name, lines, 0.0, rises=False) if table["dynamic"] else None
            if not table["dynamic"]:
                u = self._draw(name)["u"]
                line = next((one for one in lines if u < one["below"]), None)
            if line is None:
                break
            risen = min(1.0, line["hit"] / WHOLE + self._risen(f"{name}/{line['id']}", line))
            if self._below(self._draw(f"{name}/{line['id']}, hit"), line["hit"], risen):
                chosen = line
                break
        self._counted(name, lines, chosen)
        return [] if chosen is None else [chosen]

    def _by_weight(self, name: str, lines: list[Part], nothing: float, rises: bool) -> Part | None:
        weights = [
            line["weight"] * (1.0 + self._risen(f"{name}/{line['id']}", line) * rises) for line in lines
        ]
        total = nothing + sum(weights)
        if total <= 0:
            return None
        at, low = self._draw(name)["d"] * total, 0.0
        for line, weight in zip(lines, weights, strict=True):
            low += weight
            if at < low:
                return line
        heavy = [line for line, weight in zip(lines, weights, strict=True) if weight > 0]
        return heavy[-1] if nothing == 0 and heavy else None

    def _card(self, name: str, span: Part) -> list[Part]:
        lines = span["lines"]
        deck = self._decks.setdefault(name, [0] * len(lines))
        if len(deck) != len(lines) or not sum(deck):
            deck[:] = [line["copies"] * self._is_open(name, line) for line in lines]
        if not sum(deck):
            return []
        place = floor(self._draw(f"deck {name}")["d"] * sum(deck))
        for at, line in enumerate(lines):
            if place < deck[at]:
                deck[at] -= 1
                self.hits[f"{name}/{line['id']}"] += 1
                if not self._is_open(name, line):
                    deck[at] = 0
                return [line]
            place -= deck[at]
        return []

    # --- what a player carries ---------------------------------------------------------------------------

    def _is_open(self, name: str, line: Part) -> bool:
        return "limit" not in line or self.hits[f"{name}/{line['id']}"] < line["limit"]

    def _risen(self, key: str, part: Part) -> float:
        guard = part.get("guard")
        return guard["rise"] * max(0, self.misses[key] - guard["after"]) if guard else 0.0

    def _is_due(self, key: str, part: Part) -> bool:
        sure = part.get("guard", {}).get("sure_at")
        return sure is not None and self.misses[key] + 1 >= sure

    def _due(self, name: str, lines: list[Part]) -> Part | None:
        return next((line for line in lines if self._is_due(f"{name}/{line['id']}", line)), None)

    def _below(self, draw: Part, bound: int, chance: float) -> bool:
        """By whole numbers, unless what is carried has changed the chance."""
        return bool(draw["u"] < bound) if chance == bound / WHOLE else bool(draw["d"] < chance)

    def _tested(self, part: Part, bound: int, draw: Part, key: str) -> bool:
        """A line or drop on a chance of its own: counted as hit or missed."""
        chance = 1.0 if self._is_due(key, part) else min(1.0, bound / WHOLE + self._risen(key, part))
        hit = self._below(draw, bound, chance)
        self._count(key, hit)
        return hit

    def _counted(self, name: str, lines: list[Part], chosen: Part | None) -> None:
        for line in lines:
            self._count(f"{name}/{line['id']}", line is chosen)

    def _count(self, key: str, hit: bool) -> None:
        self.hits[key] += hit
        self.misses[key] = 0 if hit else self.misses[key] + 1


def dice_of(text: str) -> tuple[int, int, int]:
    """Of `3d6+1` the count, the sides and what is added."""
    count, _, rest = text.partition("d")
    sides, sign, plus = rest.partition("-") if "-" in rest else rest.partition("+")
    added = int(plus or 0)
    return int(count or 1), int(sides), -added if sign == "-" else added
