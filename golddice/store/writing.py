"""One change written: entities, where they stand, and the log that tells it. All of it within a
transaction that whoever calls holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, col, select

from golddice.core.game.editing import SETTINGS, SETTINGS_ID, Entities, Entry
from golddice.core.game.upgrades import current_shape
from golddice.store.history import in_shape
from golddice.store.rows import ChangeRow, EntityRow, GameRow, StepsRow, now

SPACING = 1024.0
Places = dict[tuple[str, str], float]


@dataclass(frozen=True)
class Made:
    """How a change is logged; `steps` is the list that it is in, of the page that made it."""

    origin: str
    label: str
    token: str | None
    steps: StepsRow
    who: str = ""


@dataclass(frozen=True)
class Written:
    """`told` are the log's entries; `is_in_order` says whether everything stands where it stood."""

    revision: int
    label: str
    entities: Entities
    told: list[dict[str, Any]]
    is_in_order: bool


def write(
    session: Session,
    row: GameRow,
    before: Entities,
    entries: Sequence[Entry],
    made: Made,
    places: Places,
) -> Written:
    """Write a change to a game whose row is locked. `places` are where entities stand that are put back.

    Raises EditError where no sound game would come of it.
    """
    edited = before.edited(entries)
    revision = row.revision + 1
    logged: list[dict[str, Any]] = []
    for entry in entries:
        body = edited.bodies[entry.kind].get(entry.id)
        stored = session.get(EntityRow, (row.id, entry.kind, entry.id))
        position = places.get((entry.kind, entry.id))
        if position is None:
            position = _position(session, row.id, entry, stored)
        if position is None:  # no room between its neighbours any more
            _spread(session, row.id, entry, logged)
            position = _position(session, row.id, entry, stored) or SPACING
        logged.append(_store(session, row.id, entry, body, stored, position, revision))
    session.add(_logged_as(row, revision, logged, made))
    row.revision, row.updated_at = revision, now()
    row.name = edited.parsed[SETTINGS][SETTINGS_ID].name
    return Written(revision, made.label, edited, logged, _is_in_order(entries, logged, places))


def _is_in_order(entries: Sequence[Entry], logged: Sequence[dict[str, Any]], places: Places) -> bool:
    """Whether all stands where it stood: nothing was moved or put between others, and what is new is last."""
    if len(logged) > len(entries):  # the others of a kind were moved apart
        return False
    for entry, one in zip(entries, logged, strict=True):
        if one["after"] is None:
            continue
        was_there = one["before"] is not None
        if was_there and one["position_before"] != one["position_after"]:
            return False
        if not was_there and (entry.before is not None or (entry.kind, entry.id) in places):
            return False
    return True


def _logged_as(row: GameRow, revision: int, entries: list[dict[str, Any]], made: Made) -> ChangeRow:
    """How the log tells it; with what its page could undo and redo before it."""
    return ChangeRow(
        game=row.id,
        revision=revision,
        origin=made.origin,
        label=made.label,
        token=made.token,
        page=made.steps.page,
        who=made.who,
        undo=made.steps.undo,
        redo=made.steps.redo,
        shape=current_shape(),
        entries=entries,
    )


def stays(logged: Sequence[dict[str, Any]]) -> bool:
    """Whether all that an entry of the log touched stands where it stood, or is gone."""
    return all(
        one["after"] is None
        or (one["before"] is not None and one["position_before"] == one["position_after"])
        for one in logged
    )


def told(entry: dict[str, Any]) -> dict[str, Any]:
    """What an entry of the log came to."""
    return {
        "kind": entry["kind"],
        "id": entry["id"],
        "body": entry["after"],
        "position": entry["position_after"],
    }


def _position(session: Session, game: str, entry: Entry, stored: EntityRow | None) -> float | None:
    """Where an entity stands: as before, before another one, or at the end. None: there is no room."""
    if entry.before is None and stored is not None and stored.body is not None:
        return stored.position
    others = _places(session, game, entry)
    for at, (name, position) in enumerate(others):
        if name == entry.before:
            low = others[at - 1][1] if at else position - 2 * SPACING
            middle = (low + position) / 2
            return middle if low < middle < position else None
    return (others[-1][1] if others else 0.0) + SPACING


def _places(session: Session, game: str, entry: Entry) -> list[tuple[str, float]]:
    """(id, position) of the others of its kind, in order."""
    there = select(EntityRow.id, EntityRow.position).where(*_others(game, entry))
    found = session.exec(there.order_by(col(EntityRow.position), col(EntityRow.id))).all()
    return [(name, position) for name, position in found]


def _others(game: str, entry: Entry) -> tuple[Any, ...]:
    return (
        EntityRow.game == game,
        EntityRow.kind == entry.kind,
        EntityRow.id != entry.id,
        col(EntityRow.body).is_not(None),
    )


def _siblings(session: Session, game: str, entry: Entry) -> list[EntityRow]:
    """The others of its kind, in order."""
    there = select(EntityRow).where(*_others(game, entry))
    return list(session.exec(there.order_by(col(EntityRow.position), col(EntityRow.id))).all())


def _spread(session: Session, game: str, entry: Entry, logged: list[dict[str, Any]]) -> None:
    """Move the others of its kind apart. The log tells it, so that undo puts them back where every
    change before this one knows them; it is no edit of theirs, so their revision stays."""
    told = {(one["kind"], one["id"]): one for one in logged}
    for at, other in enumerate(_siblings(session, game, entry)):
        position = (at + 1) * SPACING
        if (other.kind, other.id) in told:
            told[other.kind, other.id]["position_after"] = position
        else:
            body = in_shape(other.kind, other.body, other.shape)
            logged.append(_log_entry(entry.kind, other.id, other, body, position))
        other.position = position
        session.add(other)


def _log_entry(
    kind: str, name: str, stored: EntityRow | None, body: dict[str, Any] | None, position: float
) -> dict[str, Any]:
    return {
        "kind": kind,
        "id": name,
        "before": in_shape(kind, stored.body, stored.shape) if stored else None,
        "position_before": stored.position if stored else None,
        "after": body,
        "position_after": position,
    }


def _store(
    session: Session,
    game: str,
    entry: Entry,
    body: dict[str, Any] | None,
    stored: EntityRow | None,
    position: float,
    revision: int,
) -> dict[str, Any]:
    """Write one entity; return how the log tells it."""
    told = _log_entry(entry.kind, entry.id, stored, body, position)
    if stored is None:
        stored = EntityRow(game=game, kind=entry.kind, id=entry.id, position=position, revision=revision)
    stored.body, stored.position, stored.revision = body, position, revision
    stored.shape = current_shape()
    session.add(stored)
    return told
