"""Games: list, make, open, copy, put away, bring back, export, import."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool
from starlette.responses import FileResponse

from golddice.core.game.models import FORMAT, KINDS, VERSION, Game, list_name
from golddice.core.game.reading import read_game
from golddice.files.game_file import game_text, read_game_bytes, read_game_file
from golddice.server.bench import Bench, Workbench
from golddice.server.demo import show_trials
from golddice.server.downloads import download
from golddice.server.schemas.common import Token
from golddice.server.schemas.games import Base, GameBody, GameSummary, NewGame, Steps, Strip
from golddice.server.settings import DEMO
from golddice.store.rows import GameRow
from golddice.store.steps import NOBODY

router = APIRouter(prefix="/api/games", tags=["games"])
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
DEMO_FILES = {
    "game": DEMO,
    "workbook": DEMO.with_name("saltglass-deep.xlsx"),
    "session": DEMO.with_name("saltglass-session.csv"),
}
_FILE: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/json": {"schema": {"type": "object"}}}}
}
_BYTES: dict[str, Any] = {"schema": {"type": "string", "format": "binary"}}
_DEMO: dict[int | str, dict[str, Any]] = {
    200: {"content": dict.fromkeys(("text/csv", XLSX, "application/octet-stream"), _BYTES)}
}
_GAME_FILE: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}
}


@router.get("")
def list_games(bench: Bench) -> list[GameSummary]:
    return [_summary(row) for row in bench.games.every()]


@router.post("", status_code=201)
def make_game(new: NewGame, bench: Bench) -> GameSummary:
    return _summary(bench.games.create(_first_game(new.name), token=new.token))


@router.post("/import", status_code=201, openapi_extra=_GAME_FILE)
async def import_game(request: Request, bench: Bench, token: Token | None = None) -> GameSummary:
    """The body is a game file. One that is not sound changes nothing. Read and written beside the event
    loop, or every page would wait for it."""
    content = await request.body()
    return await run_in_threadpool(_imported, content, bench, token)


def _imported(content: bytes, bench: Workbench, token: str | None) -> GameSummary:
    game = read_game_bytes(content)
    return _summary(bench.games.create(game, label="imported a file", token=token))


@router.get("/strips")
def strips(bench: Bench) -> dict[str, list[Strip]]:
    """Of each game its tiers, and how many items are of each."""
    return {
        game: [Strip.model_validate(tier) for tier in tiers] for game, tiers in bench.games.strips().items()
    }


@router.post("/demo", status_code=201)
def demo_again(bench: Bench, trials: bool = False, token: Token | None = None) -> GameSummary:
    """The demo game once more, as it came; with the trials that it begins with, if they are asked for."""
    game = read_game_file(DEMO_FILES["game"])
    row = bench.games.create(game, label="opened the demo game", token=token)
    if trials:
        show_trials(bench, row.id)
    return _summary(row)


@router.get("/demo/{name}", response_class=FileResponse, responses=_DEMO)
def demo_file(name: Literal["workbook", "session"]) -> FileResponse:
    """What ships beside the demo game: a workbook with some edits, a log with two faults."""
    return FileResponse(DEMO_FILES[name], filename=DEMO_FILES[name].name)


@router.get("/{game_id}")
def open_game(
    game_id: str, bench: Bench, response: Response, page: Token | None = None, revision: Base | None = None
) -> GameBody:
    """The whole game, as it is or was at a revision; `page` says whose undo and redo are told."""
    response.headers["X-Whole-Game"] = "yes"  # it is as long as it is
    loaded = bench.games.load(game_id, revision)
    parts = loaded.entities.parsed
    return GameBody(
        id=game_id,
        revision=loaded.revision,
        settings=parts["settings"]["game"],
        steps=Steps.model_validate(vars(bench.games.steps(game_id, page or NOBODY))),
        **{list_name(kind): list(parts[kind].values()) for kind in KINDS},
    )


@router.delete("/{game_id}", status_code=204)
def delete_game(game_id: str, bench: Bench) -> None:
    bench.games.delete(game_id)
    bench.line.cancel(game_id)
    bench.wake()


@router.post("/{game_id}/restore")
def restore_game(game_id: str, bench: Bench) -> GameSummary:
    return _summary(bench.games.restore(game_id))


@router.post("/{game_id}/duplicate", status_code=201)
def duplicate_game(game_id: str, bench: Bench, token: Token | None = None) -> GameSummary:
    return _summary(bench.games.duplicate(game_id, token))


@router.get("/{game_id}/file", response_class=Response, responses=_FILE)
def export_game(game_id: str, bench: Bench) -> Response:
    game = bench.games.load(game_id).entities.game()
    return download(game, game_text(game), "application/json", "golddice.json")


def _summary(row: GameRow) -> GameSummary:
    return GameSummary.model_validate(row, from_attributes=True)


def _first_game(name: str) -> Game:
    """A new game: a ladder of five tiers to begin with, and nothing on it."""
    ladder = [
        ("plain", "Plain", 1, "#8c8579"),
        ("sound", "Sound", 2, "#b06b3c"),
        ("fine", "Fine", 3, "#2f8c7f"),
        ("grand", "Grand", 4, "#b83a5b"),
        ("peerless", "Peerless", 5, "#2b2440"),
    ]
    tiers = [
        {"id": tier, "name": label, "pips": pips, "colour": colour} for tier, label, pips, colour in ladder
    ]
    return read_game(
        {
            "format": FORMAT,
            "version": VERSION,
            "name": name,
            "depth": {"from": 1, "to": 20},
            "tiers": tiers,
        }
    )
