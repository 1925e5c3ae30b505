"""The checks of the core's shape find what they should: caches outside of the place for results, walks of
tables outside of the fold."""

from __future__ import annotations

import unittest
from pathlib import Path

from tools import caches, walks

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
                self.assertEqual(len(list(caches.faults(source))), 1)

    def test_what_does_not_is_not(self) -> None:
        for source in (
            "@cache\ndef constant(): ...",
            "NAMES = {'a': 1}",
            "def f():\n    found = {}\n    return found",
            "form_of = OfPart(_form)",
            "COUNTS = Counter('abc')",
        ):
            with self.subTest(source):
                self.assertEqual(list(caches.faults(source)), [])

    def test_the_core_keeps_nothing_elsewhere(self) -> None:
        self.assertEqual(caches.main(CORE), 0)


WALK = """
def mean(under, table):
    return sum(chance * len(line.yields) for chance, line in zip(line_hits(under, table), table.lines))
"""


class Walks(unittest.TestCase):
    def test_a_walk_is_found_by_what_it_asks(self) -> None:
        self.assertTrue(walks.is_walk(WALK))
        for part in ("line_hits(under, table)", "line.yields", "form_of(table).items"):
            with self.subTest(part):
                self.assertFalse(walks.is_walk(part))

    def test_one_that_is_not_named_is_refused_and_a_name_that_is_not_needed_too(self) -> None:
        named = dict.fromkeys(walks.ALLOWED, WALK)
        self.assertEqual(list(walks.faults(named)), [])
        self.assertEqual(len(list(walks.faults({**named, "findings/another.py": WALK}))), 1)
        self.assertEqual(len(list(walks.faults({**named, "odds/stalls.py": "pass"}))), 1)

    def test_the_core_has_no_other(self) -> None:
        self.assertEqual(walks.main(CORE), 0)
