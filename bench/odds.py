"""(b) Odds of the whole demo game after one edit, in the core; against simulating them.

The rival is a trial that is long enough for three figures on a one-in-a-hundred drop.
"""

from __future__ import annotations

from bench.timing import forget, seconds
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.trial import Trial, local_executor, run_trial
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO


def main() -> None:
    entities = Entities.of(read_game_file(DEMO))
    body = entities.bodies["table"]["eel-catch"]
    turn = iter(range(1_000_000))

    def after_one_edit() -> None:
        entry = Entry("table", "eel-catch", {**body, "nothing": 14 + next(turn) % 7})
        game = entities.edited([entry]).game()
        evaluator = Evaluator(Conditions(game, [14]), detail=False)
        for source in game.sources:
            _ = Prospect(evaluator, View("source", source.id)).outcome

    def from_nothing() -> None:
        forget()
        evaluator = Evaluator(Conditions(entities.game(), [14]), detail=False)
        for source in entities.game().sources:
            _ = Prospect(evaluator, View("source", source.id)).outcome

    ours = seconds(after_one_edit, 15)
    game = entities.game()
    trial = Trial(View("source", "lantern-eel"), 14, 10_000, 1_000, 7)
    with local_executor() as executor:
        rival = seconds(lambda: run_trial(game, trial, executor), 3)
    cold = seconds(from_nothing, 15)
    print(f"all {len(game.sources)} sources exactly, edit and check included  {1000 * ours:8.1f} ms")
    print(f"the same from nothing                         {1000 * cold:8.1f} ms   {cold / ours:.1f} times")
    print(f"one source by simulation, three figures       {1000 * rival:8.1f} ms   {rival / ours:.0f} times")


if __name__ == "__main__":
    main()
