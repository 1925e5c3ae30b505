"""(f) Whole trials: the richest source and a simple table with their reports, routes, a thousand million
events in flat memory (`--long`), and how small a change two trials tell, player by player and as strangers.

The rival of the kernel is in `events`; here each is measured as a user meets it, report included.
"""

from __future__ import annotations

import resource
import sys
import time

from bench.timing import forget, in_turns
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.stopping import Stop
from golddice.core.trial.compare import Cohort, compared
from golddice.core.trial.playing import Bags
from golddice.core.trial.trial import (
    RouteTrial,
    Trial,
    local_executor,
    plan_of,
    run_plan,
    run_trial,
)
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO

RICHEST = View("source", "guild-parcel")
PICK = View("table", "crab-meat")
EEL = View("source", "lantern-eel")


def main() -> None:
    game = read_game_file(DEMO)
    with local_executor() as executor:

        def ran(trial: Trial | RouteTrial) -> None:
            forget()
            run_trial(game, trial, executor)

        bare = _with_nothing_worn(game)

        def ran_bare() -> None:
            forget()
            run_trial(bare, Trial(RICHEST, 14, 10_000, 1_000, 7), executor)

        works = {
            "richest source, 10 000 x 1 000": Trial(RICHEST, 14, 10_000, 1_000, 7),
            "a pick of items, 10 000 x 1 000": Trial(PICK, 14, 10_000, 1_000, 7),
            "the first dive, 10 000 players": RouteTrial("first-dive", 10_000, 7),
            "the long descent, 10 000 players": RouteTrial("long-descent", 10_000, 7),
        }
        of_works = (lambda one=one: ran(one) for one in works.values())  # type: ignore[misc]
        taken = in_turns(3, ran_bare, *of_works)
        for name, seconds in zip(["the richest, nothing worn or gathered", *works], taken, strict=True):
            print(f"{name:40} {seconds:7.2f} s with its report")
    _small_changes(game)
    if "--long" in sys.argv:
        _a_thousand_million(game)


def _with_nothing_worn(game: Game) -> Game:
    """The same odds without kit, sets and properties."""
    data = plain_game(game) | {"sets": [], "properties": [], "targets": [], "scores": {}}
    for item in data["items"]:
        item.pop("slot", None)
        item.pop("effects", None)
    return read_game(data)


def _small_changes(game: Game) -> None:
    """1 % more of one weight of the eel: the error player by player, and as strangers."""
    data = plain_game(game)
    table = next(one for one in data["tables"] if one["id"] == "eel-catch")
    table["lines"][6]["weight"] *= 1.01
    found = compared(_cohort(game), _cohort(read_game(data)), paired=True)["items"]["beacon-lens"]
    times = (found["unpaired_error"] / found["error"]) ** 2
    print(
        f"1 % in one weight: {found['difference']:.4f} ± {found['error']:.4f} player by player "
        f"({'noise' if found['noise'] else 'signal'}), ± {found['unpaired_error']:.4f} as strangers, "
        f"who would have to be {times:.0f} times as many"
    )


def _cohort(game: Game) -> Cohort:
    plan, units = plan_of(game, Trial(EEL, 15, 10_000, 500, 7)), list[Bags]()
    with local_executor() as executor:
        run_plan(plan, executor, lambda _, bags, __: units.append(bags), Stop())
    return Cohort(game, plan.items, units)


def _a_thousand_million(game: Game) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    with local_executor() as executor:
        for players in (100_000, 1_000_000):
            start = time.perf_counter()
            run_trial(game, Trial(EEL, 14, players, 1_000, 7), executor)
            most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            print(
                f"{players:9,} x 1 000 events: {time.perf_counter() - start:7.1f} s, at most {most:6.0f} MB "
                f"({before:.0f} before)"
            )


if __name__ == "__main__":
    main()
