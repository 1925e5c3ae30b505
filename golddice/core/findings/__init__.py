"""Findings: what is odd about a sound game, said while editing, never in the way.

Each module looks at one kind of thing. They share `Survey`, the game seen over all its depths.
"""

from golddice.core.findings.finding import Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.models import Game

__all__ = ["Finding", "Mend", "findings"]


def findings(game: Game) -> list[Finding]:
    """All findings of a sound game: curves, items, tables, sources, targets, in file order."""
    from golddice.core.findings import chances, curves, depths, items, quantities, scaling, tables, targets

    survey = Survey(game)
    lookers = (curves, items, tables, chances, quantities, depths, scaling, targets)
    found = [finding for looker in lookers for finding in looker.look(survey)]
    return sorted(found, key=lambda one: survey.place(one.kind, one.id))
