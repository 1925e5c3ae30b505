"""Commands of exchange: what goes out for a game's code, and logs that come back."""

from __future__ import annotations

import csv
import json
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Any

import typer

from golddice.cli.options import GameArgument, JsonOption
from golddice.core.errors import QueryError
from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import COLUMNS, Row
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.schemas import game_schema, thresholds_schema
from golddice.core.exchange.thresholds import thresholds
from golddice.files.game_file import read_game_file

AS = ("thresholds",)


def install(app: typer.Typer) -> None:
    for command in (export, schema, log):
        app.command()(command)


def export(
    game: GameArgument,
    form: Annotated[str, typer.Option("--as", metavar="FORM", help=f"One of {', '.join(AS)}.")],
    depths: Annotated[str, typer.Option("--depths", metavar="A-B", help="Default: all.")] = "",
    out: Annotated[Path | None, typer.Option("--out", metavar="FILE")] = None,
) -> None:
    """Write a game in a form for others: thresholds for its code."""
    loaded = read_game_file(game)
    first, last = _depths(depths)
    if form != "thresholds":
        raise typer.BadParameter(f"--as is one of {', '.join(AS)}")
    text = json.dumps(thresholds(loaded, first, last), ensure_ascii=False)
    if out is None:
        print(text)
    else:
        out.write_text(text + "\n", encoding="utf-8")


def schema(
    of: Annotated[str, typer.Argument(metavar="[thresholds]", help="Default: the game file.")] = "game",
) -> None:
    """Print the JSON Schema of the game file, or of the thresholds."""
    if of not in ("game", "thresholds"):
        raise typer.BadParameter("there is a schema of the game and of thresholds")
    print(json.dumps(game_schema() if of == "game" else thresholds_schema(), indent=2, ensure_ascii=False))


def log(
    game: GameArgument,
    path: Annotated[Path, typer.Argument(metavar="LOG", help="CSV, or JSON Lines.")],
    mapping: Annotated[
        Path | None, typer.Option("--map", metavar="MAP.json", help="Which column each field is.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Hold a log of the running game against what was authored. Exit 1 where something does not agree."""
    loaded = read_game_file(game)
    found = check_log(loaded, read_log(loaded, path, _map(mapping)))
    agrees = found.pop("agrees")
    print(json.dumps(found) if as_json else _log_text(found))
    if not agrees:
        raise typer.Exit(1)


def write_log(path: Path, rows: Iterable[Row]) -> int:
    """Gives the number of rows."""
    count = 0
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(COLUMNS)
        for row in rows:
            writer.writerow(row)
            count += 1
    return count


def _map(path: Path | None) -> dict[str, str]:
    if path is None:
        return {}
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise QueryError(f"{path}: {error}") from None
    if not isinstance(found, dict) or not all(isinstance(one, str) for one in found.values()):
        raise QueryError(f"{path}: a map is an object of field and column, both text")
    return found


def _depths(text: str) -> tuple[int | None, int | None]:
    if not text:
        return None, None
    first, _, last = text.partition("-")
    try:
        return int(first), int(last or first)
    except ValueError:
        raise typer.BadParameter("--depths is written 4-9 or 4") from None


def _log_text(found: dict[str, Any]) -> str:
    rows = [f"{found['events']:,} events in {found['rows']:,} rows"]
    for one in found["refused"]:
        rows.append(f"left out: {one['count']:,} rows with {one['why']}, first in rows {one['rows']}")
    for fault in found["faults"]:
        rows.append(f"{fault['fault']}: {fault['says']} (rows {', '.join(map(str, fault['rows']))})")
    words = {"agrees": "agrees", "few": "too few to say", "differs": "does not agree"}
    for group in found["sources"]:
        rows.append(
            f"{group['source']} at depth {group['depth']}, {group['events']:,} events: "
            f"{words[group['verdict']]}"
        )
        for item in group["items"]:
            if item["verdict"] == "differs":
                rows.append(f"    {item['item']}: {item['observed']:,} of {item['expected']:,.1f} expected")
        for other in group["better"]:
            rows.append(
                f"    {other['times_likelier']:.3g} times likelier as {other['kind']} {other['id']} "
                f"at depth {other['depth']}"
            )
    return "\n".join(rows)


def told(text: str) -> None:
    print(text, file=sys.stderr)
