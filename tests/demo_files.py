"""Makes what ships beside the demo game to be tried: a workbook with some edits, and a log with two faults.

`python -m tests.demo_files` writes both into demo/.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path

from golddice.core.exchange.logs.making import COLUMNS, Row, log_of_source
from golddice.core.exchange.sheets.cells import Sheet
from golddice.core.exchange.sheets.writing import game_sheets
from golddice.core.game.models import Game
from golddice.files.game_file import read_game_file
from golddice.files.sheet_files import workbook_bytes

DEMO = Path(__file__).resolve().parents[1] / "demo"
GAME = DEMO / "saltglass-deep.golddice.json"
WORKBOOK, SESSION = DEMO / "saltglass-deep.xlsx", DEMO / "saltglass-session.csv"


def edited_sheets(game: Game) -> list[Sheet]:
    """Lamp oil is worth more, an eel catch is heavier in beacon lenses, and there is a tar barrel."""
    sheets = {sheet.name: sheet for sheet in game_sheets(game, [])}
    items, tables = sheets["Items"], sheets["Tables"]
    value, name = items.heads.index("value"), items.heads.index("name")
    for row in items.rows:
        if row[name] == "Lamp oil":
            row[value] = 8
    barrel: list[str | int | float | bool | None] = [None] * len(items.heads)
    barrel[name], barrel[items.heads.index("tier")], barrel[value] = "Tar barrel", "Salvage", 5
    items.rows.append(barrel)
    weight, gives = tables.heads.index("weight"), tables.heads.index("gives")
    for row in tables.rows:
        if row[tables.heads.index("table")] == "eel-catch" and row[gives] == "Beacon lens":
            row[weight] = 3
    return list(sheets.values())


def session(game: Game) -> Iterator[Row]:
    """Eels whose eelskin never comes by three, and chests that roll again when they are opened again."""
    skin = "eelskin"
    for row in log_of_source(game, "lantern-eel", depth=14, flags=(), players=40, events=60, seed=11):
        *head, item, count = row
        yield (*head, item, min(int(count), 2) if item == skin and count == 3 else count)  # type: ignore[misc]
    for row in log_of_source(game, "silt-crab", depth=3, flags=(), players=40, events=60, seed=12):
        yield (f"c{row[0]}", row[1], row[2], row[3], f"c{row[4]}", *row[5:])
    opened = list(log_of_source(game, "kiln-chest", depth=12, flags=(), players=40, events=6, seed=13))
    for row in opened:
        yield (f"k{row[0]}", row[1], row[2], row[3], f"k{row[4]}", *row[5:])
    for row in opened[:60]:
        yield (f"k{row[0]}-again", row[1] + 300, row[2], row[3], f"k{row[4]}", *row[5:])


def session_text(game: Game) -> str:
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows(session(game))
    return text.getvalue()


def main() -> None:
    game = read_game_file(GAME)
    WORKBOOK.write_bytes(workbook_bytes(edited_sheets(game)))
    SESSION.write_text(session_text(game), encoding="utf-8")
    print(f"{WORKBOOK.name}: {WORKBOOK.stat().st_size:,} bytes; {SESSION.name}: {SESSION.stat().st_size:,}")


if __name__ == "__main__":
    main()
