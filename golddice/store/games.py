"""The repository of games: everything that is read or written goes through here.

A game is written only through changes. One change is one transaction and one revision, and is
logged with the bodies before and after; undo and redo are changes that restore the bodies before
(`writing`, `steps`).
What is kept in memory is only what is in the database: it is filled after a commit, and from one snapshot.
"""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from cachetools import LRUCache
from sqlalchemy import insert, text
from sqlmodel import Session, col, select

from golddice.core.game.editing import SETTINGS, EditError, Entities, Entry, removals
from golddice.core.game.models import FORMAT, LISTS, VERSION, Game
from golddice.core.game.reading import read_game
from golddice.core.game.upgrades import current_shape
from golddice.store.database import Database
from golddice.store.errors import Conflict, NoLonger, NotFound, NothingToUndo
from golddice.store.history import Logged, Stored, log_of, past_of
from golddice.store.pictures import copy_pictures
from golddice.store.rows import ChangeRow, EntityRow, GameRow, now
from golddice.store.steps import (
    NOBODY,
    Step,
    Steps,
    edited,
    list_of,
    next_step,
    put_back,
    stepped,
    steps_of,
)
from golddice.store.tokens import made_once
from golddice.store.writing import SPACING, Made, Places, Written, stays, told, write

_STRIPS = text("""
select tier.game, tier.body ->> 'name' as name, tier.body ->> 'colour' as colour, count(item.id) as items
from entity tier left join entity item
  on item.game = tier.game and item.kind = 'item' and item.body ->> 'tier' = tier.id
join game on game.id = tier.game and game.deleted_at is null
where tier.kind = 'tier' and tier.body is not null
group by tier.game, tier.id, tier.position, tier.body
order by tier.game, tier.position, tier.id
""")
_REVISION = text("SELECT revision FROM game WHERE id = :game AND deleted_at IS NULL")
_CACHED = 24 * 2**20  # bytes, roughly, of games at revisions; one that is larger is kept alone
_ENTITY = 6_000  # bytes of one that is read; those of an edited game are shared with the one before
_SHARED = 400
_MOST_NAMED = 5  # in a label
_FEW = 300  # entities that are read one by one


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
class Applied:
    """What a change came to: the new revision, each entity's body (None: removed), and what undo and redo
    would take after it."""

    revision: int
    label: str
    entries: list[dict[str, Any]]
    steps: Steps
    is_in_order: bool = False  # nothing else stands elsewhere than before, as far as is known


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

    def strips(self) -> dict[str, list[dict[str, Any]]]:
        """Of each game its tiers in order, with their colours and how many items are of each."""
        with self._database.reading() as connection:
            found: dict[str, list[dict[str, Any]]] = {}
            for row in connection.execute(_STRIPS):
                one = {"name": row.name, "colour": row.colour or "#8c8579", "items": row.items}
                found.setdefault(row.game, []).append(one)
            return found

    def create(
        self,
        game: Game,
        label: str = "made the game",
        copied: tuple[str, int] | None = None,
        token: str | None = None,
    ) -> GameRow:
        """Store a new game. Its first revision holds everything. `copied`: the game and revision that it is
        a copy of, with the pictures that lie in it. Under a token that made one before, that one."""
        row = GameRow(id=uuid.uuid4().hex[:12], name=game.name, revision=1)
        if copied is not None:
            row.copied_from, row.copied_at = copied
        entities = Entities.of(game)

        def make() -> tuple[str, GameRow]:
            session.add(row)
            session.flush()
            session.execute(insert(EntityRow), list(_first_rows(row.id, entities)))
            session.add(ChangeRow(game=row.id, revision=1, origin="made", label=label, entries=[]))
            if copied is not None:
                copy_pictures(session, copied[0], row.id)
            return row.id, row

        with self._database.transaction() as session:
            made = made_once(session, "game", token, make, lambda name: _game_row(session, name))
        if made is row:
            self._keep(Loaded(row.id, 1, entities, dict.fromkeys(entities.every(), 1)))
        return made

    def duplicate(self, game_id: str, token: str | None = None) -> GameRow:
        loaded = self.load(game_id)
        game = loaded.entities.game()
        copy = game.model_copy(update={"name": f"{game.name[:114]}, copy"})
        return self.create(copy, f"copied from {game.name}", (game_id, loaded.revision), token)

    def delete(self, game_id: str) -> None:
        """Put a game away; `restore` brings it back. Again it changes nothing."""
        with self._database.transaction() as session:
            row = _game_row(session, game_id, deleted=None)
            row.deleted_at = row.deleted_at or now()
        self._forget(game_id)

    def restore(self, game_id: str) -> GameRow:
        """Again it changes nothing."""
        with self._database.transaction() as session:
            row = _game_row(session, game_id, deleted=None)
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
        then = past_of(session, row.id, _stored(session, row), revision)
        return Loaded(row.id, revision, Entities.of(read_game(_data(then))), {})

    def _known(self, game_id: str, revision: int) -> Loaded | None:
        with self._lock:
            return self._cache.get((game_id, revision))

    def _loaded(self, session: Session, row: GameRow) -> Loaded:
        """As the session sees it: in a snapshot, or with the game's row locked."""
        found = self._known(row.id, row.revision) or self._caught_up(session, row)
        if found is not None:
            return found
        stored = _stored(session, row)
        return Loaded(
            row.id,
            row.revision,
            Entities.of(read_game(_data(map(Stored.of, stored)))),
            {(entity.kind, entity.id): entity.revision for entity in stored},
        )

    def _caught_up(self, session: Session, row: GameRow) -> Loaded | None:
        """From an earlier revision that is known: only what others changed since then is read. None where
        none is known, or too much changed."""
        before = self._latest_known(row.id)
        if before is None:
            return None
        is_there = col(EntityRow.body).is_not(None)
        there = select(EntityRow.kind, EntityRow.id, EntityRow.revision, is_there)
        there = there.where(EntityRow.game == row.id)
        rows = session.exec(there.order_by(col(EntityRow.position), col(EntityRow.id))).all()
        revisions = {(kind, name): revision for kind, name, revision, _ in rows}  # also of what is removed
        order = [(kind, name) for kind, name, _, is_there in rows if is_there]
        moved = [key for key in order if before.revisions.get(key) != revisions[key]]
        if len(moved) > _FEW:
            return None
        left = set(order)
        gone = [key for key in before.entities.every() if key not in left]
        entries = [Entry(*key, None) for key in gone]
        for key in moved:
            entity = session.get(EntityRow, (row.id, *key))
            assert entity is not None
            entries.append(Entry(*key, Stored.of(entity).body))
        entities = before.entities.edited(entries) if entries else before.entities
        return Loaded(row.id, row.revision, entities.in_order(order), revisions, is_shared=True)

    def _latest_known(self, game_id: str) -> Loaded | None:
        with self._lock:
            mine = [loaded for key, loaded in self._cache.items() if key[0] == game_id and loaded.revisions]
        return max(mine, key=lambda loaded: loaded.revision, default=None)

    def _keep(self, loaded: Loaded) -> None:
        with self._lock:
            self._cache[loaded.id, loaded.revision] = loaded

    def _forget(self, game_id: str) -> None:
        with self._lock:
            for key in [key for key in self._cache if key[0] == game_id]:
                del self._cache[key]

    # --- changes -----------------------------------------------------------------------------

    def change(
        self,
        game_id: str,
        base: int,
        entries: Sequence[Entry],
        label: str,
        token: str | None = None,
        page: str = NOBODY,
        who: str = "",
    ) -> Applied:
        """Apply a change made on revision `base`, of a page if one makes it. `token` is the change's own
        id: one that was applied before is answered as it was then, and not applied again.

        Raises Conflict where an entity that it writes has moved since, EditError where no sound
        game would come of it; then nothing is stored.
        """
        return self._edited(game_id, token, lambda _: label, base, lambda _: entries, page, who)

    def remove(
        self,
        game_id: str,
        base: int,
        kind: str,
        names: Sequence[str],
        token: str | None = None,
        page: str = NOBODY,
        who: str = "",
    ) -> Applied:
        """Remove entities of a kind and every mention of them that only makes sense with them; the log says
        their names."""

        def made(entities: Entities) -> Sequence[Entry]:
            return removals(entities, kind, names)

        def label(entities: Entities) -> str:
            if len(names) > _MOST_NAMED:
                return f"removed {len(names)} {kind}s"
            there = entities.parsed[kind]
            return f"removed {', '.join(getattr(there.get(name), 'name', name) for name in names)}"

        return self._edited(game_id, token, label, base, made, page, who)

    def undo(self, game_id: str, token: str | None = None, page: str = NOBODY, who: str = "") -> Applied:
        """Take back the page's own last change. Raises NothingToUndo; NoLonger where someone has gone on
        from it."""
        return self._stepped(game_id, "undo", token, page, who)

    def redo(self, game_id: str, token: str | None = None, page: str = NOBODY, who: str = "") -> Applied:
        return self._stepped(game_id, "redo", token, page, who)

    def steps(self, game_id: str, page: str = NOBODY) -> Steps:
        """What undo and redo would do now."""
        with self._database.snapshot() as session:
            return steps_of(session, _game_row(session, game_id), page)

    def changed_at(self, game_id: str) -> datetime:
        with self._database.snapshot() as session:
            return _game_row(session, game_id).updated_at

    def history(self, game_id: str, limit: int = 200, before: int | None = None) -> list[Logged]:
        """The latest changes, or those before a revision, newest first."""
        with self._database.snapshot() as session:
            _game_row(session, game_id)
            return log_of(session, game_id, limit, before)

    def go_back(
        self, game_id: str, revision: int, token: str | None = None, page: str = NOBODY, who: str = ""
    ) -> Applied:
        """The game as it was at a revision, as a new one. Raises NotFound, NothingToUndo."""

        def back(session: Session, row: GameRow, loaded: Loaded) -> Written:
            if not 1 <= revision <= row.revision:
                raise NotFound("revision", str(revision))
            stored = _stored(session, row)
            at = {(one.kind, one.id): one.position for one in stored}
            entries: list[Entry] = []
            places: Places = {}
            for then in past_of(session, row.id, stored, revision):
                key = then.kind, then.id
                now_body = loaded.entities.bodies[then.kind].get(then.id)
                if then.body != now_body or (now_body is not None and at[key] != then.position):
                    entries.append(Entry(*key, then.body))
                    if then.body is not None:
                        places[key] = then.position
            if not entries:
                raise NothingToUndo(f"nothing is other than it was at revision {revision}")
            steps = list_of(session, row, page)
            made = Made("edit", f"back to revision {revision}", token, steps, who)
            written = write(session, row, loaded.entities, entries, made, places)
            edited(session, row, steps, written.revision)
            return written

        return self._written(game_id, token, page, back)

    def _edited(
        self,
        game_id: str,
        token: str | None,
        label: Callable[[Entities], str],
        base: int,
        made: Callable[[Entities], Sequence[Entry]],
        page: str,
        who: str = "",
    ) -> Applied:
        def edit(session: Session, row: GameRow, loaded: Loaded) -> Written:
            entries = made(loaded.entities)
            _refuse_conflicts(loaded, base, entries)
            steps = list_of(session, row, page)
            made_by = Made("edit", label(loaded.entities), token, steps, who)
            written = write(session, row, loaded.entities, entries, made_by, {})
            edited(session, row, steps, written.revision)
            return written

        return self._written(game_id, token, page, edit)

    def _stepped(self, game_id: str, which: Step, token: str | None, page: str, who: str) -> Applied:
        """Put back the bodies and places from before the change that is next."""

        def step_back(session: Session, row: GameRow, loaded: Loaded) -> Written:
            steps, step = next_step(session, row, page, which)
            entries, places = put_back(session, which, step, loaded.entities.bodies)
            assert steps is not None and step is not None
            made = Made(which, step.label, token, steps, who)
            try:
                written = write(session, row, loaded.entities, entries, made, places)
            except EditError as error:  # somebody has come to need what it would take away
                raise NoLonger(which, step.label, error.problems[0].message) from None
            stepped(steps, which, step, written.revision)
            return written

        return self._written(game_id, token, page, step_back)

    def _written(self, game_id: str, token: str | None, page: str, make: Make) -> Applied:
        """One change in one transaction. What it came to is known to this repository once it is kept."""
        with self._database.transaction() as session:
            row = _game_row(session, game_id, lock=True)
            before = _with_token(session, row, token)
            if before is not None:
                told_then = [told(entry) for entry in before.entries]
                steps = steps_of(session, row, page)
                return Applied(before.revision, before.label, told_then, steps, stays(before.entries))
            loaded = self._loaded(session, row)
            written = make(session, row, loaded)
            session.flush()
            entries = [told(entry) for entry in written.told]
            steps = steps_of(session, row, page)
            applied = Applied(written.revision, written.label, entries, steps, stays(written.told))
        if written.is_in_order:
            self._keep(_after(loaded, written))
        return applied


# From the game as it is, and its row, locked: what was written.
Make = Callable[[Session, GameRow, Loaded], Written]


def _after(loaded: Loaded, written: Written) -> Loaded:
    """The game after a change that left everything in its place."""
    touched = {(entry["kind"], entry["id"]): written.revision for entry in written.told}
    return Loaded(loaded.id, written.revision, written.entities, loaded.revisions | touched, is_shared=True)


def _with_token(session: Session, row: GameRow, token: str | None) -> ChangeRow | None:
    """The change of that id that was applied before."""
    if token is None:
        return None
    there = select(ChangeRow).where(ChangeRow.game == row.id, ChangeRow.token == token)
    return session.exec(there).first()


def _first_rows(game_id: str, entities: Entities) -> Iterator[dict[str, Any]]:
    for kind, bodies in entities.bodies.items():
        for at, (name, body) in enumerate(bodies.items()):
            place = {"position": (at + 1) * SPACING, "revision": 1, "shape": current_shape()}
            yield {"game": game_id, "kind": kind, "id": name, "body": body, **place}


def _game_row(session: Session, game_id: str, *, lock: bool = False, deleted: bool | None = False) -> GameRow:
    """`deleted` : whether it must be put away; None where either will do."""
    query = select(GameRow).where(GameRow.id == game_id)
    row = session.exec(query.with_for_update() if lock else query).first()
    if row is None or deleted not in (None, row.deleted_at is not None):
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
