"""The server, through HTTP, on a real PostgreSQL."""

from __future__ import annotations

import json
import time
import unittest
from pathlib import Path
from typing import Any

import httpx

from golddice.core.errors import GoldDiceError
from golddice.server.errors import STATUS, status_of
from golddice.server.security import LARGEST_BODY
from tests.games import DEMO
from tests.support import running_server

INVALID = Path(__file__).parents[1] / "core" / "reference" / "invalid"
EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}


class Server(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(pages=False))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=90))

    client: httpx.Client

    def setUp(self) -> None:
        made = self.client.post("/api/games/import", content=DEMO.read_bytes())
        self.assertEqual(made.status_code, 201, made.text)
        self.url = f"/api/games/{made.json()['id']}"

    def post(self, path: str, body: dict[str, Any], status: int = 200) -> Any:
        response = self.client.post(f"{self.url}{path}", json=body)
        self.assertEqual(response.status_code, status, response.text)
        return response.json() if response.content else None

    def table(self, name: str = "eel-catch") -> dict[str, Any]:
        tables = self.client.get(self.url).json()["tables"]
        return next(table for table in tables if table["id"] == name)

    def change(self, body: dict[str, Any], base: int, status: int = 200) -> Any:
        entry = {"kind": "table", "id": body["id"], "body": body}
        return self.post("/changes", {"base": base, "label": "edit", "entries": [entry]}, status)


class Revisions(Server):
    """A question names the revision it is about; without one it is about the game as it is now."""

    def test_odds_of_every_revision(self) -> None:
        told = [self.value()]
        for base, nothing in enumerate((40, 60, 0), start=1):
            self.change({**self.table(), "nothing": nothing}, base)
            told.append(self.value())
        self.assertEqual(len(set(told)), 4)
        for revision, value in enumerate(told, start=1):
            found = self.post("/odds", {**EEL, "revision": revision})
            self.assertEqual((found["revision"], found["sheet"]["value"]["mean"]), (revision, value))

    def test_a_draft_is_made_on_the_revision_that_is_named(self) -> None:
        first = self.table()
        self.change({**first, "lines": first["lines"][1:]}, 1)
        focus = {"kind": "line", "table": "eel-catch", "line": first["lines"][0]["id"]}
        asked = {**EEL, "focus": focus}
        self.post("/odds", asked, 404)
        self.assertGreater(self.post("/odds", {**asked, "revision": 1})["wait"]["p_any"], 0)
        draft = [{"kind": "table", "id": "eel-catch", "body": {**first, "nothing": 0}}]
        with_blank = self.post("/odds", {**asked, "revision": 1})["wait"]["p_any"]
        drafted = self.post("/odds", {**asked, "revision": 1, "draft": draft})
        self.assertEqual(drafted["revision"], 1)
        self.assertGreater(drafted["wait"]["p_any"], with_blank)

    def test_every_kind_of_question_can_name_one(self) -> None:
        gone = self.table("crab-meat")["lines"][0]["id"]
        self.change({**self.table("crab-meat"), "lines": []}, 1)
        found = self.post("/compare", {"table": "crab-meat", "depth": 3, "revision": 1})
        self.assertIn(gone, found["rules"][0]["chances"])
        crab = {"view": {"kind": "table", "id": "crab-meat"}, "depth": 3, "revision": 1}
        self.assertGreater(max(self.post("/depths", crab)["value_mean"]), 0)
        self.assertGreater(self.post("/spread", {**crab, "events": 20})["p95"], 0)
        self.assertTrue(self.post("/profile", crab)["falls"])
        roll = {**crab, "seed": 1, "count": 50}
        self.assertGreater(self.post("/rolls", roll)["value"], 0)
        for path in ("/targets", "/items/eelskin", "/tiers/flotsam", "/meets/profile"):
            self.assertEqual(self.post(path, {"revision": 1})["revision"], 1)
        self.assertEqual(self.post("/meets", {"depth": 3, "revision": 1})["revision"], 1)

    def test_one_that_never_was(self) -> None:
        self.assertIn("revision", self.post("/odds", {**EEL, "revision": 2}, 404)["detail"])
        for wrong in (0, -1, 2**40, 1.5, "x"):
            self.post("/odds", {**EEL, "revision": wrong}, 422)

    def value(self) -> float:
        return float(self.post("/odds", EEL)["sheet"]["value"]["mean"])


class Games(Server):
    def test_made_listed_opened_copied_put_away(self) -> None:
        made = self.client.post("/api/games", json={"name": "Reef"}).json()
        self.assertIn("Reef", [game["name"] for game in self.client.get("/api/games").json()])
        opened = self.client.get(f"/api/games/{made['id']}").json()
        self.assertEqual((opened["revision"], len(opened["tiers"])), (1, 5))
        copy = self.client.post(f"/api/games/{made['id']}/duplicate").json()
        self.assertEqual(copy["name"], "Reef, copy")
        self.assertEqual(self.client.delete(f"/api/games/{made['id']}").status_code, 204)
        self.assertEqual(self.client.get(f"/api/games/{made['id']}").status_code, 404)
        self.assertEqual(self.client.post(f"/api/games/{made['id']}/restore").status_code, 200)

    def test_the_file_goes_out_as_it_came_in(self) -> None:
        response = self.client.get(f"{self.url}/file")
        self.assertEqual(response.text, DEMO.read_text(encoding="utf-8"))
        self.assertIn("saltglass-deep.golddice.json", response.headers["content-disposition"])

    def test_a_bad_file_says_everything_and_changes_nothing(self) -> None:
        before = len(self.client.get("/api/games").json())
        content = (INVALID / "unknown-keys.golddice.json").read_bytes()
        response = self.client.post("/api/games/import", content=content)
        self.assertEqual(response.status_code, 422)
        paths = {place["path"] for place in response.json()["places"]}
        self.assertLessEqual({"items[1].rarity", "tables[0].lines[1].wieght"}, paths)
        self.assertEqual(len(self.client.get("/api/games").json()), before)


class Changes(Server):
    def test_a_change_comes_back_whole_and_can_be_undone(self) -> None:
        done = self.change({**self.table(), "nothing": 20, "rolls": "1-3"}, base=1)
        body = done["entries"][0]["body"]
        self.assertEqual((done["revision"], body["nothing"], body["rolls"]["max"]), (2, 20, 3))
        self.assertEqual(done["steps"], {"undo": "edit", "redo": None})
        self.post("/undo", {})
        self.assertEqual(self.table()["nothing"], 14)
        self.post("/redo", {})
        self.assertEqual(self.table()["nothing"], 20)
        labels = [(row["origin"], row["label"]) for row in self.client.get(f"{self.url}/history").json()]
        self.assertEqual(labels[:2], [("redo", "edit"), ("undo", "edit")])

    def test_a_refusal_names_the_place(self) -> None:
        lines = [{**self.table()["lines"][0], "weight": -1}]
        problem = self.change({**self.table(), "lines": lines}, base=1, status=422)
        place = problem["places"][0]
        self.assertEqual(
            (place["kind"], place["id"], place["path"]), ("table", "eel-catch", "lines[0].weight")
        )
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_a_conflict_brings_the_other_version(self) -> None:
        self.change({**self.table(), "nothing": 20}, base=1)
        problem = self.change({**self.table(), "nothing": 30}, base=1, status=409)
        self.assertEqual(problem["theirs"][0]["body"]["nothing"], 20)
        self.assertEqual(problem["revision"], 2)

    def test_uses_and_removal(self) -> None:
        uses = self.client.get(f"{self.url}/uses/item/eelskin").json()
        self.assertEqual(
            [(use["id"], use["path"]) for use in uses], [("eel-catch", "lines[0].yields[0].item")]
        )
        self.post("/removals", {"base": 1, "kind": "item", "id": "eelskin"})
        self.assertNotIn("a", [line["id"] for line in self.table()["lines"]])

    def test_nothing_to_undo(self) -> None:
        self.post("/undo", {}, status=409)


class Odds(Server):
    def test_a_sheet_and_a_wait(self) -> None:
        focus = {"kind": "line", "table": "eel-catch", "line": "g"}
        got = self.post("/odds", {**EEL, "focus": focus})
        line = got["sheet"]["tables"]["eel-catch"]["lines"]["g"]
        self.assertAlmostEqual(got["wait"]["p_any"], line["p_any"])
        self.assertEqual(got["wait"]["points"][0], [0, 0])

    def test_a_draft_changes_the_answer_and_nothing_else(self) -> None:
        before = self.post("/odds", EEL)["sheet"]["value"]["mean"]
        draft = [{"kind": "table", "id": "eel-catch", "body": {**self.table(), "nothing": 500}}]
        self.assertLess(self.post("/odds", {**EEL, "draft": draft})["sheet"]["value"]["mean"], before)
        self.assertEqual(self.post("/odds", EEL)["sheet"]["value"]["mean"], before)

    def test_an_answer_comes_true(self) -> None:
        asked = {**EEL, "table": "eel-catch", "line": "g", "answer": "one_in", "wanted": 250}
        self.change(self.post("/answers", asked)["body"], base=1)
        line = self.post("/odds", EEL)["sheet"]["tables"]["eel-catch"]["lines"]["g"]
        self.assertAlmostEqual(line["one_in"], 250, places=6)

    def test_spread_and_profile(self) -> None:
        spread = self.post("/spread", {**EEL, "events": 200})
        self.assertEqual(len(spread["dots"]), 100)
        self.assertLess(spread["p05"], spread["p95"])
        profile = self.post("/profile", EEL)
        self.assertEqual((len(profile["falls"]), profile["met"]), (30, [3, 30]))

    def test_rolls_go_on_where_they_stopped(self) -> None:
        asked = {**EEL, "seed": 5, "first": 1, "count": 10}
        whole = self.post("/rolls", asked)
        rest = self.post("/rolls", {**asked, "first": 8, "count": 3})
        self.assertEqual(whole["events"][7:], rest["events"])
        self.assertEqual((rest["rolled"], rest["tiers"]), (10, whole["tiers"]))

    def test_findings_follow_the_game(self) -> None:
        before = self.client.get(f"{self.url}/findings").json()["findings"]
        lines = [{**self.table()["lines"][0], "weight": 0}, *self.table()["lines"][1:]]
        self.change({**self.table(), "lines": lines}, base=1)
        found = self.client.get(f"{self.url}/findings").json()["findings"]
        new = [(one["id"], one["path"]) for one in found if one not in before]
        self.assertEqual(new, [("eel-catch", "tables[0].lines[0]")])

    def test_unknown_names_and_nonsense(self) -> None:
        self.post("/odds", {**EEL, "view": {"kind": "source", "id": "whale"}}, status=404)
        self.post("/odds", {**EEL, "depth": 31}, status=422)
        self.post("/odds", {**EEL, "colour": "red"}, status=422)
        self.assertEqual(self.client.get("/api/games/no-such").status_code, 404)
        broken = self.client.post(f"{self.url}/odds", content=b"{nonsense")
        self.assertEqual(broken.status_code, 422)


class Trials(Server):
    def run_trial(self, players: int, events: int) -> str:
        asked = {**EEL, "players": players, "events": events, "seed": 7, "knowingly": True}
        return str(self.post("/trials", asked, status=201)["id"])

    def wait_for(self, trial: str, *states: str) -> Any:
        for _ in range(600):
            got = self.client.get(f"{self.url}/trials/{trial}").json()
            if got["status"] in states:
                return got
            time.sleep(0.05)
        self.fail(f"still {got['status']}")

    def test_a_trial_is_run_told_about_and_kept(self) -> None:
        with self.client.stream("GET", f"{self.url}/events") as stream:
            lines = stream.iter_lines()
            next(lines)
            trial = self.run_trial(500, 200)
            news = (json.loads(line[6:]) for line in lines if line.startswith("data: "))
            last = next(one for one in news if one["status"] == "done")
        self.assertEqual((last["id"], last["done"]), (trial, 500))
        got = self.wait_for(trial, "done")
        self.assertLess(abs(got["result"]["items"]["eelskin"]["z"]), 5)
        self.assertEqual(len(got["result"]["players"]), 3)
        renamed = self.client.patch(f"{self.url}/trials/{trial}", json={"name": "Eels"}).json()
        self.assertEqual(renamed["name"], "Eels")
        self.client.delete(f"{self.url}/trials/{trial}")
        self.assertEqual(self.client.get(f"{self.url}/trials/{trial}").status_code, 404)

    def test_a_trial_can_be_cancelled(self) -> None:
        trial = self.run_trial(1_000_000, 5_000)
        self.assertEqual(self.client.post(f"{self.url}/trials/{trial}/cancel").status_code, 202)
        self.assertIsNone(self.wait_for(trial, "cancelled")["result"])

    def test_one_that_cannot_run_is_refused_at_once(self) -> None:
        self.post("/trials", {**EEL, "players": 10**6, "events": 10**6, "seed": 1}, status=422)


class Safety(Server):
    def test_only_our_own_host_and_origin(self) -> None:
        self.assertEqual(self.client.get("/api/games", headers={"Host": "evil.test"}).status_code, 421)
        foreign = {"Origin": "http://evil.test"}
        self.assertEqual(self.client.post(f"{self.url}/undo", headers=foreign).status_code, 403)
        self.assertEqual(self.client.get(self.url, headers=foreign).status_code, 200)

    def test_a_body_too_large(self) -> None:
        response = self.client.post("/api/games/import", content=b" " * (LARGEST_BODY + 1))
        self.assertEqual(response.status_code, 413)

    def test_headers(self) -> None:
        headers = self.client.get("/api/games").headers
        self.assertIn("default-src 'self'", headers["content-security-policy"])
        self.assertEqual(headers["x-content-type-options"], "nosniff")

    def test_every_error_of_ours_has_a_status(self) -> None:
        def family(kind: type[GoldDiceError]) -> set[type[GoldDiceError]]:
            return {kind}.union(*(family(sub) for sub in kind.__subclasses__()))

        never_asked = {"GoldDiceError", "StoreError", "ClusterError", "BadSetting", "CannotServe"}
        never_asked |= {
            "CannotPlay",
            "LeaseLost",
            "NoLongerTheSame",
            "OtherVersion",
        }  # between our own processes
        for kind in family(GoldDiceError):
            if kind.__name__ not in never_asked:
                self.assertNotEqual(status_of(kind.__new__(kind)), 500, kind)
        self.assertGreater(len(STATUS), 8)


del Server  # the base has no tests of its own


if __name__ == "__main__":
    unittest.main()
