"""Finding numbers through HTTP: nothing is written; what is taken is an edit as any other."""

from __future__ import annotations

import unittest
from typing import Any
from unittest.mock import patch

from golddice.server import progress
from golddice.server.broadcast import Broadcast
from tests.server.of_demo import DemoTest


class Tuning(DemoTest):
    def tuned(self, status: int = 200, **asked: Any) -> dict[str, Any]:
        return self.post("tune", status, **asked)

    def revision(self) -> int:
        found: int = self.client.get(self.url).json()["revision"]
        return found

    def is_met(self, name: str, **asked: Any) -> bool:
        return bool(self.post("targets", ids=[name], **asked)["targets"][0]["is_met"])

    def test_a_proposal_is_of_the_game_and_leaves_it_alone(self) -> None:
        found = self.tuned(targets=["eel-pays"])
        self.assertEqual((found["status"], found["revision"], self.revision()), ("met", 1, 1))
        self.assertFalse(self.is_met("eel-pays"))
        self.assertTrue(self.is_met("eel-pays", draft=found["entries"]))
        [target] = found["targets"]
        self.assertEqual((target["was_met"], target["met"], len(target["depths"])), (False, True, 16))
        self.assertTrue(all(figure >= 20 for figure in target["after"]))
        # A weight of theirs moves others that roll the same table too.
        moved = {one["source"] for one in found["moved"]}
        self.assertGreaterEqual(moved, {"lantern-eel", "elder-eel", "young-eel"})

    def test_what_may_move_is_told_before(self) -> None:
        told = self.post("tune/free", targets=["eel-pays"])
        self.assertEqual(told["missed"], ["eel-pays"])
        many = sum(sum(one["numbers"].values()) for one in told["free"])
        self.assertEqual(many, self.tuned(targets=["eel-pays"])["free"])
        curves = self.post("tune/free", targets=["eel-pays"], way="curves")["free"]
        self.assertEqual({one["kind"] for one in curves}, {"curve"})

    def test_other_ways_and_bounds(self) -> None:
        few = self.tuned(targets=["eel-pays"], way="fewest")
        self.assertEqual((few["status"], len(few["numbers"])), ("met", 1))
        self.assertGreater(few["size"], self.tuned(targets=["eel-pays"])["size"])
        self.assertEqual(self.tuned(targets=["eel-pays"], most=1.01)["status"], "nearest")
        self.tuned(422, targets=["eel-pays"], most=0.5)
        self.tuned(422, targets=["eel-pays"], kinds=["colours"])

    def test_how_far_it_is_is_told_to_whoever_has_the_token(self) -> None:
        """With a word at each look; news of another's token pages pass over."""
        told: list[dict[str, Any]] = []
        with patch.object(Broadcast, "tell", lambda self, game, message: told.append(message)):
            with patch.object(progress, "_EVERY", 0.0):
                self.tuned(targets=["eel-pays", "stalker-curios"], token="mine")
        mine = [one for one in told if one["type"] == "tuning"]
        self.assertTrue(mine)
        self.assertEqual({(one["token"], one["of"]) for one in mine}, {("mine", 2)})
        self.assertEqual(mine[-1]["met"], 2)

    def test_a_point_of_the_frontier_is_an_edit(self) -> None:
        view = {"kind": "source", "id": "lantern-eel"}
        told = self.post("tune/frontier", view=view, depth=15)
        point = told["least"][2]
        numbers = [{"where": one["where"], "value": one["after"]} for one in point["numbers"]]
        entries = self.post("tune/take", numbers=numbers)["entries"]
        odds = self.post("odds", view=view, depth=15, draft=entries)
        self.assertAlmostEqual(odds["sheet"]["value"]["mean"], point["mean"])
        self.assertAlmostEqual(odds["sheet"]["value"]["cv"], point["cv"])
        parcel = {"kind": "source", "id": "harbour-parcel"}
        refused = self.post("tune/frontier", 422, view=parcel, depth=20)
        self.assertIn("not traced", str(refused))

    def test_what_is_taken_is_one_edit(self) -> None:
        found = self.tuned(targets=["eel-pays"])
        self.post("changes", base=1, label="tuned", entries=found["entries"])
        self.assertTrue(self.is_met("eel-pays"))
        self.post("undo")
        self.assertFalse(self.is_met("eel-pays"))

    def test_bodies_are_whole_as_a_page_holds_them(self) -> None:
        """With what is left at its default: a page that took them for its own broke on lines without."""
        found = self.tuned(targets=["angler-wonder"], rounded=False)
        game = self.client.get(self.url).json()
        for entry in found["entries"]:
            lists = {"table": "tables", "source": "sources", "curve": "curves"}
            [mine] = [one for one in game[lists[entry["kind"]]] if one["id"] == entry["id"]]
            self.assertEqual(set(entry["body"]), set(mine))
            if entry["kind"] == "table":
                keys = [set(one) for one in entry["body"]["lines"]]
                self.assertEqual(keys, [set(one) for one in mine["lines"]])

    def test_a_part_is_put_into_an_edit(self) -> None:
        found = self.tuned(targets=["eel-pays"], rounded=False)
        first = found["numbers"][0]
        taken = self.post("tune/take", numbers=[{"where": first["where"], "value": first["after"]}])
        self.assertEqual(
            [(one["kind"], one["id"]) for one in taken["entries"]], [(first["kind"], first["id"])]
        )
        self.post("changes", base=1, label="a part", entries=taken["entries"])
        again = self.tuned(targets=["eel-pays"], rounded=False, keep=[first["where"]])
        self.assertNotIn(first["where"], [one["where"] for one in again["numbers"]])
        self.assertEqual(again["status"], "met")

    def test_a_draft_counts(self) -> None:
        draft = [
            {"kind": "target", "id": "eel-pays", "body": self.body("target", "eel-pays") | {"wanted": 10}}
        ]
        self.assertEqual(self.tuned(targets=["eel-pays"], draft=draft)["status"], "nothing-to-do")

    def test_which_number_moves_it(self) -> None:
        found = self.post("tune/levers", target="eel-pays", depth=20)["levers"]
        self.assertEqual(found[0]["kind"], "curve")
        self.assertIn("lantern-eel/b/chance", [one["where"] for one in found[:4]])
        self.post("tune/levers", 422, target="eel-pays", depth=3)
        self.post("tune/levers", 404, target="no-such", depth=3)

    def test_what_cannot_be_asked_is_told(self) -> None:
        self.tuned(404, targets=["no-such"])
        self.tuned(422, targets=["eel-pays"], keep=["no-such"])
        self.tuned(422, targets=["eel-pays"], whole=0)
        self.tuned(422, targets=[])
        game = self.client.get(self.url).json()
        every = [one["id"] for kind in ("tables", "sources", "curves") for one in game[kind]]
        answer = self.tuned(422, targets=["eel-pays"], keep=every)
        self.assertIn("may move", answer["detail"])
        for number in ({"where": "no/such", "value": 1}, {"where": "lantern-eel/a/chance", "value": 1.5}):
            self.post("tune/take", 422, numbers=[number])
        self.post("tune/take", 422, numbers=[])


if __name__ == "__main__":
    unittest.main()
