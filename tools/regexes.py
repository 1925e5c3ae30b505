"""Finds regular expressions that can backtrack without end: `python tools/regexes.py golddice`.

Such a one, met with a text from outside that is made for it, takes time that grows with the square of the
text or faster, and holds the interpreter meanwhile. Three shapes are refused: an unbounded repeat within an
unbounded repeat; two unbounded repeats one after the other that take the same letter, with nothing else that
must stand between them; and, where a text is searched, an unbounded repeat before what may not come.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path
from re import _constants as ops  # type: ignore[attr-defined]
from re import _parser as parser  # type: ignore[attr-defined]
from typing import Any

MANY = 1_000  # repeats above which one counts as unbounded
LETTERS = range(0x250)
_CALLS = {"compile", "match", "search", "fullmatch", "sub", "subn", "split", "findall", "finditer"}
_SEARCHES = {"search", "sub", "subn", "split", "findall", "finditer"}
_REPEATS = {ops.MAX_REPEAT, ops.MIN_REPEAT}


def faults(pattern: str | bytes, searches: bool = False) -> Iterator[str]:
    """`searches` : it is begun anew at every place of a text, rather than at its beginning."""
    sequence = list(parser.parse(pattern))
    yield from _faults(sequence, within=False)
    if searches and any(_fails_late(one) for one in _ways(sequence)):
        yield "an unbounded repeat before something that may not come, begun anew at every place"


def _ways(sequence: list[Any]) -> list[list[Any]]:
    """What a pattern may be as a whole: its branches."""
    if len(sequence) == 1 and sequence[0][0] is ops.BRANCH:
        return [list(one) for one in sequence[0][1][1]]
    return [sequence]


def _fails_late(sequence: list[Any]) -> bool:
    if sequence and sequence[0] == (ops.AT, ops.AT_BEGINNING):
        return False
    is_open = False
    for op, given in sequence:
        if op in _REPEATS:
            is_open = is_open or given[1] > MANY
        elif is_open and op is not ops.AT:
            return True
    return False


def _faults(sequence: list[Any], within: bool) -> Iterator[str]:
    before: set[int] = set()  # what the unbounded repeat before could still take
    for op, given in sequence:
        letters = _first([(op, given)])
        if op in _REPEATS:
            least, most, inner = given
            if most > MANY:
                if within:
                    yield "an unbounded repeat within another"
                if before & letters:
                    yield "two unbounded repeats, one after the other, that take the same letter"
                yield from _faults(list(inner), within=True)
                before = letters if least and not before & letters else before | letters
                continue
            yield from _faults(list(inner), within)
            before = before if least == 0 or before & letters else set()
            continue
        for part in _inside(op, given):
            yield from _faults(part, within)
            if (
                before
                and part
                and part[0][0] in _REPEATS
                and part[0][1][1] > MANY
                and before & _first(part[:1])
            ):
                yield "two unbounded repeats, one after the other, that take the same letter"
        if op is not ops.AT and not before & letters:
            before = set()


def _inside(op: Any, given: Any) -> list[list[Any]]:
    if op is ops.SUBPATTERN:
        return [list(given[3])]
    if op is ops.BRANCH:
        return [list(one) for one in given[1]]
    if op in (ops.ASSERT, ops.ASSERT_NOT):
        return [list(given[1])]
    return []


def _first(sequence: list[Any]) -> set[int]:
    """The letters that a sequence can begin with."""
    found: set[int] = set()
    for op, given in sequence:
        if op in _REPEATS:
            found |= _first(list(given[2]))
            if given[0] == 0:
                continue
        elif op is ops.AT:
            continue
        elif inside := _inside(op, given):
            for part in inside:
                found |= _first(part)
        else:
            found |= {letter for letter in LETTERS if _takes(op, given, letter)}
        return found
    return found


def _takes(op: Any, given: Any, letter: int) -> bool:
    if op is ops.LITERAL:
        return bool(given == letter)
    if op is ops.NOT_LITERAL:
        return bool(given != letter)
    if op is ops.RANGE:
        return bool(given[0] <= letter <= given[1])
    if op is ops.IN:
        is_not = given[0][0] is ops.NEGATE
        taken = any(_takes(*one, letter) for one in given if one[0] is not ops.NEGATE)
        return taken is not is_not
    if op is ops.CATEGORY:
        name, mark = str(given).lower(), chr(letter)
        kinds = {"digit": mark.isdigit(), "space": mark.isspace(), "word": mark.isalnum() or mark == "_"}
        taken = next(value for kind, value in kinds.items() if kind in name)
        return not taken if "not" in name else taken
    return True  # any letter, or what is not told apart here


def _patterns(path: Path) -> Iterator[tuple[int, str | bytes, bool]]:
    """(line, pattern, whether it searches) of every expression in a module that is written out there."""
    module = ast.parse(path.read_text(encoding="utf-8"))
    names = {
        id(node.value): node.targets[0].id
        for node in ast.walk(module)
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name)
    }
    used = {(node.value.id, node.attr) for node in ast.walk(module) if _is_of_a_name(node)}  # type: ignore[attr-defined]
    for node in ast.walk(module):
        if not (isinstance(node, ast.Call) and node.args and _is_of_a_name(node.func)):
            continue
        if node.func.value.id == "re" and node.func.attr in _CALLS:  # type: ignore[attr-defined]
            name, how = names.get(id(node)), node.func.attr  # type: ignore[attr-defined]
            searches = how in _SEARCHES or any((name, one) in used for one in _SEARCHES)
            given = node.args[0]
            if isinstance(given, ast.Constant):
                yield node.lineno, given.value, searches
            elif isinstance(given, ast.JoinedStr):
                parts = [str(one.value) for one in given.values if isinstance(one, ast.Constant)]
                yield node.lineno, "".join(parts), searches


def _is_of_a_name(node: ast.AST) -> bool:
    return isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name)


def main(folder: str) -> int:
    bad = [
        f"{path}:{line}: {fault}: {pattern!r}"
        for path in sorted(Path(folder).rglob("*.py"))
        for line, pattern, searches in _patterns(path)
        for fault in sorted(set(faults(pattern, searches)))
    ]
    print("\n".join(bad))
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
