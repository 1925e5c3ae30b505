"""The repository of games: everything that is read or written goes through here.

A game is written only through changes. One change is one transaction and one revision, and is
logged with the bodies before and after; undo and redo are changes that restore the bodies before.
What is kept in memory is only what is in the database: it is filled after a commit, and from one snapshot.
"""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from cachetools import LRUCache
from sqlalchemy import text
from sqlmodel import Session, col, select

from golddice.core.game.editing import SETTINGS, SETTINGS_ID, Entities, Entry, removal
from golddice.core.game.models import FORMAT, LISTS, VERSION, Game
from golddice.core.game.reading import read_game
from golddice.core.game.upgrades import current_shape
from golddice.store.database import Database
from golddice.store.errors import Conflict, NotFound, NothingToUndo
from golddice.store.history import Stored, as_it_was, changes_after, in_shape, log_of
from golddice.store.rows import ChangeRow, EntityRow, GameRow, now

_SPACING = 1024.0
_REVISION = text("SELECT revision FROM game WHERE id = :game AND deleted_at IS NULL")
_CACHED = 24 * 2**20  # bytes, roughly, of games at revisions; one that is larger is kept alone
_ENTITY = 6_000  # bytes of one that is read; those of an edited game are shared with the one before
_SHARED = 400


@dataclass(frozen=True)
class Loaded:
    """A game at a revision, in parts; and at which revision each part last changed."""

    id: str
    revision: int
    entities: Entities
    revisions: dict[tuple[str, str], int]
    is_shared: bool = False  # most of its parts are those of the revision before

    @property
    def weight(self) -> int:
        """Roughly, in bytes."""
        parts = sum(map(len, self.entities.bodies.values()))
        return parts * (_SHARED if self.is_shared else _ENTITY)


@dataclass(frozen=True)
class Steps:
    """What undo and redo would take now, as labels; None where there is nothing."""

    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Applied:
    """What a change came to: the new revision, each entity's body (None: removed), and what undo and redo
    would take after it."""

    revision: int
    label: str
    entries: list[dict[str, Any]]
    steps: Steps


class Games:
    """All games of one database."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._cache: LRUCache[tuple[str, int], Loaded] = LRUCache(
            _CACHED, lambda loaded: min(loaded.weight, _CACHED)
        )
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
                            shape=current_shape(),
                            body=body,
                        )
                    )
            first = ChangeRow(game=row.id, revision=1, origin="made", label=label, entries=[])
            session.add(first)
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
        with self._database.snapshot() as session:
            row = _game_row(session, game_id)
            if at is None or at == row.revision:
                found = self._loaded(session, row)
            else:
                found = self._past(session, row, at)
        self._keep(found)
        return found

    def _past(self, session: Session, row: GameRow, revision: int) -> Loaded:
        """A revision that is not the latest; when its parts last changed is not told."""
        if not 1 <= revision < row.revision:
            raise NotFound("revision", str(revision))
        then = as_it_was(_stored(session, row), changes_after(session, row.id, revision))
        return Loaded(row.id, revision, Entities.of(read_game(_data(then))), {})

    def _known(self, game_id: str, revision: int) -> Loaded | None:
        with self._lock:
            return self._cache.get((game_id, revision))

    def _loaded(self, session: Session, row: GameRow) -> Loaded:
        """As the session sees it: in a snapshot, or with the game's row locked."""
        found = self._known(row.id, row.revision)
        if found is not None:
            return found
        stored = _stored(session, row)
        return Loaded(
            row.id,
            row.revision,
            Entities.of(read_game(_data(map(Stored.of, stored)))),
            {(entity.kind, entity.id): entity.revision for entity in stored},
        )

    def _keep(self, loaded: Loaded) -> None:
        with self._lock:
            self._cache[loaded.id, loaded.revision] = loaded

    def _forget(self, game_id: str) -> None:
        with self._lock:
            for key in [key for key in self._cache if key[0] == game_id]:
                del self._cache[key]

    # --- changes -----------------------------------------------------------------------------

    def change(
        self, game_id: str, base: int, entries: Sequence[Entry], label: str, token: str | None = None
    ) -> Applied:
        """Apply a change made on revision `base`. `token` is the change's own id: one that was applied
        before is answered as it was then, and not applied again.

        Raises Conflict where an entity that it writes has moved since, EditError where no sound
        game would come of it; then nothing is stored.
        """
        return self._written(game_id, token, "edit", label, base, lambda _, loaded: (entries, None))

    def remove(
        self, game_id: str, base: int, kind: str, name: str, label: str, token: str | None = None
    ) -> Applied:
        """Remove an entity and every mention of it that only makes sense with it."""
        return self._written(
            game_id,
            token,
            "edit",
            label,
            base,
            lambda _, loaded: (removal(loaded.entities, kind, name), None),
        )

    def undo(self, game_id: str, token: str | None = None) -> Applied:
        return self._stepped(game_id, "undo", token)

    def redo(self, game_id: str, token: str | None = None) -> Applied:
        return self._stepped(game_id, "redo", token)

    def steps(self, game_id: str) -> Steps:
        """What undo and redo would do now."""
        with self._database.snapshot() as session:
            return _steps(session, _game_row(session, game_id))

    def history(self, game_id: str, limit: int = 200) -> list[ChangeRow]:
        """The latest changes, newest first."""
        with self._database.snapshot() as session:
            _game_row(session, game_id)
            return log_of(session, game_id, limit)

    def _stepped(self, game_id: str, origin: str, token: str | None) -> Applied:
        """Put back the bodies and places from before the change that is next."""

        def restored(step: ChangeRow | None, _: Loaded) -> tuple[Sequence[Entry], Places | None]:
            if step is None:
                raise NothingToUndo(f"there is nothing to {origin}")
            entries = [
                Entry(one["kind"], one["id"], in_shape(one["kind"], one["before"], step.shape))
                for one in step.entries
            ]
            places = {
                (one["kind"], one["id"]): one["position_before"]
                for one in step.entries
                if one["position_before"] is not None
            }
            return entries, places

        return self._written(game_id, token, origin, origin, None, restored)

    def _written(
        self, game_id: str, token: str | None, origin: str, label: str, base: int | None, make: Make
    ) -> Applied:
        """One change in one transaction. What it came to is known to this repository once it is kept."""
        with self._database.transaction() as session:
            row = _game_row(session, game_id, lock=True)
            before = _with_token(session, row, token)
            if before is not None:
                return _answer(session, row, before)
            loaded = self._loaded(session, row)
            step = _next_step(session, row, origin)
            entries, places = make(step, loaded)
            if base is not None:
                _refuse_conflicts(loaded, base, entries)
            change = _Change(origin, label if step is None else step.label, token, step)
            applied, after = _write(session, row, loaded, entries, change, places)
        if after is not None:
            self._keep(after)
        return applied


Places = dict[tuple[str, str], float]
# From the change that undo or redo takes (None for an edit) and the game: entries, and where they go.
Make = Callable[[ChangeRow | None, Loaded], tuple[Sequence[Entry], Places | None]]


@dataclass(frozen=True)
class _Change:
    """How a change is logged: `step` is the one that it takes back or does again."""

    origin: str
    label: str
    token: str | None
    step: ChangeRow | None


def _with_token(session: Session, row: GameRow, token: str | None) -> ChangeRow | None:
    """The change of that id that was applied before."""
    if token is None:
        return None
    there = select(ChangeRow).where(ChangeRow.game == row.id, ChangeRow.token == token)
    return session.exec(there).first()


def _answer(session: Session, row: GameRow, change: ChangeRow) -> Applied:
    told = [_told(entry) for entry in change.entries]
    return Applied(change.revision, change.label, told, _steps(session, row))


def _steps(session: Session, row: GameRow) -> Steps:
    labels = {
        change.revision: change.label
        for change in (session.get(ChangeRow, (row.id, at)) for at in (row.undo, row.redo) if at is not None)
        if change is not None
    }
    return Steps(
        labels.get(row.undo) if row.undo is not None else None,
        labels.get(row.redo) if row.redo is not None else None,
    )


def _next_step(session: Session, row: GameRow, origin: str) -> ChangeRow | None:
    """The change that undo or redo takes; None for an edit, or where there is none."""
    at = {"undo": row.undo, "redo": row.redo}.get(origin)
    return None if at is None else session.get(ChangeRow, (row.id, at))


def _write(
    session: Session,
    row: GameRow,
    loaded: Loaded,
    entries: Sequence[Entry],
    change: _Change,
    places: Places | None,
) -> tuple[Applied, Loaded | None]:
    """Write a change; gives what it came to, and the game after it where its order is known."""
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
    logged_as = ChangeRow(
        game=row.id,
        revision=revision,
        origin=change.origin,
        label=change.label,
        token=change.token,
        undo=row.undo,
        redo=row.redo,
        shape=current_shape(),
        entries=logged,
    )
    session.add(logged_as)
    row.undo, row.redo = _next_after(change, revision, row)
    row.revision, row.updated_at = revision, now()
    row.name = edited.parsed[SETTINGS][SETTINGS_ID].name
    session.flush()
    applied = Applied(revision, change.label, [_told(entry) for entry in logged], _steps(session, row))
    if places is not None or any(entry.before for entry in entries):
        return applied, None
    after = replace(loaded, revision=revision, entities=edited, revisions=revisions, is_shared=True)
    return applied, after


def _next_after(change: _Change, revision: int, row: GameRow) -> tuple[int | None, int | None]:
    """What undo and redo take after a change: an edit ends what could be done again; each undo leads on
    to what was next before the change that it takes back."""
    if change.step is None:
        return revision, None
    if change.origin == "undo":
        return change.step.undo, revision
    return revision, change.step.redo


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
    lists: dict[str, Any] = {key: [] for key in LISTS.values()}
    for entity in stored:
        if entity.body is None:
            continue
        if entity.kind == SETTINGS:
            data.update(entity.body)
        else:
            lists[LISTS[entity.kind]].append(entity.body)
    return data | lists


def _refuse_conflicts(loaded: Loaded, base: int, entries: Sequence[Entry]) -> None:
    if not 1 <= base <= loaded.revision:
        raise NotFound("revision", str(base))
    moved = [
        {
            "kind": entry.kind,
            "id": entry.id,
            "body": loaded.entities.bodies.get(entry.kind, {}).get(entry.id),
            "revision": loaded.revisions.get((entry.kind, entry.id), 0),
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
    others = _places(session, game, entry)
    for at, (name, position) in enumerate(others):
        if name == entry.before:
            low = others[at - 1][1] if at else position - 2 * _SPACING
            middle = (low + position) / 2
            return middle if low < middle < position else None
    return (others[-1][1] if others else 0.0) + _SPACING


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
        position = (at + 1) * _SPACING
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
