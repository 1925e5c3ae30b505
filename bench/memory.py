"""(d) Memory of a trial of 10 000 players x 1 000 events, as a process of its own.

The rival keeps every event, as a plain array of what was drawn would.
"""

from __future__ import annotations

import subprocess
import sys

_TRIAL = """
import resource
from golddice.core.game.views import View
from golddice.core.trial.trial import Trial, local_executor, run_trial
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO
game = read_game_file(DEMO)
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
with local_executor() as executor:
    run_trial(game, Trial(View("source", "lantern-eel"), 14, 10_000, 1_000, 7), executor)
after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
print(before / 1024, after / 1024)
"""


def main() -> None:
    done = subprocess.run([sys.executable, "-c", _TRIAL], capture_output=True, text=True, check=True)
    before, after = (float(part) for part in done.stdout.split())
    every = 10_000 * 1_000 * 16 / 2**20
    print(f"whole process at most {after:6.0f} MB, of which {before:.0f} MB are the libraries")
    print(f"one (item, count) kept per event would be {every:.0f} MB more")


if __name__ == "__main__":
    main()
