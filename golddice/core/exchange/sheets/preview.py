"""Sheets held against a game: what is new, changed and refused, and the one edit that it comes to.

A cell that says what the game says already changes nothing, however it is written; so what went out comes
back as it was. What a sheet leaves out stays.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from golddice.core.errors import QueryError
from golddice.core.exchange.sheets.bodies import Bodies, Preview
from golddice.core.exchange.sheets.cells import Cell, Sheet, has_decimal_comma, is_same, text_of
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
    read_yields,
)
from golddice.core.exchange.sheets.curves import HEADS as CURVES
from golddice.core.exchange.sheets.curves import read_curves
from golddice.core.game.editing import EditError, Entities, Entry, new_id
from golddice.core.game.models import Game
from golddice.core.stopping import go_on

MOST_ROWS = 200_000
_TRIES = 3
_READS = {"tiers": "tier", "items": "item", "curves": "curve", "tables": "table", "sources": "source"}


def preview(game: Game, sheets: list[Sheet]) -> tuple[Preview, Entities]:
    """What sheets would make of a game, and the game's entities with it made. Tiers come before items, items
    before tables, whatever the order of the sheets."""
    found = Preview()
    bodies = Bodies(game)
    order = list(_READS)
    known = [(sheet, kind_of(sheet)) for sheet in sheets]
    for sheet, kind in sorted(known, key=lambda one: order.index(one[1]) if one[1] in order else len(order)):
        if kind == "curves":
            read_curves(game, bodies, found, sheet)
        elif kind is not None:
            _Reader(game, bodies, found, sheet, _READS[kind]).read()
    entities = _made(game, bodies, found)
    before = _tags(bodies.entities)
    found.new += [{"kind": "tag", "id": tag, "name": tag} for tag in _tags(entities) if tag not in before]
    return found, entities


def heads_of(kind: str | None) -> list[str]:
    """The heads that are read on a sheet of a kind."""
    columns = {"tiers": TIERS, "items": ITEMS, "tables": [*TABLES, *LINES], "sources": SOURCES}
    found = [column.head for column in columns.get(kind or "", [])]
    if kind == "tables":
        found.append(QUANTITY)
    if kind == "sources":
        found += [one.head if one.head == "drop" else f"drop {one.head}" for one in DROPS]
    return CURVES if kind == "curves" else found


def renamed(sheets: list[Sheet], columns: Mapping[str, str]) -> list[Sheet]:
    """With the heads that are read here, where another column is said to be one: `columns` is by such a
    head. Raises QueryError of a column that no sheet has."""
    every = {text_of(head) for sheet in sheets for head in sheet.heads}
    for head, column in columns.items():
        if column not in every:
            raise QueryError(f"no sheet has a column “{column[:60]}”, which “{head[:60]}” should be")
    heads = {column: head for head, column in columns.items()}
    return [replace(sheet, heads=[heads.get(text_of(one), one) for one in sheet.heads]) for sheet in sheets]


def _tags(entities: Entities) -> dict[str, None]:
    items = entities.bodies["item"].values()
    return dict.fromkeys(tag for item in items for tag in item.get("tags", ()))


def kind_of(sheet: Sheet) -> str | None:
    """By its name, else by its heads; None of what is not read."""
    if sheet.name.strip().lower() in _READS:
        return sheet.name.strip().lower()
    heads = {head.strip().lower() for head in sheet.heads}
    if "table" in heads and heads & {"gives", "weight", "line"}:
        return "tables"
    if "source" in heads and heads & {"drop table", "drop"}:
        return "sources"
    if "name" in heads and heads & {"tier", "tags", "value"}:
        return "items"
    if {"curve", "depth", "multiplier"} <= heads:
        return "curves"
    return "tiers" if "name" in heads and heads & {"pips", "colour"} else None


class _Reader:
    def __init__(self, game: Game, bodies: Bodies, found: Preview, sheet: Sheet, kind: str) -> None:
        self.bodies, self.found, self.sheet, self.kind = bodies, found, sheet, kind
        self.names = Names(game, has_decimal_comma(sheet))
        for (of, id), body in bodies.edited.items():
            if self.names.find(of, id) is None:
                self.names.add(of, id, body.get("name", id))
        self.taken = set(bodies.parsed[kind]) | {id for of, id in bodies.edited if of == kind}
        heads = [text_of(head).lower() for head in sheet.heads]
        self.at = {head: at for at, head in enumerate(heads) if head and head not in heads[:at]}

    def read(self) -> None:
        for number, row in enumerate(self.sheet.rows, start=2):
            if number % 1000 == 0:
                go_on()
            if any(text_of(cell) for cell in row):
                self._row(number, row)

    def refuse(self, row: int, column: str, why: str) -> None:
        self.found.refused.append({"sheet": self.sheet.name, "row": row, "column": column, "why": why})

    def cell(self, row: list[Cell], head: str) -> Cell:
        at = self.at.get(head)
        return row[at] if at is not None and at < len(row) else None

    def _row(self, number: int, row: list[Cell]) -> None:
        simple = self.kind in ("tier", "item")
        id_head, name_head = ("id", "name") if simple else (self.kind, f"{self.kind} name")
        id = self._identity(number, text_of(self.cell(row, id_head)), text_of(self.cell(row, name_head)))
        if id is None:
            return
        before = len(self.found.changed) + len(self.found.new) + len(self.found.refused)
        columns = {"tier": TIERS, "item": ITEMS, "table": TABLES, "source": SOURCES}[self.kind]
        now = self.bodies.whole(self.kind, id)
        self._set(number, row, id, "", columns[1:], now, lambda: self._edit(id, number))
        if self.kind == "table":
            self._part(number, row, id, "line", "lines", LINES, "")
        elif self.kind == "source":
            self._part(number, row, id, "drop", "drops", DROPS, "drop ")
        if before == len(self.found.changed) + len(self.found.new) + len(self.found.refused):
            self.found.unchanged += 1

    def _edit(self, id: str, number: int) -> dict[str, Any]:
        return self.bodies.edit(self.kind, id, self.sheet.name, number)

    def _identity(self, number: int, id: str, name: str) -> str | None:
        """An id that is known, else a name; else it is new."""
        called = self.names.find(self.kind, id) or (self.names.find(self.kind, name) if name else None)
        if called:
            return called
        if not id and not name:
            self.refuse(number, self.kind, "the row names nothing: an id or a name is wanted")
            return None
        made = str(new_id(id or name, self.taken))
        self.taken.add(made)
        body = self._edit(made, number)
        body["name"] = name or id
        if self.kind == "table":
            body |= {"rule": "pick", "lines": []}
        elif self.kind == "source":
            body |= {"kind": "enemy", "drops": []}
        self.names.add(self.kind, made, body["name"])
        self.found.new.append({"kind": self.kind, "id": made, "name": body["name"]})
        return made

    def _part(
        self, number: int, row: list[Cell], id: str, head: str, key: str, columns: list[Column], before: str
    ) -> None:
        """A line or a drop: that of its id, else a new one."""
        cells = [column.head if column.head == head else before + column.head for column in columns]
        if not any(text_of(self.cell(row, one)) for one in [*cells, QUANTITY]):
            return
        part_id = text_of(self.cell(row, head))
        now: dict[str, Any] = next(
            (one for one in self.bodies.whole(self.kind, id).get(key, []) if one["id"] == part_id), {}
        )
        edited = self.bodies.edited.get((self.kind, id), self.bodies.whole(self.kind, id))
        rule = edited.get("rule", "pick") if self.kind == "table" else ""
        if not now:
            parts = self._edit(id, number).setdefault(key, [])
            if any(one["id"] == part_id for one in parts):
                self.refuse(number, head, f"“{part_id[:60]}” stands twice")
                return
            told = part_id or text_of(self.cell(row, before + columns[1].head)) or head
            part_id = part_id or new_id(told, {one["id"] for one in parts})
            parts.append({"id": part_id} | ({"yields": []} if key == "lines" else {}))
            self.found.new.append({"kind": head, "id": f"{id}/{part_id}", "name": told})
        fitting = [one for one in columns[1:] if not one.fits or rule in one.fits]

        def part() -> dict[str, Any]:
            parts: list[dict[str, Any]] = self._edit(id, number).setdefault(key, [])
            found = next((one for one in parts if one["id"] == part_id), None)
            if found is None:
                found = {"id": part_id}  # of a source that is like another
                parts.append(found)
            return found

        self._set(number, row, id, f"{part_id}/", fitting, now, part, before)
        if key == "lines":
            self._yields(number, row, id, part_id, now, part)

    def _yields(
        self, number: int, row: list[Cell], id: str, line: str, now: dict[str, Any], part: Any
    ) -> None:
        """What a line gives is in two cells, read together."""
        given, count = self.cell(row, "gives"), self.cell(row, QUANTITY)
        gives = next(one for one in LINES if one.key == "yields")
        had = gives.write(self.names, now.get("yields")), quantities(self.names, now.get("yields"))
        given = had[0] if "gives" not in self.at else given
        count = had[1] if QUANTITY not in self.at else count
        if is_same(given, had[0]) and is_same(count, had[1]):
            return
        try:
            part()["yields"] = read_yields(self.names, text_of(given), text_of(count))
        except ValueError as error:
            self.refuse(number, "gives", _why(error))
            return
        if now:
            for key, old, new in (("gives", had[0], given), ("quantity", had[1], count)):
                if not is_same(old, new):
                    self._changed(id, f"{line}/{key}", old, new)

    def _set(
        self,
        number: int,
        row: list[Cell],
        id: str,
        path: str,
        columns: list[Column],
        now: dict[str, Any],
        body: Any,
        before: str = "",
    ) -> None:
        for column in columns:
            head = before + column.head
            if head not in self.at or column.key == "yields":
                continue
            cell = self.cell(row, head)
            had = column.write(self.names, now[column.key]) if now and column.key in now else None
            if is_same(cell, had) or (not now and not text_of(cell)):
                continue
            try:
                if text_of(cell):
                    typed = repr(cell) if isinstance(cell, float) else text_of(cell)
                    body()[column.key] = column.read(self.names, typed)
                else:
                    body().pop(column.key, None)
            except ValueError as error:
                self.refuse(number, head, _why(error))
                continue
            if now:
                self._changed(id, f"{path}{column.key}", had, cell)

    def _changed(self, id: str, key: str, before: Cell, after: Cell) -> None:
        told = {"kind": self.kind, "id": id, "key": key, "before": before, "after": after}
        if told not in self.found.changed[-40:]:  # a table's own cells stand in each of its rows
            self.found.changed.append(told)


def _why(error: ValueError) -> str:
    return str(error).splitlines()[0][:200]


def _made(game: Game, bodies: Bodies, found: Preview) -> Entities:
    """All at once; an entity that would be unsound is left as it was, and told."""
    entries = {key: Entry(key[0], key[1], body) for key, body in bodies.edited.items()}
    for _ in range(_TRIES):
        try:
            entities = bodies.entities.edited(entries.values())
        except EditError as error:
            bad = {(place.kind, place.id) for place in error.places} & set(entries)
            for place in error.places:
                sheet, row = bodies.rows.get((place.kind, place.id), (place.kind, 0))
                found.refused.append({"sheet": sheet, "row": row, "column": place.path, "why": place.message})
            if not bad:
                break
            for key in bad:
                entries.pop(key)
            found.new = [one for one in found.new if not _is_of(one, bad)]
            found.changed = [one for one in found.changed if (one["kind"], one["id"]) not in bad]
        else:
            found.entries = list(entries.values())
            return entities
    found.new, found.changed, found.entries = [], [], []
    return bodies.entities


def _is_of(told: dict[str, Any], bad: set[tuple[str, str]]) -> bool:
    kind = {"line": "table", "drop": "source"}.get(told["kind"], told["kind"])
    return (kind, told["id"].split("/")[0]) in bad
