"""A log's file in pieces: tables of text, in memory one after another.

What comes from outside is read by readers that are bounded in depth and length: whatever stands in a line,
the worst is that it is refused.
"""

from __future__ import annotations

import csv as csv_of_text
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import msgspec

from golddice.core.errors import QueryError

BLOCK = 1 * 2**20  # bytes that are read at a time
LONGEST_LINE = 256 * 2**10
_JSON = (".jsonl", ".ndjson", ".json")
_Plain = str | int | float | bool | None
_Cell = _Plain | list[_Plain]


def pieces(path: Path, wanted: Mapping[str, str]) -> Iterator[Any]:
    """Tables with a column of text for each field that there is. `wanted` says what each is called in the
    file, in small or large letters. Raises QueryError of what is no log."""
    try:
        if path.suffix.lower() in _JSON:
            yield from _of_json(path, wanted)
        else:
            yield from _of_csv(path, wanted)
    except UnicodeDecodeError:
        raise QueryError(f"{path.name} is not UTF-8 text; save it as such") from None
    except OSError as error:
        raise QueryError(str(error)) from None


# --- CSV ---------------------------------------------------------------------------------------------------


def _of_csv(path: Path, wanted: Mapping[str, str]) -> Iterator[Any]:
    import pyarrow as pa
    from pyarrow import csv

    heads = _heads(path)
    columns = _columns(heads, wanted)
    for column in columns.values():
        if heads.count(column) > 1:
            raise QueryError(f"the column “{column[:80]}” stands twice in the log; rename one of them")
    # One after another: pieces that are read ahead would lie in memory.
    options = csv.ReadOptions(block_size=BLOCK, use_threads=False)
    # No column is guessed: a type that changes in the midst of a file is no reason to stop.
    kept = sorted(set(columns.values()))
    text = csv.ConvertOptions(column_types=dict.fromkeys(kept, pa.string()), include_columns=kept)
    parse = csv.ParseOptions(newlines_in_values=False, invalid_row_handler=lambda row: "skip")
    try:
        with csv.open_csv(path, options, parse, text) as found:
            for piece in found:
                yield pa.table({field: piece.column(column) for field, column in columns.items()})
                pa.default_memory_pool().release_unused()
    except (pa.ArrowInvalid, pa.ArrowKeyError) as error:
        raise QueryError(f"{path.name} is no log that can be read: {str(error)[:200]}") from None


def _heads(path: Path) -> list[str]:
    with path.open(encoding="utf-8-sig", newline="") as file:
        first = file.readline(LONGEST_LINE)
    if len(first) >= LONGEST_LINE:
        raise QueryError(
            f"the first line of {path.name} has over {LONGEST_LINE:,} letters; it names the columns"
        )
    return next(csv_of_text.reader([first]), [])


def _columns(heads: list[str], wanted: Mapping[str, str]) -> dict[str, str]:
    """By field what its column is called, where there is one."""
    known = {head.strip().lower(): head for head in heads}
    asked = {field: name.strip().lower() for field, name in wanted.items()}
    return {field: known[name] for field, name in asked.items() if name in known}


# --- JSON Lines --------------------------------------------------------------------------------------------


def _of_json(path: Path, wanted: Mapping[str, str]) -> Iterator[Any]:
    row: Any = None
    number = 1
    with path.open("rb") as file:
        while lines := file.readlines(BLOCK):
            longest = max(lines, key=len)
            if len(longest) > LONGEST_LINE:
                at = number + lines.index(longest)
                raise QueryError(f"line {at:,} has over {LONGEST_LINE:,} bytes; a row is far shorter")
            told = [line for line in lines if not line.isspace()]
            if row is None and told:
                row = _row_of(told[0], number, wanted)
            if told:
                yield _table(row, _rows(row, lines, number))
            number += len(lines)
    if row is None:
        raise QueryError(f"{path.name} is empty")


def _row_of(first: bytes, number: int, wanted: Mapping[str, str]) -> Any:
    """The type of a row, by the keys of the first."""
    keys = _decoded(msgspec.json.Decoder(dict[str, Any]), first.removeprefix(b"\xef\xbb\xbf"), number)
    columns = _columns(list(keys), wanted)
    fields = [(field, _Cell, None) for field in columns]
    return msgspec.defstruct("Row", fields, rename=columns, gc=False)


def _rows(row: Any, lines: list[bytes], number: int) -> list[Any]:
    """`number` is that of the first line. Raises QueryError with the line that is no row."""
    decoder = msgspec.json.Decoder(row)
    lines[0] = lines[0].removeprefix(b"\xef\xbb\xbf")
    try:
        found: list[Any] = decoder.decode_lines(b"".join(lines))
        return found
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return [_decoded(decoder, line, number + at) for at, line in enumerate(lines) if not line.isspace()]


def _decoded(decoder: Any, line: bytes, number: int) -> Any:
    try:
        return decoder.decode(line)
    except msgspec.ValidationError as error:
        raise QueryError(f"line {number:,} is no row of a log: {str(error)[:200]}") from None
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise QueryError(f"line {number:,} is not JSON: {str(error)[:200]}") from None
    except RecursionError:
        raise QueryError(f"line {number:,} is nested too deep for a row of a log") from None


def _table(row: Any, rows: list[Any]) -> Any:
    import pyarrow as pa

    columns = {}
    for field in row.__struct_fields__:
        cells = [getattr(one, field) for one in rows]
        columns[field] = pa.array([_text(cell) for cell in cells], pa.string())
    return pa.table(columns)


def _text(cell: Any) -> str:
    if type(cell) is str:
        return cell
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 2**53:
        return str(int(cell))
    return " ".join(_text(one) for one in cell) if isinstance(cell, list) else str(cell)
