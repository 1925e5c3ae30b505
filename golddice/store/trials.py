"""Trials as they are kept: what was asked, how far it is, what each unit brought, what came of it."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, func, select

from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, TrialRow, TrialUnitRow, now

UNDER_WAY = ("waiting", "running")


class Trials:
    """All trials of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(
        self,
        game: str,
        revision: int,
        name: str,
        spec: dict[str, Any],
        kernel: int,
        beside: str | None = None,
    ) -> TrialRow:
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
                beside=beside,
                status="waiting",
            )
            session.add(row)
            return row

    def of_game(self, game: str) -> list[TrialRow]:
        """Those that are pinned, then the others; newest first."""
        with self._database.snapshot() as session:
            if session.get(GameRow, game) is None:
                raise NotFound("game", game)
            query = select(TrialRow).where(TrialRow.game == game, col(TrialRow.deleted_at).is_(None))
            order = (col(TrialRow.pinned).desc(), col(TrialRow.number).desc())
            return list(session.exec(query.order_by(*order)).all())

    def get(self, game: str, trial: str) -> TrialRow:
        with self._database.transaction() as session:
            return _row(session, game, trial)

    def update(self, trial: str, **fields: Any) -> None:
        with self._database.transaction() as session:
            row = session.get(TrialRow, trial)
            if row is not None:
                for name, value in fields.items():
                    setattr(row, name, value)

    def described(self, game: str, trial: str, **fields: Any) -> TrialRow:
        """With another name, note or pin."""
        self.get(game, trial)
        self.update(trial, **fields)
        return self.get(game, trial)

    def delete(self, game: str, trial: str) -> None:
        """Put away: it can be brought back."""
        with self._database.transaction() as session:
            _row(session, game, trial).deleted_at = now()

    def restore(self, game: str, trial: str) -> TrialRow:
        with self._database.transaction() as session:
            row = _row(session, game, trial, put_away=True)
            row.deleted_at = None
            return row

    def under_way(self, game: str | None = None) -> list[tuple[str, str]]:
        """(game, id) of those that wait or run, of one game or of all, in the order they were asked."""
        with self._database.snapshot() as session:
            query = select(TrialRow.game, TrialRow.id).where(col(TrialRow.status).in_(UNDER_WAY))
            query = query.where(col(TrialRow.deleted_at).is_(None))
            query = query.order_by(col(TrialRow.created_at))
            return list(session.exec(query if game is None else query.where(TrialRow.game == game)).all())

    # --- units -------------------------------------------------------------------------------------------

    def keep_unit(self, trial: str, number: int, players: int, data: bytes) -> None:
        """Once, however often it is told; of a trial that is gone, nothing."""
        with self._database.transaction() as session:
            if session.get(TrialRow, trial) is None:
                return
            row = {"trial": trial, "number": number, "players": players, "data": data}
            session.execute(insert(TrialUnitRow).values(row).on_conflict_do_nothing())

    def kept(self, trial: str) -> set[int]:
        """The numbers of the units that are kept."""
        with self._database.snapshot() as session:
            return set(session.exec(select(TrialUnitRow.number).where(TrialUnitRow.trial == trial)).all())

    def unit(self, trial: str, number: int) -> bytes | None:
        with self._database.snapshot() as session:
            row = session.get(TrialUnitRow, (trial, number))
            return None if row is None else row.data

    def units(self, trial: str) -> Iterator[bytes]:
        """What the kept units brought, in order."""
        for number in sorted(self.kept(trial)):
            data = self.unit(trial, number)
            if data is not None:
                yield data


def _row(session: Session, game: str, trial: str, *, put_away: bool = False) -> TrialRow:
    row = session.get(TrialRow, trial)
    if row is None or row.game != game or (row.deleted_at is None) == put_away:
        raise NotFound("trial", trial)
    return row
