"""Curves as rows, a point each: written, and read back."""

from __future__ import annotations

from typing import Any

from golddice.core.exchange.sheets.bodies import Bodies, Preview
from golddice.core.exchange.sheets.cells import Cell, Sheet, has_decimal_comma, is_same, number_of, text_of
from golddice.core.exchange.sheets.columns import Names
from golddice.core.game.editing import new_id
from golddice.core.game.models import Game

HEADS = ["curve", "curve name", "shape", "depth", "multiplier"]
Points = dict[int, float]


def curve_rows(game: Game) -> list[list[Cell]]:
    return [
        [curve.id, curve.name, curve.shape, depth, multiplier]
        for curve in game.curves
        for depth, multiplier in curve.points
    ]


def read_curves(game: Game, bodies: Bodies, found: Preview, sheet: Sheet) -> None:
    """The rows of a curve are all its points. One with a row that cannot be read stays as it is."""
    heads = [text_of(head).lower() for head in sheet.heads]
    at = {head: heads.index(head) for head in HEADS if head in heads}
    names, comma = Names(game), has_decimal_comma(sheet)
    read: dict[str, Points] = {}
    bad: set[str] = set()
    told: dict[str, tuple[str, int]] = {}
    for number, row in enumerate(sheet.rows, start=2):

        def cell(head: str, row: list[Cell] = row) -> Cell:
            place = at.get(head)
            return row[place] if place is not None and place < len(row) else None

        key = text_of(cell("curve")) or text_of(cell("curve name"))
        if not key:
            continue
        told.setdefault(key, (text_of(cell("curve name")) or key, number))
        try:
            depth, multiplier = number_of(text_of(cell("depth"))), _number(cell("multiplier"), comma)
            if depth % 1 or depth < 1:
                raise ValueError("a depth is a whole number from 1")
        except ValueError as error:
            found.refused.append(
                {"sheet": sheet.name, "row": number, "column": "multiplier", "why": str(error)[:200]}
            )
            bad.add(key)
            continue
        read.setdefault(key, {})[int(depth)] = multiplier
    taken = set(bodies.parsed["curve"])
    for key, points in read.items():
        if key not in bad:
            _take(bodies, found, sheet, names, taken, key, *told[key], points)


def _number(cell: Cell, comma: bool) -> float:
    return float(cell) if isinstance(cell, int | float) else number_of(text_of(cell), comma)


def _take(
    bodies: Bodies,
    found: Preview,
    sheet: Sheet,
    names: Names,
    taken: set[str],
    key: str,
    name: str,
    row: int,
    points: Points,
) -> None:
    known = names.find("curve", key) or names.find("curve", name)
    id = known or str(new_id(key, taken))
    taken.add(id)
    had: Points = dict(bodies.whole("curve", id).get("points", [])) if known else {}
    if known and _alike(had, points):
        found.unchanged += len(points)
        return
    body: dict[str, Any] = bodies.edit("curve", id, sheet.name, row)
    body["points"] = [[depth, points[depth]] for depth in sorted(points)]
    if not known:
        body["name"] = name
        names.add("curve", id, name)
        found.new.append({"kind": "curve", "id": id, "name": name})
        return
    for depth in sorted({*had, *points}):
        before, after = had.get(depth), points.get(depth)
        if not is_same(after, before):
            one = {"kind": "curve", "id": id, "key": f"points/{depth}", "before": before, "after": after}
            found.changed.append(one)


def _alike(had: Points, points: Points) -> bool:
    return had.keys() == points.keys() and all(is_same(points[depth], had[depth]) for depth in had)
