"""Trials as they are kept: what was asked, what each unit brought, what came of it. Whose turn it is and who
plays one is `store.line`'s."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any

from sqlalchemy.orm import defer
from sqlmodel import Session, col, func, select

from golddice.core.errors import GoldDiceError
from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import GameRow, TrialRow, TrialUnitRow
from golddice.store.tokens import made_once

UNDER_WAY = ("waiting", "running")
MOST_IN_LINE = 200
CANCELLED = "the trial was cancelled"


class LineFull(GoldDiceError):
    """So many trials wait that no other is taken."""

    def __str__(self) -> str:
        return f"{MOST_IN_LINE} trials wait for their turn already; come again in a minute"


class Trials:
    """All trials of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def check_room(self) -> None:
        """Raises LineFull."""
        with self._database.snapshot() as session:
            _check_room(session)

    def add(
        self,
        game: str,
        revision: int,
        name: str,
        spec: dict[str, Any],
        kernel: int,
        beside: str | None = None,
        token: str | None = None,
    ) -> TrialRow:
        """A trial that waits for its turn. Those of a game are numbered one after another: whoever adds
        one holds the game meanwhile. Raises NotFound, LineFull."""

        def make() -> tuple[str, TrialRow]:
            _check_room(session)
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
            return row.id, row

        with self._database.transaction() as session:
            held = select(GameRow.id).where(GameRow.id == game, col(GameRow.deleted_at).is_(None))
            if session.exec(held.with_for_update()).first() is None:
                raise NotFound("game", game)
            return made_once(session, f"trial of {game}", token, make, lambda id_: _row(session, game, id_))

    def of_game(self, game: str) -> list[TrialRow]:
        """Those that are pinned, then the others; newest first. What came of them is not read."""
        with self._database.snapshot() as session:
            if session.get(GameRow, game) is None:
                raise NotFound("game", game)
            query = select(TrialRow).where(TrialRow.game == game, col(TrialRow.deleted_at).is_(None))
            order = (col(TrialRow.pinned).desc(), col(TrialRow.number).desc())
            few = (defer(TrialRow.result), defer(TrialRow.partial))  # type: ignore[arg-type]
            return list(session.exec(query.order_by(*order).options(*few)).all())

    def get(self, game: str, trial: str) -> TrialRow:
        with self._database.transaction() as session:
            return _row(session, game, trial)

    def described(self, game: str, trial: str, **fields: Any) -> TrialRow:
        """With another name, note or pin."""
        with self._database.transaction() as session:
            row = _row(session, game, trial)
            for name, value in fields.items():
                setattr(row, name, value)
            return row

    # --- units -------------------------------------------------------------------------------------------

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


def _check_room(session: Session) -> None:
    waiting = select(func.count()).where(TrialRow.status == "waiting", col(TrialRow.deleted_at).is_(None))
    if session.exec(waiting).one() >= MOST_IN_LINE:
        raise LineFull


def _row(session: Session, game: str, trial: str, *, put_away: bool = False) -> TrialRow:
    row = session.get(TrialRow, trial)
    if row is None or row.game != game or (row.deleted_at is None) == put_away:
        raise NotFound("trial", trial)
    return row
