"""Changes to a game: edits, removals, undo, redo, history."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query

from golddice.core.game.editing import Entities, uses
from golddice.core.game.families import kin_of
from golddice.core.game.reading import whole
from golddice.core.tuning.between import moved_between
from golddice.server.bench import Bench, Workbench, entries
from golddice.server.schemas.games import (
    BackIn,
    Base,
    ChangeIn,
    ChangeOut,
    ComparedOut,
    EntryOut,
    HistoryEntry,
    MarkIn,
    RemovalIn,
    StepIn,
    Steps,
    UseOut,
)
from golddice.store.games import Applied
from golddice.store.steps import NOBODY

router = APIRouter(
    prefix="/api/games/{game_id}",
    tags=["changes"],
)

RevisionInPath = Annotated[int, Path(ge=1, le=2**31 - 1)]


@router.post("/changes")
def change(game_id: str, asked: ChangeIn, bench: Bench) -> ChangeOut:
    made = entries(asked.entries)
    applied = bench.games.change(
        game_id, asked.base, made, asked.label, asked.token, asked.page or NOBODY, asked.who
    )
    return _out(bench, game_id, applied)


@router.post("/removals")
def remove(game_id: str, asked: RemovalIn, bench: Bench) -> ChangeOut:
    """Remove an entity together with the lines, drops and names that need it."""
    applied = bench.games.remove(
        game_id, asked.base, asked.kind, [asked.id, *asked.also], asked.token, asked.page or NOBODY, asked.who
    )
    return _out(bench, game_id, applied)


@router.get("/uses/{kind}/{name}")
def used_by(game_id: str, kind: str, name: str, bench: Bench) -> list[UseOut]:
    """Every place that names an entity."""
    entities = bench.games.load(game_id).entities
    return [UseOut(kind=use.kind, id=use.id, path=use.path) for use in uses(entities, kind, name)]


@router.post("/undo")
def undo(game_id: str, bench: Bench, asked: StepIn | None = None) -> ChangeOut:
    """Take back the page's own last change."""
    step = asked or StepIn()
    return _out(bench, game_id, bench.games.undo(game_id, step.token, step.page or NOBODY, step.who))


@router.post("/redo")
def redo(game_id: str, bench: Bench, asked: StepIn | None = None) -> ChangeOut:
    """Do again what the page took back last."""
    step = asked or StepIn()
    return _out(bench, game_id, bench.games.redo(game_id, step.token, step.page or NOBODY, step.who))


@router.get("/history")
def history(
    game_id: str, bench: Bench, before: Base | None = None, limit: Annotated[int, Query(ge=1, le=500)] = 200
) -> list[HistoryEntry]:
    """The latest changes, or those before a revision, newest first; with the names of marked revisions."""
    marks = bench.marks.of_game(game_id)
    return [
        HistoryEntry.model_validate({**vars(row), "mark": marks.get(row.revision)})
        for row in bench.games.history(game_id, limit, before)
    ]


@router.get("/marks")
def marks(game_id: str, bench: Bench) -> dict[int, str]:
    """The names of marked revisions."""
    return bench.marks.of_game(game_id)


@router.put("/marks/{revision}")
def mark(game_id: str, revision: RevisionInPath, asked: MarkIn, bench: Bench) -> dict[int, str]:
    bench.marks.put(game_id, revision, asked.name)
    return bench.marks.of_game(game_id)


@router.delete("/marks/{revision}", status_code=204)
def unmark(game_id: str, revision: RevisionInPath, bench: Bench) -> None:
    bench.marks.remove(game_id, revision)


@router.post("/back")
def go_back(game_id: str, asked: BackIn, bench: Bench) -> ChangeOut:
    """The game as it was at a revision, as a new one: nothing in between is lost."""
    applied = bench.games.go_back(game_id, asked.revision, asked.token, asked.page or NOBODY, asked.who)
    return _out(bench, game_id, applied)


@router.get("/compare")
def compare(game_id: str, first: Base, last: Base, bench: Bench) -> ComparedOut:
    """Which figures and targets came out otherwise from one revision to another."""
    before, after = (bench.games.load(game_id, one).entities.game() for one in (first, last))
    found = moved_between(before, after)
    return ComparedOut.model_validate({"first": first, "last": last, **found})


def _out(bench: Workbench, game_id: str, applied: Applied) -> ChangeOut:
    bench.tell_revision(game_id, applied)
    entities = bench.games.load(game_id, applied.revision).entities
    return ChangeOut(
        revision=applied.revision,
        label=applied.label,
        entries=[*(_full(entities, entry) for entry in applied.entries), *_kin(entities, applied.entries)],
        steps=Steps.model_validate(vars(applied.steps)),
        in_order=applied.is_in_order,
    )


def _full(entities: Entities, entry: dict[str, Any]) -> EntryOut:
    part = entities.parsed[entry["kind"]].get(entry["id"])
    return EntryOut.model_validate({**entry, "body": None if part is None else whole(part)})


def _kin(entities: Entities, entries: list[dict[str, Any]]) -> Iterator[EntryOut]:
    """Sources that are like one that was changed, as they are now."""
    told = {entry["id"] for entry in entries if entry["kind"] == "source"}
    for elder in list(told):
        for name in kin_of(entities.bodies["source"], elder):
            if name not in told:
                told.add(name)
                body = whole(entities.parsed["source"][name])
                yield EntryOut.model_validate({"kind": "source", "id": name, "body": body, "position": 0.0})
