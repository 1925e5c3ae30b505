"""Which column is what, where its head does not say so: by what most of its cells hold."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import replace

from golddice.core.exchange.sheets.cells import Sheet, has_decimal_comma, number_of, text_of
from golddice.core.exchange.sheets.columns import Names, read_gives, read_quantity
from golddice.core.exchange.sheets.preview import heads_of, kind_of
from golddice.core.exchange.sheets.writing import ONLY_OUT
from golddice.core.game.models import RULES, Game

ASIDE = "("  # begins the head of a column of which it was said that it is nothing here
_MOST = 0.8  # of the cells that are not empty
_LOOKED_AT = 200  # rows
_OF_LINES = {"table", "group", "range", "share", "rule"}  # what a list of items hardly has
_COLOUR = re.compile(r"^#[0-9a-f]{6}$", re.IGNORECASE)
_SHARE = re.compile(r"%$|/|\bin\b", re.IGNORECASE)
_ROLES = {
    "items": (("tier", "tier"), ("name", "label"), ("value", "number")),
    "tables": (
        ("gives", "given"),
        ("quantity", "range"),
        ("rule", "rule"),
        ("table", "table"),
        ("table", "group"),
        ("chance", "share"),
        ("weight", "number"),
    ),
    "sources": (("source", "source"), ("drop table", "table"), ("drop chance", "share")),
    "tiers": (("colour", "colour"), ("name", "label")),
}
"""Of each kind of sheet the heads that are read, in the order in which they are sought, and what a column of
one holds."""


def guessed(game: Game, sheet: Sheet) -> tuple[Sheet, dict[str, str]]:
    """The sheet with the heads that its columns seem to be, and by each such column which head it got. What a
    head says for itself stands."""
    if is_only_out(sheet):
        return sheet, {}
    names = Names(game, has_decimal_comma(sheet))
    columns = [_values(sheet, at) for at in range(len(sheet.heads))]
    holds = [set(_holds(names, values)) for values in columns]
    kind = kind_of(sheet) or _kind(holds)
    known = set(heads_of(kind))
    read = {text_of(head).lower() for head in sheet.heads} & known
    heads, found = list(sheet.heads), dict[str, str]()
    for head, role in _ROLES.get(kind or "", ()):
        free = [at for at, of in enumerate(holds) if role in of and _is_free(heads[at], known, found)]
        if head in read or not free:
            continue
        heads[free[0]], found[text_of(sheet.heads[free[0]])] = head, head
        read.add(head)
    return replace(sheet, heads=heads), found


def is_only_out(sheet: Sheet) -> bool:
    """One of our own workbook's that is there to be read by people: nothing is asked about it."""
    return sheet.name.strip().lower() in ONLY_OUT


def _is_free(head: str, known: set[str], found: dict[str, str]) -> bool:
    text = text_of(head)
    return text.lower() not in known and text not in found and not text.startswith(ASIDE)


def _values(sheet: Sheet, at: int) -> list[str]:
    texts = (text_of(row[at]) for row in sheet.rows[:_LOOKED_AT] if at < len(row))
    return [text for text in texts if text]


def _kind(holds: list[set[str]]) -> str | None:
    """Of a sheet whose heads say nothing."""
    every = set[str]().union(*holds) if holds else set()
    if {"source", "table"} <= every:
        return "sources"
    is_list = {"tier", "label"} <= every
    if "given" in every and every & {"share", "number"} and not (is_list and not every & _OF_LINES):
        return "tables"
    if is_list:
        return "items"
    return "tiers" if {"colour", "label"} <= every else None


def _holds(names: Names, values: list[str]) -> Iterator[str]:
    """All that a column could be."""
    if not values:
        return

    def mostly(fits: Callable[[str], object]) -> bool:
        return sum(_fits(fits, text) for text in values) >= _MOST * len(values)

    for kind in ("tier", "table", "source"):
        if mostly(lambda text, kind=kind: names.find(kind, text) is not None):  # type: ignore[misc]
            yield kind
    if mostly(lambda text: text.lower() in RULES):
        yield "rule"
    if mostly(_COLOUR.match):
        yield "colour"
    is_number = mostly(lambda text: number_of(text, names.comma) >= 0)
    if is_number and mostly(_SHARE.search):
        yield "share"
    elif is_number:
        yield "number"
    elif mostly(lambda text: read_quantity(names, text)):
        yield "range"
    elif not mostly(_COLOUR.match):
        # A table's own name is no item's, but what a line gives may be a table.
        is_given = any(names.find("item", text) for text in values)
        is_given = is_given and mostly(lambda text: read_gives(names, text))
        if is_given:
            yield "given"
        if len(set(values)) == len(values):
            yield "label"
        elif not is_given:
            yield "group"


def _fits(fits: Callable[[str], object], text: str) -> bool:
    try:
        return bool(fits(text))
    except (ValueError, ArithmeticError):
        return False
