"""The line of trials: one state machine in the database, for all servers that share it.

    waiting --claim--> running --finish--> done, failed
       |  ^               |
       |  +----release----+   (whoever played it stopped, or its lease ended without being renewed)
       +----cancel--------+--> cancelled

Put away (`deleted_at`) is beside that: what waits or runs is cancelled by it, and stays so when it is brought
back. Every transition is one conditional statement, so it happens once whoever else tries; whoever plays a
trial writes only while the lease is its own.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import CursorResult, text
from sqlalchemy.dialects.postgresql import JSONB, insert
from sqlmodel import Session, bindparam, col, select

from golddice.core.errors import GoldDiceError
from golddice.store.database import Database
from golddice.store.errors import NotFound
from golddice.store.rows import TrialRow, TrialUnitRow, now
from golddice.store.trials import CANCELLED

LEASE = 15.0  # seconds without a sign of life after which another goes on with a trial

# Games in turns: first the one whose latest trial began longest ago; within a game in the order asked. A
# trial that somebody left in its midst goes on before others are begun.
_CLAIM = text("""
with next as (
  select t.id from trial t join game g on g.id = t.game and g.deleted_at is null
  where t.deleted_at is null
    and (t.status = 'waiting'
         or (t.status = 'running' and (t.lease_until is null or t.lease_until < clock_timestamp())))
  order by t.status = 'running' desc,
    (select max(o.started_at) from trial o where o.game = t.game) nulls first, t.created_at, t.number
  limit 1 for update of t skip locked
)
update trial set status = 'running', owner = :owner, started_at = clock_timestamp(),
  lease_until = clock_timestamp() + make_interval(secs => :lease)
from next where trial.id = next.id
returning trial.game, trial.id
""")
_RENEW = text("""
update trial set lease_until = clock_timestamp() + make_interval(secs => :lease), progress = :progress,
  partial = coalesce(:partial, partial)
where id = :trial and owner = :owner and status = 'running' and deleted_at is null
""").bindparams(
    bindparam("progress", type_=JSONB(none_as_null=True)),
    bindparam("partial", type_=JSONB(none_as_null=True)),
)
_CANCEL = text("""
update trial set status = 'cancelled', owner = null, lease_until = null, error = :why, progress = null,
  partial = null
where status in ('waiting', 'running') and (id = :trial or :trial is null) and game = :game
""").bindparams(bindparam("trial", type_=TrialRow.__table__.c.id.type))  # type: ignore[attr-defined]
_RELEASE = text("""
update trial set status = 'waiting', owner = null, lease_until = null
where status = 'running' and owner like :owner
""")


class LeaseLost(GoldDiceError):
    """A trial is not ours to play any more: it was cancelled, put away, or taken over."""

    def __str__(self) -> str:
        return "the trial was cancelled, or another server plays it"


class Line:
    """The trials of one database, as whoever plays them sees them."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def claim(self, owner: str, lease: float = LEASE) -> TrialRow | None:
        """Whose turn it is, leased to the owner; None where nobody waits."""
        with self._database.transaction() as session:
            found = session.connection().execute(_CLAIM, {"owner": owner, "lease": lease}).first()
            if found is None:
                return None
            return session.exec(select(TrialRow).where(TrialRow.id == found.id)).one()

    def renew(
        self,
        trial: str,
        owner: str,
        progress: dict[str, Any] | None = None,
        partial: dict[str, Any] | None = None,
        lease: float = LEASE,
    ) -> bool:
        """Say that it is still played, and how far it is; False where the lease was lost."""
        values = {"trial": trial, "owner": owner, "lease": lease, "progress": progress, "partial": partial}
        return self._changed(_RENEW, values) == 1

    def begun(self, trial: str, owner: str, program: str) -> None:
        """Raises LeaseLost."""
        with self._database.transaction() as session:
            _leased(session, trial, owner).program = program

    def keep_unit(self, trial: str, owner: str, number: int, players: int, data: bytes) -> None:
        """Once, however often it is told. Raises LeaseLost."""
        with self._database.transaction() as session:
            _leased(session, trial, owner)
            row = {"trial": trial, "number": number, "players": players, "data": data}
            session.execute(insert(TrialUnitRow).values(row).on_conflict_do_nothing())

    def finish(self, trial: str, owner: str, status: str, **fields: Any) -> None:
        """`status` is done or failed. Raises LeaseLost."""
        with self._database.transaction() as session:
            row = _leased(session, trial, owner)
            row.status, row.owner, row.lease_until, row.progress, row.partial = status, None, None, None, None
            for name, value in fields.items():
                setattr(row, name, value)

    def release(self, owner: str) -> int:
        """What an owner, or all of one server's (`server/%`), played waits again, with what is kept of it."""
        return self._changed(_RELEASE, {"owner": owner})

    def cancel(self, game: str, trial: str | None = None) -> int:
        """One, or all that wait or run of a game; how many did."""
        with self._database.transaction() as session:
            return _cancel(session, game, trial)

    def put_away(self, game: str, trial: str) -> int:
        """It can be brought back; what waits or runs is cancelled (told: whether it was). Again it changes
        nothing."""
        with self._database.transaction() as session:
            row = _of(session, game, trial)
            row.deleted_at = row.deleted_at or now()
            session.flush()
            return _cancel(session, game, trial)

    def bring_back(self, game: str, trial: str) -> TrialRow:
        """Again it changes nothing."""
        with self._database.transaction() as session:
            row = _of(session, game, trial)
            row.deleted_at = None
            return row

    def _changed(self, statement: Any, values: dict[str, Any]) -> int:
        with self._database.transaction() as session:
            found: CursorResult[Any] = session.connection().execute(statement, values)
            return found.rowcount


def _cancel(session: Session, game: str, trial: str | None) -> int:
    values = {"game": game, "trial": trial, "why": CANCELLED}
    return session.connection().execute(_CANCEL, values).rowcount


def _of(session: Session, game: str, trial: str) -> TrialRow:
    query = select(TrialRow).where(TrialRow.id == trial, TrialRow.game == game).with_for_update()
    row = session.exec(query).first()
    if row is None:
        raise NotFound("trial", trial)
    return row


def _leased(session: Session, trial: str, owner: str) -> TrialRow:
    """Locked, so that nobody takes it until what is written is kept."""
    mine = select(TrialRow).where(TrialRow.id == trial, TrialRow.owner == owner, TrialRow.status == "running")
    row = session.exec(mine.where(col(TrialRow.deleted_at).is_(None)).with_for_update()).first()
    if row is None:
        raise LeaseLost
    return row
