"""The check that finds regular expressions which can backtrack without end."""

from __future__ import annotations

import importlib.util
import unittest
from pathlib import Path
from typing import Any

TOOL = Path(__file__).parents[1] / "tools" / "regexes.py"
TEXTS_AND_MARKS = r'"(?:[^"\\]|\\.)*"|[\[\]{}]'  # what game files were once looked through by


def tool() -> Any:
    spec = importlib.util.spec_from_file_location("regexes", TOOL)
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


class Found(unittest.TestCase):
    def setUp(self) -> None:
        self.faults = tool().faults

    def test_those_that_can(self) -> None:
        for pattern in (r"(a+)+", r"(a*b)*", r"\d+\.?\d*x", r"\s+\s*a", r"\w+\d+", r".*x.*", r"a+b?a+"):
            self.assertTrue(list(self.faults(pattern)), pattern)

    def test_those_that_can_only_where_they_search(self) -> None:
        for pattern in (TEXTS_AND_MARKS, r"[a-z]+-[a-z]+", r"(?:a|b)*c"):
            self.assertFalse(list(self.faults(pattern)), pattern)
            self.assertTrue(list(self.faults(pattern, True)), pattern)

    def test_those_that_cannot(self) -> None:
        for pattern in (
            r"^[+-]?\d{1,3}(,\d{3})+(\.\d+)?$",
            r"\d+(\.\d*)?",
            r'["\[\]{}]|\\.',
            r"[\s]+",
            rb"x{1,20}y",
        ):
            self.assertFalse(list(self.faults(pattern, True)), pattern)


if __name__ == "__main__":
    unittest.main()
