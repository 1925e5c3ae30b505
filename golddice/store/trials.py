"""Trials as they are kept: what was asked, how far it is, what came of it."""

from __future__ import annotations

import uuid
from collections.abc import Collection
from typing import Any

from sqlmodel import col, func, select

from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, TrialRow

UNDER_WAY = ("waiting", "running")


class Trials:
    """All trials of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, game: str, revision: int, name: str, spec: dict[str, Any], kernel: int) -> TrialRow:
        """A trial that waits for its turn. Those of a game are numbered one after another: whoever adds
        one holds the game meanwhile."""
        with self._database.transaction() as session:
            held = select(GameRow.id).where(GameRow.id == game, col(GameRow.deleted_at).is_(None))
            if session.exec(held.with_for_update()).first() is None:
                raise NotFound("game", game)
            last = session.exec(select(func.max(TrialRow.number)).where(TrialRow.game == game)).one()
            number = (last or 0) + 1
            row = TrialRow(
                id=uuid.uuid4().hex[:12],
                game=game,
                number=number,
                name=name or f"Trial {number}",
                revision=revision,
                kernel=kernel,
                spec=spec,
                status="waiting",
            )
            session.add(row)
            return row

    def of_game(self, game: str) -> list[TrialRow]:
        """Newest first."""
        with self._database.snapshot() as session:
            if session.get(GameRow, game) is None:
                raise NotFound("game", game)
            query = select(TrialRow).where(TrialRow.game == game)
            return list(session.exec(query.order_by(col(TrialRow.number).desc())).all())

    def get(self, game: str, trial: str) -> TrialRow:
        with self._database.transaction() as session:
            row = session.get(TrialRow, trial)
            if row is None or row.game != game:
                raise NotFound("trial", trial)
            return row

    def update(self, trial: str, **fields: Any) -> None:
        with self._database.transaction() as session:
            row = session.get(TrialRow, trial)
            if row is not None:
                for name, value in fields.items():
                    setattr(row, name, value)

    def rename(self, game: str, trial: str, name: str) -> TrialRow:
        self.get(game, trial)
        self.update(trial, name=name)
        return self.get(game, trial)

    def delete(self, game: str, trial: str) -> None:
        with self._database.transaction() as session:
            row = session.get(TrialRow, trial)
            if row is None or row.game != game:
                raise NotFound("trial", trial)
            session.delete(row)

    def under_way(self, game: str | None = None) -> list[str]:
        """The ids of those that wait or run, of one game or of all."""
        with self._database.snapshot() as session:
            query = select(TrialRow.id).where(col(TrialRow.status).in_(UNDER_WAY))
            return list(session.exec(query if game is None else query.where(TrialRow.game == game)).all())

    def end_orphans(self, but: Collection[str] = ()) -> None:
        """Trials that are told to be under way, and are not: all but those that somebody plays."""
        with self._database.transaction() as session:
            left = session.exec(select(TrialRow).where(col(TrialRow.status).in_(UNDER_WAY))).all()
            for row in left:
                if row.id not in but:
                    row.status, row.error = "stopped", "the server was stopped meanwhile; run it again"
