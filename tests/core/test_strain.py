"""Numbers under strain: random games that disagreed once, and the classes of what was wrong with them."""

from __future__ import annotations

import json
import math
import time
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any

from golddice.core.errors import TooLarge
from golddice.core.findings import findings
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.effort import carried_under
from golddice.core.odds.carried.space import near_space
from golddice.core.sheets.compare import compared
from golddice.core.sheets.depth_sheet import depth_sheet
from golddice.core.sheets.item_view import item_view
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.sheets.tray import so_far
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import most_rolls
from golddice.core.trial.trace import MOST_NOTES, rolled
from golddice.core.trial.trial import Trial, local_executor, run_trial
from tests.core.test_reference import ReferenceOdds
from tests.games import demo, each, game, game_data, pick

FOLDER = Path(__file__).parent / "reference" / "strain"
CRAB = View("source", "crab")
# After ten events this one's spread is 5e-10 of a mean of 360: the expected figure is off from the sixth
# digit on, as `test_hits_that_come_early_once_in_a_trillion` works out in fractions.
LOOSE = {("extreme-3", 10): "after.value.sd"}


class Strain(ReferenceOdds):
    def test_every_game_gives_the_expected_numbers(self) -> None:
        asked = 0
        for path in sorted(FOLDER.glob("*.expected.json")):
            name = path.name.removesuffix(".expected.json")
            made = read_game(json.loads((FOLDER / f"{name}.golddice.json").read_text(encoding="utf-8")))
            for query in json.loads(path.read_text(encoding="utf-8"))["queries"]:
                with self.subTest(name, **{k: query[k] for k in query if k != "expect"}):
                    loose = LOOSE.get((name, query.get("events", 0)))
                    if loose:
                        query["expect"]["after"]["value"].pop("sd")
                    self.agree(self.answer(made, query), query["expect"], query.get("ties", []))
                asked += 1
        self.assertEqual(asked, 33)


def guarded(*guards: dict[str, Any], nothing: float = 0) -> Game:
    table = pick((1, "sand"), (1, "claw"), (1, "lens"), nothing=nothing)
    for line, guard in zip(table["lines"], guards, strict=False):
        line["guard"] = guard
    return game([table])


class Rising(unittest.TestCase):
    """Weights that rise without end: what lies beyond the last state is known, or it is said."""

    def simulated(self, made: Game, item: str) -> tuple[float, float]:
        """Long run per event and its standard error, of the second half of many events."""
        with local_executor() as executor:
            half, whole = (
                run_trial(made, Trial(CRAB, 1, 400, events, 5), executor)["items"][item]
                for events in (4_000, 8_000)
            )
        later = (whole["total"] - half["total"]) / (400 * 4_000)
        return later, math.sqrt(later / (400 * 4_000)) + 1e-6

    def test_others_that_rise_far_faster(self) -> None:
        for rises, nothing in (((1, 2_000, 2_000), 0), ((1, 1e6, 1e6), 1), ((0.3, 0.0, 4), 1)):
            made = guarded(*({"rise": rise} for rise in rises), nothing=nothing)
            with self.subTest(rises=rises):
                found = odds(made, CRAB)
                run, error = self.simulated(made, "sand")
                told = found["items"]["sand"]
                error = math.hypot(error, told.get("long_run_mean_error", 0.0))
                self.assertLess(abs(told["long_run_mean"] - run), 5 * error)
                if "later" in found:
                    self.assertEqual(found["method"], "simulated")

    def test_one_alone_is_exact_however_far_it_goes(self) -> None:
        """Weight 1 + m / 20 against 99: a renewal process, its chances multiplied out."""
        found = odds(guarded({"rise": 0.05}, nothing=97), CRAB)
        self.assertEqual(found["method"], "exact")
        left, mean = 1.0, 0.0
        for misses in range(5_000):
            mean += left
            left *= 99 / (100 + 0.05 * misses)
        self.assertAlmostEqual(found["items"]["sand"]["long_run_mean"] * mean, 1.0, places=9)

    def test_method_is_not_exact_beside_a_simulated_figure(self) -> None:
        found = odds(guarded(*[{"sure_at": 90}] * 3, nothing=3), CRAB)
        self.assertEqual((found["method"], found["later"]["method"]), ("simulated", "simulated"))


class Digits(unittest.TestCase):
    def test_a_limit_at_one_in_a_thousand_million(self) -> None:
        table = pick((1, "sand"), nothing=1e9 - 1)
        table["lines"][0]["limit"] = 1
        found = odds(game([table]), CRAB)["items"]["sand"]
        waits = [found[f"first_{q}"] for q in (50, 90, 99)]
        self.assertEqual(waits, [693147181, 2302585092, 4605170184])

    def test_hits_that_come_early_once_in_a_trillion(self) -> None:
        """A line that hits every other roll, but for a chance of 1e-12: ninety rolls in fractions."""
        line = {"id": "a", "weight": 1, "chance": 1e-12, "guard": {"rise": 1}, "yields": [{"item": "lens"}]}
        table = {
            "id": "bits",
            "name": "B",
            "rule": "retry",
            "tries": 2,
            "lines": [line],
            "rolls": {"min": 9, "max": 9},
        }
        early = 1 - (1 - Fraction(1, 10**12)) ** 2
        players = {(False, 0): Fraction(1)}  # whether the last roll missed, and hits so far
        for _ in range(90):
            after: dict[tuple[bool, int], Fraction] = {}
            for (missed, hits), p in players.items():
                hit = Fraction(1) if missed else early
                after[False, hits + 1] = after.get((False, hits + 1), Fraction(0)) + p * hit
                after[True, hits] = after.get((True, hits), Fraction(0)) + p * (1 - hit)
            players = after
        mean = sum(p * hits for (_, hits), p in players.items())
        var = sum(p * (hits - mean) ** 2 for (_, hits), p in players.items())
        found = odds(game([table]), CRAB, events=10)["after"]["value"]
        self.assertAlmostEqual(found["sd"] / (40 * math.sqrt(var)), 1.0, places=11)

    def test_units_by_the_million_do_not_overflow(self) -> None:
        table = pick((1, "sand 0-1000000"))
        with local_executor() as executor:
            found = run_trial(game([table]), Trial(CRAB, 1, 200, 10_000, 1), executor)["items"]["sand"]
        sd = math.sqrt(10_000 * (1_000_001**2 - 1) / 12)
        self.assertAlmostEqual(found["sd"] / sd, 1.0, delta=0.2)
        self.assertLess(abs(found["z"]), 5)

    def test_a_limit_and_a_guard_behind_a_drop_that_seldom_hits(self) -> None:
        """The long run is what it is where the drop always hits, times the drop's chance."""
        table = pick((3, "sand"), (1, "lens"), nothing=6)
        table["lines"][0] |= {"limit": 40}
        table["lines"][1] |= {"guard": {"sure_at": 25}}
        crab = {"id": "crab", "name": "Crab", "kind": "enemy"}
        rare, often = (
            odds(game([table], sources=[crab | {"drops": [{"id": "a", "table": "bits", "chance": p}]}]), CRAB)
            for p in (0.001, 1.0)
        )
        ratio = rare["items"]["lens"]["long_run_mean"] / often["items"]["lens"]["long_run_mean"]
        self.assertAlmostEqual(ratio, 0.001, places=12)


class Bounds(unittest.TestCase):
    """What is asked takes seconds and bounded memory, or is refused with the limit."""

    def setUp(self) -> None:
        self.start = time.monotonic()
        self.addCleanup(lambda: self.assertLess(time.monotonic() - self.start, 90))

    def deep(self, **guard: Any) -> Game:
        tables = [pick((1, f"@t{at + 1}"), name=f"t{at}") for at in range(199)]
        last = each((0.5, "sand"), name="t199")
        last["lines"][0] |= guard
        data = game_data([*tables, last])
        data["sources"][0]["drops"][0]["table"] = "t0"
        return read_game(data)

    def test_tables_nested_two_hundred_deep(self) -> None:
        made = self.deep()
        self.assertEqual(odds(made, CRAB)["items"]["sand"]["p_any"], 0.5)
        self.assertEqual(depth_sheet(made, CRAB)["value_mean"][0], 0.5)
        self.assertEqual(len(item_view(made, "sand")["ways"]), 1)
        self.assertEqual(spread(made, CRAB, depth=1, events=5)["method"], "exact")
        self.assertEqual(SheetOdds(made, CRAB, 1).sheet()["items"]["sand"]["p_any"], 0.5)
        self.assertTrue(rolled(made, CRAB, depth=1, seed=1).events)
        self.assertIsInstance(findings(made), list)
        stateful = odds(self.deep(guard={"sure_at": 5}), CRAB)
        self.assertIn("within each other", stateful["later"]["why"])

    def test_sixty_lines_of_which_eight_are_picked(self) -> None:
        table = pick(distinct=True, rolls={"min": 8, "max": 8})
        names = ("sand", "claw", "lens")
        table["lines"] = [
            {"id": f"l{at}", "weight": 1 + at % 5, "yields": [{"item": names[at % 3]}]} for at in range(60)
        ]
        start = time.monotonic()
        found = depth_sheet(game([table]), CRAB)
        self.assertLess(time.monotonic() - start, 8)
        self.assertAlmostEqual(sum(item["mean"][0] for item in found["items"].values()), 8.0, places=9)

    def test_a_distinct_pick_of_a_thousand_is_simulated(self) -> None:
        table = pick(distinct=True, rolls={"min": 400, "max": 400})
        table["lines"] = [{"id": f"l{at}", "weight": 1 + at % 5, "yields": []} for at in range(1_000)]
        table["lines"][0]["yields"] = [{"item": "sand"}]
        found = odds(game([table]), CRAB)
        self.assertEqual((found["method"], found["next"]["method"]), ("simulated", "simulated"))
        self.assertGreater(found["items"]["sand"]["p_any_error"], 0)
        self.assertIsNone(SheetOdds(game([table]), CRAB, 1).sheet()["drops"]["a"]["share"])

    def test_a_spawn_table_with_many_states_is_answered(self) -> None:
        hush = View("table", "hush-life")
        found = odds(demo(), hush, depth=28)
        self.assertEqual(found["method"], "exact")
        self.assertGreater(found["value"]["mean"], 0)

    def test_many_guarded_and_many_limited_lines(self) -> None:
        names = ("sand", "claw", "lens")
        for count, more in ((30, {"guard": {"rise": 1}}), (40, {"limit": 1})):
            table = pick(rolls={"min": 3, "max": 3})
            table["lines"] = [
                {"id": f"l{at}", "weight": 1, "yields": [{"item": names[at % 3]}], **more}
                for at in range(count)
            ]
            found = odds(game([table]), CRAB)
            self.assertAlmostEqual(sum(found["items"][name]["mean"] for name in names), 3.0, delta=0.05)

    def test_rolling_does_not_depend_on_an_expectation(self) -> None:
        made = guarded(*[{"sure_at": 90}] * 3, nothing=3)
        self.assertIsNone(so_far(made, CRAB, 1, (), 1_000))
        found = rolled(made, CRAB, depth=1, seed=1, count=100)
        self.assertEqual(sum(found.counts.values()), sum(len(event.received) for event in found.events))

    def test_a_trace_says_where_it_stopped(self) -> None:
        table = pick((1, "sand"), (1, "claw"), rolls={"min": 499_999, "max": 499_999})
        found = rolled(game([table]), CRAB, depth=1, seed=1, count=3)
        self.assertEqual(found.counts["sand"] + found.counts["claw"], 3 * 499_999)
        self.assertEqual(found.events[-1].steps[-1]["kind"], "stopped")
        self.assertLessEqual(sum(len(event.steps) for event in found.events), MOST_NOTES)
        with self.assertRaisesRegex(TooLarge, "Roll fewer"):
            rolled(game([table]), CRAB, depth=1, seed=1, count=1_000)

    def test_a_trial_of_many_states_reports(self) -> None:
        """1 406 states x 20 000 events: beside what was expected or without, but soon; 552 states beside."""
        for sure, told in ((37, False), (23, True)):
            made = guarded({"sure_at": sure}, {"sure_at": sure + 1}, nothing=9)
            with self.subTest(sure=sure), local_executor() as executor:
                found = run_trial(made, Trial(CRAB, 1, 10, 20_000, 1), executor)
                self.assertEqual(found["value"]["expected_mean"] is not None, told)
                if told:
                    self.assertLess(abs(found["items"]["sand"]["z"]), 5)

    def test_dice_without_end(self) -> None:
        table = pick((1, "sand"))
        table["lines"][0]["yields"][0]["quantity"] = {"dice": "1000d1999"}
        with self.assertRaisesRegex(TooLarge, "1000d1999"):
            odds(game([table]), CRAB)
        told = [(one.path, one.message) for one in findings(game([table]))]
        places = [path for path, message in told if "cannot be worked out" in message]
        self.assertEqual(places, ["tables[0].lines[0].yields[0].quantity"])

    def test_ten_thousand_depths(self) -> None:
        data = game_data([pick((1, "sand 1-200"))])
        data["depth"] = {"from": 1, "to": 10_000}
        points = [[1, 0.5], [5_000, 3], [10_000, 10]]
        data["curves"] = [{"id": "c", "name": "C", "shape": "ease", "points": points}]
        data["tables"][0]["lines"][0]["yields"][0]["quantity"]["curve"] = "c"
        means = depth_sheet(read_game(data), CRAB)["value_mean"]
        self.assertEqual((means[0], round(means[-1], 6)), (50.25, 1005.0))
        items = [{"id": f"i{at}", "name": "I", "tier": "silt"} for at in range(5_000)]
        lines = [{"id": f"l{at}", "weight": 1, "yields": [{"pool": {}}]} for at in range(50)]
        data |= {"items": items}
        data["tables"][0]["lines"] = lines
        made = read_game(data)
        with self.assertRaisesRegex(TooLarge, "5,000.*10,000 depths"):
            depth_sheet(made, CRAB)
        self.assertTrue(any("could be looked at" in one.message for one in findings(made)))

    def test_a_deck_is_followed_as_far_as_an_event_can_draw(self) -> None:
        """Of its 180 contents two rolls can lead to fourteen; a walk costs by the state."""
        under = Conditions(demo(), [29])
        view = View("table", "trench-life")
        keys = carried_under(under).keys(view)
        self.assertIn(("table", "pearl-bed"), keys)
        near = near_space(keys, under, most_rolls(under, view))
        self.assertEqual(near.pockets["table", "pearl-bed"].size, 14)
        self.assertEqual(near.size, 336)

    def test_a_pool_of_a_hundred_thousand(self) -> None:
        data = game_data([pick()])
        data["items"] = [{"id": f"i{at}", "name": "I", "tier": "silt", "value": 2} for at in range(100_000)]
        data["items"][7]["abundance"] = 1e9  # nearly all of it: what is left is added up
        data["tables"][0]["lines"] = [{"id": "a", "weight": 1, "yields": [{"pool": {}}]}]
        made = read_game(data)
        sheet = SheetOdds(made, CRAB, 1)
        self.assertEqual(sheet.ahead.mean(sheet.columns.units), 1.0)
        rest = 99_999 / (1e9 + 99_999)
        self.assertAlmostEqual(sheet.ahead.var(7) / (rest * (1 - rest)), 1.0, places=9)

    def test_a_hundred_thousand_lines_compared(self) -> None:
        data = game_data([pick()])
        data["tables"][0]["lines"] = [{"id": f"l{at}", "weight": 1, "yields": []} for at in range(100_000)]
        with self.assertRaisesRegex(TooLarge, "5,000"):
            compared(read_game(data), "bits", 1)


del ReferenceOdds  # its own tests run where it is


if __name__ == "__main__":
    unittest.main()
