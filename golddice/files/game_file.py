"""The game file: UTF-8 JSON, read strictly, written so that the same game comes back."""

from __future__ import annotations

import json
import re
from collections import Counter
from pathlib import Path
from typing import Any

from golddice.core.errors import GameError, Problem
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game

LARGEST = 20 * 1024 * 1024
DEEPEST = 60  # a game's own nest seven deep
MOST_VALUES = 2_000_000
MOST_ALONE = 300_000  # in lists of numbers or texts: points of curves, tags
MOST_DIGITS = 300
MOST_KEYS = 200
_FIRST = ("format", "version")
_MARKS = re.compile(r'["\[\]{}]|\\.', re.DOTALL)  # each by itself: nothing to come back to


def read_game_bytes(content: bytes) -> Game:
    """The game in a file's content. Raises GameError with every problem and its JSON path."""
    if len(content) > LARGEST:
        raise GameError([Problem("", f"the file is over {LARGEST // 2**20} MB")])
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise GameError([Problem("", f"not UTF-8 text: byte {error.start} is wrong")]) from None
    repeated: list[str] = []
    try:
        data = json.loads(text, object_pairs_hook=lambda pairs: _object(pairs, repeated), parse_int=_whole)
    except json.JSONDecodeError as error:
        message = f"not JSON: {error.msg} at line {error.lineno}, column {error.colno}"
        raise GameError([Problem("", message)]) from None
    except RecursionError:
        raise GameError([_too_deep(text)]) from None
    _check_size(data, text)
    if repeated:
        keys = [
            Problem("", f"the key “{key[:80]}” stands twice in one object") for key in repeated[:MOST_KEYS]
        ]
        raise GameError(keys)
    return read_game(data)


def read_game_file(path: Path) -> Game:
    """The game in a file. Raises GameError, also where the file cannot be read."""
    try:
        return read_game_bytes(path.read_bytes())
    except OSError as error:
        raise GameError([Problem(str(path), error.strerror or "cannot be read")]) from None


def game_text(game: Game) -> str:
    """The game as its file holds it: defaults left out, one tidy line for small things."""
    body = plain_game(game)
    ordered = {key: body[key] for key in _FIRST}
    ordered |= {key: value for key, value in body.items() if key not in ordered}
    return _tidy(ordered, 0) + "\n"


def _object(pairs: list[tuple[str, Any]], repeated: list[str]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        repeated += sorted(key for key, count in Counter(key for key, _ in pairs).items() if count > 1)
    return found


def _whole(digits: str) -> int | float:
    """A whole number; one of hundreds of digits is no number of ours, and is refused at its place."""
    return int(digits) if len(digits) <= MOST_DIGITS else float("inf")


def _check_size(data: Any, text: str) -> None:
    """Raises GameError of what is nested too deep, and of more values than any game has: what is wrong with
    each of millions would take gigabytes to tell."""
    level, values, alone = [data] if isinstance(data, (dict, list)) else [], 0, 0
    for _ in range(DEEPEST + 1):
        inner = []
        for holder in level:
            parts = holder.values() if isinstance(holder, dict) else holder
            values += len(parts)
            held = [part for part in parts if isinstance(part, (dict, list))]
            if isinstance(holder, list):
                alone += len(parts) - len(held)
            inner += held
        for many, most, what in (
            (values, MOST_VALUES, "values"),
            (alone, MOST_ALONE, "numbers and texts in lists"),
        ):
            if many > most:
                message = f"holds over {most:,} {what}; split the game, or take out what is not needed"
                raise GameError([Problem("", message)])
        if not inner:
            return
        level = inner
    raise GameError([_too_deep(text)])


def _too_deep(text: str) -> Problem:
    """With the place where brackets open too deep. Every mark is looked at once."""
    depth, in_text = 0, False
    for match in _MARKS.finditer(text):
        mark = match.group()
        if mark == '"':
            in_text = not in_text
        elif not in_text and mark in ("[", "{"):
            depth += 1
            if depth > DEEPEST:
                start = match.start()
                line, column = text.count("\n", 0, start) + 1, start - text.rfind("\n", 0, start)
                return Problem("", f"nested more than {DEEPEST} deep at line {line}, column {column}")
        elif not in_text and mark in ("]", "}"):
            depth -= 1
    return Problem("", f"nested more than {DEEPEST} deep")


def _tidy(value: Any, depth: int, width: int = 110) -> str:
    """JSON that people can read and compare: whatever fits on a line stays on one."""
    flat = json.dumps(value, ensure_ascii=False)
    if len(flat) + 2 * depth <= width or not isinstance(value, (dict, list)) or not value:
        return flat
    inner, outer = "  " * (depth + 1), "  " * depth
    if isinstance(value, dict):
        rows = [
            f"{inner}{json.dumps(key, ensure_ascii=False)}: {_tidy(part, depth + 1)}"
            for key, part in value.items()
        ]
        return "{\n" + ",\n".join(rows) + f"\n{outer}}}"
    rows = [f"{inner}{_tidy(part, depth + 1)}" for part in value]
    return "[\n" + ",\n".join(rows) + f"\n{outer}]"
