"""What code that has only the thresholds draws, held against the odds: used by a test and by a bench."""

from __future__ import annotations

import json
import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from tests.core.interpreter import Interpreter


@dataclass(frozen=True)
class Drawn:
    """One item's units in so many events; `mean` and `sd` are of one event, exact."""

    item: str
    seen: int
    mean: float
    sd: float
    events: int

    @property
    def z(self) -> float | None:
        """Where enough came that a bell is near enough, how far off in standard errors."""
        if self.mean * self.events > 20 and self.sd > 0:
            return (self.seen - self.mean * self.events) / (self.sd * math.sqrt(self.events))
        return None

    @property
    def impossible(self) -> bool:
        """What is the same in every event came more or less often, or what cannot come came."""
        return self.sd == 0 and self.seen != round(self.mean * self.events)


def static_sources(made: Game, document: dict[str, Any]) -> Iterator[tuple[str, int, int]]:
    """Sources of which no event depends on an earlier one, with their first and last depth."""
    text = {one["id"]: json.dumps(one) for one in [*document["tables"], *document["sources"]]}
    held = {one["id"] for one in document["tables"] if one["dynamic"]}
    held |= {one for one, said in text.items() if '"guard"' in said}
    for source in made.sources:
        if not _reached(text, source.id) & held:
            low, high = source.depths or (made.depth.from_, made.depth.to)
            yield source.id, low, high


def _reached(text: dict[str, str], first: str) -> set[str]:
    pending, seen = [first], set[str]()
    while pending:
        one = pending.pop()
        if one not in seen:
            seen.add(one)
            pending += [other for other in text if f'"{other}"' in text[one]]
    return seen


def drawn(
    made: Game,
    document: dict[str, Any],
    source: str,
    depth: int,
    *,
    flags: frozenset[str] = frozenset(),
    events: int,
    seed: int = 7,
) -> list[Drawn]:
    """Every item that came or can come, in `events` events of one source at one depth."""
    exact = odds(made, View("source", source), depth=depth, flags=flags)["items"]
    code, seen = Interpreter(document, depth, set(flags), seed=seed), Counter[str]()
    for _ in range(events):
        seen.update(code.event(source))
    never = {"mean": 0.0, "sd": 0.0}
    return [
        Drawn(item, seen[item], exact.get(item, never)["mean"], exact.get(item, never)["sd"], events)
        for item in sorted(set(exact) | set(seen))
    ]
