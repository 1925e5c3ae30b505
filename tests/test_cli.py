"""The command line: what it prints, and how it exits."""

from __future__ import annotations

import json
import subprocess
import sys
import unittest
from pathlib import Path

from tests.games import DEMO

TOLD = {"id", "is_met", "depths", "figures", "never", "holds", "furthest", "untold"}
REFERENCE = Path(__file__).parent / "core" / "reference"


def golddice(*arguments: str) -> subprocess.CompletedProcess[str]:
    code = "from golddice.cli import main; main()"
    command = [sys.executable, "-c", code, *arguments]
    return subprocess.run(command, capture_output=True, text=True, check=False)


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
        self.assertIn("8 of 12 targets are met", done.stdout)
        told = json.loads(golddice("targets", str(DEMO), "--json").stdout)["targets"]
        self.assertEqual(sum(one["is_met"] for one in told), 8)
        self.assertEqual(set(told[0]), TOLD)

    def test_errors_go_to_stderr_with_exit_1(self) -> None:
        done = golddice("odds", str(DEMO), "--source", "whale")
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertIn("whale", done.stderr)
        self.assertEqual(golddice("odds", "no-such-file", "--source", "x").returncode, 1)

    def test_wrong_usage_exits_2(self) -> None:
        self.assertEqual(golddice("odds", str(DEMO)).returncode, 2)
        self.assertEqual(golddice("nonsense").returncode, 2)


if __name__ == "__main__":
    unittest.main()
