"""Findings: what is odd about a sound game, said while editing, never in the way.

Each module looks at one kind of thing. They share `Survey`, the game seen over all its depths.
"""

from collections.abc import Callable, Iterator

from golddice.core.errors import TooLarge
from golddice.core.findings.finding import Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.models import Game
from golddice.core.results import RESULTS
from golddice.core.stopping import go_on
from golddice.core.terms.keys import game_key

__all__ = ["Finding", "Mend", "findings"]
_MENDS = 2**20  # bytes: what mends are made of


def findings(game: Game) -> list[Finding]:
    """All findings of a sound game: curves, items, tables, sources, targets, in file order."""
    found = RESULTS.get(("findings", game_key(game)), lambda: tuple(_worked_out(game)), _MENDS)
    return list(found)


def _worked_out(game: Game) -> list[Finding]:
    from golddice.core.findings import (
        chances,
        curves,
        depths,
        items,
        kept,
        money,
        places,
        quantities,
        routes,
        scaling,
        tables,
        targets,
    )

    survey = Survey(game)
    lookers = (
        curves,
        items,
        tables,
        chances,
        quantities,
        depths,
        scaling,
        kept,
        money,
        places,
        routes,
        targets,
    )
    found = [finding for looker in lookers for finding in _seen(looker.look, survey)]
    return sorted(found, key=lambda one: survey.place(one.kind, one.id))


def _seen(look: Callable[[Survey], Iterator[Finding]], survey: Survey) -> Iterator[Finding]:
    """What one looker finds, as far as it can be worked out."""
    try:
        for finding in look(survey):
            go_on()
            yield finding
    except TooLarge as error:
        message = f"not everything could be looked at: {error}"
        yield Finding("warning", "", "settings", "game", message)
