"""(c) From an edit to new numbers through HTTP: save the change, ask for the sheet's odds.

The rival is the same without saving first: the odds of a draft.
"""

from __future__ import annotations

import statistics
import time

import httpx

from golddice.server.settings import DEMO
from tests.support import running_server

ROUNDS = 60
EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}


def main() -> None:
    with running_server() as (address, _), httpx.Client(base_url=address, timeout=30) as client:
        url = f"/api/games/{client.post('/api/games/import', content=DEMO.read_bytes()).json()['id']}"
        start = time.perf_counter()
        client.get("/")
        print(f"the page itself: {1000 * (time.perf_counter() - start):.0f} ms")
        tables = client.get(url).json()["tables"]
        table = next(table for table in tables if table["id"] == "eel-catch")
        saved, drafted = [], []
        for at in range(ROUNDS):
            entry = {"kind": "table", "id": "eel-catch", "body": {**table, "nothing": 10 + at}}
            drafted.append(_timed(client, url, [entry], None))
            saved.append(_timed(client, url, [entry], at + 1))
    for name, times in (("saved, then shown", saved), ("drafted (a keystroke)", drafted)):
        print(f"{name:24} median {statistics.median(times):6.1f} ms, worst {max(times):6.1f} ms")


def _timed(client: httpx.Client, url: str, entries: list[dict], base: int | None) -> float:  # type: ignore[type-arg]
    start = time.perf_counter()
    if base is not None:
        change = {"base": base, "label": "bench", "entries": entries}
        client.post(f"{url}/changes", json=change).raise_for_status()
    draft = entries if base is None else []
    client.post(f"{url}/odds", json={**EEL, "draft": draft}).raise_for_status()
    return 1000 * (time.perf_counter() - start)


if __name__ == "__main__":
    main()
