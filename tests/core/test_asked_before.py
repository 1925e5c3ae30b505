"""An answer never depends on what was asked before, by whom, from how many threads, or what was cancelled."""

from __future__ import annotations

import sys
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from itertools import count
from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.first_hit import Streak
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.report import odds
from golddice.core.stopping import Cancelled, Stop, stopped_by
from golddice.core.terms.conditions import Conditions
from tests.games import each, game

CRAB = View("source", "crab")


def guarded(seed: int) -> Game:
    """A wait that is followed event by event; another game for each seed, so that nothing of it is kept."""
    table = each((0.002 + seed * 1e-6, "lens"), (0.2, "sand"))
    table["lines"][0]["guard"] = {"sure_at": 150}
    return game([table])


class StopAfter(Stop):
    """Given once it was looked at so many times: in the middle of the work."""

    class _Flag:
        def __init__(self, looks: int) -> None:
            self.left = looks

        def __getitem__(self, at: int) -> int:
            self.left -= 1
            return int(self.left < 0)

    def __init__(self, looks: int) -> None:
        super().__init__()
        self.flag = self._Flag(looks)  # type: ignore[assignment]


def waits(made: Game) -> Any:
    return odds(made, CRAB)["items"]["lens"]


class Waits(unittest.TestCase):
    def setUp(self) -> None:
        self.addCleanup(sys.setswitchinterval, sys.getswitchinterval())
        sys.setswitchinterval(1e-5)  # threads take turns as often as they can

    def test_four_threads_at_once(self) -> None:
        for seed in range(4):
            made, fresh = guarded(seed), waits(guarded(seed + 100))
            self.assertEqual(fresh["first_99"], 150)
            begin = threading.Barrier(4)

            def asked(made: Game = made, begin: threading.Barrier = begin) -> Any:
                begin.wait()
                return waits(made)

            with ThreadPoolExecutor(4) as pool:
                told = [one.result() for one in [pool.submit(asked) for _ in range(4)]]
            self.assertEqual(told, [told[0]] * 4)
            self.assertEqual(told[0]["first_99"], 150)
            self.assertEqual(waits(read_game(plain_game(made))), told[0])

    def test_a_question_that_is_cancelled_leaves_nothing_half_done(self) -> None:
        wanted, cancelled = waits(guarded(0)), 0
        made = guarded(200)
        made = read_game(plain_game(made))
        for looks in range(20):
            try:
                with stopped_by(StopAfter(looks)):
                    waits(made)
            except Cancelled:
                cancelled += 1
        self.assertGreaterEqual(cancelled, 3)
        told = waits(made)
        self.assertEqual(told["first_99"], wanted["first_99"])
        self.assertEqual(told, waits(read_game(plain_game(made) | {"name": "The same"})))

    def test_a_chain_that_is_followed_from_many_threads_and_left_in_the_middle(self) -> None:
        rng = np.random.default_rng(4)
        matrix = rng.random((5, 5))
        matrix *= (0.99 - 0.02 * np.arange(5))[:, None] / matrix.sum(axis=1, keepdims=True)
        hit, steps = 1.0 - matrix.sum(axis=1), count()

        def step(figure: FloatArray) -> FloatArray:
            if next(steps) % 301 == 300:
                raise Cancelled
            time.sleep(0)  # another thread's turn
            return np.asarray(matrix @ figure)

        def had(streak: Streak) -> list[float]:
            while True:
                with suppress(Cancelled):
                    return streak.had(100).tolist()

        shared = Streak(step, hit)
        with ThreadPoolExecutor(4) as pool:
            told = list(pool.map(had, [shared] * 8))
        wanted = Streak(lambda figure: np.asarray(matrix @ figure), hit).had(100).tolist()
        self.assertEqual(told, [wanted] * 8)

    def test_far_events_are_told_alike_whatever_was_followed(self) -> None:
        prospects = [
            Prospect(Evaluator(Conditions(one, [1]), detail=False), CRAB) for one in (guarded(7), guarded(8))
        ]
        column, far = prospects[0].columns.item(2), np.array([10, 90_000])
        first, second = prospects
        _ = first.none_by(column, 5_000)
        again = Prospect(Evaluator(Conditions(read_game(plain_game(guarded(7))), [1]), detail=False), CRAB)
        self.assertEqual(first.none_at(column, far).tolist(), again.none_at(column, far).tolist())
        self.assertNotEqual(first.none_at(column, far).tolist(), second.none_at(column, far).tolist())


if __name__ == "__main__":
    unittest.main()
