"""What is too large or empty is answered with a clear limit, never with a hang; and what only the far
future makes large is still exact for the next event."""

from __future__ import annotations

import math
import time
import unittest
from typing import Any
from unittest.mock import patch

import numpy as np

from golddice.core.errors import GameError, TooLarge
from golddice.core.forecast.later import Later, Players
from golddice.core.forecast.marking import marked
from golddice.core.game.models import Game, Pool
from golddice.core.game.quantity import Quantity
from golddice.core.game.views import View
from golddice.core.odds.carried import distinct
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.event.rules import roll_chances
from golddice.core.results import RESULTS
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import law_of
from golddice.core.trial.trace import rolled
from golddice.core.trial.trial import Trial, local_executor, run_trial
from golddice.files.game_file import read_game_file
from tests.games import DEMO, each, game, pick

CRAB = View("source", "crab")


def guarded(*names: str, sure_at: int) -> dict[str, Any]:
    lines = [
        {"id": name, "weight": 1, "guard": {"sure_at": sure_at}, "yields": [{"item": name}]} for name in names
    ]
    return {**pick(nothing=50), "lines": lines}


def deck(copies: int, lines: int = 4) -> dict[str, Any]:
    names = ["sand", "claw", "lens", "crown"]
    every = [{"id": f"l{at}", "copies": copies, "yields": [{"item": names[at % 4]}]} for at in range(lines)]
    return {"id": "bits", "name": "Bits", "rule": "deck", "lines": every}


class ManyStates(unittest.TestCase):
    """Three guards of 60 are 216 000 states; a deck of 10 lines x 9 copies has ten billion contents."""

    def test_the_next_event_is_exact_whatever_comes_later(self) -> None:
        for table in (guarded("sand", "claw", "lens", sure_at=60), deck(9, 10)):
            report = odds(game([table]), CRAB)
            expected = 1 / 53 if table["rule"] == "pick" else 0.3
            self.assertAlmostEqual(report["items"]["sand"]["p_any"], expected, places=12)
            self.assertNotIn("next", report)
            self.assertEqual((report["method"], report["later"]["method"]), ("simulated", "simulated"))

    def test_two_rolls_in_an_event_see_what_the_first_one_left(self) -> None:
        table = {**deck(9, 2), "rolls": {"min": 2, "max": 2}}
        report = odds(game([table]), CRAB)
        none = (9 / 18) * (8 / 17)
        self.assertAlmostEqual(report["items"]["sand"]["p_any"], 1 - none, places=12)
        twice = {**guarded("sand", "claw", sure_at=2), "rolls": {"min": 2, "max": 2}}
        # Whichever misses the first roll is due on the second.
        self.assertAlmostEqual(
            odds(game([twice]), CRAB)["items"]["sand"]["p_any"], 1 / 52 + 51 / 52, places=12
        )

    def test_what_cannot_be_followed_is_played_and_says_so(self) -> None:
        sheet = SheetOdds(game([guarded("sand", "claw", "lens", sure_at=60)]), CRAB, 1)
        found, wait = sheet.sheet(), sheet.wait({"kind": "item", "id": "sand"})
        self.assertEqual(found["later"]["method"], "simulated")
        self.assertIn("60,000 states", found["later"]["why"])
        self.assertEqual(wait["method"], "simulated")
        # One line alone is due at its 60th try at the latest; three can keep each other waiting.
        self.assertLessEqual(wait["first_99"], 62)
        # Without its guard it would take ln 2 / -ln(1 - 1/53) events.
        self.assertLess(abs(wait["first_50"] - 36.4), 4 * wait["errors"]["first_50"] + 1)
        self.assertEqual(wait["points"][-1][1], 1.0)

    def test_played_figures_agree_with_exact_ones(self) -> None:
        """Two guards of 12 can be followed: what the players do must be that, within their errors."""
        made = game([guarded("sand", "claw", sure_at=12)])
        sheet = SheetOdds(made, CRAB, 1)
        line = sheet.columns.line_hits("bits", "sand")
        players = Players(sheet.prospect, [("bits", "sand")])
        for column in (sheet.columns.item(0), sheet.columns.tier(0), line):
            exact, played = sheet.later.long_run(column), players.long_run(column)
            assert exact.figure is not None and played.figure is not None
            self.assertEqual(exact.error, 0.0)
            self.assertGreater(played.error, 0.0)
            self.assertLess(abs(played.figure - exact.figure), 5 * played.error)
            wanted, got = sheet.later.wait(column), players.wait(column)
            for name, events in wanted.events.items():
                assert events is not None
                off = abs((got.events[name] or math.inf) - events)
                self.assertLessEqual(off, 5 * got.errors[name] + 1)
        value, estimate = sheet.later.value(), players.value()
        assert value.figure is not None and estimate.figure is not None
        self.assertLess(abs(value.figure - estimate.figure), 5 * estimate.error)

    def test_a_drop_is_counted_too(self) -> None:
        """By its mark, with a guard of its own and several times its table: followed, and played."""
        drop = {
            "id": "a",
            "table": "bits",
            "chance": 0.1,
            "times": {"min": 1, "max": 3},
            "guard": {"after": 2, "rise": 0.05, "sure_at": 20},
        }
        crab = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": [drop]}
        sheet = SheetOdds(game([guarded("sand", sure_at=9)], sources=[crab]), CRAB, 1)
        players = Players(sheet.prospect, [("bits", "sand")], [("crab", "a")])
        for column in (sheet.columns.drop_hits("crab", "a"), sheet.columns.line_hits("bits", "sand")):
            exact, played = sheet.later.long_run(column), players.long_run(column)
            assert exact.figure is not None and played.figure is not None
            self.assertLess(abs(exact.figure - played.figure), 5 * played.error)
            wanted, got = sheet.later.wait(column), players.wait(column)
            for name, events in wanted.events.items():
                assert events is not None
                self.assertLessEqual(abs((got.events[name] or math.inf) - events), 5 * got.errors[name] + 1)

    def test_beyond_the_states_lines_and_drops_are_told_with_their_errors(self) -> None:
        sheet = SheetOdds(game([guarded("sand", "claw", "lens", sure_at=60)]), CRAB, 1)
        wait = sheet.wait({"kind": "drop", "source": "crab", "drop": "a"})
        self.assertEqual((wait["method"], wait["first_99"], wait["long_run_mean"]), ("simulated", 1, 1.0))
        line = sheet.sheet()["tables"]["bits"]["lines"]["sand"]
        share = line["long_run_100_error"] / line["long_run_100"]
        self.assertGreater(share, 0)
        self.assertAlmostEqual(line["long_run_one_in_error"] / line["long_run_one_in"], share, places=12)
        # Due at the 60th try at the latest, or soon after where another line is due as well.
        self.assertGreater(line["long_run_100"] + 5 * line["long_run_100_error"], 100 / 62)
        tier = sheet.sheet()["tiers"]["silt"]
        self.assertGreater(tier["long_run_error"], 0)

    def test_what_is_followed_has_no_error(self) -> None:
        found = SheetOdds(game([guarded("sand", "claw", sure_at=9)]), CRAB, 1).sheet()
        line = found["tables"]["bits"]["lines"]["sand"]
        self.assertEqual((line["long_run_100_error"], line["long_run_one_in_error"]), (0, 0))
        self.assertEqual(found["items"]["sand"]["long_run_error"], 0)

    def test_what_is_not_counted_is_left_open(self) -> None:
        """Players of whom only lines were asked say nothing about drops, rather than never."""
        prospect = SheetOdds(game([guarded("sand", "claw", "lens", sure_at=60)]), CRAB, 1).prospect
        later = Later(prospect, [("bits", "sand")])
        drop = prospect.columns.drop_hits("crab", "a")
        self.assertEqual(later.wait(drop).method, "untold")
        self.assertIsNone(later.long_run(drop).figure)
        self.assertEqual(later.none_at(drop, np.arange(11)).size, 0)

    def test_marks_change_no_chance(self) -> None:
        """A marked line keeps its tier's curve, and pools do not give marks."""
        made = read_game_file(DEMO)
        under = Conditions(made, [14])
        lines = [(table.id, line.id) for table in made.tables for line in table.lines]
        drops = [(source.id, drop.id) for source in made.sources for drop in source.drops]
        marks = marked(under, lines, drops).under
        for table in made.tables:
            with self.subTest(table=table.id):
                before, after = (roll_chances(one.table(table.id), one)[0] for one in (under, marks))
                np.testing.assert_array_equal(before, after)
        for source in made.sources:
            for drop in source.drops:
                np.testing.assert_array_equal(under.drop_chance(drop), marks.drop_chance(drop))
        pool = Pool(tiers=[made.tiers[0].id])
        self.assertEqual(under.pool_chances(pool).sum(), marks.pool_chances(pool).sum())
        self.assertEqual(np.count_nonzero(marks.pool_chances(pool)), under.pool_items(pool).size)

    def test_the_spread_is_simulated_and_says_so(self) -> None:
        found = spread(game([guarded("sand", "claw", "lens", sure_at=60)]), CRAB, depth=1, events=100)
        self.assertEqual(found["method"], "simulated")
        self.assertGreater(found["players"], 1_000)

    def test_joint_state_of_two_guards_is_exact(self) -> None:
        report = odds(game([guarded("sand", "claw", sure_at=12)]), CRAB, events=50)
        self.assertEqual(report["items"]["sand"]["first_99"], 12)
        self.assertEqual(report["after"]["value"]["method"], "exact")


class DistinctWithState(unittest.TestCase):
    """Picks without replacement from a table in which players carry something."""

    def wide(self, lines: int, rolls: int, **first: Any) -> dict[str, Any]:
        names = ["sand", "claw", "lens", "crown"]
        every = [
            {"id": f"l{at}", "weight": 1 + at, "yields": [{"item": names[at % 4]}]} for at in range(lines)
        ]
        every[0] |= first
        return {**pick(distinct=True, rolls={"min": rolls, "max": rolls}), "lines": every}

    def test_the_next_event_is_that_of_the_table_without_a_limit(self) -> None:
        """A line that can be had once in an event cannot reach its limit within one."""
        limited, free = self.wide(30, 6, limit=2), self.wide(30, 6)
        with_limit, without = (odds(game([table]), CRAB)["items"] for table in (limited, free))
        for item, figures in without.items():
            for key in ("p_any", "mean", "sd"):
                self.assertAlmostEqual(with_limit[item][key], figures[key], places=12)

    def test_what_comes_later_is_played_where_the_sets_are_too_many(self) -> None:
        sheet = SheetOdds(game([self.wide(30, 6, limit=2)]), CRAB, 1)
        found = sheet.sheet()
        self.assertEqual(found["later"]["method"], "simulated")
        self.assertIn("sets of them", found["later"]["why"])
        # After its two hits the line is gone: the long run is that of the 29 others.
        rest = [{"id": "x", "weight": 1 + at, "yields": [{"item": "sand"}]} for at in range(1, 30)]
        table = {**pick(distinct=True, rolls={"min": 6, "max": 6}), "lines": rest}
        for at, line in enumerate(rest):
            line["id"] = f"x{at}"
            line["yields"] = [{"item": ["claw", "lens", "crown", "sand"][at % 4]}]
        gone = odds(game([table]), CRAB)["items"]
        for item, figures in gone.items():
            estimate = sheet.later.long_run(sheet.under.item_index[item])
            assert estimate.figure is not None
            self.assertLess(abs(estimate.figure - figures["mean"]), 5 * estimate.error + 2e-3)

    def test_few_sets_of_many_lines_are_followed_exactly(self) -> None:
        sheet = SheetOdds(game([self.wide(20, 3, limit=1)]), CRAB, 1)
        self.assertEqual(sheet.later.method, "exact")
        players = Players(sheet.prospect)
        for at in range(4):
            exact, estimate = sheet.later.long_run(at), players.long_run(at)
            assert exact.figure is not None and estimate.figure is not None
            self.assertLess(abs(exact.figure - estimate.figure), 5 * estimate.error)

    def test_far_more_rolls_than_lines_go_on_where_most_are_blank(self) -> None:
        lines = {"lines": [{"id": "a", "weight": 1, "limit": 1, "yields": [{"item": "lens"}]}]}
        table = {**pick(distinct=True, nothing=99, rolls={"min": 1500, "max": 1500}), **lines}
        found = SheetOdds(game([table]), CRAB, 1).later.prospect
        lens = found.under.item_index["lens"]
        self.assertAlmostEqual(found.hit(lens), 1 - 0.99**1500, places=12)
        self.assertAlmostEqual(found.count_after(lens, 2)[0], 1 - 0.99**3000, places=12)

    def test_sets_are_walked_some_at_a_time_to_the_same_end(self) -> None:
        inner = {**guarded("lens", sure_at=6), "id": "inner", "name": "Inner"}
        outer = self.wide(6, 3, limit=2, yields=[{"table": "inner"}])
        outer["lines"][1] |= {"guard": {"rise": 0.5, "after": 1, "sure_at": 4}}
        outer["nothing"] = 2.0

        def means() -> dict[int, float]:
            RESULTS.clear()
            return SheetOdds(game([outer, inner]), CRAB, 1).later.prospect.long_run_means

        with patch.object(distinct, "_BLOCK_CELLS", 1):
            one_by_one = means()
        together = means()
        self.assertGreater(len(together), 2)
        for column, mean in together.items():
            self.assertAlmostEqual(one_by_one[column], mean, places=14)

    def test_a_guarded_table_within_a_distinct_pick_at_all_depths(self) -> None:
        inner = {**guarded("lens", sure_at=60), "id": "inner", "name": "Inner"}
        outer = pick((1, "@inner"), (3, "sand"), (2, "claw"), distinct=True, rolls={"min": 2, "max": 2})
        made = game([outer, inner])
        together = depth_odds(made, View("source", "crab"), range(1, 11))
        alone = odds(made, CRAB, depth=4)["items"]
        for row, at in enumerate(together.places):
            wanted = alone[made.items[at].id]["p_any"]
            self.assertAlmostEqual(float(together.hit[row, 3]), wanted, places=12)


class Explosions(unittest.TestCase):
    def explosive(self) -> Game:
        return game(
            [
                pick((1, "@middle 1000")),
                pick((1, "@inner 1000"), name="middle"),
                each((0.5, "sand"), name="inner", rolls={"min": 1000, "max": 1000}),
            ]
        )

    def test_odds_are_exact_at_once(self) -> None:
        start = time.monotonic()
        report = odds(self.explosive(), CRAB)
        self.assertAlmostEqual(report["items"]["sand"]["mean"] / 5e8, 1.0, places=12)
        self.assertLess(time.monotonic() - start, 5)

    def test_trials_and_rolls_are_refused_with_the_limit(self) -> None:
        with local_executor(1) as executor, self.assertRaisesRegex(TooLarge, "the limit is 1,000,000"):
            run_trial(self.explosive(), Trial(View("source", "crab"), 1, 1, 1, 0), executor)
        with self.assertRaisesRegex(TooLarge, "the limit is 1,000,000"):
            rolled(self.explosive(), View("source", "crab"), depth=1, seed=0)

    def test_ten_thousand_rolls(self) -> None:
        made = game([each((1e-5, "crown"), rolls={"min": 1, "max": 10_000})])
        start = time.monotonic()
        found = odds(made, CRAB, events=10)
        self.assertLess(time.monotonic() - start, 10)
        p = float(np.mean(-np.expm1(np.arange(1, 10_001) * np.log1p(-1e-5))))
        self.assertAlmostEqual(found["items"]["crown"]["p_any"], p, places=12)

    def test_ten_thousand_rolls_of_a_deck(self) -> None:
        made = game([{**deck(1), "rolls": {"min": 10_000, "max": 10_000}}])
        found = odds(made, CRAB)
        self.assertIn("exact up to", found["next"]["why"])
        self.assertAlmostEqual(found["items"]["sand"]["mean"], 2_500, delta=1e-9)  # four cards, all alike


class Empty(unittest.TestCase):
    def test_a_deck_without_cards_gives_nothing(self) -> None:
        for table in (deck(0), deck(0, 0)):
            report = odds(game([table]), CRAB)
            self.assertEqual(report["items"]["sand"]["p_any"], 0.0)
            self.assertEqual(
                rolled(game([table]), View("source", "crab"), depth=1, seed=0).events[0].received, []
            )

    def test_a_pool_that_nothing_fits_gives_nothing(self) -> None:
        line = {"id": "a", "weight": 1, "yields": [{"pool": {"tags": ["no-such"]}}, {"item": "sand"}]}
        made = game([{**pick(), "lines": [line]}])
        report = odds(made, CRAB)
        self.assertEqual(report["items"]["sand"]["p_any"], 1.0)
        self.assertEqual(report["tiers"]["silt"]["share"], 1.0)
        self.assertEqual(
            rolled(made, View("source", "crab"), depth=1, seed=0).events[0].received, [("sand", 1)]
        )

    def test_a_guard_that_is_sure_at_1_hits_every_time(self) -> None:
        made = game([guarded("crown", sure_at=1)])
        self.assertEqual(odds(made, CRAB)["items"]["crown"]["p_any"], 1.0)
        events = rolled(made, View("source", "crab"), depth=1, seed=0, count=20).events
        self.assertTrue(all(event.received == [("crown", 1)] for event in events))

    def test_a_table_whose_lines_are_all_closed_here(self) -> None:
        for rule, key in (("pick", "weight"), ("each", "chance"), ("first", "chance"), ("deck", "copies")):
            line = {"id": "a", key: 1, "depths": [5, 6], "yields": [{"item": "sand"}]}
            made = game([{"id": "bits", "name": "Bits", "rule": rule, "lines": [line]}])
            with self.subTest(rule):
                self.assertEqual(odds(made, CRAB, depth=1)["items"]["sand"]["p_any"], 0.0)
                self.assertEqual(odds(made, CRAB, depth=5)["items"]["sand"]["p_any"], 1.0)
                self.assertEqual(rolled(made, View("source", "crab"), depth=1, seed=0).events[0].received, [])

    def test_a_guard_on_a_deck_is_refused(self) -> None:
        lines = [{"id": "a", "copies": 1, "guard": {"sure_at": 3}, "yields": []}]
        with self.assertRaises(GameError) as caught:
            game([{"id": "bits", "name": "Bits", "rule": "deck", "lines": lines}])
        self.assertEqual(caught.exception.problems[0].path, "tables[0].lines[0].guard")


class ManyValues(unittest.TestCase):
    """Repeats of a uniform range have a closed form; it must equal the sum it stands for."""

    def test_the_closed_form_is_the_sum(self) -> None:
        for low, high, step in ((1, 100, 1), (0, 66, 2), (10, 1000, 10), (7, 7 + 33 * 3, 3)):
            law = law_of(Quantity(min=low, max=high, step=step))
            for p in (1e-15, 1e-9, 1e-4, 0.01, 0.3, 0.999, 1.0):
                with self.subTest(low=low, high=high, step=step, p=p):
                    with np.errstate(divide="ignore", invalid="ignore"):
                        terms = -np.expm1(law.values * np.log1p(-p))
                    terms = np.where(law.values == 0, 0.0, terms)
                    got = float(law.any_of(np.array([[p]]))[0, 0])
                    self.assertAlmostEqual(got / float(terms.mean()), 1.0, places=12)

    def test_the_generating_function_is_the_sum_too(self) -> None:
        x = np.exp(2j * np.pi * np.arange(64) / 64)
        for low, high, step in ((1, 100, 1), (0, 66, 2), (10, 1000, 10)):
            law = law_of(Quantity(min=low, max=high, step=step))
            plain = np.mean(x[:, None] ** law.values[None, :], axis=1)
            np.testing.assert_allclose(law.pgf(x), plain, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
