"""History over HTTP: every revision told, looked at, marked, gone back to, compared."""

from __future__ import annotations

import json
import unittest
from typing import Any, ClassVar

import httpx

from tests.games import DEMO
from tests.support import running_server


class Past(unittest.TestCase):
    client: ClassVar[httpx.Client]

    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(module=cls.__module__))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=120))

    def setUp(self) -> None:
        self.game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
        self.url = f"/api/games/{self.game}"

    def whole(self, **asked: Any) -> Any:
        return self.client.get(self.url, params=asked).json()

    def bare(self, **asked: Any) -> Any:
        """A game without what each opening of it is told anew."""
        return {key: one for key, one in self.whole(**asked).items() if key not in ("revision", "steps")}

    def change(self, kind: str, name: str, body: Any, label: str = "edit", **more: Any) -> int:
        entry = {"kind": kind, "id": name, "body": body, **more.pop("entry", {})}
        asked = {"base": self.whole()["revision"], "label": label, "entries": [entry], **more}
        made = self.client.post(f"{self.url}/changes", json=asked)
        self.assertEqual(made.status_code, 200, made.text)
        return int(made.json()["revision"])

    def item(self, name: str, value: float) -> dict[str, Any]:
        found = next(item for item in self.whole()["items"] if item["id"] == name)
        return {**found, "value": value}

    def edited(self) -> None:
        """Five revisions: a value, a new item, another order, a removal, a weight."""
        self.change("item", "lamp-oil", self.item("lamp-oil", 99), "value", who="Ada", page="ada-page-1")
        made = {"id": "tar", "name": "Tar", "tier": "flotsam", "value": 2}
        self.change("item", "tar", made, "new item", entry={"before": "lamp-oil"})
        asked = {"base": 3, "kind": "table", "id": "market-stock"}
        refused = self.client.post(f"{self.url}/removals", json=asked)
        self.assertEqual(refused.status_code, 422)
        asked = {"base": 3, "kind": "table", "id": "kiln-trove"}
        tables = [table["id"] for table in self.whole()["tables"]]
        removed = {**asked, "id": tables[0] if tables[0] != "market-stock" else tables[1]}
        gone = self.client.post(f"{self.url}/removals", json=removed)
        self.assertEqual(gone.status_code, 200, gone.text)

    def test_the_log_says_who_and_names_of_removals_and_steps(self) -> None:
        page = {"token": "removal-by-bo", "page": "bo-page-1", "who": "Bo"}
        asked = {"base": 1, "kind": "source", "id": "silt-crab", **page}
        self.assertEqual(self.client.post(f"{self.url}/removals", json=asked).status_code, 200)
        for step in ("undo", "redo"):
            told = self.client.post(f"{self.url}/{step}", json={**page, "token": f"{step}-by-bo"})
            self.assertEqual(told.json()["label"], "removed Silt crab")
        log = self.client.get(f"{self.url}/history").json()[:3]
        self.assertEqual([(one["who"], one["label"]) for one in log], [("Bo", "removed Silt crab")] * 3)

    def test_every_revision_is_looked_at_as_it_was(self) -> None:
        seen = {1: self.bare()}
        self.edited()
        for revision in range(1, self.whole()["revision"] + 1):
            seen.setdefault(revision, self.bare(revision=revision))
        self.assertEqual(seen[1], self.bare(revision=1))
        self.assertEqual(len({json.dumps(one, sort_keys=True) for one in seen.values()}), len(seen))
        self.assertEqual(self.client.get(self.url, params={"revision": 99}).status_code, 404)

    def test_gone_back_to_and_that_taken_back(self) -> None:
        first = self.bare()
        self.edited()
        last = self.bare()
        revision = self.whole()["revision"]
        back = self.client.post(f"{self.url}/back", json={"revision": 1, "page": "ada-page-1"})
        self.assertEqual((back.status_code, back.json()["revision"]), (200, revision + 1), back.text)
        self.assertEqual(self.bare(), first)
        self.assertEqual(self.bare(revision=revision), last)
        again = self.client.post(f"{self.url}/back", json={"revision": 1})
        self.assertEqual(again.status_code, 409)
        self.client.post(f"{self.url}/undo", json={"page": "ada-page-1"})
        self.assertEqual(self.bare(), last)
        gone = self.client.post(f"{self.url}/back", json={"revision": 77})
        self.assertEqual(gone.status_code, 404)

    def test_who_what_and_marks(self) -> None:
        self.edited()
        newest, *_, first = self.client.get(f"{self.url}/history").json()
        self.assertEqual(first["revision"], 1)
        value = next(one for one in self.client.get(f"{self.url}/history").json() if one["label"] == "value")
        told = (value["who"], value["things"], value["count"], value["mark"])
        self.assertEqual(told, ("Ada", [["item", "lamp-oil"]], 1, None))
        self.assertGreaterEqual(newest["count"], 1)
        self.client.put(f"{self.url}/marks/2", json={"name": "before the rebalance"})
        named = {one["revision"]: one["mark"] for one in self.client.get(f"{self.url}/history").json()}
        self.assertEqual(named[2], "before the rebalance")
        self.assertEqual(self.client.put(f"{self.url}/marks/99", json={"name": "x"}).status_code, 404)
        self.client.delete(f"{self.url}/marks/2")
        self.assertEqual(self.client.get(f"{self.url}/marks").json(), {})
        page = self.client.get(f"{self.url}/history", params={"before": 3, "limit": 1}).json()
        self.assertEqual([one["revision"] for one in page], [2])

    def test_two_revisions_beside_each_other(self) -> None:
        table = next(one for one in self.whole()["tables"] if one["id"] == "eel-catch")
        heavy = {**table, "nothing": 500}
        self.change("table", "eel-catch", heavy)
        found = self.client.get(f"{self.url}/compare", params={"first": 1, "last": 2}).json()
        self.assertTrue(any(one["source"] == "lantern-eel" for one in found["moved"]))
        for one in found["moved"]:
            if one["source"] == "lantern-eel" and one["of"] == "value":
                self.assertLess(one["after"], one["before"])
        self.assertTrue(any(one["was_met"] and not one["met"] for one in found["targets"]))
        same = self.client.get(f"{self.url}/compare", params={"first": 1, "last": 1}).json()
        self.assertEqual((same["moved"], same["targets"]), ([], []))

    def test_a_copy_knows_where_it_came_from(self) -> None:
        self.change("item", "lamp-oil", self.item("lamp-oil", 99))
        copy = self.client.post(f"{self.url}/duplicate").json()
        self.assertEqual((copy["copied_from"], copy["copied_at"]), (self.game, 2))
