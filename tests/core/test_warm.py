"""What set-up compiles is all that a first click needs."""

from __future__ import annotations

import sys
import unittest
from typing import Any

import numpy as np
import pyarrow as pa
from numba.core.registry import CPUDispatcher

from golddice.core.exchange.logs.hashing import numbered
from golddice.core.game.views import View
from golddice.core.odds.route.expectation import Expectation
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.lives import Asked, Paths, lived
from golddice.core.trial.route import course_of
from golddice.core.trial.trace import replayed, rolled
from golddice.core.trial.trial import RouteTrial, Trial, local_executor, run_trial
from golddice.core.warm import warm
from tests.games import demo, pick
from tests.games import game as one_of


def compiled() -> set[tuple[str, Any]]:
    """Every function that is called from Python, with what it was compiled for."""
    return {
        (f"{module}.{name}", signature)
        for module, held in list(sys.modules.items())
        if module.startswith("golddice.core")
        for name, one in vars(held).items()
        if isinstance(one, CPUDispatcher)
        for signature in one.signatures
    }


class Warm(unittest.TestCase):
    def test_nothing_is_compiled_at_the_first_click(self) -> None:
        warm()
        before = compiled()
        self.assertGreater(len(before), 5)
        game = demo()
        eel, dive = View("source", "lantern-eel"), game.routes[0]
        with local_executor(1) as executor:
            run_trial(game, Trial(eel, 14, 5, 5, 0), executor)
            run_trial(game, RouteTrial(dive.id, 5, 0), executor)
        rolled(game, eel, depth=14, seed=0)
        rolled(game, View("source", "blind-pearl-shelf"), depth=15, seed=0)  # nothing of it is worn
        replayed(course_of(game, dive), game, seed=0, player=0, first=1, count=5)
        asked = np.zeros((2, len(game.items)), dtype=np.int64)
        paths = Paths(np.array([0, 2]), np.array([0, 1]), np.array([3, 2]))
        places = [(Conditions(game, [depth], frozenset()), eel) for depth in (14, 15)]
        lived(places, paths, Asked(asked, asked, np.array([-1])), replicas=2, seed=0)
        numbered(pa.array(["one", "two"]))
        lines = [(at + 1, "lens" if at % 2 else "sand") for at in range(13)]
        different = one_of([pick(*lines, distinct=True, rolls={"min": 1, "max": 5})])
        SheetOdds(different, View("source", "crab"), 1).sheet()
        SheetOdds(game, eel, 14).sheet()
        spread(game, eel, depth=14, events=20)
        Expectation(game, dive).told()
        self.assertEqual(compiled() - before, set())


if __name__ == "__main__":
    unittest.main()
