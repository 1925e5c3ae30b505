"""What goes out to others and what comes in: spreadsheets, documents for a game's code, logs."""

from __future__ import annotations

import asyncio
import csv
import io
import json
import tempfile
from collections.abc import AsyncIterator, Callable
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from golddice.core.errors import QueryError
from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import COLUMNS, log_of_source
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.odds_page import odds_page
from golddice.core.exchange.schemas import game_schema, thresholds_schema
from golddice.core.exchange.sheets.guessing import guessed, is_only_out
from golddice.core.exchange.sheets.preview import heads_of, kind_of, preview, renamed
from golddice.core.exchange.sheets.writing import game_sheets
from golddice.core.exchange.thresholds import thresholds
from golddice.core.exchange.vectors import vectors
from golddice.core.game.finding import named
from golddice.core.game.models import Game
from golddice.core.overview.page import overview_page
from golddice.core.stopping import heard_by
from golddice.files.sheet_files import csvs_bytes, sheets_of, workbook_bytes
from golddice.server.bench import Bench
from golddice.server.downloads import download
from golddice.server.progress import Progress
from golddice.server.schemas.common import Token
from golddice.server.schemas.exchange import HeldLog, LogOut, PreviewOut
from golddice.store.rows import HeldLogRow

router = APIRouter(prefix="/api", tags=["exchange"])
Form = Literal["thresholds", "vectors", "odds-page", "overview", "xlsx", "csv"]
Name = Annotated[str, Query(max_length=200)]
Columns = Annotated[str, Query(max_length=3_000)]
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_JSON, _ZIP, _HTML = "application/json", "application/zip", "text/html"
_BYTES: dict[str, Any] = {"schema": {"type": "string", "format": "binary"}}
_FILES: dict[int | str, dict[str, Any]] = {
    200: {"content": {**dict.fromkeys((_XLSX, _ZIP, _HTML), _BYTES), _JSON: {"schema": {"type": "object"}}}}
}
_MADE: dict[int | str, dict[str, Any]] = {200: {"content": {"text/csv": _BYTES}}}
MOST_MADE = 20_000  # events
_SENT: dict[str, Any] = {"requestBody": {"required": True, "content": {"application/octet-stream": _BYTES}}}


@router.get("/schemas/{of}")
def schema(of: Literal["game", "thresholds"]) -> dict[str, Any]:
    """The JSON Schema of a game file, or of thresholds: 2020-12."""
    return game_schema() if of == "game" else thresholds_schema()


@router.get("/games/{game_id}/export/{form}", response_class=Response, responses=_FILES)
def export(
    game_id: str,
    form: Form,
    bench: Bench,
    first: Annotated[int, Query(ge=1, le=10_000)] | None = None,
    last: Annotated[int, Query(ge=1, le=10_000)] | None = None,
) -> Response:
    """A game for others. Of spreadsheets depths are those of the odds; without any there are none."""
    loaded = bench.games.load(game_id)
    game = loaded.entities.game()
    if form in ("xlsx", "csv"):
        sheets = game_sheets(game, _depths(game, first, last))
        content = workbook_bytes(sheets) if form == "xlsx" else csvs_bytes(sheets)
        return download(game, content, *((_XLSX, "xlsx") if form == "xlsx" else (_ZIP, "zip")))
    if form == "odds-page":
        changed = f"{bench.games.changed_at(game_id):%d %B %Y}".lstrip("0")
        return download(game, odds_page(game, first, last, changed).encode(), _HTML, "odds.html")
    if form == "overview":
        return download(game, overview_page(game).encode(), _HTML, "overview.html")
    made: Callable[..., dict[str, Any]] = thresholds if form == "thresholds" else vectors
    return download(game, _json(made(game, first, last)), _JSON, f"{form}.json")


@router.post("/games/{game_id}/sheets", openapi_extra=_SENT)
async def read_in(
    game_id: str, name: Name, request: Request, bench: Bench, columns: Columns = "{}"
) -> PreviewOut:
    """What an XLSX, a CSV, a ZIP of CSVs or pasted cells would make of the game. Nothing is made. `columns`,
    as JSON, says by the head that is read which column it is."""
    content = await request.body()
    mapped = _mapped(columns)

    def previewed() -> PreviewOut:
        loaded = bench.games.load(game_id)
        game = loaded.entities.game()
        guesses = [guessed(game, one) for one in renamed(sheets_of(name, content), mapped)]
        sheets = [one for one, _ in guesses]
        found, _ = preview(game, sheets)
        told = [
            {
                "name": one.name,
                "kind": kind_of(one),
                "rows": len(one.rows),
                "heads": [] if is_only_out(one) else one.heads,
                "known": heads_of(kind_of(one)),
                "guessed": by_contents,
            }
            for one, by_contents in guesses
        ]
        entries = [vars(entry) for entry in found.entries]
        plain = found.plain() | {"revision": loaded.revision, "sheets": told, "entries": entries}
        return PreviewOut.model_validate(plain)

    return await run_in_threadpool(previewed)


@router.post("/games/{game_id}/log", openapi_extra=_SENT)
async def hold_log(
    game_id: str, name: Name, request: Request, bench: Bench, token: Token | None = None
) -> LogOut:
    """A log of the running game held against what was authored. It is read from a file beside, in pieces;
    how many rows are read is news of the game, under the token."""
    with tempfile.TemporaryDirectory(prefix="golddice-log-") as folder:
        path = Path(folder) / ("log.jsonl" if name.lower().endswith((".jsonl", ".ndjson")) else "log.csv")
        spooled = request.scope.get("golddice.file")
        if spooled is not None:  # whoever listens has written it down already
            path.symlink_to(spooled)
        else:
            await _written(path, request.stream())

        def held() -> LogOut:
            loaded = bench.games.load(game_id)
            game = loaded.entities.game()
            with heard_by(Progress(bench.broadcast, game_id, "log", token)):
                found = check_log(game, read_log(game, path))
            plain = json.loads(json.dumps(found))
            row = bench.logs.keep(game_id, name, loaded.revision, plain, token)
            return _log(row)

        return await run_in_threadpool(held)


@router.get("/games/{game_id}/logs")
def logs(game_id: str, bench: Bench) -> list[HeldLog]:
    """Those that were held against the game, newest first."""
    return [HeldLog.model_validate(row, from_attributes=True) for row in bench.logs.of_game(game_id)]


@router.get("/games/{game_id}/logs/{log_id}")
def held_log(game_id: str, log_id: str, bench: Bench) -> LogOut:
    return _log(bench.logs.get(game_id, log_id))


@router.delete("/games/{game_id}/logs/{log_id}", status_code=204)
def forget_log(game_id: str, log_id: str, bench: Bench) -> None:
    bench.logs.remove(game_id, log_id)


@router.get("/games/{game_id}/made-log", response_class=Response, responses=_MADE)
def made_log(
    game_id: str,
    bench: Bench,
    source: Annotated[str, Query(max_length=200)],
    depth: Annotated[int, Query(ge=1, le=10_000)],
    players: Annotated[int, Query(ge=1, le=1_000)] = 50,
    events: Annotated[int, Query(ge=1, le=1_000)] = 40,
    seed: Annotated[int, Query(ge=0, le=2**53 - 1)] = 1,
) -> Response:
    """A log as the game would write it, to try: of players who are played here."""
    if players * events > MOST_MADE:
        raise QueryError(f"at most {MOST_MADE:,} events are written; take fewer players or events")
    game = bench.games.load(game_id).entities.game()
    named(game.sources, "source", source)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    writer.writerows(
        log_of_source(game, source, depth=depth, flags=(), players=players, events=events, seed=seed)
    )
    return download(game, text.getvalue().encode(), "text/csv", f"{source}.csv")


def _log(row: HeldLogRow) -> LogOut:
    told = {"id": row.id, "name": row.name, "revision": row.revision}
    return LogOut.model_validate(row.result | told)


async def _written(path: Path, parts: AsyncIterator[bytes]) -> None:
    with path.open("wb") as file:
        async for part in parts:
            await asyncio.to_thread(file.write, part)


def _depths(game: Game, first: int | None, last: int | None) -> range:
    if first is None:
        return range(0)
    return range(max(first, game.depth.from_), min(last or first, game.depth.to) + 1)


def _mapped(text: str) -> dict[str, str]:
    try:
        found = json.loads(text)
    except ValueError:
        found = None
    if not isinstance(found, dict) or not all(isinstance(one, str) for one in found.values()):
        raise QueryError("columns are a JSON object of heads and columns, both text")
    return found


def _json(document: dict[str, Any]) -> bytes:
    return json.dumps(document, ensure_ascii=False).encode()
