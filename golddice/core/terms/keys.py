"""The cache key of a whole game."""

from __future__ import annotations

from golddice.core.game.models import LISTS, Game, Settings
from golddice.core.results import CacheKey, cache_key


def game_key(game: Game) -> CacheKey:
    """All that there is in a game."""
    parts = tuple(part for name in LISTS.values() for part in getattr(game, name))
    return cache_key(parts, (game.model_dump_json(include=set(Settings.model_fields)),))
