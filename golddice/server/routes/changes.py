"""Changes to a game: edits, removals, undo, redo, history."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fastapi import APIRouter

from golddice.core.game.editing import Entities, uses
from golddice.core.game.families import kin_of
from golddice.core.game.reading import whole
from golddice.server.bench import Bench, Workbench, entries
from golddice.server.schemas.games import (
    ChangeIn,
    ChangeOut,
    EntryOut,
    HistoryEntry,
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


@router.post("/changes")
def change(game_id: str, asked: ChangeIn, bench: Bench) -> ChangeOut:
    made = entries(asked.entries)
    applied = bench.games.change(game_id, asked.base, made, asked.label, asked.token, asked.page or NOBODY)
    return _out(bench, game_id, applied)


@router.post("/removals")
def remove(game_id: str, asked: RemovalIn, bench: Bench) -> ChangeOut:
    """Remove an entity together with the lines, drops and names that need it."""
    label = f"removed {asked.kind} {asked.id}"
    applied = bench.games.remove(
        game_id, asked.base, asked.kind, asked.id, label, asked.token, asked.page or NOBODY
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
    return _out(bench, game_id, bench.games.undo(game_id, step.token, step.page or NOBODY))


@router.post("/redo")
def redo(game_id: str, bench: Bench, asked: StepIn | None = None) -> ChangeOut:
    """Do again what the page took back last."""
    step = asked or StepIn()
    return _out(bench, game_id, bench.games.redo(game_id, step.token, step.page or NOBODY))


@router.get("/history")
def history(game_id: str, bench: Bench) -> list[HistoryEntry]:
    return [
        HistoryEntry(revision=row.revision, at=row.at, origin=row.origin, label=row.label)
        for row in bench.games.history(game_id)
    ]


def _out(bench: Workbench, game_id: str, applied: Applied) -> ChangeOut:
    bench.tell_revision(game_id, applied)
    entities = bench.games.load(game_id, applied.revision).entities
    return ChangeOut(
        revision=applied.revision,
        label=applied.label,
        entries=[*(_full(entities, entry) for entry in applied.entries), *_kin(entities, applied.entries)],
        steps=Steps.model_validate(vars(applied.steps)),
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
