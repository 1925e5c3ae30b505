"""The log of a game's changes: what undo and redo would take, and the game as it was."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, col, select
from sqlmodel.sql.expression import SelectOfScalar

from golddice.store.rows import ChangeRow, EntityRow

_LOG_WINDOW = 2000


@dataclass(frozen=True)
class Stored:
    """One entity, its place among those of its kind, and its body; None where it is removed."""

    kind: str
    id: str
    position: float
    body: dict[str, Any] | None

    @staticmethod
    def of(row: EntityRow) -> Stored:
        return Stored(row.kind, row.id, row.position, row.body)


def as_it_was(now: Sequence[EntityRow], since: Iterable[ChangeRow]) -> list[Stored]:
    """The entities before some changes, which are the latest ones, newest first; in order."""
    found = {(row.kind, row.id): Stored.of(row) for row in now}
    for change in since:
        for entry in change.entries:
            kind, name, position = entry["kind"], entry["id"], entry["position_before"]
            found[kind, name] = Stored(kind, name, position or 0.0, entry["before"])
    return sorted(found.values(), key=lambda one: (one.position, one.id))


def log_of(session: Session, game_id: str, limit: int = _LOG_WINDOW) -> list[ChangeRow]:
    """The latest changes, newest first."""
    return list(session.exec(_newest_first(game_id).limit(limit)).all())


def changes_after(session: Session, game_id: str, revision: int) -> list[ChangeRow]:
    """Every change since a revision, newest first."""
    return list(session.exec(_newest_first(game_id).where(ChangeRow.revision > revision)).all())


def _newest_first(game_id: str) -> SelectOfScalar[ChangeRow]:
    return select(ChangeRow).where(ChangeRow.game == game_id).order_by(col(ChangeRow.revision).desc())


def to_undo(log: list[ChangeRow]) -> ChangeRow | None:
    """The latest edit (or redo) that no later undo has taken back. `log` is newest first."""
    skipped = 0
    for change in log:
        if change.origin == "undo":
            skipped += 1
        elif change.origin in ("edit", "redo"):
            if skipped == 0:
                return change
            skipped -= 1
    return None


def to_redo(log: list[ChangeRow]) -> ChangeRow | None:
    """The latest undo that no later redo has taken back; an edit in between ends the chain."""
    skipped = 0
    for change in log:
        if change.origin == "redo":
            skipped += 1
        elif change.origin == "undo":
            if skipped == 0:
                return change
            skipped -= 1
        else:
            return None
    return None
