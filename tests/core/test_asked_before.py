"""An answer never depends on what was asked before, by whom, from how many threads, or what was cancelled."""

from __future__ import annotations

import json
import random
import sys
import threading
import time
import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from itertools import count
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.errors import GameError, TooLarge
from golddice.core.findings import findings
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.first_hit import Streak
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.results import RESULTS
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.stopping import Cancelled, Stop, stopped_by
from golddice.core.terms.conditions import Conditions
from golddice.core.tuning.targets import standings
from tests.core.test_edits import histories, nothing_kept
from tests.games import demo, each, game

CRAB = View("source", "crab")


def guarded(seed: int) -> Game:
    """A wait that is followed event by event; another game for each seed, so that nothing of it is kept."""
    table = each((0.002 + seed * 1e-6, "lens"), (0.2, "sand"))
    table["lines"][0]["guard"] = {"sure_at": 150}
    return game([table])


class StopAfter(Stop):
    """Given once it was looked at so many times: in the middle of the work."""

    def __init__(self, looks: int) -> None:
        super().__init__()
        self._left = looks

    @property
    def flag(self) -> IntArray:
        self._left -= 1
        if self._left < 0:
            self._flag[0] = 1
        return self._flag

    @flag.setter
    def flag(self, value: IntArray) -> None:
        self._flag = value


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
        self.assertGreaterEqual(cancelled, 2)
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


def questions(made: Game, depth: int) -> list[Callable[[], Any]]:
    """What pages ask of a game: odds, sheets, waits, depths, targets, routes, what is kept, findings."""
    source = View("source", made.sources[0].id)
    item = {"kind": "item", "id": made.items[-1].id}

    def sheet() -> SheetOdds:
        return SheetOdds(made, source, depth)

    def bare(outcome: Outcome) -> list[Any]:
        return [outcome.columns.tolist(), outcome.hit.tolist(), outcome.var.tolist(), outcome.cov.tolist()]

    def lean(view: View) -> list[Any]:
        found = depth_odds(made, view, range(1, 11))
        return [found.places.tolist(), found.hit.tolist(), found.mean.tolist(), found.value_var.tolist()]

    return [
        lambda: sheet().sheet(),
        lambda: sheet().wait(item),
        lambda: odds(made, source, depth=depth, events=7),
        lambda: bare(Evaluator(Conditions(made, [depth, 10])).of(source)),
        lambda: lean(source),
        lambda: lean(View("table", made.tables[0].id)),
        lambda: [one.plain() for one in standings(made)],
        lambda: [(one.kind, one.id, one.path, one.message) for one in findings(made)],
        lambda: Prospect(Evaluator(Conditions(made, [depth])), source).value_after(30),
    ]


def answered(ask: Callable[[], Any]) -> Any:
    try:
        return json.loads(json.dumps(ask()))
    except (GameError, TooLarge) as error:
        return str(error)


class Anything(unittest.TestCase):
    """Random games under random edits, asked from four threads, with some questions cancelled."""

    @settings(max_examples=12, deadline=None, suppress_health_check=list(HealthCheck))
    @given(histories(), st.integers(1, 10), st.randoms(use_true_random=False))
    def test_what_is_asked_before_does_not_matter(
        self, history: list[Game], depth: int, luck: random.Random
    ) -> None:
        count = len(questions(history[0], depth))
        asked = [
            (number, which, luck.randrange(200) if luck.random() < 0.3 else None)
            for number in range(len(history))
            for which in luck.sample(range(count), 6)
        ] * 2
        luck.shuffle(asked)

        def one(question: tuple[int, int, int | None]) -> Any:
            number, which, looks = question
            ask = questions(history[number], depth)[which]
            if looks is None:
                return answered(ask)
            with stopped_by(StopAfter(looks)), suppress(Cancelled):
                answered(ask)
            return None

        with ThreadPoolExecutor(4) as pool:
            told = list(pool.map(one, asked))
        for (number, which, _), got in zip(asked, told, strict=True):
            if got is not None:
                self.assertEqual(got, self.fresh(history[number], depth, which), (number, which))

    def fresh(self, made: Game, depth: int, which: int) -> Any:
        """As a process answers that was asked nothing before: another copy of the game, nothing kept."""
        key = id(made), depth, which
        if key not in self.known:
            with nothing_kept():
                self.known[key] = made, answered(questions(read_game(plain_game(made)), depth)[which])
        return self.known[key][1]

    def setUp(self) -> None:
        self.known: dict[tuple[int, int, int], tuple[Game, Any]] = {}

    def test_nothing_that_is_kept_is_ever_changed(self) -> None:
        """Whatever is asked afterwards, of this revision or the next."""
        made = demo()
        for ask in questions(made, 14):
            answered(ask)
        held = RESULTS.kept
        before = [digest(one) for one in held]
        entities = Entities.of(made)
        body = {**entities.bodies["table"]["eel-catch"], "nothing": 77}
        for game_now in (made, entities.edited([Entry("table", "eel-catch", body)]).game()):
            for ask in questions(game_now, 14):
                answered(ask)
        self.assertGreater(len(before), 300)
        self.assertEqual([digest(one) for one in held], before)


def digest(value: Any) -> Any:
    """Of all arrays and numbers in a result."""
    if isinstance(value, np.ndarray):
        return value.shape, value.tobytes()
    if isinstance(value, dict):
        return {key: digest(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [digest(one) for one in value]
    if isinstance(value, Outcome):
        return [digest(one) for one in vars(value).values() if isinstance(one, np.ndarray)]
    return value if isinstance(value, int | float | str) else None


if __name__ == "__main__":
    unittest.main()
