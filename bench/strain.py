"""(s) What others wait while long questions are worked out: questions and edits handed to processes, against
the same application with all of it in one process; with --long, the largest questions that can be asked."""

from __future__ import annotations

import json
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress

import httpx

from tests.games import DEMO
from tests.heavy import heavy_game, questions
from tests.hostile import corpus
from tests.support import fronted_server, running_server

EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}


class Asker:
    """One game on one server."""

    def __init__(self, address: str, content: bytes) -> None:
        self.address, self.client = address, httpx.Client(base_url=address, timeout=300)
        game = self.client.post("/api/games/import", content=content).json()["id"]
        self.url, self._revision, self._turn = f"/api/games/{game}", 1, 0

    def light(self) -> None:
        self._turn += 1
        depth = 10 + self._turn % 5
        self.client.post(f"{self.url}/odds", json={**EEL, "depth": depth}).raise_for_status()

    def edit(self) -> None:
        body = self.client.get(self.url).json()["items"][0]
        entry = {"kind": "item", "id": body["id"], "body": body | {"value": body["value"] + 1}}
        change = {"base": self._revision, "label": "edit", "entries": [entry]}
        answer = self.client.post(f"{self.url}/changes", json=change)
        self._revision = answer.raise_for_status().json()["revision"]

    @contextmanager
    def tuned_by(self, many: int) -> Iterator[None]:
        """Meanwhile so many ask for proposals; they leave at the end."""
        left = threading.Event()

        def ask() -> None:
            with suppress(httpx.HTTPError), httpx.Client(base_url=self.address, timeout=30) as client:
                while not left.is_set():
                    client.post(f"{self.url}/tune", json={})

        threads = [threading.Thread(target=ask, daemon=True) for _ in range(many)]
        for thread in threads:
            thread.start()
        time.sleep(0.5)
        yield
        left.set()


def main() -> None:
    with running_server(pages=False) as (one, _), fronted_server() as several:
        for name, address in (("processes", several), ("one process", one)):
            asker = Asker(address, DEMO.read_bytes())
            asker.light()
            for many in (0, 4):
                with asker.tuned_by(many):
                    light = _longest(asker.light, 10 if many else 30)
                    edit = _longest(asker.edit, 3)
                    health = _longest(lambda asker=asker: asker.client.get("/api/health"), 5)  # type: ignore[misc]
                told = f"light {light:6.2f} s, edit {edit:6.2f} s, health {health:6.2f} s at most"
                print(f"{name:12} beside {many} proposals: {told}", flush=True)
    if "--long" in sys.argv:
        _largest()


def _largest() -> None:
    with fronted_server() as address:
        heavy = Asker(address, json.dumps(heavy_game()).encode())
        for path, body in questions():
            begun = time.perf_counter()
            answer = heavy.client.post(f"{heavy.url}/{path}", json=body)
            took, size = time.perf_counter() - begun, len(answer.content) / 2**20
            print(
                f"{took:7.2f} s {answer.status_code} {size:6.2f} MB  {path} {json.dumps(body)[:60]}",
                flush=True,
            )
        demo = Asker(address, DEMO.read_bytes())
        slowest: list[tuple[float, str]] = []
        for one in corpus():
            paths = {"game": "/api/games/import", "sheets": f"{demo.url}/sheets", "log": f"{demo.url}/log"}
            begun = time.perf_counter()
            demo.client.post(paths[one.where], params={"name": one.name}, content=one.content)
            slowest.append((time.perf_counter() - begun, one.what))
        for took, what in sorted(slowest, reverse=True)[:5]:
            print(f"{took:7.2f} s  {what}")


def _longest(work: Callable[[], object], times: int) -> float:
    found = 0.0
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found = max(found, time.perf_counter() - begun)
    return found


if __name__ == "__main__":
    main()
