"""Cells: what a spreadsheet holds, read as people write it there."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

Cell = str | int | float | bool | None

MOST_TEXT = 20_000
_SPACES = re.compile(r"[\s\u00a0\u202f\u2009]+")
_BROKEN = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_DECIMAL_COMMA = re.compile(r"^[+-]?\d+,(\d{1,2}|\d{4,})\s*%?$")
_THOUSANDS = re.compile(r"^[+-]?\d{1,3}(,\d{3})+(\.\d+)?$")
_NUMBER = re.compile(r"^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$")


@dataclass(frozen=True)
class Sheet:
    """Of one name, a head and rows below it, each as long as the head."""

    name: str
    heads: list[str]
    rows: list[list[Cell]]


def text_of(cell: Cell) -> str:
    """As it is read: one space for many, none around, nothing that no spreadsheet can hold."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else ""
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    return _SPACES.sub(" ", _BROKEN.sub("", str(cell))).strip()


def has_decimal_comma(sheet: Sheet) -> bool:
    """Whether a number anywhere on the sheet can only be meant so."""
    return any(isinstance(c, str) and _DECIMAL_COMMA.match(c.strip()) for row in sheet.rows for c in row)


def number_of(text: str, comma: bool = False) -> float:
    """12, 1 250, 1,250, 0,5 (where commas are decimal), 40 %, 1/250, 1 in 250. Raises ValueError."""
    bare = text.replace(" ", "").lower()
    if not bare or len(bare) > 100:
        raise ValueError("a number is wanted")
    if bare.endswith("%"):
        return number_of(bare[:-1], comma) / 100
    for sign in ("/", "in", ":"):
        if sign in bare:
            top, _, bottom = bare.partition(sign)
            below = number_of(bottom, comma)
            if below == 0:
                raise ValueError(f"“{text}” is divided by nothing")
            return number_of(top, comma) / below
    if comma:
        bare = bare.replace(".", "").replace(",", ".") if "," in bare else bare
    elif _THOUSANDS.match(bare):
        bare = bare.replace(",", "")
    if not _NUMBER.match(bare):
        raise ValueError(f"“{text[:40]}” is no number")
    try:
        return float(Fraction(bare)) if "e" not in bare else float(bare)
    except OverflowError:
        raise ValueError(f"“{text[:40]}” is too large") from None


def whole_of(text: str, comma: bool = False) -> int:
    number = number_of(text, comma)
    if not number.is_integer():
        raise ValueError(f"“{text[:40]}” is no whole number")
    return int(number)


def is_same(one: Cell, other: Cell) -> bool:
    """Whether two cells say the same: numbers to the 15 digits that a spreadsheet keeps, else as text."""
    if one == other and type(one) is type(other):
        return True
    numeric = (int, float)
    if isinstance(one, bool) or isinstance(other, bool):
        return text_of(one).lower() == text_of(other).lower()
    if isinstance(one, numeric) or isinstance(other, numeric):
        try:
            return f"{number_of(_bare(one)):.15g}" == f"{number_of(_bare(other)):.15g}"
        except ValueError:
            return False
    return text_of(one) == text_of(other)


def _bare(cell: Cell) -> str:
    return repr(cell) if isinstance(cell, float) else text_of(cell)
