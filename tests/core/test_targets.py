"""Targets: the figures they are about against single evaluations, and where they stand from edit to edit."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.errors import TooLarge
from golddice.core.findings import findings
from golddice.core.game.editing import EditError, Entities, Entry, removal
from golddice.core.game.models import Game, Source
from golddice.core.game.reading import full, plain, plain_game, read_game, read_part
from golddice.core.game.target import FIGURES as KINDS
from golddice.core.game.target import Target
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.depth_odds import depth_odds
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.report import odds
from golddice.core.stopping import Cancelled, Stop, stopped_by
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.pace import events_per_hour
from golddice.core.tuning import Standing, standings
from golddice.core.tuning.targets import off
from tests.core.test_edits import changed, nothing_kept
from tests.core.test_game import problems
from tests.core.test_limits import guarded
from tests.games import demo, each, game, game_data, pick
from tests.strategies import games

LIMITS = settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
CROWN = {
    "id": "crowns",
    "name": "Crowns",
    "source": "crab",
    "figure": "chance",
    "item": "crown",
    "wanted": 0.2,
}


def target(**changed: Any) -> dict[str, Any]:
    return {key: value for key, value in (CROWN | changed).items() if value is not None}


def with_targets(made: Game, *targets: dict[str, Any]) -> Game:
    return read_game(plain_game(made) | {"targets": list(targets)})


def stands(made: Game, **changed: Any) -> Standing:
    return standings(with_targets(made, target(**changed)))[0]


FIGURES = st.sampled_from(
    [
        {"figure": "chance", "item": "lens"},
        {"figure": "one-in", "tier": "pearl", "item": None},
        {"figure": "wait", "item": "claw", "sure": 90},
        {"figure": "wait", "tier": "pearl", "item": None, "sure": 50},
        {"figure": "mean", "tier": "silt", "item": None},
        {"figure": "mean", "item": "sand", "long_run": True},
        {"figure": "per-hour", "item": "crown"},
        {"figure": "share", "tier": "pearl", "item": None},
        {"figure": "worth", "tier": "silt", "item": None},
        {"figure": "value", "item": None},
        {"figure": "value", "item": None, "long_run": True},
        {"figure": "value-per-hour", "item": None},
        {"figure": "cv", "item": None},
    ]
)


def alone(made: Game, asked: Target, depth: int) -> float | None:
    """The figure from the report of one depth, which works everything out by itself."""
    report = odds(made, View(*asked.view), depth=depth, flags=asked.flags)
    items, tiers = report["items"], report["tiers"]
    tier_of = {item.id: item.tier for item in made.items}
    worth = {item.id: item.value for item in made.items}
    key = "long_run_mean" if asked.long_run else "mean"
    mine = [name for name in items if asked.item in (None, name) and asked.tier in (None, tier_of[name])]
    if asked.figure in ("chance", "one-in"):
        some = (items[asked.item] if asked.item else tiers[asked.tier])["p_any"]
        return float(some) if asked.figure == "chance" else (1 / some if some else None)
    if asked.figure == "wait":
        return None if asked.tier else items[asked.item][f"first_{asked.sure}"]
    if asked.figure == "cv":
        return report["value"]["cv"]
    if asked.figure == "share":
        return float(tiers[asked.tier]["share"])
    units = {name: items[name][key] for name in items}
    value = sum(worth[name] * units[name] for name in items)
    if asked.figure == "worth":
        return sum(worth[name] * units[name] for name in mine) / value if value else None
    per_event = value if asked.figure.startswith("value") else sum(units[name] for name in mine)
    rate = 3600 / made.sources[0].seconds if asked.figure.endswith("per-hour") else 1
    return float(rate * per_event)


class Figures(unittest.TestCase):
    def assert_is(self, made: Game, standing: Standing, row: int, wanted: float | None) -> None:
        figure = standing.figures[row]
        if wanted is None:
            self.assertFalse(math.isfinite(figure), f"{standing.target} at {standing.depths[row]}")
        else:
            np.testing.assert_allclose(
                figure, wanted, rtol=1e-9, atol=1e-12, err_msg=f"{standing.target} at {standing.depths[row]}"
            )

    @LIMITS
    @given(games(state=True), FIGURES, st.booleans())
    def test_each_is_what_one_depth_alone_says(self, made: Game, asked: dict[str, Any], key: bool) -> None:
        flags = ["key"] if key else []
        found = stands(made, **asked, flags=flags)
        if found.untold is not None or (found.target.figure == "wait" and found.target.tier):
            return
        for row in (0, 4, 9):
            wanted = alone(made, found.target, found.depths[row])
            if found.target.figure == "share" and wanted == 0:
                wanted = None if math.isnan(found.figures[row]) else 0.0
            self.assert_is(made, found, row, wanted)

    @LIMITS
    @given(games(state=True))
    def test_the_wait_for_a_tier_is_a_prospects(self, made: Game) -> None:
        found = stands(made, figure="wait", item=None, tier="pearl", sure=90)
        if found.untold is not None:
            return
        for row in (0, 5):
            under = Conditions(made, [found.depths[row]])
            prospect = Prospect(Evaluator(under, detail=False), View("source", "crab"))
            column = prospect.columns.tier(under.tier_index["pearl"])
            self.assert_is(made, found, row, prospect.wait_of(column)["first_90"])

    def test_by_hand(self) -> None:
        """A crown in a fifth of the events, sand in all: what each figure must be."""
        made = game([each((0.2, "crown"), (1, "sand 2"))])
        cases: list[tuple[dict[str, Any], float]] = [
            ({"figure": "chance"}, 0.2),
            ({"figure": "one-in"}, 5),
            ({"figure": "wait"}, 4),  # 1 - 0.8^3 = 0.488, 1 - 0.8^4 = 0.590
            ({"figure": "wait", "sure": 99}, 21),  # ln 0.01 / ln 0.8 = 20.6
            ({"figure": "mean", "item": "sand"}, 2),
            ({"figure": "per-hour"}, 120),  # six seconds an event
            ({"figure": "share", "item": None, "tier": "pearl"}, 0.2 / 2.2),
            ({"figure": "worth", "item": None, "tier": "pearl"}, 100 / 102),
            ({"figure": "value", "item": None}, 102),
            ({"figure": "value-per-hour", "item": None}, 61_200),
            ({"figure": "cv", "item": None}, 200 / 102),  # sd 500 sqrt(0.2 * 0.8)
        ]
        for changed_to, wanted in cases:
            with self.subTest(changed_to["figure"]):
                found = stands(made, **changed_to)
                self.assertEqual(found.depths, list(range(1, 11)))
                np.testing.assert_allclose(found.figures, wanted, rtol=1e-12)

    def test_of_a_table_and_of_other_flags(self) -> None:
        line = {"id": "a", "chance": 0.5, "needs": ["key"], "yields": [{"item": "crown"}]}
        made = game([{**each(), "lines": [line]}], flags=[{"id": "key", "name": "Key"}])
        self.assertEqual(stands(made, source=None, table="bits", flags=["key"]).figures, [0.5] * 10)
        self.assertEqual(stands(made, source=None, table="bits").figures, [0.0] * 10)

    def test_the_long_run_of_a_limit_is_nothing(self) -> None:
        line = {"id": "a", "chance": 0.5, "limit": 1, "yields": [{"item": "crown"}]}
        made = game([{**each((1, "sand")), "lines": [line]}])
        self.assertEqual(stands(made, figure="mean").figures[0], 0.5)
        self.assertEqual(stands(made, figure="mean", long_run=True).figures[0], 0.0)

    def test_a_guard_shortens_the_wait(self) -> None:
        line = {"id": "a", "chance": 0.01, "guard": {"sure_at": 5}, "yields": [{"item": "crown"}]}
        made = game([{**each(), "lines": [line]}])
        self.assertEqual(stands(made, figure="wait", sure=99).figures, [5.0] * 10)

    def test_never_and_none(self) -> None:
        made = game([pick((1, "sand"))])
        self.assertEqual(stands(made, figure="one-in").figures[0], math.inf)
        self.assertEqual(stands(made, figure="wait").figures[0], math.inf)
        told = stands(made, figure="one-in").plain()
        self.assertEqual((told["figures"][0], told["never"][0]), (None, True))
        empty = game([pick(nothing=1)])
        for figure in ("share", "cv"):
            tier = "pearl" if figure == "share" else None
            told = stands(empty, figure=figure, item=None, tier=tier).plain()
            self.assertEqual((told["figures"][0], told["never"][0], told["holds"][0]), (None, False, False))

    def test_too_many_states_are_untold_with_the_reason(self) -> None:
        made = game([guarded("sand", "claw", "lens", sure_at=60)])
        found = stands(made, figure="wait", item="sand")
        self.assertFalse(found.is_met)
        self.assertEqual((found.figures, found.holds, found.furthest), ([], [], None))
        self.assertRegex(found.untold or "", "states")
        self.assertIsNone(stands(made, figure="chance", item="sand").untold)

    def test_an_event_that_is_too_large_is_untold(self) -> None:
        many = {"min": 2_000, "max": 2_000}
        made = game([pick((1, "@inner"), rolls=many), pick((1, "sand"), name="inner", rolls=many)])
        self.assertRegex(stands(made, item="sand").untold or "", "limit")


class Standings(unittest.TestCase):
    def setUp(self) -> None:
        curve = {"id": "swell", "name": "Swell", "points": [[1, 0.5], [10, 2.0]]}
        line = {"id": "a", "chance": 0.2, "curve": "swell", "yields": [{"item": "crown"}]}
        self.game = game([{**each(), "lines": [line]}], curves=[curve])

    def test_it_holds_where_the_figure_is_near_enough(self) -> None:
        """0.1 at depth 1 to 0.4 at 10: within 0.2 ± 0.05 from 0.1500 to 0.2500."""
        found = stands(self.game, wanted=0.2, tolerance=0.05)
        figures = [0.2 * (0.5 + 1.5 * (depth - 1) / 9) for depth in range(1, 11)]
        self.assertEqual(found.holds, [0.15 <= round(figure, 12) <= 0.25 for figure in figures])
        self.assertEqual((found.is_met, found.depths[found.furthest or 0]), (False, 10))

    def test_sides(self) -> None:
        cases = [("near", 0.19, False), ("near", 0.2, True), ("near", 0.21, False)]
        cases += [("at-least", 0.19, False), ("at-least", 0.2, True), ("at-least", 9.0, True)]
        cases += [("at-most", 0.21, False), ("at-most", 0.2, True), ("at-most", 0.0, True)]
        cases += [("at-least", math.inf, True), ("at-most", math.inf, False), ("near", math.inf, False)]
        cases += [(side, math.nan, False) for side in ("near", "at-least", "at-most")]
        for side, figure, held in cases:
            one: Target = read_part("target", target(side=side))
            with self.subTest(side=side, figure=figure):
                self.assertEqual(float(off(one, np.array([figure]))[0]) == 0, held)

    def test_rounding_alone_does_not_miss(self) -> None:
        """0.1 three times over is not 0.3 in floats."""
        made = game([each((0.1, "crown"), rolls={"min": 3, "max": 3})])
        self.assertTrue(stands(made, figure="mean", wanted=0.3).is_met)
        self.assertFalse(stands(made, figure="mean", wanted=0.300001).is_met)

    def test_it_asks_at_its_depths_and_where_it_is_met(self) -> None:
        met = plain(self.game.sources[0]) | {"depths": [3, 8]}
        made = read_game(plain_game(self.game) | {"sources": [met]})
        self.assertEqual(stands(made).depths, [3, 4, 5, 6, 7, 8])
        self.assertEqual(stands(made, depths=[1, 4]).depths, [3, 4])
        nowhere = stands(made, depths=[9, 10])
        self.assertEqual((nowhere.depths, nowhere.is_met, nowhere.untold), ([], False, None))

    def test_nowhere_is_a_finding_with_its_mend(self) -> None:
        met = plain(self.game.sources[0]) | {"depths": [3, 8]}
        made = read_game(plain_game(self.game) | {"sources": [met], "targets": [target(depths=[9, 10])]})
        found = next(one for one in findings(made) if one.kind == "target")
        self.assertEqual((found.path, found.id), ("targets[0].depths", "crowns"))
        assert found.mend is not None
        entries = [Entry(one["kind"], one["id"], one["body"]) for one in found.mend.entries]
        after = Entities.of(made).edited(entries).game()
        self.assertEqual(standings(after)[0].depths, [3, 4, 5, 6, 7, 8])
        self.assertFalse([one for one in findings(after) if one.kind == "target"])

    def test_only_some_are_asked(self) -> None:
        made = with_targets(self.game, target(), target(id="more", wanted=0.3))
        self.assertEqual([one.target.id for one in standings(made, only=["more"])], ["more"])
        self.assertEqual(standings(made, only=[]), [])

    def test_it_ends_where_nobody_waits_for_it_any_more(self) -> None:
        stop = Stop()
        stop.set()
        with nothing_kept(), stopped_by(stop), self.assertRaises(Cancelled):
            standings(demo())


class TakenOver(unittest.TestCase):
    """After an edit only what it reaches is worked out anew, and the answers are the same as from nothing."""

    @LIMITS
    @given(games(state=True), FIGURES, FIGURES, st.data())
    def test_edit_after_edit(
        self, made: Game, one: dict[str, Any], other: dict[str, Any], data: st.DataObject
    ) -> None:
        two = {"source": "egg", **other, "id": "other"}
        entities = Entities.of(with_targets(made, target(**one), target(**two)))
        standings(entities.game())
        for _ in range(4):
            try:
                entities = entities.edited([changed(data.draw, entities)])
            except EditError:
                continue
            now = entities.game()
            found = standings(now)
            with nothing_kept():
                fresh = standings(now)
            for taken, anew in zip(found, fresh, strict=True):
                self.assertEqual(taken.plain(), anew.plain())

    def edited(self, kind: str, name: str, /, **body: Any) -> tuple[list[Standing], list[Standing]]:
        """The demo's standings before and after an edit."""
        entities = Entities.of(demo())
        before = standings(entities.game())
        entry = Entry(kind, name, full(kind, entities.bodies[kind][name]) | body)
        return before, standings(entities.edited([entry]).game())

    def moved(self, kind: str, name: str, /, **body: Any) -> set[str]:
        """The targets that were worked out anew."""
        pairs = zip(*self.edited(kind, name, **body), strict=True)
        return {now.target.id for was, now in pairs if was is not now}

    def test_what_an_edit_does_not_reach_stays(self) -> None:
        self.assertEqual(
            self.moved("source", "silt-crab", seconds=7.0), {"mostly-flotsam", "crab-brass", "dive-pays"}
        )
        self.assertEqual(self.moved("source", "bell-crate", seconds=7.0), {"crate-promise"})
        self.assertEqual(self.moved("tier", "curio", colour="#101010"), set())
        self.assertEqual(self.moved("item", "first-lens", name="The first lens"), set())

    def test_an_items_worth_reaches_all(self) -> None:
        self.assertEqual(len(self.moved("item", "first-lens", value=1601.0)), len(demo().targets))

    def test_a_curve_reaches_whom_it_scales(self) -> None:
        points = [[1, 0.1], [30, 3.0]]
        moved = self.moved("curve", "trench-pull", points=points)
        self.assertIn("eel-heirlooms", moved)
        self.assertNotIn("bed-hour", moved)

    def test_the_target_itself(self) -> None:
        before, after = self.edited("target", "eel-pays", wanted=17.0)
        was = {one.target.id: one for one in before}
        now = {one.target.id: one for one in after}
        self.assertFalse(was["eel-pays"].is_met)
        self.assertTrue(now["eel-pays"].is_met)


class Soundness(unittest.TestCase):
    def test_what_a_target_cannot_be_is_told_with_its_mend(self) -> None:
        cases: list[tuple[dict[str, Any], str]] = [
            ({"table": "bits"}, "of one source, table, route, place or stall"),
            ({"source": None}, "of one source, table, route, place or stall"),
            ({"item": None}, "name it"),
            ({"tier": "pearl"}, "of one item, of one tier or of one tag"),
            ({"figure": "share"}, "of a tier"),
            ({"figure": "value"}, "take the item, tier or tag out"),
            ({"figure": "per-hour", "source": None, "table": "bits"}, "only a source"),
            ({"long_run": True}, "take long_run out"),
            ({"depths": [4, 2]}, "swap them"),
            ({"wanted": -1}, "must be 0 or more"),
            ({"sure": 75}, "50, 90 or 99"),
            ({"item": "whale"}, "there is no item “whale”"),
            ({"flags": ["whale"]}, "there is no flag “whale”"),
        ]
        for changed_to, message in cases:
            with self.subTest(message):
                told = problems(game_data([pick((1, "crown"))], targets=[target(**changed_to)]))
                self.assertIn("targets[0]", told)
                self.assertIn(message, told)

    def test_ids_are_unique(self) -> None:
        told = problems(game_data([pick((1, "crown"))], targets=[target(), target()]))
        self.assertIn("targets[1].id", told)

    def test_every_figure_is_of_something(self) -> None:
        every = set(Target.model_fields["figure"].annotation.__args__)  # type: ignore[union-attr]
        for figure in sorted(every):
            if figure in ("cost", "fits", "complete", "upgrades") or not KINDS[figure].rolled:
                continue  # of what is kept, of places and stalls: see test_kept_findings, test_place_legs
            of: dict[str, Any] = {"item": None}
            if KINDS[figure].of in ("thing", "group", "tier"):
                of["tier"] = "pearl"
            elif KINDS[figure].of == "part":
                of["swing_of"] = {"table": "bits", "part": "a"}
            found = stands(game([each((0.5, "crown"))]), figure=figure, **of)
            self.assertEqual(len(found.figures), 10, figure)

    def test_it_goes_with_what_it_is_of(self) -> None:
        made = with_targets(
            game([pick((1, "crown"))], flags=[{"id": "key", "name": "Key"}]),
            target(flags=["key"]),
            target(id="worth", figure="value", item=None),
        )
        entities = Entities.of(made)
        without = entities.edited(removal(entities, "flag", "key")).game()
        self.assertEqual([one.flags for one in without.targets], [[], []])
        without = entities.edited(removal(entities, "item", "crown")).game()
        self.assertEqual([one.gone for one in without.targets], ["item/crown", None])
        without = entities.edited(removal(entities, "source", "crab")).game()
        self.assertEqual([one.gone for one in without.targets], ["source/crab"] * 2)

    def test_what_is_gone_is_kept_marked_and_told(self) -> None:
        entities = Entities.of(
            with_targets(
                game([pick((1, "crown")), each((1, "sand"), name="other")]),
                target(),
                target(id="part", figure="swing-of", item=None, swing_of={"table": "other", "part": "a"}),
            )
        )
        without = entities.edited(removal(entities, "item", "crown"))
        crowns, part = standings(without.game())
        self.assertFalse(crowns.is_met)
        self.assertIn("the item “crown” that it was about is gone", str(crowns.untold))
        [finding] = [one for one in findings(without.game()) if one.kind == "target"]
        self.assertIn("which is gone", finding.message)
        # pointed elsewhere it is a target again
        body = full("target", without.bodies["target"]["crowns"]) | {"item": "sand", "gone": None}
        again = without.edited([Entry("target", "crowns", body)]).game()
        self.assertIsNone(standings(again)[0].untold)
        lost = entities.edited(removal(entities, "table", "other")).game()
        self.assertEqual([one.gone for one in lost.targets], [None, "table/other"])
        self.assertEqual(plain_game(read_game(plain_game(lost))), plain_game(lost))
        self.assertIsNone(part.target.gone)

    def test_one_that_lost_all_it_was_about_stays(self) -> None:
        entities = Entities.of(with_targets(game([pick((1, "crown"))]), target()))
        for kind, name in (("item", "crown"), ("source", "crab")):
            entities = entities.edited(removal(entities, kind, name))
        [one] = entities.game().targets
        self.assertEqual((one.source, one.item, one.gone), (None, None, "source/crab"))

    def test_the_demo_has_sixteen_and_six_are_missed(self) -> None:
        found = standings(demo())
        self.assertEqual(len(found), 16)
        missed = [one.target.id for one in found if not one.is_met]
        angler, harbour = ["angler-wonder", "angler-rare"], ["harbour-steady", "harbour-twenty"]
        self.assertEqual(set(missed), {"stalker-curios", "eel-pays", *angler, *harbour})
        self.assertFalse([one for one in found if one.untold])


class Pace(unittest.TestCase):
    def source(self, **facts: Any) -> Source:
        found: Source = read_part(
            "source", {"id": "bed", "name": "Bed", "kind": "node", "seconds": 12, **facts}
        )
        return found

    def test_an_hour_holds(self) -> None:
        self.assertEqual(events_per_hour(self.source()), 300)
        self.assertEqual(events_per_hour(self.source(charges=3)), 3)
        self.assertEqual(events_per_hour(self.source(charges=1000)), 300)
        # three harvests of 12 s, then 240 s of rest: 3 every 276 s
        self.assertAlmostEqual(events_per_hour(self.source(charges=3, respawn_seconds=240.0)), 3600 * 3 / 276)
        self.assertEqual(events_per_hour(self.source(charges=3, respawn_seconds=0.0)), 300)
        self.assertEqual(events_per_hour(self.source(respawn_seconds=240.0)), 300)


class AlikeDepths(unittest.TestCase):
    def test_times_on_a_curve_tell_depths_apart(self) -> None:
        """A guarded line rolled 2 times at depth 1 and 4 at depth 3: it is sure at the third roll."""
        curve = {"id": "twice", "name": "Twice", "points": [[1, 1.0], [3, 2.0]]}
        line = {"id": "a", "chance": 0.1, "guard": {"sure_at": 3}, "yields": [{"item": "crown"}]}
        times = {"min": 2, "max": 2, "curve": "twice"}
        crab = {
            "id": "crab",
            "name": "Crab",
            "kind": "enemy",
            "drops": [{"id": "a", "table": "bits", "times": times}],
        }
        made = game([{**each(), "lines": [line]}], curves=[curve], sources=[crab])
        found = depth_odds(made, View("source", "crab"), [1, 3])
        np.testing.assert_allclose(found.hit[0], [1 - 0.9**2, 1.0], rtol=1e-12)

    def test_a_line_hidden_behind_a_sure_one_tells_depths_apart(self) -> None:
        """The first line hits once for sure; the second has its turn from the second roll on."""
        curve = {"id": "grows", "name": "Grows", "points": [[1, 1.0], [3, 2.0]]}
        lines = [
            {"id": "a", "chance": 1, "limit": 1, "yields": [{"item": "sand"}]},
            {"id": "b", "chance": 0.2, "curve": "grows", "yields": [{"item": "crown"}]},
        ]
        table = {"id": "bits", "name": "Bits", "rule": "first", "lines": lines}
        made = game([{**table, "rolls": {"min": 2, "max": 2}}], curves=[curve])
        np.testing.assert_allclose(depth_odds(made, View("source", "crab"), [1, 3]).hit[1], [0.2, 0.4])

    def test_a_drop_that_is_closed_is_not_one_without_a_chance(self) -> None:
        """Its guard makes it sure at the third kill, but only down to depth 5."""
        crab = {"id": "crab", "name": "Crab", "kind": "enemy"}
        drops = [{"id": "a", "table": "bits", "chance": 0, "depths": [1, 5], "guard": {"sure_at": 3}}]
        made = game([pick((1, "crown"))], sources=[crab | {"drops": drops}])
        found = stands(made, figure="wait")
        self.assertEqual(found.figures, [3.0] * 5 + [math.inf] * 5)


class Size(unittest.TestCase):
    def test_followed_states_are_given_up_with_a_reason_only(self) -> None:
        """TooLarge never leaves `standings`: one target that cannot be told does not hide the others."""
        made = game([guarded("sand", "claw", "lens", sure_at=60)])
        both = with_targets(made, target(figure="wait", item="sand"), target(id="easy", item="sand"))
        try:
            found = standings(both)
        except TooLarge as error:  # pragma: no cover
            self.fail(str(error))
        self.assertEqual([one.untold is None for one in found], [False, True])


if __name__ == "__main__":
    unittest.main()
