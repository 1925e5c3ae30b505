"""Names for revisions: "before the rebalance"."""

from __future__ import annotations

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, delete, select

from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, MarkRow


class Marks:
    def __init__(self, database: Database) -> None:
        self._database = database

    def of_game(self, game: str) -> dict[int, str]:
        with self._database.snapshot() as session:
            rows = session.exec(select(MarkRow.revision, MarkRow.name).where(MarkRow.game == game)).all()
            return dict(rows)

    def put(self, game: str, revision: int, name: str) -> None:
        """Raises NotFound of a revision that the game has not come to."""
        with self._database.transaction() as session:
            row = session.get(GameRow, game)
            if row is None or row.deleted_at is not None:
                raise NotFound("game", game)
            if not 1 <= revision <= row.revision:
                raise NotFound("revision", str(revision))
            made = insert(MarkRow).values(game=game, revision=revision, name=name)
            session.execute(
                made.on_conflict_do_update(index_elements=["game", "revision"], set_={"name": name})
            )

    def remove(self, game: str, revision: int) -> None:
        with self._database.transaction() as session:
            of = (col(MarkRow.game) == game, col(MarkRow.revision) == revision)
            session.execute(delete(MarkRow).where(*of))
