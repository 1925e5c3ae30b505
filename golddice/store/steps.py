"""What each page can undo and redo: its own changes, one after the other.

Two people, or two pages of one, edit one game; what one of them takes back is its own last change, never
the other's. A change that another page has gone on from cannot be taken back any more. Changes of no
page (made by a program, or before pages were told apart) can be taken back by every page, after its own.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from sqlmodel import Session

from golddice.core.game.editing import Entry
from golddice.store.errors import NoLonger, NothingToUndo
from golddice.store.history import in_shape
from golddice.store.rows import ChangeRow, EntityRow, GameRow, StepsRow
from golddice.store.writing import Places

NOBODY = ""
Step = Literal["undo", "redo"]
Bodies = Mapping[str, Mapping[str, dict[str, Any]]]


@dataclass(frozen=True)
class Steps:
    """What undo and redo would take now, as labels; None where there is nothing."""

    undo: str | None
    redo: str | None


def steps_of(session: Session, row: GameRow, page: str) -> Steps:
    found = [next_step(session, row, page, which)[1] for which in ("undo", "redo")]
    undo, redo = (None if step is None else step.label for step in found)
    return Steps(undo, redo)


def list_of(session: Session, row: GameRow, page: str) -> StepsRow:
    """A page's list, an empty one if it has made no change yet."""
    found = session.get(StepsRow, (row.id, page))
    if found is None:
        found = StepsRow(game=row.id, page=page)
        session.add(found)
    return found


def next_step(
    session: Session, row: GameRow, page: str, which: Step
) -> tuple[StepsRow | None, ChangeRow | None]:
    """The change that comes next, and the list that it is of: the page's own, else nobody's. Of two that
    were taken back, the one that was taken back last is done again first."""
    lists = [session.get(StepsRow, (row.id, name)) for name in dict.fromkeys((page, NOBODY))]
    there = [(getattr(one, which), one) for one in lists if one is not None]
    there = [(at, one) for at, one in there if at is not None]
    if which == "redo":
        there.sort(key=lambda one: -one[0])
    if not there:
        return None, None
    at, steps = there[0]
    return steps, session.get(ChangeRow, (row.id, at))


def edited(session: Session, row: GameRow, steps: StepsRow, revision: int) -> None:
    """After an edit it is what comes next to be taken back, and nothing is there to be done again."""
    steps.undo, steps.redo = revision, None
    nobodys = session.get(StepsRow, (row.id, NOBODY))
    if nobodys is not None:
        nobodys.redo = None


def stepped(steps: StepsRow, which: Step, step: ChangeRow, revision: int) -> None:
    """Each undo leads on to what was next before the change that it takes back; a redo back again."""
    if which == "undo":
        steps.undo, steps.redo = step.undo, revision
    else:
        steps.undo, steps.redo = revision, step.redo


def put_back(
    session: Session, which: Step, step: ChangeRow | None, bodies: Bodies
) -> tuple[list[Entry], Places]:
    """The entries that take a change back, and where what they put back stands.

    Raises NothingToUndo; NoLonger where something that it changed is not as it left it.
    """
    if step is None:
        raise NothingToUndo(f"there is nothing to {which}")
    entries: list[Entry] = []
    places: Places = {}
    for one in step.entries:
        kind, name = one["kind"], one["id"]
        before, after = (in_shape(kind, one[when], step.shape) for when in ("before", "after"))
        now = bodies.get(kind, {}).get(name)
        stored = session.get(EntityRow, (step.game, kind, name))
        stands = stored is not None and stored.position == one["position_after"]
        if before == after and (now != after or not stands):
            continue  # it was only moved, and somebody has moved or changed it since
        if now != after:
            raise NoLonger(which, step.label, _changed(name, now, after))
        entries.append(Entry(kind, name, before))
        if one["position_before"] is not None and stands:
            places[kind, name] = one["position_before"]
    if not entries:
        raise NoLonger(which, step.label, "what it moved was moved again since, by another page")
    return entries, places


def _changed(name: str, now: dict[str, Any] | None, after: dict[str, Any] | None) -> str:
    called = (now or after or {}).get("name") or name
    return f"{called} was {'changed' if now else 'removed'} since, by another page"
