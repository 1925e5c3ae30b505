"""The workbench that routes share: the store, the running trials, the news."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.terms.view import View
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.tuning import Standing, standings
from golddice.server.broadcast import Broadcast
from golddice.server.jobs import Jobs
from golddice.server.schemas.games import Asked, EntryIn
from golddice.server.schemas.odds import Looked
from golddice.server.schemas.targets import TargetsIn
from golddice.server.turns import Turns
from golddice.store.games import Applied, Games, Loaded
from golddice.store.trials import Trials

_RECENT = 12


@dataclass(frozen=True)
class Workbench:
    games: Games
    trials: Trials
    jobs: Jobs
    broadcast: Broadcast
    _recent: dict[tuple[str, int, tuple[str, ...]], Evaluator] = field(default_factory=dict)
    _stood: dict[str, dict[str, Standing]] = field(default_factory=dict)
    _turns: Turns = field(default_factory=Turns)

    @contextmanager
    def in_turn(self) -> Iterator[None]:
        """Questions are worked out one after another. Side by side they would all take several times
        as long: each of thousands of small steps would wait for the interpreter's lock."""
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
        """The odds asked for; what the latest edit did not reach is taken over from last time."""
        loaded, game = self.asked_of(game_id, asked)
        key = (game_id, asked.depth, tuple(sorted(asked.flags)))
        before, quick = self._recent.get(key), bool(asked.draft)
        sheet = SheetOdds(game, view_of(asked), asked.depth, asked.flags, before, quick)
        self._recent[key] = sheet.evaluator
        while len(self._recent) > _RECENT:
            self._recent.pop(next(iter(self._recent)), None)
        return loaded, sheet

    def standings(self, game_id: str, asked: TargetsIn) -> tuple[Loaded, list[Standing]]:
        """Where targets stand; those that the latest edit did not reach are taken over. They
        step aside between depths: together they can take longer than a question should wait."""
        loaded, game = self.asked_of(game_id, asked)
        before = self._stood.pop(game_id, {})
        with self.in_turn():
            found = standings(game, before.values(), asked.ids, self._turns.step_aside)
        self._stood[game_id] = before | {standing.target.id: standing for standing in found}
        while len(self._stood) > _RECENT:
            self._stood.pop(next(iter(self._stood)), None)
        return loaded, found

    def tell_revision(self, game_id: str, applied: Applied) -> None:
        message = {"type": "revision", "revision": applied.revision}
        self.broadcast.tell(game_id, message)


def entries(given: list[EntryIn]) -> list[Entry]:
    return [Entry(entry.kind, entry.id, entry.body, entry.before) for entry in given]


def view_of(asked: Looked) -> View:
    return View(asked.view.kind, asked.view.id)


def _bench(request: Request) -> Workbench:
    bench: Workbench = request.app.state.bench
    return bench


Bench = Annotated[Workbench, Depends(_bench)]

__all__ = ["Bench", "Entities", "Workbench", "entries", "view_of"]
