"""A game as sheets."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from golddice.core.exchange.sheets.cells import Cell, Sheet
from golddice.core.exchange.sheets.columns import (
    DROPS,
    ITEMS,
    LINES,
    QUANTITY,
    SOURCES,
    TABLES,
    TIERS,
    Column,
    Names,
    quantities,
)
from golddice.core.exchange.sheets.curves import HEADS as CURVES
from golddice.core.exchange.sheets.curves import curve_rows
from golddice.core.game.models import Game
from golddice.core.game.reading import whole
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from golddice.core.stopping import go_on

LINE_HEADS = [column.head for column in LINES[:2]] + [QUANTITY] + [column.head for column in LINES[2:]]

ONLY_OUT = frozenset({"bands", "targets", "odds"})
"""Sheets that are written to be read by people, and never read back."""


def game_sheets(game: Game, depths: Sequence[int] = ()) -> list[Sheet]:
    """What can be read back; bands, targets, and the odds of every source at these depths are only read."""
    names = Names(game)
    found = [
        Sheet("Tiers", _heads(TIERS), [_cells(names, TIERS, whole(one)) for one in game.tiers]),
        Sheet("Items", _heads(ITEMS), [_cells(names, ITEMS, whole(one)) for one in game.items]),
        Sheet("Tables", [*_heads(TABLES), *LINE_HEADS], table_rows(names, game)),
        Sheet("Sources", [*_heads(SOURCES), *_heads(DROPS, "drop ")], source_rows(names, game)),
        Sheet("Curves", CURVES, curve_rows(game)),
        _bands(game),
        _targets(game),
    ]
    return [*found, *([_odds(game, depths)] if depths else [])]


def _bands(game: Game) -> Sheet:
    """Only to be read."""
    heads = ["band", "from", "to", "spawn table", "encounters", "between seconds"]
    tables = {table.id: table.name for table in game.tables}
    return Sheet(
        "Bands",
        heads,
        [
            [
                band.name,
                band.from_,
                band.to,
                tables.get(band.spawns or ""),
                str(band.encounters),
                band.between_seconds,
            ]
            for band in game.depth.bands
        ],
    )


def _targets(game: Game) -> Sheet:
    """Only to be read."""
    heads = ["target", "about", "figure", "of", "side", "wanted", "tolerance", "depths"]
    rows: list[list[Cell]] = []
    for one in game.targets:
        about = one.source or one.table or one.route or one.place or one.stall
        of = one.item or one.tier or one.tag or one.set or one.slot or one.good
        depths = None if one.depths is None else f"{one.depths[0]}-{one.depths[1]}"
        rows.append([one.name, about, one.figure, of, one.side, one.wanted, one.tolerance, depths])
    return Sheet("Targets", heads, rows)


def table_rows(names: Names, game: Game) -> list[list[Cell]]:
    """A row for each line, and one for a table without any."""
    rows = []
    for table in game.tables:
        body = whole(table)
        head = _cells(names, TABLES, body)
        for line in body["lines"] or [{}]:
            rows.append([*head, *line_cells(names, line)])
    return rows


def line_cells(names: Names, line: dict[str, Any]) -> list[Cell]:
    cells = _cells(names, LINES, line)
    return [*cells[:2], quantities(names, line.get("yields")), *cells[2:]]


def source_rows(names: Names, game: Game) -> list[list[Cell]]:
    """A row for each drop; of a source that is like another all that it has."""
    rows = []
    for source in game.sources:
        body = whole(source)
        head = _cells(names, SOURCES, body)
        for drop in body["drops"] or [{}]:
            rows.append([*head, *_cells(names, DROPS, drop)])
    return rows


def _heads(columns: list[Column], before: str = "") -> list[str]:
    """`before` tells apart what two parts of one row have."""
    return [before + column.head if before and column.head != "drop" else column.head for column in columns]


def _cells(names: Names, columns: list[Column], body: dict[str, Any]) -> list[Cell]:
    return [column.write(names, body[column.key]) if column.key in body else None for column in columns]


def _odds(game: Game, depths: Sequence[int]) -> Sheet:
    heads = ["source", "depth", "item", "chance", "one in", "mean", "per hour"]
    rows: list[list[Cell]] = []
    names = {item.id: item.name for item in game.items}
    for source in game.sources:
        for depth in depths:
            go_on()
            if source.depths is not None and not source.depths[0] <= depth <= source.depths[1]:
                continue
            told = odds(game, View("source", source.id), depth=depth)
            for item, one in told["items"].items():
                per_hour = one["mean"] * 3600 / source.seconds
                rows.append(
                    [source.name, depth, names[item], one["p_any"], one["one_in"], one["mean"], per_hour]
                )
    return Sheet("Odds", heads, rows)
