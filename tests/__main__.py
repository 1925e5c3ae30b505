"""Runs every test, or those named: `python -m tests core`, `python -m tests core.test_odds`.

Each module runs in a process of its own, those with a browser one after another, the others beside
them. Ends with a line that counts: `tests: N passed, N failed`.
"""

from __future__ import annotations

import re
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

_HERE = Path(__file__).parent
_ALONE = "--module"
_BROWSER = "tests.browser."
_COUNT = re.compile(r"^tests: (\d+) passed, (\d+) failed$", re.MULTILINE)


def main(names: list[str]) -> int:
    modules = sorted({module for name in names or [""] for module in _modules(name)})
    lanes = [[module for module in modules if module.startswith(_BROWSER) is here] for here in (True, False)]
    with ThreadPoolExecutor(len(lanes)) as pool:
        counts = [count for lane in pool.map(_one_by_one, lanes) for count in lane]
    passed, failed = (sum(column) for column in zip(*counts, strict=True))
    print(f"tests: {passed} passed, {failed} failed", flush=True)
    return 0 if failed == 0 and passed > 0 else 1


def _modules(name: str) -> Iterator[str]:
    """The test modules in a folder, or the one (or the class, or the test) that is named."""
    folder = _HERE.joinpath(*name.split(".")) if name else _HERE
    if not folder.is_dir():
        yield f"tests.{name}"
        return
    for path in folder.rglob("test_*.py"):
        yield ".".join(path.relative_to(_HERE.parent).with_suffix("").parts)


def _one_by_one(modules: list[str]) -> list[tuple[int, int]]:
    return [_in_a_process(module) for module in modules]


def _in_a_process(module: str) -> tuple[int, int]:
    """Passed and failed. What a failing module wrote is shown, of others one line."""
    start = time.monotonic()
    command = [sys.executable, "-m", "tests", _ALONE, module]
    done = subprocess.run(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    took = time.monotonic() - start
    found = _COUNT.search(done.stdout)
    passed, failed = (int(part) for part in found.groups()) if found else (0, 1)
    good = done.returncode == 0 and failed == 0
    text = "" if good else f"\n{done.stdout}"
    print(f"{'ok  ' if good else 'FAIL'}  {module:36} {passed:4} passed {took:7.1f} s{text}", flush=True)
    return passed, failed if found and (good or failed) else max(failed, 1)


def _alone(module: str) -> int:
    suite = unittest.defaultTestLoader.loadTestsFromName(module)
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    passed = result.testsRun - failed - len(result.skipped)
    print(f"tests: {passed} passed, {failed} failed", flush=True)
    return 0 if failed == 0 and passed > 0 else 1


if __name__ == "__main__":
    asked = sys.argv[1:]
    sys.exit(_alone(asked[1]) if asked[:1] == [_ALONE] else main(asked))
