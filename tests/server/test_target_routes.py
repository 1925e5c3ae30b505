"""Targets through HTTP: made, edited, asked, drafted."""

from __future__ import annotations

import unittest
from typing import Any

from tests.server.of_demo import DemoTest


class Routes(DemoTest):
    def entry(self, name: str, /, **changed: Any) -> dict[str, Any]:
        return {"kind": "target", "id": name, "body": self.body("target", name) | changed}

    def standing(self, name: str, **asked: Any) -> dict[str, Any]:
        found: dict[str, Any] = self.post("targets", ids=[name], **asked)["targets"][0]
        return found

    def test_all_or_some_in_order(self) -> None:
        every = self.post("targets")
        ids = [one["id"] for one in self.client.get(self.url).json()["targets"]]
        self.assertEqual((every["revision"], [one["id"] for one in every["targets"]]), (1, ids))
        some = self.post("targets", ids=["eel-pays", "crab-brass", "no-such"])["targets"]
        self.assertEqual([one["id"] for one in some], ["crab-brass", "eel-pays"])
        self.assertEqual(self.post("targets", ids=[])["targets"], [])

    def test_the_figure_is_the_odds_of_that_depth(self) -> None:
        standing = self.standing("eel-pays")
        view = {"kind": "source", "id": "lantern-eel"}
        for depth in (15, 22, 30):
            sheet = self.post("odds", view=view, depth=depth)["sheet"]
            row = standing["depths"].index(depth)
            self.assertAlmostEqual(standing["figures"][row], sheet["value"]["mean"], places=10)
            self.assertEqual(standing["holds"][row], sheet["value"]["mean"] >= 20)

    def test_an_edit_moves_it_and_undo_brings_it_back(self) -> None:
        before = self.standing("crab-brass")
        brass = self.body("source", "silt-crab")
        for drop in brass["drops"]:
            drop["chance"] = 0.1
        self.post(
            "changes", base=1, label="less", entries=[{"kind": "source", "id": "silt-crab", "body": brass}]
        )
        after = self.standing("crab-brass")
        self.assertTrue(before["is_met"])
        self.assertFalse(after["is_met"])
        self.assertLess(after["figures"][0], before["figures"][0])
        self.post("undo")
        self.assertEqual(self.standing("crab-brass"), before)

    def test_a_draft_is_asked_without_being_saved(self) -> None:
        draft = [self.entry("angler-wonder", wanted=200)]
        self.assertTrue(self.standing("angler-wonder", draft=draft)["is_met"])
        self.assertFalse(self.standing("angler-wonder")["is_met"])
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_one_is_made_moved_renamed_and_removed(self) -> None:
        new = {**self.body("target", "crab-brass"), "id": "again", "name": "Again"}
        made = {"kind": "target", "id": "again", "body": new, "before": "mostly-flotsam"}
        self.post("changes", base=1, label="one more", entries=[made])
        self.assertEqual(self.client.get(self.url).json()["targets"][0]["id"], "again")
        self.post("changes", base=2, label="renamed", entries=[self.entry("again", name="Once more")])
        self.assertEqual(self.body("target", "again")["name"], "Once more")
        self.post("removals", base=3, kind="target", id="again")
        self.assertEqual(len(self.post("targets")["targets"]), 16)

    def test_one_that_is_not_sound_is_refused_with_its_place(self) -> None:
        bad = self.entry("crab-brass", item=None)
        told = self.post("changes", 422, base=1, label="bad", entries=[bad])
        self.assertEqual(told["places"][0]["id"], "crab-brass")
        self.assertIn("name it", told["places"][0]["message"])
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_a_source_that_goes_marks_its_targets_and_undo_brings_all_back(self) -> None:
        uses = self.client.get(f"{self.url}/uses/source/silt-crab").json()
        self.assertIn(("target", "crab-brass"), {(use["kind"], use["id"]) for use in uses})
        before = self.client.get(self.url).json()["targets"]
        self.post("removals", base=1, kind="source", id="silt-crab")
        left = self.client.get(self.url).json()["targets"]
        marked = [one["id"] for one in left if one["gone"] == "source/silt-crab"]
        self.assertEqual((len(left), marked), (16, ["mostly-flotsam", "crab-brass"]))
        self.post("undo")
        self.assertEqual(self.client.get(self.url).json()["targets"], before)

    def test_they_go_with_the_file_and_with_a_copy(self) -> None:
        exported = self.client.get(f"{self.url}/file").content
        again = self.client.post("/api/games/import", content=exported).json()["id"]
        copied = self.client.post(f"{self.url}/duplicate").json()["id"]
        wanted = self.client.get(self.url).json()["targets"]
        for game in (again, copied):
            self.assertEqual(self.client.get(f"/api/games/{game}").json()["targets"], wanted)

    def test_what_is_unknown_or_surplus(self) -> None:
        self.post("targets", 422, surplus=1)
        self.assertEqual(self.client.post("/api/games/no-such/targets", json={}).status_code, 404)

    def test_nodes_are_bounded_by_their_charges_everywhere(self) -> None:
        """Three harvests of 12 s, then 240 s of rest: 39.1 an hour."""
        rate = 3600 * 3 / 276
        view = {"kind": "source", "id": "cullet-bed"}
        self.assertAlmostEqual(self.post("odds", view=view, depth=3)["sheet"]["per_hour"], rate)
        self.assertAlmostEqual(self.post("depths", view=view, depth=3)["per_hour"], rate)
        found = self.post("items/ruby-cullet")["sources"]
        bed = next(one for one in found if one["id"] == "cullet-bed")
        self.assertAlmostEqual(bed["per_hour"], rate)


if __name__ == "__main__":
    unittest.main()
