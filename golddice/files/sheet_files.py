"""Sheets in files: workbooks (XLSX), CSV (RFC 4180, UTF-8), and CSVs in a ZIP."""

from __future__ import annotations

import csv
import io
import lzma
import re
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from golddice.core.errors import QueryError
from golddice.core.exchange.sheets.cells import MOST_TEXT, Cell, Sheet, text_of
from golddice.core.exchange.sheets.preview import MOST_ROWS

LARGEST = 20 * 2**20
LARGEST_UNPACKED = 64 * 2**20
MOST_COLUMNS = 1_000
MOST_CELLS = 1_000_000
MOST_PARTS = 500
_RUNS = ("=", "+", "-", "@", "\t", "\r")  # what a spreadsheet would take for a formula
_WIDEST = 40
_SHEET = re.compile(r"worksheets/[^/]{1,100}\.xml$")
# Nothing in these can be come back to: each part is bounded.
_CELL = re.compile(rb"<(?:[A-Za-z0-9]{1,20}:)?c[ />]")
_AT = re.compile(rb"""[ \t\r\n]r=["']([A-Z]{1,20})([0-9]{1,20})["']""")
# What a file that is damaged, or was never one, is met with.
_BROKEN = (
    *(zipfile.BadZipFile, zlib.error, lzma.LZMAError, RuntimeError, NotImplementedError),
    *(KeyError, ValueError, OSError, EOFError),
)


def write_workbook(path: Path, sheets: list[Sheet]) -> None:
    path.write_bytes(workbook_bytes(sheets))


def workbook_bytes(sheets: list[Sheet]) -> bytes:
    """Typed cells, a frozen head, columns as wide as what stands in them. Text is never a formula."""
    import openpyxl
    from openpyxl.styles import Font

    book = openpyxl.Workbook()
    book.remove(book.active)
    for sheet in sheets:
        page = book.create_sheet(sheet.name)
        rows: list[list[Cell]] = [[*sheet.heads], *sheet.rows]
        for at, row in enumerate(rows, start=1):
            for column, value in enumerate(row, start=1):
                if value is not None and value != "":
                    cell = page.cell(at, column, text_of(value) if isinstance(value, str) else value)
                    if isinstance(value, str):
                        cell.data_type = "s"
                    if at == 1:
                        cell.font = Font(bold=True)
        page.freeze_panes = "A2"
        for column, head in enumerate(sheet.heads):
            widest = max((len(text_of(row[column])) for row in sheet.rows), default=0)
            letter = openpyxl.utils.get_column_letter(column + 1)
            page.column_dimensions[letter].width = min(max(widest, len(head)) + 2, _WIDEST)
    content = io.BytesIO()
    book.save(content)
    return content.getvalue()


def write_csvs(path: Path, sheets: list[Sheet]) -> None:
    path.write_bytes(csvs_bytes(sheets))


def csvs_bytes(sheets: list[Sheet]) -> bytes:
    """A ZIP with a CSV of each sheet."""
    content = io.BytesIO()
    with zipfile.ZipFile(content, "w", zipfile.ZIP_DEFLATED) as packed:
        for sheet in sheets:
            packed.writestr(f"{sheet.name}.csv", csv_text(sheet))
    return content.getvalue()


def csv_text(sheet: Sheet) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerows([sheet.heads, *([_inert(cell) for cell in row] for row in sheet.rows)])
    return out.getvalue()


def _inert(cell: Cell) -> str:
    """Text that no spreadsheet runs: an apostrophe stands before it."""
    if isinstance(cell, str):
        text = text_of(cell)
        return f"'{text}" if text.startswith((*_RUNS, "'")) else text
    return repr(cell) if isinstance(cell, float) else text_of(cell)


def read_sheets(path: Path) -> list[Sheet]:
    """Of an XLSX, a ZIP of CSVs or a CSV. Raises QueryError."""
    try:
        if path.stat().st_size > LARGEST:
            raise QueryError(f"{path.name} is over {LARGEST // 2**20} MB; take out what is not needed")
        content = path.read_bytes()
    except OSError as error:
        raise QueryError(f"{path}: {error.strerror}") from None
    return sheets_of(path.name, content)


def sheets_of(name: str, content: bytes) -> list[Sheet]:
    """The same of what a file holds."""
    if len(content) > LARGEST:
        raise QueryError(f"{name} is over {LARGEST // 2**20} MB; take out what is not needed")
    stem = Path(name).stem or "Sheet"
    sheets = _packed(name, content) if content.startswith(b"PK") else [_csv(stem, content)]
    if sum(len(sheet.rows) for sheet in sheets) > MOST_ROWS:
        raise QueryError(f"{name} has over {MOST_ROWS:,} rows")
    return sheets


def _packed(name: str, content: bytes) -> list[Sheet]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            parts = packed.infolist()
            if len(parts) > MOST_PARTS:
                raise QueryError(f"{name} has over {MOST_PARTS} parts; take out what is not needed")
            if sum(part.file_size for part in parts) > LARGEST_UNPACKED:
                raise QueryError(f"{name} unpacks to more than {LARGEST_UNPACKED // 2**20} MB")
            if any(part.flag_bits & 1 for part in parts):
                raise QueryError(f"{name} is locked with a password; save it without one")
            if not any(part.filename == "[Content_Types].xml" for part in parts):
                tables = [part for part in parts if part.filename.lower().endswith(".csv")]
                return [_csv(Path(part.filename).stem, packed.read(part)) for part in tables]
            for part in parts:
                if _SHEET.search(part.filename):
                    _check_extent(packed.read(part))
        return list(_workbook(content))
    except QueryError:
        raise
    except _BROKEN as error:
        raise QueryError(f"{name} is no workbook that can be read: {str(error)[:200]}") from None


def _workbook(content: bytes) -> Iterator[Sheet]:
    """Values only, as they were last worked out: nothing is evaluated, no link followed."""
    import python_calamine

    try:
        with python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(content)) as book:
            for title in book.sheet_names:
                page = book.get_sheet_by_name(title)
                if page.height > MOST_ROWS:
                    raise QueryError(f"the sheet “{title}” has over {MOST_ROWS:,} rows")
                _check_cells(title, page.height, page.width)
                rows = [[_plain(value) for value in row[:MOST_COLUMNS]] for row in page.iter_rows()]
                yield _sheet(title, rows)
    except QueryError:
        raise
    except (python_calamine.CalamineError, *_BROKEN) as error:
        raise QueryError(f"no workbook that can be read: {str(error)[:200]}") from None


def _check_extent(sheet: bytes) -> None:
    """How far the cells of a sheet reach, before they are read: what is empty between them is held too.
    Raises QueryError."""
    if sum(1 for _ in _CELL.finditer(sheet)) > MOST_CELLS:
        raise QueryError(f"a sheet has over {MOST_CELLS:,} cells; take out what is not needed")
    letters, digits = [b""], [b"0"]
    for match in _AT.finditer(sheet):
        letters.append(match[1])
        digits.append(match[2])
    if max(map(len, letters)) > 3 or max(map(len, digits)) > 7:
        raise QueryError("a sheet has a cell that lies outside of every sheet; save it anew")
    last = max(letters, key=lambda one: (len(one), one))
    columns = 0
    for letter in last:
        columns = 26 * columns + letter - 64
    rows = max(map(int, digits))
    if rows * columns > MOST_CELLS:
        told = f"a sheet reaches down to row {rows:,} and out to column {last.decode()}"
        raise QueryError(f"{told}, over {MOST_CELLS:,} cells; clear what lies beside the table, formats too")


def _check_cells(name: str, rows: int, columns: int) -> None:
    """All rows are made as long as the longest. Raises QueryError."""
    if rows * columns > MOST_CELLS:
        told = f"{rows:,} rows of {columns:,} columns"
        raise QueryError(f"“{name}” has {told}, over {MOST_CELLS:,} cells; take out what is not needed")


def _plain(value: Any) -> Cell:
    """What is empty is None; a whole number is one."""
    if isinstance(value, bool | int):
        return value
    if isinstance(value, float):
        return int(value) if value.is_integer() and abs(value) < 2**53 else value
    return str(value)[:MOST_TEXT] or None


def _csv(name: str, content: bytes) -> Sheet:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        try:
            text = content.decode("utf-16") if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ""
        except UnicodeDecodeError:
            text = ""
        if not text:
            raise QueryError(f"{name} is not UTF-8 text; save it as CSV UTF-8") from None
    first = text.partition("\n")[0]
    mark = max(",;\t", key=first.count)
    csv.field_size_limit(LARGEST)
    lines = io.StringIO(text.replace("\r\n", "\n").replace("\r", "\n").replace("\0", ""))
    try:
        rows: list[list[Cell]] = []
        for row in csv.reader(lines, delimiter=mark):
            rows.append([_typed(cell) for cell in row[:MOST_COLUMNS]])
            if len(rows) > MOST_ROWS:
                raise QueryError(f"{name} has over {MOST_ROWS:,} rows")
    except csv.Error as error:
        raise QueryError(f"{name}: {error}") from None
    return _sheet(name, rows)


def _typed(cell: str) -> str:
    text = cell[:MOST_TEXT]
    return text[1:] if text.startswith("'") and text[1:].startswith((*_RUNS, "'")) else text


def _sheet(name: str, rows: list[list[Cell]]) -> Sheet:
    """Its head is the first row with anything in it; all rows are as long as the longest."""
    start = next((at for at, row in enumerate(rows) if any(text_of(cell) for cell in row)), len(rows))
    if start == len(rows):
        return Sheet(name, [], [])
    width = max(map(len, rows[start:]))
    _check_cells(name, len(rows) - start, width)
    wide = [row + [None] * (width - len(row)) for row in rows[start:]]
    return Sheet(name, [text_of(cell) for cell in wide[0]], wide[1:])
