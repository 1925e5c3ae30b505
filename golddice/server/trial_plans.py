"""From a trial as it was asked for, and is kept, to what is played."""

from __future__ import annotations

from typing import Any

from golddice.core.game.editing import Entry
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.trial.trial import AnyTrial, RouteTrial, Trial, Until
from golddice.server.schemas.games import EntryIn
from golddice.server.schemas.trials import TrialIn
from golddice.store.games import Games
from golddice.store.rows import TrialRow


def trial_of(spec: dict[str, Any] | TrialIn) -> AnyTrial:
    asked = spec if isinstance(spec, TrialIn) else TrialIn.model_validate(spec)
    until = None if asked.until is None else Until(asked.until.within, asked.until.item)
    if asked.route is not None:
        return RouteTrial(asked.route, asked.players, asked.seed, until)
    assert asked.view is not None and asked.depth is not None and asked.events is not None
    view, flags = View(asked.view.kind, asked.view.id), tuple(asked.flags)
    return Trial(view, asked.depth, asked.players, asked.events, asked.seed, flags, until)


def game_of(games: Games, row: TrialRow) -> Game:
    """The game as it was when the trial was asked for, with its draft."""
    return game_at(games, row.game, row.revision, TrialIn.model_validate(row.spec))


def game_at(games: Games, game_id: str, revision: int, asked: TrialIn) -> Game:
    held = games.load(game_id, revision).entities
    return (held.edited(entries(asked.draft)) if asked.draft else held).game()


def entries(given: list[EntryIn]) -> list[Entry]:
    return [Entry(entry.kind, entry.id, entry.body, entry.before) for entry in given]
