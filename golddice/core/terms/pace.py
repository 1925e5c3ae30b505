"""How often an event of a source comes round."""

from __future__ import annotations

from golddice.core.game.models import Source

HOUR = 3600.0


def events_per_hour(source: Source) -> float:
    """How many events of a source an hour holds, one after another.

    A node's charges bound it: after so many events it rests for its respawn time, and without one it
    is empty for the rest of the hour.
    """
    if source.charges is None:
        return HOUR / source.seconds
    if source.respawn_seconds is None:
        return min(HOUR / source.seconds, float(source.charges))
    return HOUR * source.charges / (source.charges * source.seconds + source.respawn_seconds)
