"""Commands of exchange: what goes out for a game's code, and logs that come back."""

from __future__ import annotations

import csv
import json
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Annotated, Any

import typer

from golddice.cli.options import GameArgument, JsonOption
from golddice.core.errors import QueryError
from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import COLUMNS, Row
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.odds_page import odds_page
from golddice.core.exchange.schemas import game_schema, thresholds_schema
from golddice.core.exchange.sheets.bodies import Preview
from golddice.core.exchange.sheets.guessing import guessed
from golddice.core.exchange.sheets.preview import preview, renamed
from golddice.core.exchange.sheets.writing import game_sheets
from golddice.core.exchange.thresholds import thresholds
from golddice.core.exchange.vectors import vectors
from golddice.core.game.models import Game
from golddice.files.game_file import game_text, read_game_file
from golddice.files.sheet_files import read_sheets, write_csvs, write_workbook

AS = ("thresholds", "vectors", "odds-page", "xlsx", "csv")


def install(app: typer.Typer) -> None:
    for command in (export, schema, log):
        app.command()(command)
    app.command(name="import")(take)


def export(
    game: GameArgument,
    form: Annotated[str, typer.Option("--as", metavar="FORM", help=f"One of {', '.join(AS)}.")],
    depths: Annotated[str, typer.Option("--depths", metavar="A-B", help="Default: all.")] = "",
    out: Annotated[Path | None, typer.Option("--out", metavar="FILE")] = None,
) -> None:
    """Write a game for others: thresholds for its code and vectors to hold it against, a page of odds for
    players, a workbook, or a ZIP of CSVs; odds at --depths."""
    loaded = read_game_file(game)
    first, last = _depths(depths)
    if form not in AS:
        raise typer.BadParameter(f"--as is one of {', '.join(AS)}")
    if form in ("xlsx", "csv"):
        _export_sheets(loaded, form, first, last, out)
        return
    if form == "odds-page":
        text = odds_page(loaded, first, last)
    else:
        made = thresholds if form == "thresholds" else vectors
        text = json.dumps(made(loaded, first, last), ensure_ascii=False)
    if out is None:
        print(text)
    else:
        out.write_text(text + "\n", encoding="utf-8")


def _export_sheets(game: Game, form: str, first: int | None, last: int | None, out: Path | None) -> None:
    if out is None:
        raise typer.BadParameter(f"--out is wanted: a {'workbook' if form == 'xlsx' else 'ZIP'} is no text")
    low, high = game.depth.from_, game.depth.to
    depths = [] if first is None else range(max(first, low), min(last or first, high) + 1)
    sheets = game_sheets(game, depths)
    (write_workbook if form == "xlsx" else write_csvs)(out, sheets)
    told(f"{out}: {', '.join(f'{sheet.name} {len(sheet.rows):,}' for sheet in sheets)}")


def take(
    game: GameArgument,
    path: Annotated[Path, typer.Argument(metavar="FILE", help="XLSX, CSV, or a ZIP of CSV files.")],
    mapping: Annotated[
        Path | None, typer.Option("--map", metavar="MAP.json", help="Which column each head is.")
    ] = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only say what it would do.")] = False,
    out: Annotated[
        Path | None,
        typer.Option("--out", metavar="GAME", help="Default: the game's own file."),
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Take a spreadsheet into a game, and say what is new, changed and refused.

    Exit 1 where anything is refused; then nothing is written."""
    loaded = read_game_file(game)
    guesses = [guessed(loaded, one) for one in renamed(read_sheets(path), _map(mapping))]
    found, entities = preview(loaded, [one for one, _ in guesses])
    for sheet, by_contents in guesses:
        for column, head in by_contents.items():
            told(f"{sheet.name}: “{column}” is read as {head}, by what it holds; --map says it otherwise")
    print(json.dumps(found.plain(), ensure_ascii=False) if as_json else _preview_text(found))
    if found.refused:
        raise typer.Exit(1)
    if not dry_run and found.entries:
        written = out or game
        beside = written.with_name(f".{written.name}.new")
        beside.write_text(game_text(entities.game()), encoding="utf-8")
        beside.replace(written)
        told(f"written to {written}")


def _preview_text(found: Preview) -> str:
    rows = [f"new {one['kind']}: {one['name']} ({one['id']})" for one in found.new]
    for one in found.changed:
        rows.append(f"{one['kind']} {one['id']} {one['key']}: {one['before']} becomes {one['after']}")
    for one in found.refused:
        rows.append(f"refused: {one['sheet']} row {one['row']}, {one['column']}: {one['why']}")
    counts = f"{len(found.new)} new, {len(found.changed)} changed, {found.unchanged} rows as they were"
    return "\n".join([*rows, f"{counts}, {len(found.refused)} refused"])


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
    for group in [*found["sources"], *found["pooled"]]:
        where = "all depths together" if group["depth"] is None else f"depth {group['depth']}"
        rows.append(f"{group['source']} at {where}, {group['events']:,} events: {words[group['verdict']]}")
        rows += [f"    {says}" for says in _differences(group)]
        for other in group["better"]:
            way = f" with {other['each']} rolled line by line" if other.get("each") else ""
            rows.append(
                f"    {other['times_likelier']:.3g} times likelier as {other['kind']} {other['id']} "
                f"at depth {other['depth']}{way}"
            )
    return "\n".join(rows)


def _differences(group: dict[str, Any]) -> Iterator[str]:
    any_at_all, together = group["any"], group["together"]
    if any_at_all and any_at_all["verdict"] == "differs":
        due = f"{any_at_all['expected']:,.1f} expected"
        yield f"anything at all: in {any_at_all['observed']:,} events, {due}"
    if together and together["verdict"] == "differs":
        size = "beyond what can come" if together["value"] is None else f"chi-square {together['value']:.1f}"
        yield f"all things together: {size}, of {together['of']} degrees of freedom"
    for item in group["items"]:
        if item["verdict"] == "differs":
            yield f"{item['item']}: {item['observed']:,} of {item['expected']:,.1f} expected"
        wait, drought = item["wait"], item["drought"]
        if wait and wait["verdict"] == "differs":
            due = f"{wait['due'] * wait['players']:,.1f} expected"
            yield f"{item['item']}: {wait['had']:,} players had one within {wait['within']:,} events, {due}"
        if drought and drought["verdict"] == "differs":
            low, high = drought["due"]
            yield f"{item['item']}: {drought['longest']:,} events without, {low:,} to {high:,} expected"


def told(text: str) -> None:
    print(text, file=sys.stderr)
