"""Trials over HTTP: of routes and drafts, compared, estimated, in line; and a server that is killed."""

from __future__ import annotations

import shutil
import signal
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any
from unittest.mock import patch

import httpx

from golddice.core.game.views import View
from golddice.core.trial.trial import Trial, local_executor, run_trial
from golddice.server import runner
from golddice.store.errors import Unavailable
from golddice.store.line import Line
from tests.games import DEMO, demo
from tests.server.of_demo import DemoTest
from tests.support import served

EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14, "flags": [], "seed": 7}
WAY = {
    "id": "way",
    "name": "Way",
    "notes": "",
    "flags": [],
    "purse": {},
    "bag": None,
    "legs": [
        {"id": "a", "from": 3, "to": 6, "visits": {"min": 1, "max": 2}},
        {"id": "b", "from": 8, "to": 8, "source": "lantern-eel", "times": {"min": 5, "max": 5}},
    ],
}


def ended(client: httpx.Client, url: str, trial: str, *states: str) -> dict[str, Any]:
    end = time.monotonic() + 240
    while time.monotonic() < end:
        found: dict[str, Any] = client.get(f"{url}/trials/{trial}").json()
        if found["status"] in (states or ("done", "failed", "cancelled")):
            return found
        time.sleep(0.05)
    raise AssertionError(f"still {found['status']}")


class Trials(DemoTest):
    def run_one(self, status: int = 201, **asked: Any) -> dict[str, Any]:
        return self.post("trials", status, **{**EEL, **asked})

    def done(self, **asked: Any) -> dict[str, Any]:
        found = ended(self.client, self.url, self.run_one(**asked)["id"])
        self.assertEqual(found["status"], "done", found["error"])
        return found

    def edit(self, *entries: dict[str, Any]) -> int:
        base = self.client.get(self.url).json()["revision"]
        change = {"base": base, "label": "edit", "entries": list(entries)}
        return int(self.post("changes", **change)["revision"])

    def heavier(self, times: float) -> dict[str, Any]:
        table = self.body("table", "eel-catch")
        table["lines"][6]["weight"] *= times
        return {"kind": "table", "id": "eel-catch", "body": table}

    def test_of_a_route_stop_by_stop(self) -> None:
        self.edit({"kind": "route", "id": "way", "body": WAY})
        asked = {"route": "way", "players": 2_000, "seed": 3}
        trial = self.post("trials", 201, **asked)
        found = ended(self.client, self.url, trial["id"])
        self.assertEqual(found["status"], "done", found["error"])
        stops = found["result"]["stops"]
        self.assertEqual(
            [(stop["leg"], stop["depth"]) for stop in stops], [*(("a", d) for d in (3, 4, 5, 6)), ("b", 8)]
        )
        self.assertGreater(stops[-1]["seconds"], stops[0]["seconds"])
        self.assertEqual(len(found["result"]["fan"]["events"]), 5)

    def test_a_player_of_a_route_is_replayed(self) -> None:
        self.edit({"kind": "route", "id": "way", "body": WAY})
        trial = self.post("trials", 201, route="way", players=300, seed=3)
        unlucky = ended(self.client, self.url, trial["id"])["result"]["players"]["unluckiest"]
        url = f"{self.url}/trials/{trial['id']}/players/{unlucky['player']}"
        found = self.client.get(url, params={"count": 200}).json()
        self.assertEqual(found["value"], unlucky["value"])
        fell: dict[str, int] = {}
        for event in found["events"]:
            for one in event["received"]:
                fell[one["item"]] = fell.get(one["item"], 0) + one["count"]
        self.assertEqual(fell, unlucky["items"])
        stops = [event["stop"] for event in found["events"]]
        self.assertEqual(stops, sorted(stops))
        self.assertEqual(stops[-1], 4)
        some = self.client.get(url, params={"first": 2, "count": 2}).json()["events"]
        self.assertEqual([event["event"] for event in some if event["event"] > 0], [2, 3])

    def test_a_player_at_a_depth_is_replayed_as_it_was_then(self) -> None:
        trial = self.done(players=300, events=30)
        self.edit(self.heavier(50))
        lucky = trial["result"]["players"]["luckiest"]
        url = f"{self.url}/trials/{trial['id']}/players/{lucky['player']}"
        found = self.client.get(url, params={"count": 200}).json()
        self.assertEqual((len(found["events"]), found["value"]), (30, lucky["value"]))
        self.assertEqual(self.client.get(f"{self.url}/trials/{trial['id']}/players/300").status_code, 422)

    def test_whoever_ended_near_a_value(self) -> None:
        trial = self.done(players=2_000, events=30)
        url = f"{self.url}/trials/{trial['id']}/near"
        lucky = trial["result"]["players"]["luckiest"]
        found = self.client.get(url, params={"value": 1e9}).json()
        self.assertEqual(found["value"], lucky["value"])
        middle = self.client.get(url, params={"value": trial["result"]["value"]["p50"]}).json()
        self.assertEqual(middle["value"], trial["result"]["value"]["p50"])

    def test_of_an_earlier_revision_and_of_a_draft(self) -> None:
        before = self.done(players=400, events=50)
        self.edit(self.heavier(3))
        now, then = self.done(players=400, events=50), self.done(players=400, events=50, revision=1)
        self.assertEqual(then["result"]["digest"], before["result"]["digest"])
        self.assertNotEqual(now["result"]["digest"], before["result"]["digest"])
        tried = self.done(players=400, events=50, revision=1, draft=[self.heavier(1)])
        self.assertEqual(tried["result"]["digest"], now["result"]["digest"])
        self.run_one(404, players=10, events=5, revision=99)

    def test_two_beside_one_another(self) -> None:
        before = self.done(players=4_000, events=100)
        after = self.done(players=4_000, events=100, draft=[self.heavier(1.05)])
        found = self.post(f"trials/{after['id']}/compare", other=before["id"])
        self.assertTrue(found["paired"])
        lens = found["items"]["beacon-lens"]
        self.assertFalse(lens["noise"])
        self.assertAlmostEqual(
            lens["difference"],
            after["result"]["items"]["beacon-lens"]["mean"]
            - before["result"]["items"]["beacon-lens"]["mean"],
        )
        other = self.done(players=300, events=100, seed=8)
        found = self.post(f"trials/{other['id']}/compare", other=before["id"])
        self.assertFalse(found["paired"])
        self.assertIn("other seeds", found["why_unpaired"])
        self.post(f"trials/{other['id']}/compare", 404, other="no-such")

    def test_one_that_would_take_long_is_asked_about(self) -> None:
        asked = {"players": 1_000_000, "events": 1_000}
        estimate = self.post("trials/estimate", **EEL, **asked)
        self.assertGreater(estimate["seconds"], 10)
        answer = self.client.post(f"{self.url}/trials", json={**EEL, "players": 10**6, "events": 9_000})
        self.assertEqual(answer.status_code, 422)
        self.assertRegex(answer.json()["detail"], r"would take about \d+ minutes, \d+ MB kept")

    def test_one_that_names_nothing_is_refused_with_its_place(self) -> None:
        self.post("trials", 422, players=5, seed=1)
        self.post("trials", 422, route="way", players=5, seed=1, depth=3)
        self.post("trials", 404, route="nowhere", players=5, seed=1)
        self.run_one(422, players=5, events=5, until={"within": 0.02, "item": "nothing-such"})

    def test_it_ends_when_the_mean_is_known(self) -> None:
        found = self.done(players=50_000, events=100, until={"within": 0.02})
        self.assertLess(found["done"], 50_000)
        self.assertEqual(found["result"]["players_done"], found["done"])

    def test_what_has_been_played_is_told_while_it_runs(self) -> None:
        trial = self.run_one(players=1_000_000, events=2_000, knowingly=True)["id"]
        end = time.monotonic() + 30
        found: dict[str, Any] = {}
        while time.monotonic() < end and not found.get("partial"):
            found = self.client.get(f"{self.url}/trials/{trial}").json()
            time.sleep(0.1)
        self.assertEqual(found["partial"]["players_done"] < 1_000_000, True)
        self.assertGreaterEqual(found["done"], found["partial"]["players_done"])
        [listed] = (one for one in self.client.get(f"{self.url}/trials").json() if one["id"] == trial)
        self.assertGreaterEqual(listed["done"], found["done"])
        self.assertIsNone(found["partial"]["value"]["expected_mean"])
        self.assertGreater(found["pace"]["events_a_second"], 0)
        self.assertGreater(found["pace"]["seconds_left"], 0)
        start = time.monotonic()
        self.client.post(f"{self.url}/trials/{trial}/cancel")
        ended(self.client, self.url, trial, "cancelled")
        self.assertLess(time.monotonic() - start, 5)

    def test_games_take_turns(self) -> None:
        long = [self.run_one(players=30_000, events=400)["id"] for _ in range(4)]
        first, self_url = self.url, self.url
        self.setUp()
        other = self.run_one(players=50, events=5)["id"]
        ended(self.client, self.url, other, "done")
        left = [self.client.get(f"{first}/trials/{one}").json()["status"] for one in long]
        self.assertIn("waiting", left)
        for one in long:
            self.client.post(f"{self_url}/trials/{one}/cancel")

    def test_put_away_and_brought_back_with_note_and_pin(self) -> None:
        trial = self.done(players=50, events=5)["id"]
        newer = self.done(players=50, events=5)["id"]
        change = {"note": "before the mend", "pinned": True}
        told = self.client.patch(f"{self.url}/trials/{trial}", json=change).json()
        self.assertEqual((told["note"], told["pinned"]), ("before the mend", True))
        listed = [one["id"] for one in self.client.get(f"{self.url}/trials").json()]
        self.assertEqual(listed, [trial, newer])
        self.client.delete(f"{self.url}/trials/{trial}")
        self.assertEqual([one["id"] for one in self.client.get(f"{self.url}/trials").json()], [newer])
        self.assertEqual(self.client.get(f"{self.url}/trials/{trial}").status_code, 404)
        self.post(f"trials/{trial}/restore")
        self.assertEqual(ended(self.client, self.url, trial)["note"], "before the mend")


class DatabaseAway(DemoTest):
    def test_no_unit_is_lost_or_counted_twice(self) -> None:
        """Every third unit's keeping fails: half of those before it is written, half after."""
        keep, calls = Line.keep_unit, []

        def failing(line: Line, trial: str, owner: str, number: int, players: int, data: bytes) -> None:
            calls.append(number)
            if len(calls) % 6 == 3:
                raise Unavailable
            keep(line, trial, owner, number, players, data)
            if len(calls) % 6 == 0:
                raise Unavailable

        asked = {**EEL, "players": 20_000, "events": 500}
        with patch.object(Line, "keep_unit", failing), patch.object(runner, "_TRY_AGAIN", 0.02):
            trial = self.post("trials", 201, **asked)["id"]
            found = ended(self.client, self.url, trial)
        self.assertGreater(len(calls), len(set(calls)))
        with local_executor(2) as executor:
            whole = run_trial(demo(), Trial(View("source", "lantern-eel"), 14, 20_000, 500, 7), executor)
        self.assertEqual(found["result"]["digest"], whole["digest"])
        again = self.post("trials", 201, **asked)["id"]
        ended(self.client, self.url, again)
        compared = self.post(f"trials/{again}/compare", other=trial)
        self.assertEqual((compared["players"], compared["value"]["difference"]), (20_000, 0.0))


class Killed(unittest.TestCase):
    """`kill -9` at any time: after the next start the trial goes on and ends as if nothing had been."""

    def test_it_goes_on_with_what_is_kept(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="golddice-killed-"))
        folder.chmod(0o755)
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        asked = {**EEL, "players": 24_000, "events": 1_000}
        url = trial = ""
        kills, done = 0, {}
        for kill in range(3):
            with served(folder, demo=False) as (process, client):
                if not trial:
                    game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
                    url = f"/api/games/{game}"
                    trial = client.post(f"{url}/trials", json=asked).json()["id"]
                if kill == 2:
                    done = ended(client, url, trial)
                    process.send_signal(signal.SIGTERM)
                    process.wait(30)
                    break
                self._played_some(client, f"{url}/trials/{trial}")
                kills += 1
                process.kill()
        self.assertEqual((done["status"], done["error"]), ("done", None))
        with local_executor(2) as executor:
            whole = run_trial(demo(), Trial(View("source", "lantern-eel"), 14, 24_000, 1_000, 7), executor)
        self.assertEqual(done["result"]["digest"], whole["digest"])
        self.assertEqual(done["result"]["value"]["p50"], whole["value"]["p50"])

    def _played_some(self, client: httpx.Client, trial: str) -> None:
        """Until it has come further than it was."""
        began = client.get(trial).json()["done"]
        end = time.monotonic() + 20
        while time.monotonic() < end:
            found = client.get(trial).json()
            pace = found["pace"]
            if found["status"] == "done" or (pace and pace["events_a_second"] and found["done"] >= began):
                break
            time.sleep(0.02)
        time.sleep(0.15)


if __name__ == "__main__":
    unittest.main()
