"""A game's own code, as it would be written from a thresholds document: nothing of ours but the JSON.

Draws are whole numbers of 32 bits. Limits, guards, decks and distinct picks are not played here.
"""

from __future__ import annotations

import random
from collections import Counter
from typing import Any

WHOLE = 2**32


class Interpreter:
    def __init__(self, document: dict[str, Any], depth: int, flags: set[str], seed: int) -> None:
        self.tables = {one["id"]: one for one in document["tables"]}
        self.sources = {one["id"]: one for one in document["sources"]}
        self.pools, self.depth, self.flags = document["pools"], depth, flags
        self.random = random.Random(seed)
        self.got: Counter[str] = Counter()

    def u(self) -> int:
        return self.random.getrandbits(32)

    def event(self, source: str) -> Counter[str]:
        self.got = Counter()
        self.meet(source)
        return self.got

    def meet(self, source: str) -> None:
        one = self.sources[source]
        span = self.span(one)
        for drop in span["drops"] if span else []:
            if self.u() < drop["below"]:
                for _ in range(self.quantity(drop["times"])):
                    self.open(drop["table"])

    def open(self, table: str) -> None:
        one = self.tables[table]
        span = self.span(one)
        for _ in range(self.quantity(span["rolls"]) if span else 0):
            for line in getattr(self, one["rule"])(span["lines"], one):
                self.give(line)

    def span(self, one: dict[str, Any]) -> Any:
        flags = sorted(self.flags & set(one.get("asks", [])))
        here = (s for s in one["spans"] if s["from"] <= self.depth <= s["to"] and s.get("flags", []) == flags)
        return next(here, None)

    def pick(self, lines: list[Any], _: Any) -> list[Any]:
        u = self.u()
        return [line for line in lines if u < line["below"]][:1]

    def each(self, lines: list[Any], _: Any) -> list[Any]:
        return [line for line in lines if self.u() < line["below"]]

    def first(self, lines: list[Any], _: Any) -> list[Any]:
        for line in lines:
            if self.u() < line["below"]:
                return [line]
        return []

    def retry(self, lines: list[Any], table: Any) -> list[Any]:
        for _ in range(table["tries"]):
            for line in self.pick(lines, table):
                if self.u() < line["hit"]:
                    return [line]
        return []

    def give(self, line: Any) -> None:
        for given in line["yields"]:
            for _ in range(self.quantity(given["quantity"])):
                if "table" in given:
                    self.open(given["table"])
                elif "source" in given:
                    self.meet(given["source"])
                elif "pool" in given:
                    items = self.span(self.pools[given["pool"]])["items"]
                    u = self.u()
                    self.got[next(one["id"] for one in items if u < one["below"])] += 1
                else:
                    self.got[given["item"]] += 1

    def quantity(self, one: dict[str, Any]) -> int:
        if "dice" in one:
            count, _, rest = one["dice"].partition("d")
            sides, plus = [*rest.replace("-", "+-").split("+"), "0"][:2]
            number = sum(self.random.randint(1, int(sides)) for _ in range(int(count or 1))) + int(plus)
        else:
            number = self.random.randrange(one["min"], one["max"] + 1, one["step"])
        exact = max(number, 0) * one["factor"]
        return int(exact) + (self.random.random() < exact % 1)
