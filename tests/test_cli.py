"""The command line: what it prints, and how it exits."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, NamedTuple
from unittest.mock import patch

from golddice.cli import main
from tests.games import DEMO

TOLD = {"id", "is_met", "depths", "figures", "never", "holds", "furthest", "untold", "way", "played"}
REFERENCE = Path(__file__).parent / "core" / "reference"


class Done(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def golddice(*arguments: str) -> Done:
    """As from the command line, without another process: that would import everything each time."""
    out, err = io.StringIO(), io.StringIO()
    with patch.object(sys, "argv", ["golddice", *arguments]), redirect_stdout(out), redirect_stderr(err):
        try:
            main()
            code = 0
        except SystemExit as left:
            code = int(left.code or 0)
    return Done(code, out.getvalue(), err.getvalue())


class CommandLine(unittest.TestCase):
    def test_odds_as_json(self) -> None:
        done = golddice(
            "odds", str(DEMO), "--source", "lantern-eel", "--depth", "14", "--events", "200", "--json"
        )
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        report = json.loads(done.stdout)
        self.assertEqual(set(report), {"method", "depth", "items", "tiers", "value", "after"})
        keys = {"p_any", "mean", "sd", "one_in", "first_50", "first_90", "first_99", "long_run_mean"}
        self.assertEqual(set(report["items"]["beacon-lens"]), keys)

    def test_it_is_there_as_a_command(self) -> None:
        command = [str(Path(sys.executable).parent / "golddice"), "odds", "no-such-file", "--source", "x"]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertIn("no-such-file", done.stderr)

    def test_odds_for_people(self) -> None:
        done = golddice("odds", str(DEMO), "--table", "eel-catch")
        self.assertIn("eelskin", done.stdout)
        self.assertIn("value per event", done.stdout)

    def test_check_tells_all_and_exits_1_only_for_errors(self) -> None:
        self.assertEqual(golddice("check", str(DEMO)).returncode, 0)
        done = golddice("check", str(REFERENCE / "invalid" / "bad-ranges.golddice.json"))
        self.assertEqual(done.returncode, 1)
        self.assertIn("tables[0].lines[0].yields[0].quantity", done.stdout)
        self.assertIn("tables[1].rolls", done.stdout)

    def test_trial_is_the_same_on_any_number_of_workers(self) -> None:
        command = ["trial", str(DEMO), "--source", "silt-crab", "--players", "300", "--events", "200"]
        results = [
            json.loads(golddice(*command, "--seed", "7", "--workers", workers, "--json").stdout)
            for workers in ("1", "3")
        ]
        self.assertEqual(results[0]["digest"], results[1]["digest"])
        self.assertEqual(results[0]["events"], 60_000)
        keys = {"total", "mean", "sd", "p05", "p50", "p95", "none_share", "first_50", "drought_99", "z"}
        self.assertLessEqual(keys, set(results[0]["items"]["crab-claw"]))

    def test_roll_shows_each_decision(self) -> None:
        done = golddice("roll", str(DEMO), "--source", "guild-parcel", "--seed", "3", "--count", "4")
        self.assertEqual(done.returncode, 0)
        self.assertEqual(done.stdout.count("\nevent "), 3)
        self.assertIn("Cabinet of curios", done.stdout)

    def test_targets_say_where_they_stand(self) -> None:
        done = golddice("targets", str(DEMO))
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertIn("missed  angler-wonder: wait wanted at most 150: 193 at depth 22", done.stdout)
        self.assertIn("met     crab-brass: mean wanted 1.2 ± 0.05: 1.16 to 1.237 at 10 depths", done.stdout)
        self.assertIn("10 of 16 targets are met", done.stdout)
        told = json.loads(golddice("targets", str(DEMO), "--json").stdout)["targets"]
        self.assertEqual(sum(one["is_met"] for one in told), 10)
        self.assertEqual(set(told[0]), TOLD)

    def test_tune_finds_numbers_and_writes_a_game_that_holds(self) -> None:
        with TemporaryDirectory() as folder:
            out = Path(folder) / "tuned.json"
            done = golddice(
                "tune", str(DEMO), "--targets", "eel-pays", "--rounded", "--write", str(out), "--json"
            )
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            found = json.loads(done.stdout)
            self.assertEqual((found["status"], found["conflict"]), ("met", []))
            self.assertEqual(set(found["numbers"][0]), {"where", "before", "after"})
            self.assertEqual([(one["id"], one["met"]) for one in found["targets"]], [("eel-pays", True)])
            tuned = json.loads(golddice("targets", str(out), "--json").stdout)["targets"]
            self.assertTrue(next(one for one in tuned if one["id"] == "eel-pays")["is_met"])
            text = golddice("tune", str(DEMO), "--targets", "eel-pays", "--unlock", "eel-catch")
            self.assertIn("every target is met", text.stdout)
            self.assertNotIn("lantern-eel/a/chance", text.stdout)

    def test_tune_in_other_ways(self) -> None:
        def tuned(*more: str) -> Done:
            return golddice("tune", str(DEMO), "--targets", "eel-pays", "--json", *more)

        few = json.loads(tuned("--way", "fewest", "--rounded").stdout)
        self.assertEqual((few["status"], len(few["numbers"])), ("met", 1))
        chances = json.loads(tuned("--kinds", "chances").stdout)["numbers"]
        self.assertTrue(all(one["where"].endswith("/chance") for one in chances))
        self.assertEqual(tuned("--most", "1.01").returncode, 3)
        self.assertNotEqual(tuned("--way", "sideways").returncode, 0)
        self.assertIn("is no kind of numbers", tuned("--kinds", "colours").stderr)

    def test_odds_tell_of_kit_and_sets(self) -> None:
        """With the demo's own slots, and a set that is put in."""
        with TemporaryDirectory() as folder:
            file = Path(folder) / "game.json"
            game = json.loads(DEMO.read_text())
            game["sets"] = [{"id": "pair", "name": "Pair", "items": [{"item": "crab-claw"}]}]
            file.write_text(json.dumps(game))
            asked = ("odds", str(file), "--source", "silt-crab", "--depth", "3", "--events", "5", "--json")
            told = json.loads(golddice(*asked).stdout)
        self.assertEqual(set(told["slots"]), {item["slot"] for item in game["items"] if item.get("slot")})
        claw = told["items"]["crab-claw"]["p_any"]
        self.assertAlmostEqual(told["sets"]["pair"]["complete_after"], 1 - (1 - claw) ** 5)

    def test_what_is_kept(self) -> None:
        of_demo = ("kept", str(DEMO))
        found = json.loads(golddice(*of_demo, "--source", "silt-crab", "--events", "20", "--json").stdout)
        self.assertEqual(found["players"], 4_000)
        self.assertIn("hand", found["slots"])
        self.assertLessEqual(found["slots"].keys(), found["exact"]["slots"].keys())
        along = json.loads(golddice(*of_demo, "--route", "long-descent", "--json").stdout)
        self.assertEqual(set(along["purse"]["money"]), {"brass-token"})
        self.assertGreater(along["kept"]["worth"]["left"], 0)
        self.assertIn("bag is full", golddice(*of_demo, "--route", "long-descent").stdout)
        self.assertEqual(golddice(*of_demo).returncode, 2)

    def test_the_whole_game_on_one_sheet(self) -> None:
        done = golddice("overview", str(DEMO))
        self.assertIn("10 of 16 targets met, 12 findings", done.stdout)
        self.assertIn("the-unbroken-lamp        hush-angler at depth 30", done.stdout)
        told = json.loads(golddice("overview", str(DEMO), "--json").stdout)
        self.assertEqual(len(told["coverage"]), 60)
        self.assertEqual(len(told["worth"]["flotsam"]), 30)
        owned = golddice("overview", str(DEMO), "--route", "first-dive", "--runs", "1,3", "--as", "json")
        self.assertEqual([one["runs"] for one in json.loads(owned.stdout)["runs"]], [1, 3])
        with TemporaryDirectory() as folder:
            page = Path(folder) / "page.html"
            golddice("overview", str(DEMO), "--as", "html", "--out", str(page))
            self.assertTrue(page.read_text().startswith("<!doctype html>"))
        self.assertEqual(golddice("overview", str(DEMO), "--as", "pdf").returncode, 2)
        self.assertEqual(golddice("overview", str(DEMO), "--route", "no-such").returncode, 1)

    def test_a_container_and_a_price(self) -> None:
        crate = ("cells", str(DEMO), "--source", "bell-crate", "--depth", "22")
        found = json.loads(golddice(*crate, "--json").stdout)
        self.assertEqual(found["players"], 10_000)
        self.assertAlmostEqual(found["fits"] + (found["lost_units"] > 0) * (1 - found["fits"]), 1.0)
        self.assertIn("everything fits in", golddice(*crate).stdout)
        asked = ("price", str(DEMO), "--source", "guild-parcel", "--depth", "6", "--json")
        told = json.loads(golddice(*asked).stdout)
        odds = json.loads(golddice("odds", *asked[1:]).stdout)
        for name, one in told["items"].items():
            self.assertAlmostEqual(one["mean"], 150 * odds["items"][name]["one_in"])
            self.assertEqual(one["cost_90"], 150 * odds["items"][name]["first_90"])
        self.assertIn("has no price", golddice("price", *crate[1:]).stderr)
        self.assertIn("has no cells", golddice("cells", *asked[1:]).stderr)

    def test_packing_a_case(self) -> None:
        path = REFERENCE / "packing" / "packing-turned.json"
        found, wanted = json.loads(golddice("pack", str(path), "--json").stdout), json.loads(path.read_text())
        self.assertEqual(found, wanted["expect"])
        with TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.json"
            bad.write_text('{"cells": [0, 5], "items": {"a": {}}, "units": [["b", 1]]}')
            told = golddice("pack", str(bad))
        self.assertEqual(told.returncode, 1)
        self.assertIn("there is no item “b”", told.stderr)

    def test_tune_exits_3_where_only_the_nearest_is_found(self) -> None:
        with TemporaryDirectory() as folder:
            file = Path(folder) / "game.json"
            game = json.loads(DEMO.read_text())
            [eel] = [one for one in game["targets"] if one["id"] == "eel-pays"]
            game["targets"] = [eel, {**eel, "id": "eel-cheap", "side": "at-most", "wanted": 15}]
            file.write_text(json.dumps(game))
            done = golddice("tune", str(file), "--json")
            self.assertEqual(done.returncode, 3)
            found = json.loads(done.stdout)
            self.assertEqual((found["status"], found["conflict"]), ("nearest", ["eel-pays", "eel-cheap"]))
            self.assertIn("contradict", golddice("tune", str(file)).stdout)

    def test_a_strict_check_is_for_missed_targets_too(self) -> None:
        self.assertEqual(golddice("check", str(DEMO)).returncode, 0)
        done = golddice("check", str(DEMO), "--strict")
        self.assertEqual(done.returncode, 1)
        self.assertIn("6 targets are missed: stalker-curios, eel-pays", done.stderr)
        missed = json.loads(golddice("check", str(DEMO), "--strict", "--json").stdout)["missed"]
        self.assertEqual(len(missed), 6)

    def test_odds_of_the_reference_to_the_last_digit(self) -> None:
        """What the command prints is what the reference says, depth by depth and flag by flag."""
        for name in ("document-example", "flags", "curve-shapes"):
            query = json.loads((REFERENCE / f"{name}.expected.json").read_text())["queries"][-1]
            with self.subTest(name):
                self.assert_answers(REFERENCE / f"{name}.golddice.json", query)

    def assert_answers(self, path: Path, query: dict[str, Any]) -> None:
        command = ["odds", str(path), "--json"]
        for key in ("source", "table", "depth", "events"):
            if query.get(key) is not None:
                command += [f"--{key}", str(query[key])]
        if query.get("flags"):
            command += ["--flags", ",".join(query["flags"])]
        done = golddice(*command)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        told, wanted = json.loads(done.stdout), query["expect"]
        self.assertEqual(set(told["items"]), set(wanted["items"]))
        for item, figures in wanted["items"].items():
            for key in ("p_any", "mean", "sd"):
                self.assertAlmostEqual(told["items"][item][key], figures[key], places=9, msg=f"{item} {key}")

    def test_check_as_json_names_each_place(self) -> None:
        done = golddice("check", str(DEMO), "--json")
        found = json.loads(done.stdout)["findings"]
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertEqual({one["level"] for one in found}, {"warning"})
        leap = next(one for one in found if "leaps" in one["message"])
        self.assertEqual((leap["kind"], leap["id"], leap["path"]), ("source", "kiln-chest", "sources[10]"))
        broken = golddice("check", str(REFERENCE / "invalid" / "unknown-keys.golddice.json"), "--json")
        self.assertEqual(broken.returncode, 1)
        self.assertIn("not a sound game", broken.stderr)
        self.assertEqual({one["level"] for one in json.loads(broken.stdout)["findings"]}, {"error"})

    def test_what_is_no_game_at_all(self) -> None:
        for text in ("", "[]", '{"format": "other"}'):
            with self.subTest(text), tempfile.NamedTemporaryFile("w", suffix=".json") as file:
                file.write(text)
                file.flush()
                done = golddice("odds", file.name, "--source", "x")
                self.assertEqual((done.returncode, done.stdout), (1, ""), done.stderr)
                self.assertNotIn("Traceback", done.stderr)
                self.assertTrue(done.stderr.strip())

    def test_a_trial_agrees_with_the_odds(self) -> None:
        run = ["trial", str(DEMO), "--source", "cullet-bed", "--depth", "6", "--players", "2000"]
        result = json.loads(golddice(*run, "--events", "100", "--seed", "11", "--json").stdout)
        told = json.loads(
            golddice("odds", str(DEMO), "--source", "cullet-bed", "--depth", "6", "--json").stdout
        )
        for item, figures in result["items"].items():
            self.assertAlmostEqual(figures["expected_mean"], 100 * told["items"][item]["mean"], places=9)
            if figures["z"] is not None:
                self.assertLess(abs(figures["z"]), 5, item)
        text = golddice(*run, "--events", "100", "--seed", "11").stdout
        self.assertIn(f"digest {result['digest'][:16]}", text)
        self.assertIn("value per player: mean", text)

    def test_a_roll_as_json_is_what_the_same_player_rolls_again(self) -> None:
        run = ["roll", str(DEMO), "--source", "lantern-eel", "--depth", "14", "--seed", "5", "--json"]
        many = json.loads(golddice(*run, "--count", "6").stdout)["events"]
        self.assertEqual([event["event"] for event in many], list(range(1, 7)))
        self.assertEqual(json.loads(golddice(*run, "--count", "3").stdout)["events"], many[:3])
        other = json.loads(golddice(*run, "--count", "6", "--player", "1").stdout)["events"]
        self.assertNotEqual([event["received"] for event in other], [event["received"] for event in many])

    def test_flags_and_depths_that_are_not_there(self) -> None:
        source = ["odds", str(DEMO), "--source", "lantern-eel"]
        for more, words in ((["--flags", "no-such"], "no-such"), (["--depth", "31"], "1 to 30")):
            done = golddice(*source, *more)
            self.assertEqual((done.returncode, done.stdout), (1, ""))
            self.assertIn(words, done.stderr)

    def test_errors_go_to_stderr_with_exit_1(self) -> None:
        done = golddice("odds", str(DEMO), "--source", "whale")
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertIn("whale", done.stderr)
        self.assertEqual(golddice("odds", "no-such-file", "--source", "x").returncode, 1)

    def test_wrong_usage_exits_2(self) -> None:
        self.assertEqual(golddice("odds", str(DEMO)).returncode, 2)
        both = ["--source", "silt-crab", "--table", "eel-catch"]
        self.assertEqual(golddice("odds", str(DEMO), *both).returncode, 2)
        self.assertEqual(golddice("trial", str(DEMO), "--source", "silt-crab").returncode, 2)
        self.assertEqual(
            golddice("odds", str(DEMO), "--source", "silt-crab", "--depth", "deep").returncode, 2
        )
        self.assertEqual(golddice("nonsense").returncode, 2)


if __name__ == "__main__":
    unittest.main()


class Exchange(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_a_workbook_goes_out_and_comes_in_with_a_change(self) -> None:
        book, made = str(self.folder / "book.xlsx"), self.folder / "made.json"
        self.assertEqual(golddice("export", str(DEMO), "--as", "xlsx", "--out", book).returncode, 0)
        done = golddice("import", str(DEMO), book, "--json", "--out", str(made))
        told = json.loads(done.stdout)
        self.assertEqual((done.returncode, told["new"], told["changed"], told["refused"]), (0, [], [], []))
        self.assertFalse(made.exists())  # nothing changed, nothing is written
        (self.folder / "items.csv").write_text('id,value\neelskin,"2,5"\n', encoding="utf-8")
        change = ["import", str(DEMO), str(self.folder / "items.csv"), "--out", str(made), "--json"]
        self.assertEqual(golddice(*change, "--dry-run").returncode, 0)
        self.assertFalse(made.exists())
        (told,) = json.loads(golddice(*change).stdout)["changed"]
        self.assertEqual((told["kind"], told["id"], told["key"]), ("item", "eelskin", "value"))
        items = json.loads(made.read_text(encoding="utf-8"))["items"]
        self.assertEqual(next(one["value"] for one in items if one["id"] == "eelskin"), 2.5)

    def test_what_is_refused_writes_nothing(self) -> None:
        made = self.folder / "made.json"
        (self.folder / "items.csv").write_text("id,value\neelskin,much\nglass-sand,9\n", encoding="utf-8")
        done = golddice("import", str(DEMO), str(self.folder / "items.csv"), "--out", str(made))
        self.assertEqual(done.returncode, 1)
        self.assertIn("refused: items row 2, value", done.stdout)
        self.assertFalse(made.exists())

    def test_a_log_of_players_who_are_played_here_agrees_and_another_does_not(self) -> None:
        log = self.folder / "log.csv"
        rolled = ["roll", str(DEMO), "--source", "kiln-chest", "--depth", "9", "--seed", "3"]
        done = golddice(*rolled, "--players", "30", "--events", "20", "--log", str(log))
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        done = golddice("log", str(DEMO), str(log), "--json")
        self.assertEqual(done.returncode, 0, done.stdout)
        self.assertEqual(json.loads(done.stdout)["events"], 600)
        log.write_text(log.read_text(encoding="utf-8").replace("kiln-chest", "silt-crab"), encoding="utf-8")
        done = golddice("log", str(DEMO), str(log))
        self.assertEqual(done.returncode, 1)
        self.assertIn("cannot-fall", done.stdout)

    def test_thresholds_and_schemas_are_one_json_document(self) -> None:
        for command in (["schema"], ["schema", "thresholds"], ["export", str(DEMO), "--as", "thresholds"]):
            with self.subTest(command):
                done = golddice(*command)
                self.assertEqual(done.returncode, 0)
                self.assertIsInstance(json.loads(done.stdout), dict)
        part = json.loads(golddice("export", str(DEMO), "--as", "thresholds", "--depths", "4-9").stdout)
        self.assertEqual((part["format"], part["depths"]), ("golddice-thresholds", [4, 9]))
