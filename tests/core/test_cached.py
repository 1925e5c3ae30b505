"""What is worked out once for an object is not waited for by another."""

from __future__ import annotations

import threading
import unittest
from pathlib import Path

import golddice
from golddice.core.terms import conditions


class Slow:
    def __init__(self, begun: threading.Event, done: threading.Event) -> None:
        self._begun, self._done = begun, done

    @conditions.cached_property
    def answer(self) -> int:
        self._begun.set()
        self._done.wait(20)
        return 42


class Cached(unittest.TestCase):
    def test_a_second_object_does_not_wait_for_the_first(self) -> None:
        """The standard library's holds one lock for all objects of a class, until Python 3.12."""
        begun, done = threading.Event(), threading.Event()
        first = Slow(begun, done)
        thread = threading.Thread(target=lambda: first.answer)
        thread.start()
        self.assertTrue(begun.wait(5))
        already = threading.Event()
        already.set()
        answered: list[int] = []
        second = threading.Thread(target=lambda: answered.append(Slow(already, already).answer))
        second.start()
        second.join(5)
        self.assertEqual(answered, [42])
        done.set()
        thread.join(5)
        self.assertEqual(first.answer, 42)

    def test_nothing_takes_the_one_with_a_lock(self) -> None:
        folder = Path(golddice.__file__).parent
        for path in folder.rglob("*.py"):
            for line in path.read_text(encoding="utf-8").splitlines():
                self.assertFalse("functools" in line and "cached_property" in line, path)


if __name__ == "__main__":
    unittest.main()
