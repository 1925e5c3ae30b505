"""The repository of games: everything that is read or written goes through here.

A game is written only through changes. One change is one transaction and one revision, and is
logged with the bodies before and after; undo and redo are changes that restore the bodies before.
"""

from __future__ import annotations

import threading
import uuid
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import text
from sqlmodel import Session, col, select

from golddice.core.game.editing import SETTINGS, SETTINGS_ID, Entities, Entry, removal
from golddice.core.game.models import FORMAT, KINDS, VERSION, Game
from golddice.core.game.reading import read_game
from golddice.store.database import Database
from golddice.store.errors import Conflict, NotFound, NothingToUndo
from golddice.store.history import Stored, as_it_was, changes_after, log_of, to_redo, to_undo
from golddice.store.rows import ChangeRow, EntityRow, GameRow, now

_SPACING = 1024.0
_REVISION = text("SELECT revision FROM game WHERE id = :game AND deleted_at IS NULL")
_CACHED = 24


@dataclass(frozen=True)
class Loaded:
    """A game at a revision, in parts; and at which revision each part last changed."""

    id: str
    revision: int
    entities: Entities
    revisions: dict[tuple[str, str], int]


@dataclass(frozen=True)
class Applied:
    """What a change came to: the new revision, and each entity's body (None: removed)."""

    revision: int
    label: str
    entries: list[dict[str, Any]]


class Games:
    """All games of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._cache: OrderedDict[tuple[str, int], Loaded] = OrderedDict()
        self._lock = threading.Lock()

    # --- games -------------------------------------------------------------------------------

    def every(self) -> list[GameRow]:
        """All games that are not put away, the latest changed first."""
        with self._database.transaction() as session:
            kept = select(GameRow).where(col(GameRow.deleted_at).is_(None))
            return list(session.exec(kept.order_by(col(GameRow.updated_at).desc())).all())

    def create(self, game: Game, label: str = "made the game") -> GameRow:
        """Store a new game. Its first revision holds everything."""
        row = GameRow(id=uuid.uuid4().hex[:12], name=game.name, revision=1)
        entities = Entities.of(game)
        with self._database.transaction() as session:
            session.add(row)
            session.flush()
            for kind, bodies in entities.bodies.items():
                for at, (name, body) in enumerate(bodies.items()):
                    position = (at + 1) * _SPACING
                    session.add(
                        EntityRow(
                            game=row.id,
                            kind=kind,
                            id=name,
                            position=position,
                            revision=1,
                            body=body,
                        )
                    )
            session.add(ChangeRow(game=row.id, revision=1, origin="made", label=label, entries=[]))
        return row

    def duplicate(self, game_id: str) -> GameRow:
        loaded = self.load(game_id)
        game = loaded.entities.game()
        copy = game.model_copy(update={"name": f"{game.name}, copy"[:120]})
        return self.create(copy, label=f"copied from {game.name}")

    def delete(self, game_id: str) -> None:
        """Put a game away; `restore` brings it back."""
        with self._database.transaction() as session:
            _game_row(session, game_id).deleted_at = now()
        self._forget(game_id)

    def restore(self, game_id: str) -> GameRow:
        with self._database.transaction() as session:
            row = _game_row(session, game_id, deleted=True)
            row.deleted_at = None
            return row

    def load(self, game_id: str, at: int | None = None) -> Loaded:
        """The game as it is now, or as it was at a revision.

        A revision never changes, so one that is held is not asked of the database. Raises NotFound
        for one that the game has not come to.
        """
        if at is None:
            with self._database.reading() as connection:
                at = connection.scalar(_REVISION, {"game": game_id})
        found = None if at is None else self._known(game_id, at)
        if found is not None:
            return found
        with self._database.transaction() as session:
            row = _game_row(session, game_id)
            if at is None or at == row.revision:
                return self._loaded(session, row)
            return self._past(session, row, at)

    def _past(self, session: Session, row: GameRow, revision: int) -> Loaded:
        """A revision that is not the latest; when its parts last changed is not told."""
        if not 1 <= revision < row.revision:
            raise NotFound("revision", str(revision))
        then = as_it_was(_stored(session, row), changes_after(session, row.id, revision))
        loaded = Loaded(row.id, revision, Entities.of(read_game(_data(then))), {})
        self._keep(loaded)
        return loaded

    def _known(self, game_id: str, revision: int) -> Loaded | None:
        with self._lock:
            if (game_id, revision) not in self._cache:
                return None
            self._cache.move_to_end((game_id, revision))
            return self._cache[game_id, revision]

    def _loaded(self, session: Session, row: GameRow) -> Loaded:
        found = self._known(row.id, row.revision)
        if found is not None:
            return found
        stored = _stored(session, row)
        loaded = Loaded(
            row.id,
            row.revision,
            Entities.of(read_game(_data(map(Stored.of, stored)))),
            {(entity.kind, entity.id): entity.revision for entity in stored},
        )
        self._keep(loaded)
        return loaded

    def _keep(self, loaded: Loaded) -> None:
        with self._lock:
            self._cache[loaded.id, loaded.revision] = loaded
            while len(self._cache) > _CACHED:
                self._cache.popitem(last=False)

    def _forget(self, game_id: str) -> None:
        with self._lock:
            for key in [key for key in self._cache if key[0] == game_id]:
                del self._cache[key]

    # --- changes -----------------------------------------------------------------------------

    def change(self, game_id: str, base: int, entries: Sequence[Entry], label: str) -> Applied:
        """Apply a change made on revision `base`.

        Raises Conflict where an entity that it writes has moved since, EditError where no sound
        game would come of it; then nothing is stored.
        """
        with self._database.transaction() as session:
            row = _game_row(session, game_id, lock=True)
            loaded = self._loaded(session, row)
            _refuse_conflicts(loaded, base, entries)
            return self._write(session, row, loaded, entries, "edit", label)

    def remove(self, game_id: str, base: int, kind: str, name: str, label: str) -> Applied:
        """Remove an entity and every mention of it that only makes sense with it."""
        with self._database.transaction() as session:
            row = _game_row(session, game_id, lock=True)
            loaded = self._loaded(session, row)
            entries = removal(loaded.entities, kind, name)
            _refuse_conflicts(loaded, base, entries)
            return self._write(session, row, loaded, entries, "edit", label)

    def undo(self, game_id: str) -> Applied:
        return self._step(game_id, "undo")

    def redo(self, game_id: str) -> Applied:
        return self._step(game_id, "redo")

    def steps(self, game_id: str) -> dict[str, str | None]:
        """What undo and redo would do now, as labels; None where there is nothing."""
        with self._database.transaction() as session:
            _game_row(session, game_id)
            log = log_of(session, game_id)
            undo, redo = to_undo(log), to_redo(log)
            return {"undo": undo.label if undo else None, "redo": redo.label if redo else None}

    def history(self, game_id: str, limit: int = 200) -> list[ChangeRow]:
        """The latest changes, newest first."""
        with self._database.transaction() as session:
            _game_row(session, game_id)
            return log_of(session, game_id, limit)

    def _step(self, game_id: str, origin: str) -> Applied:
        with self._database.transaction() as session:
            row = _game_row(session, game_id, lock=True)
            log = log_of(session, game_id)
            step = to_undo(log) if origin == "undo" else to_redo(log)
            if step is None:
                raise NothingToUndo(f"there is nothing to {origin}")
            return self._restore(session, row, step, origin)

    def _restore(self, session: Session, row: GameRow, step: ChangeRow, origin: str) -> Applied:
        """A change that puts back the bodies and places from before `step`."""
        loaded = self._loaded(session, row)
        entries = [Entry(entry["kind"], entry["id"], entry["before"]) for entry in step.entries]
        places = {
            (entry["kind"], entry["id"]): entry["position_before"]
            for entry in step.entries
            if entry["position_before"] is not None
        }
        return self._write(session, row, loaded, entries, origin, step.label, places)

    def _write(
        self,
        session: Session,
        row: GameRow,
        loaded: Loaded,
        entries: Sequence[Entry],
        origin: str,
        label: str,
        places: dict[tuple[str, str], float] | None = None,
    ) -> Applied:
        edited = loaded.entities.edited(entries)
        revision = row.revision + 1
        logged: list[dict[str, Any]] = []
        revisions = dict(loaded.revisions)
        for entry in entries:
            body = edited.bodies[entry.kind].get(entry.id)
            stored = session.get(EntityRow, (row.id, entry.kind, entry.id))
            position = (places or {}).get((entry.kind, entry.id))
            if position is None:
                position = _position(session, row.id, entry, stored)
            if position is None:  # no room between its neighbours any more
                _spread(session, row.id, entry, logged)
                position = _position(session, row.id, entry, stored) or _SPACING
            logged.append(_store(session, row.id, entry, body, stored, position, revision))
            revisions[entry.kind, entry.id] = revision
        row.revision, row.updated_at = revision, now()
        row.name = edited.parsed[SETTINGS][SETTINGS_ID].name
        session.add(ChangeRow(game=row.id, revision=revision, origin=origin, label=label, entries=logged))
        session.flush()
        if places is None and not any(entry.before for entry in entries):
            self._keep(replace(loaded, revision=revision, entities=edited, revisions=revisions))
        return Applied(revision, label, [_told(entry) for entry in logged])


def _told(entry: dict[str, Any]) -> dict[str, Any]:
    return {
        "kind": entry["kind"],
        "id": entry["id"],
        "body": entry["after"],
        "position": entry["position_after"],
    }


def _game_row(session: Session, game_id: str, *, lock: bool = False, deleted: bool = False) -> GameRow:
    query = select(GameRow).where(GameRow.id == game_id)
    row = session.exec(query.with_for_update() if lock else query).first()
    if row is None or (row.deleted_at is not None) != deleted:
        raise NotFound("game", game_id)
    return row


def _stored(session: Session, row: GameRow) -> Sequence[EntityRow]:
    """All entities of a game, also those that are removed, in order."""
    there = select(EntityRow).where(EntityRow.game == row.id)
    return session.exec(there.order_by(col(EntityRow.position), col(EntityRow.id))).all()


def _data(stored: Iterable[Stored]) -> dict[str, Any]:
    """Entities, in order, as the plain data of a game."""
    data: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    lists: dict[str, Any] = {f"{kind}s": [] for kind in KINDS}
    for entity in stored:
        if entity.body is None:
            continue
        if entity.kind == SETTINGS:
            data.update(entity.body)
        else:
            lists[f"{entity.kind}s"].append(entity.body)
    return data | lists


def _refuse_conflicts(loaded: Loaded, base: int, entries: Sequence[Entry]) -> None:
    moved = [
        {
            "kind": entry.kind,
            "id": entry.id,
            "body": loaded.entities.bodies.get(entry.kind, {}).get(entry.id),
            "revision": loaded.revisions[entry.kind, entry.id],
        }
        for entry in entries
        if loaded.revisions.get((entry.kind, entry.id), 0) > base
    ]
    if moved:
        raise Conflict(loaded.revision, moved)


def _position(session: Session, game: str, entry: Entry, stored: EntityRow | None) -> float | None:
    """Where an entity stands: as before, before another one, or at the end. None: there is no room."""
    if entry.before is None and stored is not None and stored.body is not None:
        return stored.position
    others = _siblings(session, game, entry)
    for at, other in enumerate(others):
        if other.id == entry.before:
            low = others[at - 1].position if at else other.position - 2 * _SPACING
            middle = (low + other.position) / 2
            return middle if low < middle < other.position else None
    return (others[-1].position if others else 0.0) + _SPACING


def _siblings(session: Session, game: str, entry: Entry) -> list[EntityRow]:
    """The others of its kind, in order."""
    there = select(EntityRow).where(
        EntityRow.game == game,
        EntityRow.kind == entry.kind,
        EntityRow.id != entry.id,
        col(EntityRow.body).is_not(None),
    )
    return list(session.exec(there.order_by(col(EntityRow.position), col(EntityRow.id))).all())


def _spread(session: Session, game: str, entry: Entry, logged: list[dict[str, Any]]) -> None:
    """Move the others of its kind apart. The log tells it, so that undo puts them back where every
    change before this one knows them; it is no edit of theirs, so their revision stays."""
    told = {(one["kind"], one["id"]): one for one in logged}
    for at, other in enumerate(_siblings(session, game, entry)):
        position = (at + 1) * _SPACING
        if (other.kind, other.id) in told:
            told[other.kind, other.id]["position_after"] = position
        else:
            logged.append(_log_entry(entry.kind, other.id, other, other.body, position))
        other.position = position
        session.add(other)


def _log_entry(
    kind: str, name: str, stored: EntityRow | None, body: dict[str, Any] | None, position: float
) -> dict[str, Any]:
    return {
        "kind": kind,
        "id": name,
        "before": stored.body if stored else None,
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
    session.add(stored)
    return told
