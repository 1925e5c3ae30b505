"""Test vectors: seeded events of every source, draw by draw, for who writes the rolls in another language."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from golddice.core.exchange.rolling import Roller
from golddice.core.exchange.thresholds import thresholds
from golddice.core.game.models import Game, Source
from golddice.core.odds.stalls import Stream
from golddice.core.stopping import go_on

FORMAT = "golddice-vectors"
EVENTS = 20
LARGEST_SEED = 2**53 - 1


def vectors(game: Game, first: int | None = None, last: int | None = None, seed: int = 1) -> dict[str, Any]:
    """For each source at its first, middle and last depth, with no flags and with all: one player's events.
    Raises TooLarge of a table that asks about too many flags, and of an event that draws without end."""
    document = thresholds(game, first, last)
    found = []
    for number, (source, depth, flags) in enumerate(_asked(game, tuple(document["depths"]))):
        go_on()
        stream = Stream(seed, number)
        roller = Roller(document, depth, set(flags), stream.word)
        events = []
        for _ in range(EVENTS):
            draws, got = roller.event(source.id)
            events.append({"draws": draws, "got": got})
        found.append(
            {
                "source": source.id,
                "depth": depth,
                "flags": flags,
                "stream": {"seed": seed, "number": number},
                "events": events,
            }
        )
    return {"format": FORMAT, "version": 1, "game": game.name, "vectors": found}


def _asked(game: Game, depths: tuple[int, int]) -> Iterator[tuple[Source, int, list[str]]]:
    every = sorted(flag.id for flag in game.flags)
    for source in game.sources:
        low, high = source.depths or depths
        low, high = max(low, depths[0]), min(high, depths[1])
        if low > high:
            continue
        for depth in sorted({low, (low + high) // 2, high}):
            for flags in [[], every] if every else [[]]:
                yield source, depth, flags
