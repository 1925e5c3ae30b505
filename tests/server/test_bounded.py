"""Every operation that there is, asked of a game that asks for much: others do not feel it, and who leaves is
worked for no more. Nothing stands in for the work."""

from __future__ import annotations

import threading
import time
import unittest
from contextlib import suppress
from typing import Any

import httpx
import psutil

from golddice.server.openapi import document
from tests.games import DEMO
from tests.heavy import heavy_game, questions
from tests.support import fronted_server

LIGHT = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}
PATIENCE = 1.5  # seconds after which whoever asks a heavy question leaves
# Seconds for a light question of others: 0.1 on a quiet machine, see bench; whoever waited behind heavy ones
# would wait for a minute.
SLOWEST = 20.0
LARGEST = 10 * 2**20
MOST_MEMORY = 1_400 * 2**20  # 1 GB beyond what a worker holds to begin with
# What is no question about a game's odds: edits, files, news.
APART = {
    "collection",
    *("changes", "removals", "undo", "redo", "back", "restore", "duplicate", "presence", "trials"),
    *("sheets", "log"),  # what is read in is of `test_hostile`
    *("answers", "cells", "price", "place", "kit"),  # asked of the demo alone, where they are light
}


class Bounded(unittest.TestCase):
    def setUp(self) -> None:
        address = self.enterContext(fronted_server())
        self.client = self.enterContext(httpx.Client(base_url=address, timeout=60))
        self.heavy = self.imported(httpx.Request("POST", "/", json=heavy_game()).content)
        self.light = self.imported(DEMO.read_bytes())
        self.took: list[float] = []
        self.stopped = threading.Event()
        self.others = threading.Thread(target=self._ask_lightly, args=(address,), daemon=True)

    def imported(self, content: bytes) -> str:
        made = self.client.post("/api/games/import", content=content)
        self.assertEqual(made.status_code, 201, made.text[:300])
        return f"/api/games/{made.json()['id']}"

    def test_nobody_waits_for_anothers_questions_and_they_end_with_their_askers(self) -> None:
        self._ask(self.light, "odds", LIGHT)
        self.others.start()
        for path, body in questions():
            with self.subTest(path=path, body=str(body)[:80]):
                self._ask(self.heavy, path, body)
        self.stopped.set()
        self.others.join(60)
        begun = time.monotonic()
        while self._busy(0.5) > 0.2:
            self.assertLess(time.monotonic() - begun, 10.0, "somebody works for nobody")
        self.assertGreater(len(self.took), 20)
        self.assertLess(max(self.took), SLOWEST)

    def test_every_question_of_the_interface_is_among_them(self) -> None:
        asked = {path.split("/")[0] for path, _ in questions()}
        there = {
            path.removeprefix("/api/games/{game_id}/").split("/")[0]
            for path, operations in document()["paths"].items()
            if path.startswith("/api/games/{game_id}/") and "post" in operations
        }
        self.assertEqual(there - asked - APART, set())

    def _ask(self, game: str, path: str, body: dict[str, Any]) -> None:
        """Whoever asks leaves after a while; an answer before that is short, or a refusal with a reason."""
        with suppress(httpx.TimeoutException):
            answer = self.client.post(f"{game}/{path}", json=body, timeout=PATIENCE)
            self.assertLess(answer.status_code, 500, answer.text[:300])
            self.assertLess(len(answer.content), LARGEST)
            if answer.status_code >= 400:
                self.assertGreater(len(answer.json()["detail"]), 10)
        self.assertLess(max(one.memory_info().rss for one in self._processes()), MOST_MEMORY)

    def _ask_lightly(self, address: str) -> None:
        with httpx.Client(base_url=address, timeout=60) as client:
            while not self.stopped.wait(0.1):
                begun = time.monotonic()
                client.post(f"{self.light}/odds", json=LIGHT | {"depth": 10 + len(self.took) % 5})
                self.took.append(time.monotonic() - begun)

    def _busy(self, seconds: float) -> float:
        """Of all our processes, in so many seconds."""
        before = self._used()
        time.sleep(seconds)
        return self._used() - before

    def _used(self) -> float:
        total = 0.0
        for process in self._processes():
            with suppress(psutil.NoSuchProcess):
                times = process.cpu_times()
                total += times.user + times.system
        return total

    def _processes(self) -> list[psutil.Process]:
        found = []
        for one in psutil.Process().children(recursive=True):
            with suppress(psutil.NoSuchProcess):
                if one.is_running() and one.memory_info().rss:
                    found.append(one)
        return found


if __name__ == "__main__":
    unittest.main()
