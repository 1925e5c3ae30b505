"""Reading a log: CSV or JSON Lines, in pieces, into flat columns of numbers."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray, IntArray, large_ones_apart
from golddice.core.errors import QueryError
from golddice.core.exchange.logs.hashing import numbered
from golddice.core.exchange.logs.pieces import BLOCK, pieces
from golddice.core.game.models import Game
from golddice.core.stopping import go_on, tell

FIELDS = ("event", "time", "player", "source", "instance", "depth", "flags", "item", "quantity")
RUN_FIELDS = ("event", "time", "player", "source", "instance", "depth", "flags")
_FEW = 5


@dataclass
class Log:
    """r rows that are sound, in the order of the file, and q runs of rows of one event that stand together;
    -1 for what is not there. What all rows of an event share is taken from its first.

    run : which run a row is of. item : its place in the game. event, player, instance : of each run, numbers
    of whatever they are called. source : its place. flags : of `flag_sets`. left_out : numbers in the file
    of the rows that are nonsense, rising; refused : how many, by why, with the first few.
    """

    rows: int
    run: IntArray
    item: IntArray
    quantity: IntArray
    event: IntArray
    time: FloatArray
    player: IntArray
    source: IntArray
    instance: IntArray
    depth: IntArray
    flags: IntArray
    left_out: IntArray
    flag_sets: list[frozenset[str]]
    refused: Counter[str] = field(default_factory=Counter)
    refused_rows: dict[str, list[int]] = field(default_factory=dict)

    def taken(self, name: str) -> Any:
        """A column that is wanted no more; it is long."""
        found = getattr(self, name)
        setattr(self, name, np.zeros(0, dtype=found.dtype))
        return found

    def numbers(self, rows: IntArray) -> IntArray:
        """Which rows of the file these are, the first is 1."""
        sound_before = self.left_out - np.arange(self.left_out.size) - 1
        return np.asarray(rows + 1 + np.searchsorted(sound_before, rows, side="right"))


def read_log(game: Game, path: Path, columns: Mapping[str, str] | None = None) -> Log:
    """`columns` says which column of the file each field is; else they are called as the fields are. Names or
    ids. Raises QueryError of what is no log."""
    large_ones_apart()
    reader = _Reader(game, path.stat().st_size if path.exists() else 0)
    wanted = {name: (columns or {}).get(name, name) for name in FIELDS}
    for table in _ahead(pieces(path, wanted)):
        go_on()
        reader.add(table)
        tell(rows=reader.rows)
    return reader.log()


class _Columns:
    """All rows so far, in arrays that are as long as the file is likely to have, and as narrow as what they
    hold: no second copy is made to put pieces together."""

    def __init__(self, kinds: Mapping[str, type]) -> None:
        self._arrays: dict[str, Any] = {name: np.zeros(0, dtype=kind) for name, kind in kinds.items()}
        self.size = 0

    def add(self, piece: Mapping[str, Any], likely: float) -> None:
        """`likely`: how many rows are likely to come in all, with these; believed of the first piece."""
        end = self.size + len(next(iter(piece.values())))
        for name, values in piece.items():
            array = self._wide_enough(name, values)
            if not array.size:
                self._arrays[name] = array = np.empty(int(1.02 * max(end, likely)), dtype=array.dtype)
            elif end > array.size:
                array.resize(end + end // 16, refcheck=False)  # in place, where the system can
            array[self.size : end] = values
        self.size = end

    def _wide_enough(self, name: str, values: Any) -> Any:
        array = self._arrays[name]
        if array.dtype.kind == "i" and values.size and int(values.max()) > np.iinfo(array.dtype).max:
            self._arrays[name] = array = array.astype(np.int64)
        return array

    def __getitem__(self, name: str) -> Any:
        return self._arrays[name][: self.size]


def _ahead(pieces: Iterator[Any]) -> Iterator[Any]:
    """The next piece is parsed while the last one is taken in."""
    with ThreadPoolExecutor(1) as reader:
        coming = reader.submit(next, pieces, None)
        while (piece := coming.result()) is not None:
            coming = reader.submit(next, pieces, None)
            yield piece


class _Reader:
    def __init__(self, game: Game, bytes_in_all: int) -> None:
        self.game, self.rows = game, 0
        self._bytes = bytes_in_all
        self._sources = _named(game.sources)
        self._items = _named(game.items)
        self._flags = {one.id for one in game.flags} | {one.name for one in game.flags}
        self._flag_ids = {one.name: one.id for one in game.flags} | {one.id: one.id for one in game.flags}
        self._sets: dict[frozenset[str], int] = {frozenset(): 0}
        self._rows = _Columns({"item": np.int16, "quantity": np.int16, "run": np.int32})
        self._runs = _Columns(
            {
                **dict.fromkeys(("event", "player", "instance"), np.int64),
                **dict.fromkeys(("depth", "flags"), np.int16),
                "time": np.float64,
                "source": np.int16,
            }
        )
        self._last: int | None = None  # the event of the last row so far
        self._left_out: list[IntArray] = []
        self._refused: Counter[str] = Counter()
        self._refused_rows: dict[str, list[int]] = {}

    def add(self, piece: Any) -> None:
        names = {field: self._head(piece, field) for field in FIELDS}
        for field_name in ("source", "item"):
            if names[field_name] is None:
                raise QueryError(f"the log has no column “{field_name}”; say which it is with --map")
        size = piece.num_rows
        number = np.arange(self.rows + 1, self.rows + size + 1, dtype=np.int32)
        self.rows += size
        found: dict[str, Any] = {}
        found["source"], bad_source = self._lookup(piece, names["source"], self._sources, size)
        found["item"], bad_item = self._lookup(piece, names["item"], self._items, size)
        for one in ("event", "player", "instance"):
            found[one] = self._hashed(piece, names[one], size)
        if names["event"] is None:
            found["event"] = number.astype(np.int64)
        found["time"] = self._numbers(piece, names["time"], size, np.nan)
        depth = self._numbers(piece, names["depth"], size, float(self.game.depth.from_))
        quantity = self._numbers(piece, names["quantity"], size, 1.0, empty=1.0)
        found["flags"] = self._flag_sets(piece, names["flags"], size)
        low, high = self.game.depth.from_, self.game.depth.to
        whole = np.isfinite(quantity) & (np.floor(quantity) == quantity)
        wrong = {
            "a source that is not in the game": bad_source,
            "an item that is not in the game": bad_item,
            "a depth that is no depth of the game": ~((depth >= low) & (depth <= high) & (depth % 1 == 0)),
            "a quantity that is no whole number from 0": (found["item"] >= 0)
            & ~(whole & (quantity >= 0) & (quantity < 2**31)),
        }
        keep = np.ones(size, dtype=bool)
        for why, rows in wrong.items():
            self._refuse(why, number[rows & keep])
            keep &= ~rows
        self._left_out.append(number[~keep])
        found["depth"] = np.where(keep, depth, 0)
        found["quantity"] = np.where(keep, quantity, 0)
        # Rows are about as long all through the file.
        more = max(1.0, self._bytes / BLOCK) if self.rows == size else 1.0
        self._add({name: array[keep] for name, array in found.items()}, more)

    def _add(self, found: dict[str, Any], more: float) -> None:
        """Rows that are sound. Of those of one event that stand together the first tells what all share."""
        event = found["event"]
        is_new = np.ones(event.size, dtype=bool)
        is_new[1:] = event[1:] != event[:-1]
        is_new[:1] = event[:1] != self._last if self._last is not None else True
        starts = np.flatnonzero(is_new)
        run = self._runs.size - 1 + np.cumsum(is_new)
        rows = {"item": found["item"], "quantity": found["quantity"], "run": run}
        self._rows.add(rows, more * event.size)
        self._runs.add({name: found[name][starts] for name in RUN_FIELDS}, more * starts.size)
        self._last = int(event[-1]) if event.size else self._last

    def _refuse(self, why: str, rows: IntArray) -> None:
        if rows.size:
            self._refused[why] += int(rows.size)
            first = self._refused_rows.setdefault(why, [])
            first += rows[: _FEW - len(first)].tolist()

    def _head(self, piece: Any, name: str) -> str | None:
        return name if name in piece.column_names else None

    def _column(self, piece: Any, column: str) -> Any:
        """As strings, empty where there is nothing."""
        import pyarrow as pa

        array = piece.column(column)
        if isinstance(array, pa.ChunkedArray):
            array = array.combine_chunks()
        return array.fill_null("")

    def _texts(self, piece: Any, column: str) -> tuple[list[str], Any]:
        """The different texts of a column, and which each row has."""
        coded = self._column(piece, column).dictionary_encode()
        texts = [str(one).strip() for one in coded.dictionary.to_pylist()]
        return texts, coded.indices.to_numpy(zero_copy_only=False).astype(np.int64)

    def _lookup(self, piece: Any, column: str | None, known: dict[str, int], size: int) -> tuple[Any, Any]:
        """-1 where the cell is empty; and where it says what is not known."""
        if column is None:
            return np.full(size, -1, dtype=np.int32), np.zeros(size, dtype=bool)
        texts, codes = self._texts(piece, column)
        places = np.array([known.get(text.lower(), -1) for text in texts] or [-1], dtype=np.int32)
        is_bad = np.array([bool(text) and text.lower() not in known for text in texts] or [False])
        if column and not size:
            return np.zeros(0, dtype=np.int32), np.zeros(0, dtype=bool)
        return places[codes], is_bad[codes]

    def _hashed(self, piece: Any, column: str | None, size: int) -> Any:
        if column is None:
            return np.full(size, -1, dtype=np.int64)
        return numbered(self._column(piece, column))

    def _numbers(
        self, piece: Any, column: str | None, size: int, missing: float, empty: float = np.nan
    ) -> FloatArray:
        if column is None:
            return np.full(size, missing)
        texts, codes = self._texts(piece, column)
        return np.asarray(np.array([_number(text, empty) for text in texts] or [missing])[codes])

    def _flag_sets(self, piece: Any, column: str | None, size: int) -> Any:
        if column is None:
            return np.zeros(size, dtype=np.int32)
        texts, codes = self._texts(piece, column)
        numbers = []
        for text in texts:
            names = [one for one in text.replace(",", " ").replace(";", " ").split() if one in self._flags]
            flags = frozenset(self._flag_ids[one] for one in names)
            numbers.append(self._sets.setdefault(flags, len(self._sets)))
        return np.array(numbers or [0], dtype=np.int32)[codes]

    def log(self) -> Log:
        return Log(
            rows=self.rows,
            **{name: self._rows[name] for name in ("run", "item", "quantity")},
            **{name: self._runs[name] for name in RUN_FIELDS},
            left_out=np.concatenate(self._left_out or [np.zeros(0, dtype=np.int64)]).astype(np.int64),
            flag_sets=list(self._sets),
            refused=self._refused,
            refused_rows=self._refused_rows,
        )


def _named(parts: Any) -> dict[str, int]:
    """Places by id and by name, in small letters."""
    found: dict[str, int] = {}
    for at, part in enumerate(parts):
        found.setdefault(part.name.lower(), at)
    return found | {part.id.lower(): at for at, part in enumerate(parts)}


def _number(text: str, empty: float) -> float:
    """A number as it is written, or a moment (ISO 8601) in seconds."""
    if not text:
        return empty
    try:
        return float(text)
    except ValueError:
        pass
    from datetime import datetime

    try:
        return datetime.fromisoformat(text).timestamp()
    except (ValueError, OverflowError):
        return float("nan")
