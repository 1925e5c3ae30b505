"""Exact odds: hand-worked values, limiting cases, and properties over random games."""

from __future__ import annotations

import json
import math
import unittest
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.errors import QueryError, TooLarge, UnknownThing
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.quantity import parse_quantity
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.carried.totals import count_after, value_after
from golddice.core.odds.event import distinct
from golddice.core.odds.event.distinct import Inclusion
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.rules import first_chances, retry_chances, roll_chances
from golddice.core.odds.event.subsets import subset_chances
from golddice.core.odds.event.waits import events_to_first
from golddice.core.sheets.answers import table_answering
from golddice.core.sheets.depth_sheet import profile
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.law import Law, law_of
from tests.core.test_edits import nothing_kept
from tests.games import demo, each, game, game_data, pick
from tests.strategies import games

CRAB = View("source", "crab")


class Rules(unittest.TestCase):
    def test_first_multiplies_the_misses_before(self) -> None:
        chances, none = first_chances(np.array([[0.5], [0.5], [1.0], [0.3]]))
        np.testing.assert_allclose(chances[:, 0], [0.5, 0.25, 0.25, 0.0])
        self.assertEqual(none[0], 0.0)

    def test_retry_adds_up_its_tries(self) -> None:
        weights, chances = np.array([[1.0], [3.0]]), np.array([[0.5], [0.1]])
        once = 0.25 * 0.5 + 0.75 * 0.1
        got, none = retry_chances(weights, chances, 3)
        self.assertAlmostEqual(none[0], (1 - once) ** 3, places=15)
        self.assertAlmostEqual(float(got.sum()) + none[0], 1.0, places=15)

    @given(games())
    def test_one_roll_does_exactly_one_thing(self, made: Game) -> None:
        under = Conditions(made, [1])
        for table in made.tables:
            chances, none = roll_chances(table, under)
            self.assertTrue(np.all(chances >= 0) and np.all(chances <= 1))
            if table.rule != "each":
                self.assertAlmostEqual(float(chances.sum()) + float(none[0]), 1.0, places=12)


class Laws(unittest.TestCase):
    def test_dice_by_hand(self) -> None:
        law = law_of(parse_quantity("2d6+1"))
        self.assertAlmostEqual(float(law.chances[law.values == 8][0]), 6 / 36, places=15)
        self.assertAlmostEqual(float(law.mean[0]), 8.0, places=12)
        self.assertAlmostEqual(float(law.var[0]), 35 / 6, places=12)

    def test_many_dice_stay_a_distribution(self) -> None:
        law = law_of(parse_quantity("40d100"))
        self.assertAlmostEqual(float(law.chances.sum()), 1.0, places=12)
        self.assertAlmostEqual(float(law.mean[0]), 40 * 50.5, places=8)

    @given(st.floats(0.01, 7), st.integers(0, 9), st.integers(0, 9))
    def test_rounding_at_random_keeps_the_mean(self, factor: float, low: int, more: int) -> None:
        law = law_of(parse_quantity(f"{low}-{low + more}"), np.array([factor, 1.0]))
        mean = np.broadcast_to(law.mean, (2,))
        np.testing.assert_allclose(mean, [factor * (low + more / 2), low + more / 2], rtol=1e-9)

    def test_any_of_keeps_tiny_chances(self) -> None:
        law = Law(np.array([1, 2]), np.array([0.5, 0.5]))
        got = law.any_of(np.array([[1e-15]]))[0, 0]
        self.assertAlmostEqual(got / 1.5e-15, 1.0, places=12)


class Waits(unittest.TestCase):
    def test_a_sure_thing_and_an_impossible_one(self) -> None:
        self.assertEqual(events_to_first(1.0, 0.99), 1)
        self.assertIsNone(events_to_first(0.0, 0.5))

    def test_a_billionth(self) -> None:
        k = events_to_first(1e-9, 0.5)
        assert k is not None
        self.assertEqual(k, 693_147_181)

    @given(st.floats(1e-6, 0.999), st.sampled_from([0.5, 0.9, 0.99]))
    def test_the_smallest_that_is_enough(self, p: float, q: float) -> None:
        k = events_to_first(p, q)
        assert k is not None
        self.assertGreaterEqual(-math.expm1(k * math.log1p(-p)), q - 1e-12)
        if k > 1:
            self.assertLess(-math.expm1((k - 1) * math.log1p(-p)), q + 1e-12)


class Evaluation(unittest.TestCase):
    def test_a_pick_by_hand(self) -> None:
        report = odds(game([pick((3, "sand"), (1, "crown"), nothing=4)]), CRAB)
        self.assertAlmostEqual(report["items"]["sand"]["p_any"], 3 / 8)
        self.assertAlmostEqual(report["items"]["crown"]["one_in"], 8.0)
        self.assertAlmostEqual(report["value"]["mean"], 3 / 8 * 1 + 1 / 8 * 500)
        self.assertAlmostEqual(report["tiers"]["pearl"]["share"], 0.25)

    def test_each_lines_are_independent(self) -> None:
        report = odds(game([each((0.5, "lens"), (0.5, "crown"))]), CRAB)
        self.assertAlmostEqual(report["tiers"]["pearl"]["p_any"], 0.75)
        sd = math.sqrt(0.25 * 40**2 + 0.25 * 500**2)
        self.assertAlmostEqual(report["value"]["sd"], sd)

    def test_scaling_all_weights_changes_nothing(self) -> None:
        one = odds(game([pick((3, "sand"), (1, "crown"), nothing=4)]), CRAB)
        ten = odds(game([pick((30, "sand"), (10, "crown"), nothing=40)]), CRAB)
        self.assertEqual(one, ten)

    @given(games())
    def test_shares_of_the_swing_add_up(self, made: Game) -> None:
        sheet = SheetOdds(made, CRAB, 1).sheet()
        if sheet["value"]["sd"] > 1e-9:
            total = sum(drop["share"] for drop in sheet["drops"].values())
            self.assertAlmostEqual(total, 1.0, places=9)

    @given(games())
    def test_moments_fit_the_whole_distribution(self, made: Game) -> None:
        under = Conditions(made, [1])
        outcome = Evaluator(under).source("crab")
        law = value_after(under, View("source", "crab"), 3)
        values, mean = law.values, law.mean
        self.assertAlmostEqual(mean, 3 * float(outcome.value_mean[0]), delta=1e-6 * (1 + mean))
        var = float(law.chances @ (values - mean) ** 2)
        wanted = 3 * float(outcome.value_var[0])
        self.assertAlmostEqual(var, wanted, delta=1e-6 * (1 + wanted))

    @given(games())
    def test_none_of_an_item_is_no_chance_of_any(self, made: Game) -> None:
        under = Conditions(made, [1])
        report = odds(made, CRAB)
        law = count_after(under, View("source", "crab"), 1, "lens")
        self.assertAlmostEqual(1 - law.of(0), report["items"]["lens"]["p_any"], places=12)

    def test_what_an_edit_does_not_reach_is_found_again(self) -> None:
        before = Entities.of(demo())
        body = before.bodies["table"]["cabinet-of-curios"]
        edited = before.edited([Entry("table", "cabinet-of-curios", {**body, "nothing": 1})]).game()
        old = Evaluator(Conditions(before.game(), [14]))
        for source in demo().sources:
            self.assertIsNotNone(Prospect(old, View("source", source.id)).outcome)
        new = Evaluator(Conditions(edited, [14]))
        for source in demo().sources:
            self.assertIsNotNone(Prospect(new, View("source", source.id)).outcome)
        self.assertIs(new.source("silt-crab"), old.source("silt-crab"))
        self.assertIsNot(new.source("kiln-chest"), old.source("kiln-chest"))

    def test_an_edit_of_a_curve_reaches_what_rests_on_it(self) -> None:
        """Every curve bent, one after another: each sheet is what it is from nothing."""
        before = Entities.of(demo())
        sheets = {source.id: SheetOdds(demo(), View("source", source.id), 15) for source in demo().sources}
        for sheet in sheets.values():
            sheet.sheet()
        for name, body in before.bodies["curve"].items():
            points = [[depth, 1.1 * value + 0.01] for depth, value in body["points"]]
            made = before.edited([Entry("curve", name, {**body, "points": points})]).game()
            for source in sheets:
                with self.subTest(curve=name, source=source):
                    again = SheetOdds(made, View("source", source), 15).sheet()
                    with nothing_kept():
                        alone = SheetOdds(made, View("source", source), 15).sheet()
                    self.assertEqual(json.dumps(again), json.dumps(alone))

    def test_a_curve_bent_elsewhere_changes_nothing_here(self) -> None:
        before = Entities.of(demo())
        body = before.bodies["curve"]["abyssal"]
        bent = [*body["points"][:-1], [30, 9.0]]
        made = before.edited([Entry("curve", "abyssal", {**body, "points": bent})]).game()
        old = Evaluator(Conditions(before.game(), [2]))
        self.assertIsNotNone(old.source("silt-crab"))
        self.assertIs(Evaluator(Conditions(made, [2])).source("silt-crab"), old.source("silt-crab"))

    def test_depths_together_equal_depths_alone(self) -> None:
        made = demo()
        depths = list(range(made.depth.from_, made.depth.to + 1))
        together = Evaluator(Conditions(made, depths)).source("kiln-chest")
        for row, depth in enumerate(depths):
            alone = Evaluator(Conditions(made, [depth])).source("kiln-chest")
            places = alone.places(together.columns)
            np.testing.assert_allclose(together.hit[row, places], alone.hit[0], rtol=1e-12)
            np.testing.assert_allclose(together.mean[row, places], alone.mean[0], rtol=1e-12)
            np.testing.assert_allclose(together.value_var[row], alone.value_var[0], rtol=1e-12)

    def test_questions_that_cannot_be_answered(self) -> None:
        made = game([pick((1, "sand"))])
        with self.assertRaises(UnknownThing):
            odds(made, View("source", "whale"))
        with self.assertRaises(UnknownThing):
            odds(made, CRAB, flags=["no-such"])
        with self.assertRaisesRegex(QueryError, "outside"):
            odds(made, CRAB, depth=11)
        with self.assertRaises(QueryError):
            odds(made, CRAB, events=0)


class WaitPlots(unittest.TestCase):
    def test_the_line_passes_through_the_marks_however_long_the_wait(self) -> None:
        """Also far beyond the events that are followed one by one, and with a guard on the way there."""
        sheet = SheetOdds(demo(), View("source", "lantern-eel"), 15)
        for tier in ("heirloom", "wonder"):
            found = sheet.wait({"kind": "tier", "id": tier})
            ks, chances = np.array(found["points"]).T
            for share, name in ((0.5, "first_50"), (0.9, "first_90"), (0.99, "first_99")):
                before, at = np.interp([found[name] - 1, found[name]], ks, chances)
                self.assertGreater(at, share - 0.002, f"{tier} {name}")
                self.assertLess(before, share + 0.002, f"{tier} {name}")


class Distinct(unittest.TestCase):
    @given(
        st.lists(st.sampled_from([0.001, 0.5, 1.0, 3.0, 200.0]), min_size=1, max_size=6),
        st.sampled_from([0.0, 0.3, 5.0]),
        st.integers(1, 7),
    )
    @settings(max_examples=40)
    def test_clocks_agree_with_subsets(self, w: list[float], blank: float, rolls: int) -> None:
        weights = np.array(w)
        masks = np.arange(1 << weights.size)
        chances = subset_chances(weights[:, None], np.array([blank]), rolls)[-1][:, 0]
        got = Inclusion(weights, blank, Law(np.array([rolls]), np.ones(1)))
        for i in range(weights.size):
            inside = (masks >> i) & 1 == 1
            self.assertAlmostEqual(got.one[i], float(chances[inside].sum()), places=12)
            for j in range(i):
                both = inside & ((masks >> j) & 1 == 1)
                apart = float(chances[both].sum()) - got.one[i] * got.one[j]
                self.assertAlmostEqual(got.covariance[i, j], apart, places=12)

    @given(games())
    @settings(max_examples=40)
    def test_few_lines_come_out_the_same_by_sets_and_by_clocks(self, made: Game) -> None:
        under = Conditions(made, [2, 7])
        for table in made.tables:
            rolls = under.law(table.rolls)
            if table.rule != "pick" or not table.lines or rolls.most == 1:
                continue
            evaluator = Evaluator(under, detail=False)
            lines = [evaluator.line(table, line) for line in table.lines]
            weights, blank = under.weights(table), under.nothing(table)
            with mock.patch.object(distinct, "is_few", return_value=False):
                slow = distinct.distinct_outcome(weights, blank, rolls, lines)
            fast = distinct.distinct_outcome(weights, blank, rolls, lines)
            for name in ("hit", "mean", "var", "cov", "value_mean", "value_var"):
                np.testing.assert_allclose(
                    getattr(fast, name), getattr(slow, name), rtol=1e-8, atol=1e-9, err_msg=name
                )

    def test_ten_of_two_hundred_are_ten(self) -> None:
        weights = np.linspace(0.1, 20, 200)
        got = Inclusion(weights, 0.0, Law(np.array([10]), np.ones(1)))
        self.assertAlmostEqual(float(got.one.sum()), 10.0, places=9)
        self.assertAlmostEqual(float(got.covariance.sum()), 0.0, places=9)  # ten are in, whoever they are


class Totals(unittest.TestCase):
    def test_two_coins(self) -> None:
        made = game([pick((1, "sand"), nothing=1)])
        law = value_after(Conditions(made, [1]), View("source", "crab"), 2)
        np.testing.assert_allclose(law.chances[:3], [0.25, 0.5, 0.25], atol=1e-15)
        self.assertEqual(law.quantile(0.5), 1.0)

    def test_a_far_tail_does_not_wrap(self) -> None:
        made = game([pick((1, "crown 1-400"), nothing=1e6)])
        law = value_after(Conditions(made, [1]), View("source", "crab"), 50)
        self.assertAlmostEqual(law.mean, 50 * 500 * 200.5 / 1_000_001, delta=1e-6)

    def test_a_hundred_players_in_a_row(self) -> None:
        made = game([pick((1, "sand"), nothing=1)])
        found = spread(made, CRAB, depth=1, events=10)
        self.assertEqual(len(found["dots"]), 100)
        self.assertEqual(found["dots"], sorted(found["dots"]))
        self.assertEqual(found["p50"], 5.0)


class Profiles(unittest.TestCase):
    def test_shares_are_whole_at_every_depth_where_something_falls(self) -> None:
        found = profile(demo(), View("source", "lantern-eel"))
        sums = np.array(found["falls"]).sum(axis=1)
        np.testing.assert_allclose(sums, 1.0)
        self.assertEqual(found["met"], [3, 30])


class Answers(unittest.TestCase):
    """What is typed into an answer comes true."""

    def typed(self, made: Game, table: str, line: str, answer: str, wanted: float) -> dict[str, float]:
        found = table_answering(made, CRAB, table, line, answer, wanted, depth=1)  # type: ignore[arg-type]
        tables = [found if one.id == table else one for one in made.tables]
        again = made.model_copy(update={"tables": tables})
        lines: dict[str, dict[str, float]] = SheetOdds(again, CRAB, 1).sheet()["tables"][table]["lines"]
        return lines[line]

    def nested(self) -> Game:
        outer = pick((5, "sand"), (3, "@inner 1-2"), nothing=2, rolls={"min": 1, "max": 3})
        inner = each((0.5, "claw"), (0.1, "lens"), name="inner")
        return game([outer, inner])

    def test_in_every_rule_and_unit(self) -> None:
        for table, line in (("bits", "a"), ("inner", "b")):
            for answer, wanted in (("chance", 0.02), ("one_in", 250.0), ("per_100", 1.5)):
                with self.subTest(table=table, answer=answer):
                    got = self.typed(self.nested(), table, line, answer, wanted)
                    self.assertAlmostEqual(got[answer] / wanted, 1.0, places=9)

    def test_others_keep_their_proportions(self) -> None:
        made = game([pick((5, "sand"), (3, "claw"), (1, "lens"), nothing=2)])
        found = table_answering(made, CRAB, "bits", "c", "chance", 0.25, depth=1)
        assert found.rule == "pick"
        self.assertEqual([line.weight for line in found.lines[:2]], [5, 3])
        self.assertAlmostEqual(found.lines[2].weight, 10 / 3, places=11)

    def test_a_pinned_line_keeps_its_chance_too(self) -> None:
        """Pinned at 3 of 10; 40 % for c leaves 30 % for a and nothing, still 5 to 1."""
        made = game([pick((5, "sand"), (3, "claw"), (1, "lens"), nothing=1)])
        lines = [line.model_copy(update={"pinned": line.id == "b"}) for line in made.tables[0].lines]
        table = made.tables[0].model_copy(update={"lines": lines})
        made = made.model_copy(update={"tables": [table]})
        found = table_answering(made, CRAB, "bits", "c", "chance", 0.4, depth=1)
        assert found.rule == "pick"
        weights = [line.weight for line in found.lines]
        np.testing.assert_allclose(weights, [5, 6, 8], rtol=1e-11)
        shares = np.array([*weights, found.nothing]) / (sum(weights) + found.nothing)
        np.testing.assert_allclose(shares, [0.25, 0.3, 0.4, 0.05], rtol=1e-11)
        with self.assertRaisesRegex(QueryError, "at most 70 %"):
            table_answering(made, CRAB, "bits", "c", "chance", 0.7, depth=1)

    def test_pinned_lines_and_a_wait(self) -> None:
        made = read_game(game_data([pick((5, "sand"), (3, "claw"), (2, "lens"), rolls={"min": 2, "max": 2})]))
        lines = [line.model_copy(update={"pinned": line.id == "b"}) for line in made.tables[0].lines]
        made = made.model_copy(update={"tables": [made.tables[0].model_copy(update={"lines": lines})]})
        found = table_answering(made, CRAB, "bits", "c", "one_in", 4, depth=1)
        assert found.rule == "pick"
        weights = np.array([line.weight for line in found.lines])
        p = 1 - math.sqrt(1 - 1 / 4)  # in one of two rolls
        np.testing.assert_allclose(weights / weights.sum(), [1 - 0.3 - p, 0.3, p], rtol=1e-9)

    def test_in_first_and_retry(self) -> None:
        first = {**each((0.5, "sand"), (0.2, "lens")), "rule": "first"}
        got = self.typed(game([first]), "bits", "b", "chance", 0.25)
        self.assertAlmostEqual(got["chance"], 0.25, places=11)
        retry = {**each((0.5, "sand"), (0.2, "lens")), "rule": "retry", "tries": 3}
        got = self.typed(game([retry]), "bits", "b", "chance", 0.25)
        self.assertAlmostEqual(got["chance"], 0.25, places=9)

    def test_what_cannot_be_had_is_refused_with_what_can(self) -> None:
        made = game([pick((5, "sand"), (3, "claw"), nothing=2)])
        for answer, wanted, reason in (
            ("chance", 1.0, "100 %"),
            ("chance", 1.5, "at most 100"),
            ("one_in", 0.5, "at least 1"),
            ("chance", -1.0, "0 or more"),
            ("chance", math.nan, "0 or more"),
        ):
            with (
                self.subTest(answer=answer, wanted=wanted),
                self.assertRaisesRegex(QueryError, reason),
            ):
                table_answering(made, CRAB, "bits", "a", answer, wanted, depth=1)  # type: ignore[arg-type]

    def test_a_table_rolled_too_seldom(self) -> None:
        made = game([pick((1, "@inner"), nothing=99), each((0.5, "lens"), name="inner")])
        with self.assertRaisesRegex(QueryError, "1 in 100"):
            table_answering(made, CRAB, "inner", "a", "one_in", 50, depth=1)


class Limits(unittest.TestCase):
    def test_too_many_distinct_rolls(self) -> None:
        """Few lines, so often that even sets of them would take long."""
        table = pick((1, "sand"), (1, "claw"), distinct=True, rolls={"min": 1, "max": 5_000_000})
        with self.assertRaises(TooLarge):
            odds(game([table]), CRAB)


if __name__ == "__main__":
    unittest.main()
