"""Depth sheets: a source of the demo over thirty depths, of the big game over a hundred.

The rival is the same by single evaluations, one depth after another.
"""

from __future__ import annotations

from bench.big import big_game
from bench.timing import forget, in_turns, seconds
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.depth_odds import DepthOdds, depth_odds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO


def one_by_one(game: Game, name: str, depths: range) -> None:
    for depth in depths:
        forget()
        _ = Prospect(Evaluator(Conditions(game, [depth]), detail=False), View("source", name)).outcome


def at_once(game: Game, name: str, depths: range) -> None:
    forget()
    depth_odds(game, View("source", name), depths)


def every_source(game: Game, depths: range) -> None:
    forget()
    odds = DepthOdds(Conditions(game, depths))
    for source in game.sources:
        odds.of(View("source", source.id))


def main() -> None:
    demo, depths = read_game_file(DEMO), range(1, 31)
    for source in demo.sources:
        ours, rival = in_turns(
            5,
            lambda name=source.id: at_once(demo, name, depths),  # type: ignore[misc]
            lambda name=source.id: one_by_one(demo, name, depths),  # type: ignore[misc]
        )
        print(f"demo, {source.id:20} 30 depths {1000 * ours:8.1f} ms   {rival / ours:6.1f} times")
    big, far = big_game(), range(1, 101)
    ours = seconds(lambda: at_once(big, "s0", far), 7)
    rival = seconds(lambda: one_by_one(big, "s0", range(1, 6)), 1) * 20
    print(f"big game, one source, 100 depths   {1000 * ours:8.1f} ms   {rival / ours:6.1f} times")
    print(f"big game, all 200 sources, 100 depths {seconds(lambda: every_source(big, far), 1):6.2f} s")


if __name__ == "__main__":
    main()
