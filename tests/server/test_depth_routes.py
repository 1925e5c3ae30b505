"""Rules compared, depths, items, what is met, findings and rolls, asked through HTTP."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from tests.server.of_demo import DemoTest


class Routes(DemoTest):
    def test_rules_are_compared_and_the_body_can_be_saved_as_it_is(self) -> None:
        found = self.post("compare", table="crab-meat", depth=3)
        self.assertEqual([one["rule"] for one in found["rules"]], ["pick", "each", "first", "retry", "deck"])
        retry = found["rules"][3]
        entry = {"kind": "table", "id": "crab-meat", "body": retry["body"]}
        self.post("changes", base=1, label="as a retry", entries=[entry])
        self.assertEqual(self.body("table", "crab-meat")["rule"], "retry")
        looked = {"view": {"kind": "table", "id": "crab-meat"}, "depth": 3}
        lines = self.post("odds", **looked)["sheet"]["tables"]["crab-meat"]["lines"]
        for line, chance in retry["chances"].items():
            self.assertAlmostEqual(lines[line]["chance"], chance, places=12)

    def test_a_draft_is_compared_without_being_saved(self) -> None:
        table = self.body("table", "crab-meat")
        draft = [
            {"kind": "table", "id": "crab-meat", "body": {**table, "nothing": 0, "lines": table["lines"][:1]}}
        ]
        found = self.post("compare", table="crab-meat", depth=3, draft=draft)
        self.assertEqual(found["rules"][0]["chances"], {"a": 1.0})
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_what_is_unknown_is_404_and_what_is_outside_is_told(self) -> None:
        self.post("compare", 404, table="no-such", depth=3)
        self.post("items/no-such", 404)
        self.post("depths", 404, view={"kind": "source", "id": "no-such"}, depth=1)
        self.post("meets", 422, depth=31)
        self.post("meets", 422, depth=3, points=0)
        self.post("meets", 422, depth=3, surplus=1)

    def test_every_depth_is_the_odds_of_that_depth(self) -> None:
        view = {"kind": "source", "id": "warm-vent"}
        whole = self.post("depths", view=view, depth=1)
        self.assertEqual(whole["met"], [11, 30])
        for depth in (11, 20, 30):
            sheet = self.post("odds", view=view, depth=depth)["sheet"]
            self.assertAlmostEqual(whole["value_mean"][depth - 1], sheet["value"]["mean"], places=9)
            for item, figures in whole["items"].items():
                now = sheet["items"].get(item, {"p_any": 0.0, "mean": 0.0})
                self.assertAlmostEqual(figures["p_any"][depth - 1], now["p_any"], places=12)
                self.assertAlmostEqual(figures["mean"][depth - 1], now["mean"], places=12)

    def test_a_drafted_curve_moves_every_depth(self) -> None:
        curve = self.body("curve", "trench-pull")
        flat = {**curve, "points": [[1, 2.0]]}
        view = {"kind": "source", "id": "hush-angler"}
        draft = [{"kind": "curve", "id": "trench-pull", "body": flat}]
        before = self.post("depths", view=view, depth=1)["value_mean"]
        after = self.post("depths", view=view, depth=1, draft=draft)["value_mean"]
        self.assertLess(before[3], after[3])  # x 0.2 before, x 2 now
        self.assertGreater(before[29], after[29])  # x 3 before

    def test_a_private_curve_goes_with_its_place_and_comes_back_with_it(self) -> None:
        curve = {**self.body("curve", "swells"), "id": "own", "name": "Own", "private": True}
        table = self.body("table", "crab-meat")
        lines = [{**table["lines"][0], "curve": "own"}, *table["lines"][1:]]
        entries = [
            {"kind": "curve", "id": "own", "body": curve},
            {"kind": "table", "id": "crab-meat", "body": {**table, "lines": lines}},
        ]
        self.post("changes", base=1, label="a curve of its own", entries=entries)
        before = self.client.get(self.url).json()
        gone = self.post("removals", base=2, kind="table", id="crab-meat")
        self.assertIn(("curve", "own"), [(one["kind"], one["id"]) for one in gone["entries"]])
        self.assertNotIn("own", [one["id"] for one in self.client.get(self.url).json()["curves"]])
        self.post("undo")
        after = self.client.get(self.url).json()
        for kind in ("curves", "tables", "sources", "targets"):
            self.assertEqual(after[kind], before[kind], kind)

    def test_an_item_says_how_it_stands_beside_other_tiers(self) -> None:
        found = self.post("items/beacon-lens")
        self.assertEqual({one["tier"] for one in found["upsets"]}, {"salvage", "heirloom"})
        prism = next(one for one in found["rivals"] if one["item"] == "ground-prism")
        # 4 to 8 times 2.3 at every depth; the lens grows, and comes to beat it ever more often.
        self.assertEqual(set(prism["low"]), {4 * 2.3})
        np.testing.assert_allclose(prism["high"], 8 * 2.3)
        self.assertEqual(prism["beats"], sorted(prism["beats"]))
        self.assertEqual(prism["beats"][0], 0)
        self.assertGreater(prism["beats"][-1], 0.8)

    def test_unsorted_and_repeated_points_are_refused_with_their_place(self) -> None:
        curve = self.body("curve", "trench-pull")
        for points in ([[5, 1.0], [2, 1.0]], [[5, 1.0], [5, 2.0]], [[5, -1.0]], []):
            entry = {"kind": "curve", "id": "trench-pull", "body": {**curve, "points": points}}
            answer = self.post("changes", 422, base=1, label="x", entries=[entry])
            self.assertTrue(answer["places"][0]["path"].startswith("points"), answer)
        self.assertEqual(self.body("curve", "trench-pull"), curve)

    def test_a_range_too_short_for_its_bands_is_refused(self) -> None:
        settings = self.client.get(self.url).json()["settings"]
        short = {**settings, "depth": {**settings["depth"], "to": 20}}
        entry = {"kind": "settings", "id": "game", "body": short}
        answer = self.post("changes", 422, base=1, label="x", entries=[entry])
        messages = " ".join(place["message"] for place in answer["places"])
        self.assertIn("outside the game's depths 1 to 20", messages)
        self.assertEqual(self.client.get(self.url).json()["settings"], settings)

    def test_an_item_and_what_is_met(self) -> None:
        item = self.post("items/beacon-lens")
        self.assertGreater(len(item["ways"]), 5)
        self.assertEqual(len(item["stats"]["reach"]["low"]), 30)
        met = self.post("meets", depth=5)
        self.assertAlmostEqual(met["encounters"], 6.0)
        self.assertAlmostEqual(sum(met["sources"].values()), 6.0 * 6 / 7)

    def test_the_whole_game_and_what_a_route_comes_to(self) -> None:
        found = self.post("overview")
        self.assertEqual(len(found["depths"]), 30)
        self.assertEqual(found["coverage"]["beacon-lens"]["with"], [])
        self.assertEqual(found["money"]["money"][0]["item"], "brass-token")
        owned = self.post("collection", route="first-dive")
        self.assertEqual([one["runs"] for one in owned["runs"]], [1, 5, 20])
        self.post("collection", 404, route="no-such")
        self.post("collection", 422, route="first-dive", runs=[])
        page = self.client.get(f"{self.url}/export/overview")
        self.assertIn("text/html", page.headers["content-type"])
        self.assertIn("Saltglass Deep", page.text)

    def test_the_profile_of_what_is_met(self) -> None:
        found = self.post("meets/profile")
        self.assertEqual(len(found["falls"]), 30)
        for row in found["falls"]:
            self.assertAlmostEqual(sum(row), 1.0)
        flagged = self.post("meets/profile", flags=["has-tongs"])
        self.assertEqual(flagged["depths"], found["depths"])
        self.post("meets/profile", 404, flags=["no-such"])

    def test_a_typed_quantity_may_keep_its_curve(self) -> None:
        table = self.body("table", "eel-catch")
        for typed, wanted in (("2-4", (2, 4, "wanes")), ("7", (7, 7, "wanes"))):
            body = {**table, "rolls": {"typed": typed, "curve": "wanes"}}
            revision = self.client.get(self.url).json()["revision"]
            entry = {"kind": "table", "id": "eel-catch", "body": body}
            self.post("changes", base=revision, label="rolls", entries=[entry])
            rolls = self.body("table", "eel-catch")["rolls"]
            self.assertEqual((rolls["min"], rolls["max"], rolls["curve"]), wanted)
        body = {**table, "rolls": {"typed": "lots", "curve": "wanes"}}
        entry = {"kind": "table", "id": "eel-catch", "body": body}
        refusal = self.post("changes", 422, base=3, label="rolls", entries=[entry])
        self.assertIn("is written 3, 1-3", refusal["places"][0]["message"])

    def test_a_tier(self) -> None:
        found = self.post("tiers/wonder")
        self.assertIn("lantern-eel", [one["id"] for one in found["sources"]])
        self.post("tiers/no-such", 404)

    def test_how_far_items_swing_where_it_is_asked_for(self) -> None:
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 1}
        self.assertIsNone(self.post("depths", **looked)["items"]["lamp-oil"]["cv"])
        sheet = self.post("depths", **looked, swings=True)
        item, tier = self.post("items/lamp-oil", swings=True), self.post("tiers/salvage", swings=True)
        cvs = sheet["items"]["lamp-oil"]["cv"]
        self.assertEqual(len(cvs), 30)
        eel = next(one for one in item["sources"] if one["id"] == "lantern-eel")
        low, high = sheet["met"]
        for depth in range(low, high + 1):
            self.assertAlmostEqual(eel["cv"][depth - 1], cvs[depth - 1], places=12)
        stair = next(band for band in item["bands"] if band["name"] == "Kelp Stair")
        self.assertAlmostEqual(
            stair["sources"]["lantern-eel"]["cv"], sheet["bands"][1]["items"]["lamp-oil"]["cv"], places=12
        )
        any_of_it = next(one for one in tier["sources"] if one["id"] == "lantern-eel")
        self.assertLess(any_of_it["cv"][13], eel["cv"][13])  # more of them fall, so they swing less
        self.post("depths", 422, **looked, swings="perhaps")

    def test_bands_of_a_depth_sheet(self) -> None:
        found = self.post("depths", view={"kind": "source", "id": "lantern-eel"}, depth=1)
        names = [band["name"] for band in found["bands"]]
        self.assertEqual(names, ["Sunlit Shelf", "Kelp Stair", "Wreck Row", "Glass Trench", "The Hush"])
        stair = found["bands"][1]
        rows = range(stair["from"] - 1, stair["to"])
        mean = sum(found["items"]["lamp-oil"]["mean"][row] for row in rows) / len(rows)
        self.assertAlmostEqual(stair["items"]["lamp-oil"]["mean"], mean)

    def test_without_a_focus_the_wait_is_that_of_the_rarest_tier(self) -> None:
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}
        found = self.post("odds", **looked)
        self.assertEqual((found["wait"]["focus"]["kind"], found["wait"]["focus"]["id"]), ("tier", "wonder"))
        named = self.post("odds", **looked, focus={"kind": "tier", "id": "wonder"})
        self.assertEqual(named["wait"], found["wait"])

    def test_too_many_states_are_played(self) -> None:
        """The eel's drop and the lines of its catch, each with a guard of sixty."""
        table = self.body("table", "eel-catch")
        guard = {"after": 0, "rise": 0, "sure_at": 60}
        lines = [{**line, "guard": guard} if at < 3 else line for at, line in enumerate(table["lines"])]
        draft = [{"kind": "table", "id": "eel-catch", "body": {**table, "lines": lines}}]
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14, "draft": draft}
        found = self.post("odds", **looked, focus={"kind": "line", "table": "eel-catch", "line": "a"})
        self.assertEqual(found["sheet"]["later"]["method"], "simulated")
        self.assertGreater(found["sheet"]["later"]["players"], 0)
        self.assertEqual(found["wait"]["method"], "simulated")
        self.assertEqual(set(found["wait"]["errors"]), {"first_50", "first_90", "first_99"})
        self.assertEqual(found["sheet"]["next"]["method"], "exact")
        spread = self.post("spread", **looked, events=100)
        self.assertEqual(spread["method"], "simulated")
        self.assertGreater(spread["errors"]["p50"], 0)

    def test_questions_asked_at_once_are_all_answered(self) -> None:
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14, "flags": [], "draft": []}

        def ask(at: int) -> float | None:
            path = ("odds", "spread", "depths")[at % 3]
            body = {**looked, "events": 50} if path == "spread" else looked
            answer = self.client.post(f"{self.url}/{path}", json=body)
            self.assertEqual(answer.status_code, 200)
            return float(answer.json()["sheet"]["value"]["mean"]) if path == "odds" else None

        with ThreadPoolExecutor(6) as pool:
            means = {mean for mean in pool.map(ask, range(18)) if mean is not None}
        self.assertEqual(len(means), 1)

    def test_a_pinned_line_and_an_answer(self) -> None:
        table = self.body("table", "eel-catch")
        lines = [{**line, "pinned": line["id"] == "b"} for line in table["lines"]]
        draft = [{"kind": "table", "id": "eel-catch", "body": {**table, "lines": lines}}]
        looked = {"view": {"kind": "table", "id": "eel-catch"}, "depth": 14}
        asked = {"table": "eel-catch", "line": "g", "answer": "chance", "wanted": 0.2}
        body = self.post("answers", **looked, **asked, draft=draft)["body"]
        before = self.post("odds", **looked)["sheet"]["tables"]["eel-catch"]["lines"]
        draft = [{"kind": "table", "id": "eel-catch", "body": body}]
        after = self.post("odds", **looked, draft=draft)["sheet"]["tables"]["eel-catch"]["lines"]
        self.assertAlmostEqual(after["g"]["chance"], 0.2, places=10)
        self.assertAlmostEqual(after["b"]["chance"], before["b"]["chance"], places=10)
        self.assertLess(after["a"]["chance"], before["a"]["chance"])

    def test_every_mend_can_be_sent_as_an_edit(self) -> None:
        revision = 1
        found = self.client.get(f"{self.url}/findings").json()
        mends = [one["mend"] for one in found["findings"] if one["mend"]]
        self.assertGreaterEqual(len(mends), 3)
        self.post("changes", base=revision, label=mends[0]["label"], entries=mends[0]["entries"])
        after = self.client.get(f"{self.url}/findings").json()
        self.assertLess(after["count"], found["count"])

    def test_rolls_tell_what_is_carried(self) -> None:
        view = {"kind": "source", "id": "blind-pearl-shelf"}
        found = self.post("rolls", view=view, depth=15, seed=3, count=4)
        deck = [one for one in found["held"] if one["left"] is not None]
        self.assertEqual(sum(one["of"] for one in deck), 12)
        self.assertEqual(sum(one["left"] for one in deck), 4)


if __name__ == "__main__":
    unittest.main()
