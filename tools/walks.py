"""Finds a walk of tables outside of the fold: `tools/walks.py golddice/core`.

What an event comes to is told once, by `odds/event/algebra.py`: whoever wants another figure of it writes an
algebra. A second walk would know less than the first, and differ from it in a case that nobody tried. A walk
is known by asking both how likely a line or a drop is and what it gives. Refused is every module that asks
both and is not named here with its reason.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

LIKELY = {"weights", "chances", "drop_chance", "roll_chances", "line_hits"}
GIVEN = {"yields", "form_of", "given_by"}
ALLOWED = {
    "odds/event/algebra.py": "the fold",
    "odds/event/evaluator.py": "an algebra; it also names the columns of lines and drops",
    "odds/depths/flows.py": "from the top down: how often each table is rolled, which a fold does not say",
    "odds/depths/ways.py": "every path to an item on its own, of which there can be as many as paths",
    "odds/depths/alike.py": "which depths have the same chances and give the same; nothing is worked out",
    "odds/carried/walk.py": "with state: what a table gives as what is carried changes between its rolls",
    "odds/carried/functions.py": "an algebra; its drops are asked of one at a time",
    "odds/carried/axes.py": "which lines can be told apart by what players carry; nothing is worked out",
    "odds/carried/columns.py": "names of columns (`line_hits` is one here), no chances",
    "odds/stalls.py": "goods drawn from numbers that are fixed for good, written out in docs/stalls.md",
    "terms/places/spots.py": "what lies at spots, by weights of a stock, which is no table",
    "tuning/promises.py": "the fewest and most that any player can get, by what can come at all",
    "exchange/thresholds.py": "writes tables out as a small program for engines",
    "forecast/marking.py": "puts a mark beside what is asked of; `line_hits` names a column",
    "findings/tables.py": "looks at one table at a time, for what is odd in it",
    "sheets/sheet.py": "tells of one table or source what its own lines do",
    "sheets/answers.py": "reads one table as the other rules would, roll by roll, to compare them",
}


def asks(source: str) -> tuple[set[str], set[str]]:
    """What a module asks of how likely things are, and of what they give."""
    tree = ast.parse(source)
    likely, given = set[str](), set[str]()
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            likely |= {name} & LIKELY
            given |= {name} & GIVEN
        elif isinstance(node, ast.Attribute):
            given |= {node.attr} & GIVEN
    return likely, given


def is_walk(source: str) -> bool:
    return all(asks(source))


def faults(modules: dict[str, str]) -> Iterator[str]:
    """Of modules by their paths within the core: walks, and reasons that nothing needs any more."""
    for name, source in modules.items():
        if is_walk(source) and name not in ALLOWED:
            likely, given = (", ".join(sorted(names)) for names in asks(source))
            yield f"{name} asks what is likely ({likely}) and what is given ({given}): write an Algebra"
    for name in ALLOWED:
        if name not in modules or not is_walk(modules[name]):
            yield f"{name} is no walk any more: take it from the list of this check"


def main(root: Path) -> int:
    modules = {
        path.relative_to(root).as_posix(): path.read_text(encoding="utf-8") for path in root.rglob("*.py")
    }
    found = list(faults(dict(sorted(modules.items()))))
    for fault in found:
        print(fault)
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
