"""Exact odds against simulated ones, over hundreds of random games: all rules, nested, state included.

Prints how the z-scores of all items lie; any |z| of 5 or more is shown with its game, as a file.
Trials take 2 million events each: 100 000 players x 20 events, since what players carry matters most
in a fresh player's first events.
"""

from __future__ import annotations

import json
import sys
import tempfile

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game
from golddice.core.game.views import View
from golddice.core.trial.trial import Trial, local_executor, run_trial
from tests.strategies import games

GAMES = 300
PLAYERS, EVENTS = 100_000, 20


def main(count: int = GAMES) -> None:
    scores: list[float] = []
    skipped = 0
    executor = local_executor()

    @settings(
        max_examples=count,
        deadline=None,
        derandomize=False,
        database=None,
        suppress_health_check=list(HealthCheck),
    )
    @given(st.booleans().flatmap(lambda state: games(state=state)), st.integers(0, 2**40), st.booleans())
    def one(made: Game, seed: int, key: bool) -> None:
        nonlocal skipped
        trial = Trial(View("source", "crab"), 3, PLAYERS, EVENTS, seed, ("key",) if key else ())
        try:
            result = run_trial(made, trial, executor)
        except TooLarge:
            skipped += 1
            return
        # What is certain agrees exactly or not at all; its 0 says nothing of how scores are spread.
        found = [item["z"] for item in result["items"].values() if item["z"]]
        scores.extend(found)
        if any(abs(z) >= 5 for z in found):
            with tempfile.NamedTemporaryFile("w", suffix=".golddice.json", delete=False) as file:
                json.dump(plain_game(made), file)
            print(f"disagrees, seed {seed}: {file.name}")

    with executor:
        one()
    z = np.array(scores)
    print(f"{count} games, {skipped} too large, {z.size} z-scores at {PLAYERS * EVENTS:,} events each")
    print(
        f"mean {z.mean():.3f}, sd {z.std():.3f}, largest {np.abs(z).max():.2f}, "
        f"beyond 3: {np.mean(np.abs(z) > 3):.4f} (normal: 0.0027)"
    )


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
