"""Two revisions of a game side by side: which figures and targets came out otherwise."""

from __future__ import annotations

from typing import Any

from golddice.core.game.models import Game
from golddice.core.tuning.moved import what_moved
from golddice.core.tuning.targets import Standing, standings


def moved_between(before: Game, after: Game) -> dict[str, Any]:
    """Figures that differ by over 5 %, the largest first; targets that both have, where they stand otherwise
    or no longer hold as they did."""
    old = {one.target.id: one for one in standings(before)}
    new = {one.target.id: one for one in standings(after)}
    return {
        "moved": [one.plain() for one in what_moved(before, after)],
        "targets": [
            {
                "id": name,
                "name": one.target.name,
                "was_met": old[name].is_met,
                "met": one.is_met,
                "before": _told(old[name]),
                "after": _told(one),
            }
            for name, one in new.items()
            if name in old and _told(old[name]) != _told(one)
        ],
    }


def _told(standing: Standing) -> float | None:
    """Where it is furthest off, or its first figure; None where there is none, or never."""
    figures = standing.plain()["figures"]
    row = standing.furthest or 0
    return figures[row] if row < len(figures) else None
