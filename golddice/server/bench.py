"""The workbench that routes share: the store, and who hears of what is done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from golddice.core.game.editing import Entities
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.tuning import Standing, standings
from golddice.server.broadcast import Broadcast, Told
from golddice.server.schemas.games import Asked
from golddice.server.schemas.odds import Looked, ViewIn
from golddice.server.schemas.targets import TargetsIn
from golddice.server.trial_plans import entries
from golddice.store.database import Database
from golddice.store.games import Applied, Games, Loaded
from golddice.store.line import Line
from golddice.store.logs import Logs
from golddice.store.marks import Marks
from golddice.store.pictures import Pictures
from golddice.store.trials import Trials


@dataclass(frozen=True)
class Workbench:
    """`wake` tells whoever plays trials here that the line is another."""

    games: Games
    trials: Trials
    line: Line
    pictures: Pictures
    marks: Marks
    logs: Logs
    broadcast: Broadcast | Told
    wake: Callable[[], None] = lambda: None

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
        """Where targets stand."""
        loaded, game = self.asked_of(game_id, asked)
        return loaded, standings(game, asked.ids)

    def tell_revision(self, game_id: str, applied: Applied) -> None:
        self.broadcast.tell(game_id, {"type": "revision", "revision": applied.revision})

    @classmethod
    def on(
        cls, database: Database, broadcast: Broadcast | Told, wake: Callable[[], None] = lambda: None
    ) -> Workbench:
        """On a migrated database."""
        stores = (Games, Trials, Line, Pictures, Marks, Logs)
        return cls(*(store(database) for store in stores), broadcast, wake)  # type: ignore[arg-type, call-arg]


def view_of(view: ViewIn) -> View:
    return View(view.kind, view.id)


def _bench(request: Request) -> Workbench:
    bench: Workbench = request.app.state.bench
    return bench


Bench = Annotated[Workbench, Depends(_bench)]

__all__ = ["Bench", "Entities", "Workbench", "entries", "view_of"]
