"""Pictures that are laid under the plans of places: kept with the game, shown, and part of nothing else."""

from __future__ import annotations

import hashlib

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, delete, select

from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, PictureRow


class Pictures:
    """All of one database. A picture is known by the digest of its bytes."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of_game(self, game: str) -> dict[str, str]:
        """The digest of each place's picture."""
        with self._database.snapshot() as session:
            _check(session, game)
            rows = session.exec(
                select(PictureRow.place, PictureRow.digest).where(PictureRow.game == game)
            ).all()
            return dict(rows)

    def get(self, game: str, place: str) -> bytes:
        """Raises NotFound."""
        with self._database.snapshot() as session:
            _check(session, game)
            row = session.get(PictureRow, (game, place))
            if row is None:
                raise NotFound("picture of", place)
            return row.data

    def put(self, game: str, place: str, data: bytes) -> str:
        """The digest. One that was there is replaced."""
        digest = hashlib.sha256(data).hexdigest()[:16]
        with self._database.transaction() as session:
            _check(session, game)
            row = insert(PictureRow).values(game=game, place=place, digest=digest, data=data)
            new = {"digest": digest, "data": data}
            session.execute(row.on_conflict_do_update(index_elements=["game", "place"], set_=new))
        return digest

    def remove(self, game: str, place: str) -> None:
        with self._database.transaction() as session:
            _check(session, game)
            of = (col(PictureRow.game) == game, col(PictureRow.place) == place)
            session.execute(delete(PictureRow).where(*of))


def copy_pictures(session: Session, game: str, to: str) -> None:
    """All of a game's for a copy of it."""
    for row in session.exec(select(PictureRow).where(PictureRow.game == game)).all():
        session.add(PictureRow(game=to, place=row.place, digest=row.digest, data=row.data))


def _check(session: Session, game: str) -> None:
    row = session.get(GameRow, game)
    if row is None or row.deleted_at is not None:
        raise NotFound("game", game)
