"""Runs every test, or those named: `python -m tests core`, `python -m tests core.test_odds`.

Ends with a line that counts: `tests: N passed, N failed`.
"""

from __future__ import annotations

import sys
import unittest
from pathlib import Path

_HERE = Path(__file__).parent


def main(names: list[str]) -> int:
    suite = unittest.TestSuite(_found(name) for name in names or [""])
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    passed = result.testsRun - failed - len(result.skipped)
    print(f"tests: {passed} passed, {failed} failed", flush=True)
    return 0 if failed == 0 and passed > 0 else 1


def _found(name: str) -> unittest.TestSuite:
    loader = unittest.TestLoader()
    folder = _HERE.joinpath(*name.split(".")) if name else _HERE
    if folder.is_dir():
        return loader.discover(str(folder), top_level_dir=str(_HERE.parent))
    return loader.loadTestsFromName(f"tests.{name}")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
