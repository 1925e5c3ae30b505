"""What the demo game begins with besides itself: trials to look at, two of them beside one another."""

from __future__ import annotations

from typing import Any

from golddice.server.bench import Workbench
from golddice.server.routes.trials import added
from golddice.server.schemas.games import EntryIn
from golddice.server.schemas.odds import ViewIn
from golddice.server.schemas.trials import TrialIn

_EEL: dict[str, Any] = {
    "view": ViewIn(kind="source", id="lantern-eel"),
    "depth": 15,
    "players": 10_000,
    "events": 500,
    "seed": 20_417,
}


def show_trials(bench: Workbench, game_id: str) -> None:
    """Nobody waits for them: they are played while the pages are opened."""
    loaded = bench.games.load(game_id)
    catch = dict(loaded.entities.bodies["table"]["eel-catch"])
    catch["lines"] = [{**line, "weight": 2.2} if line["id"] == "g" else line for line in catch["lines"]]
    heavier = EntryIn(kind="table", id="eel-catch", body=catch)
    dives = TrialIn(name="The first hour", route="first-dive", players=10_000, seed=1_207)
    season = added(bench, game_id, loaded.revision, TrialIn(name="Eels, a season", **_EEL))
    more = TrialIn(name="Eels, a tenth more lenses", draft=[heavier], beside=season.id, **_EEL)
    for asked in (dives, more):
        added(bench, game_id, loaded.revision, asked)
    bench.wake()
