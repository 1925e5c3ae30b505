"""Finds what is kept between questions outside of the place for results: `tools/caches.py golddice/core`.

An answer must never depend on what was asked before, so what is kept lies in one module, which works a thing
out once, counts its bytes and never changes it. Refused elsewhere are: `lru_cache`, and `cache` of a function
with parameters; the package cachetools; a place for results of one's own; an empty dict, or one of weak
references, at the level of a module, which can only be there to be filled.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

PLACE = "results.py"
ALLOWED = {
    ("game/reading.py", "_ADAPTERS"): "readers by class, of which there are a few",
    ("game/mentions.py", "_plan_of"): "what the models say of each kind, which is always the same",
    ("trial/cluster.py", "_programs"): "a cluster's worker keeps the last programs that it was sent",
}
_WEAK = {"WeakValueDictionary", "WeakKeyDictionary"}
_FILLED = {"dict", "OrderedDict", "defaultdict", "Counter", "Results", *_WEAK}


def faults(source: str, name: str = "") -> Iterator[tuple[int, str]]:
    """Of one module, by line; `name` is its path within the core."""
    tree = ast.parse(source)
    for node in tree.body:
        if isinstance(node, (ast.Assign, ast.AnnAssign)) and _is_to_be_filled(node.value):
            target = node.targets[0] if isinstance(node, ast.Assign) else node.target
            said = ast.unparse(target)
            if (name, said) not in ALLOWED:
                yield node.lineno, f"{said} keeps things between questions; use RESULTS"
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef) and (name, node.name) not in ALLOWED:
            for decorator in node.decorator_list:
                called = ast.unparse(decorator).split("(")[0].split(".")[-1]
                if called == "lru_cache" or (called == "cache" and _has_parameters(node)):
                    yield node.lineno, f"{node.name} is kept by {called}; use RESULTS"
        elif isinstance(node, (ast.Import, ast.ImportFrom)) and "cachetools" in ast.unparse(node):
            yield node.lineno, "cachetools; use RESULTS"


def _is_to_be_filled(value: ast.expr | None) -> bool:
    if isinstance(value, ast.Dict):
        return not value.keys
    if isinstance(value, ast.Call):
        called = ast.unparse(value.func).split("[")[0].split(".")[-1]
        return called in _FILLED and (called == "Results" or not value.args)
    return False


def _has_parameters(function: ast.FunctionDef) -> bool:
    return bool(function.args.args or function.args.kwonlyargs or function.args.vararg)


def main(root: Path) -> int:
    found = 0
    for path in sorted(root.rglob("*.py")):
        name = path.relative_to(root).as_posix()
        if name != PLACE:
            for line, fault in faults(path.read_text(encoding="utf-8"), name):
                print(f"{path}:{line}: {fault}")
                found += 1
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
