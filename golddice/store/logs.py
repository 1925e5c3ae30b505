"""Logs of the running game as they were held against it: what was found, not the rows."""

from __future__ import annotations

import uuid
from typing import Any

from sqlmodel import col, delete, select

from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, HeldLogRow
from golddice.store.tokens import made_once


class Logs:
    """All of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def keep(
        self, game: str, name: str, revision: int, result: dict[str, Any], token: str | None = None
    ) -> HeldLogRow:
        row = HeldLogRow(
            id=uuid.uuid4().hex[:12], game=game, name=name[:200], revision=revision, result=result
        )

        def make() -> tuple[str, HeldLogRow]:
            session.add(row)
            return row.id, row

        def again(log: str) -> HeldLogRow:
            found = session.get(HeldLogRow, log)
            return found if found is not None else make()[1]  # it was forgotten meanwhile

        with self._database.transaction() as session:
            held = session.get(GameRow, game)
            if held is None or held.deleted_at is not None:
                raise NotFound("game", game)
            return made_once(session, f"log of {game}", token, make, again)

    def of_game(self, game: str) -> list[HeldLogRow]:
        """Newest first."""
        with self._database.snapshot() as session:
            of = select(HeldLogRow).where(HeldLogRow.game == game)
            return list(session.exec(of.order_by(col(HeldLogRow.at).desc()).limit(100)).all())

    def get(self, game: str, name: str) -> HeldLogRow:
        """Raises NotFound."""
        with self._database.snapshot() as session:
            row = session.get(HeldLogRow, name)
            if row is None or row.game != game:
                raise NotFound("log", name)
            return row

    def remove(self, game: str, name: str) -> None:
        with self._database.transaction() as session:
            of = (col(HeldLogRow.game) == game, col(HeldLogRow.id) == name)
            session.execute(delete(HeldLogRow).where(*of))
