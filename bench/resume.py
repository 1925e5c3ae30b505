"""(h) The server killed with -9 twenty times during one trial: what is lost at each kill, and the digest in
the end beside that of a run which nothing disturbed.

Work lost is what was being played but not kept yet: the time played since the last unit was kept, in units.
"""

from __future__ import annotations

import random
import shutil
import signal
import tempfile
import time
from itertools import pairwise
from pathlib import Path
from typing import Any

import httpx

from bench.runs import EEL
from golddice.core.trial.trial import Trial, local_executor, plan_of, run_trial
from golddice.files.game_file import read_game_file
from golddice.server.settings import DEMO
from tests.support import served

KILLS = 20
ASKED = Trial(EEL, 14, 200_000, 1_000, 7)


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="golddice-resume-"))
    folder.chmod(0o755)
    try:
        digest, lives = _killed(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    game = read_game_file(DEMO)
    size = max(players for _, players in plan_of(game, ASKED).units())
    with local_executor() as executor:
        whole = run_trial(game, ASKED, executor)["digest"]
    print(f"{KILLS} kills in one trial of {ASKED.players // size} units: the digest is ", end="")
    print("that of an undisturbed run" if digest == whole else f"ANOTHER: {digest}, not {whole}")
    gained = [(after - before) / size for before, after, _ in lives]
    gone = sum(max(0.0, seen - begins) for (_, seen, _), (begins, _, _) in pairwise(lives)) / size
    print(
        f"units played between two kills: {min(gained):.0f} to {max(gained):.0f}; kept and gone: {gone:.0f}"
    )
    print(f"the last unit was kept {sum(late for *_, late in lives) / KILLS:.2f} s before a kill, on average")


def _killed(folder: Path) -> tuple[str, list[tuple[int, int, float]]]:
    """The digest in the end; for each life the players done as it began and as they were last seen, and how
    many seconds before the kill the last unit was kept."""
    draw, url, trial, lives = random.Random(7), "", "", list[tuple[int, int, float]]()
    while True:
        with served(folder) as (process, client):
            if not trial:
                game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
                asked = {"view": {"kind": "source", "id": EEL.id}, "depth": 14, "flags": [], "seed": 7}
                url = f"/api/games/{game}/trials"
                asked |= {"players": ASKED.players, "events": ASKED.events}
                trial = client.post(url, json=asked).json()["id"]
            found = _looked(client, f"{url}/{trial}", 0.0)
            if len(lives) == KILLS:
                while found["status"] != "done":
                    found = _looked(client, f"{url}/{trial}", 0.1)
                process.send_signal(signal.SIGTERM)
                process.wait(30)
                return found["result"]["digest"], lives
            while not (found["pace"] and found["pace"]["events_a_second"]):  # what was kept is added up first
                found = _looked(client, f"{url}/{trial}", 0.005)
            began = found["done"]
            kept, end = time.monotonic(), time.monotonic() + draw.uniform(0.0, 0.8)
            while time.monotonic() < end:
                before, found = found["done"], _looked(client, f"{url}/{trial}", 0.005)
                kept = time.monotonic() if found["done"] > before else kept
            lives.append((began, found["done"], time.monotonic() - kept))
            process.kill()


def _looked(client: httpx.Client, url: str, after: float) -> dict[str, Any]:
    time.sleep(after)
    found: dict[str, Any] = client.get(url).json()
    return found


if __name__ == "__main__":
    main()
