"""The workbench that routes share: the store, the running trials, the news."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.tuning import Standing, standings
from golddice.server.broadcast import Broadcast
from golddice.server.jobs import Jobs
from golddice.server.schemas.games import Asked, EntryIn
from golddice.server.schemas.odds import Looked, ViewIn
from golddice.server.schemas.targets import TargetsIn
from golddice.server.turns import Turns
from golddice.store.games import Applied, Games, Loaded
from golddice.store.logs import Logs
from golddice.store.marks import Marks
from golddice.store.pictures import Pictures
from golddice.store.trials import Trials


@dataclass(frozen=True)
class Workbench:
    games: Games
    trials: Trials
    pictures: Pictures
    marks: Marks
    logs: Logs
    jobs: Jobs
    broadcast: Broadcast
    _turns: Turns = field(default_factory=Turns)

    @contextmanager
    def in_turn(self) -> Iterator[None]:
        """Questions are worked out one after another, see `turns`."""
        with self._turns.mine():
            yield

    def asked_of(self, game_id: str, asked: Asked) -> tuple[Loaded, Game]:
        """The game at the revision that a question names, with its draft edits."""
        loaded = self.games.load(game_id, asked.revision)
        entities = loaded.entities
        if asked.draft:
            entities = entities.edited(entries(asked.draft))
        return loaded, entities.game()

    def sheet(self, game_id: str, asked: Looked) -> tuple[Loaded, SheetOdds]:
        """The odds asked for."""
        loaded, game = self.asked_of(game_id, asked)
        sheet = SheetOdds(game, view_of(asked.view), asked.depth, asked.flags, quick=bool(asked.draft))
        return loaded, sheet

    def standings(self, game_id: str, asked: TargetsIn) -> tuple[Loaded, list[Standing]]:
        """Where targets stand. They step aside between depths: together they can take longer than a
        question should wait."""
        loaded, game = self.asked_of(game_id, asked)
        with self.in_turn():
            return loaded, standings(game, asked.ids, self._turns.step_aside)

    def tell_revision(self, game_id: str, applied: Applied) -> None:
        message = {"type": "revision", "revision": applied.revision}
        self.broadcast.tell(game_id, message)


def entries(given: list[EntryIn]) -> list[Entry]:
    return [Entry(entry.kind, entry.id, entry.body, entry.before) for entry in given]


def view_of(view: ViewIn) -> View:
    return View(view.kind, view.id)


def _bench(request: Request) -> Workbench:
    bench: Workbench = request.app.state.bench
    return bench


Bench = Annotated[Workbench, Depends(_bench)]

__all__ = ["Bench", "Entities", "Workbench", "entries", "view_of"]
