"""The check that nothing is kept outside of the place for results finds what it should."""

from __future__ import annotations

import unittest
from pathlib import Path

from tools.caches import faults, main

CORE = Path(__file__).resolve().parents[1] / "golddice" / "core"


class Caches(unittest.TestCase):
    def test_what_keeps_things_is_found(self) -> None:
        for source in (
            "@lru_cache(maxsize=9)\ndef f(x): ...",
            "@functools.cache\ndef f(x): ...",
            "from cachetools import LRUCache",
            "_known: dict[str, int] = {}",
            "_known = OrderedDict()",
            "_known = weakref.WeakValueDictionary()",
            "MINE = Results(10)",
        ):
            with self.subTest(source):
                self.assertEqual(len(list(faults(source))), 1)

    def test_what_does_not_is_not(self) -> None:
        for source in (
            "@cache\ndef constant(): ...",
            "NAMES = {'a': 1}",
            "def f():\n    found = {}\n    return found",
            "form_of = OfPart(_form)",
            "COUNTS = Counter('abc')",
        ):
            with self.subTest(source):
                self.assertEqual(list(faults(source)), [])

    def test_the_core_keeps_nothing_elsewhere(self) -> None:
        self.assertEqual(main(CORE), 0)
