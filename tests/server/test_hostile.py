"""Two hundred files that mean no good, each sent to the application as it is served."""

from __future__ import annotations

import json
import time
import unittest

import httpx
import psutil

from tests.games import DEMO
from tests.hostile import Hostile, corpus
from tests.support import fronted_server

LONGEST = 4_096  # letters of what is told
MOST_MEMORY = 800 * 2**20  # what a worker holds to begin with (some 300 MB), and 500 MB
SLOWEST = 50.0  # seconds; 3.4 on a quiet machine, see bench


class Files(unittest.TestCase):
    def setUp(self) -> None:
        address = self.enterContext(fronted_server())
        self.client = self.enterContext(httpx.Client(base_url=address, timeout=60))
        game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()
        self.url = f"/api/games/{game['id']}"

    def test_each_is_read_or_refused_with_its_place_in_good_time(self) -> None:
        files = corpus()
        self.assertGreater(len(files), 200)
        workers = {one.pid for one in self._processes()}
        for one in files:
            with self.subTest(one.what, where=one.where):
                self._sent(one)
        gone = workers - {one.pid for one in self._processes()}
        self.assertFalse(gone, "a process went with a file")

    def _sent(self, one: Hostile) -> None:
        paths = {
            "game": "/api/games/import",
            "sheets": f"{self.url}/sheets?name={one.name}",
            "log": f"{self.url}/log?name={one.name}",
        }
        begun = time.monotonic()
        answer = self.client.post(paths[one.where], content=one.content)
        self.assertLess(time.monotonic() - begun, SLOWEST)
        self.assertLess(answer.status_code, 500, answer.text[:500])
        self.assertLess(max(map(_held, self._processes())), MOST_MEMORY)
        if answer.status_code >= 400:
            told = answer.json()
            self.assertGreater(len(told["detail"]), 10)
            for bound in ("takes over", "takes more memory"):  # the last resort, which none should come to
                self.assertNotIn(bound, told["detail"])
            self.assertLess(len(told["detail"]), LONGEST)
            self.assertLess(len(json.dumps(told.get("places", [])[:1])), LONGEST)
            self.assertNotIn("Traceback", answer.text)

    def _processes(self) -> list[psutil.Process]:
        return psutil.Process().children(recursive=True)


def _held(process: psutil.Process) -> int:
    try:
        return int(process.memory_info().rss)
    except psutil.NoSuchProcess:
        return 0


if __name__ == "__main__":
    unittest.main()
