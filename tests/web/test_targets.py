"""What is wanted, typed and told: what the page writes it reads again, and every figure has its words."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar, get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.models import LISTS, Game, Settings
from golddice.core.game.reading import whole
from golddice.core.game.target import Target
from golddice.core.tuning.targets import standings
from tests.games import demo
from tests.web.page import PageTest

TARGETS, PARTS = "game/targets.ts", "game/parts.ts"
FIGURES = get_args(Target.model_fields["figure"].annotation)
amounts = st.integers(0, 10**6).map(lambda n: n / 1000) | st.integers(0, 10**5)
THIN = "\u202f"


def body_of_demo() -> dict[str, Any]:
    return body_of(demo())


def body_of(game: Game) -> dict[str, Any]:
    """As the server tells it to a page."""
    lists = {name: [whole(one) for one in getattr(game, name)] for name in LISTS.values()}
    settings = game.model_dump(mode="json", by_alias=True, include=set(Settings.model_fields))
    return {"settings": settings, **lists}


class OfTargets(PageTest):
    MODULES = (PARTS, TARGETS)
    body: ClassVar[dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.body = body_of_demo()

    def call(self, name: str, *args: Any) -> Any:
        return self.page.call(TARGETS, name, *args)

    @property
    def parts(self) -> dict[str, Any]:
        return {"parts of": self.body}

    def target(self, name: str) -> dict[str, Any]:
        return next(one for one in self.body["targets"] if one["id"] == name)


class Typed(OfTargets):
    def typed(self, text: str, figure: str = "mean", side: str = "near") -> Any:
        return self.call("typedWanted", text, {"figure": figure, "side": side})

    @settings(max_examples=75, deadline=None)
    @given(
        amounts, amounts, st.sampled_from(["near", "at-least", "at-most"]), st.sampled_from(["mean", "share"])
    )
    def test_what_is_written_is_read_again(
        self, wanted: float, around: float, side: str, figure: str
    ) -> None:
        target = {"figure": figure, "wanted": wanted, "tolerance": around, "side": side}
        read = self.typed(self.call("wantedShort", target), figure, side)
        self.assertEqual(read["side"], side)
        for key in ("wanted", "tolerance"):  # six figures are written
            self.assertAlmostEqual(read[key], target[key], delta=1e-5 * target[key] + 1e-12)

    def test_in_all_its_ways(self) -> None:
        for text, wanted, around, side in (
            ("40", 40, 0, "near"),
            ("40 ± 4", 40, 4, "near"),
            ("40 +- 4", 40, 4, "near"),
            ("40 +/- 10 %", 40, 4, "near"),
            ("36-44", 40, 4, "near"),
            ("36 – 44", 40, 4, "near"),
            ("≤ 40", 40, 0, "at-most"),
            ("<=40", 40, 0, "at-most"),
            ("at most 40", 40, 0, "at-most"),
            (">= 40", 40, 0, "at-least"),
            ("At least 1.5k", 1500, 0, "at-least"),
        ):
            found = self.typed(text)
            self.assertEqual(found["side"], side, text)
            self.assertAlmostEqual(found["wanted"], wanted, msg=text)
            self.assertAlmostEqual(found["tolerance"], around, msg=text)

    def test_of_chances_all_is_in_percent(self) -> None:
        for text in ("40 ± 4", "40 % ± 4 %", "36-44", "40 ± 4 %"):
            found = self.typed(text, "chance")
            self.assertAlmostEqual(found["wanted"], 0.4, msg=text)
            self.assertAlmostEqual(found["tolerance"], 0.04, msg=text)

    def test_an_order_wants_no_number(self) -> None:
        self.assertEqual(
            self.typed(" never falling ", side="at-most"),
            {"wanted": 0, "tolerance": 0, "side": "never-falls"},
        )
        # From an order back to a number it is about.
        self.assertEqual(self.typed("40", side="never-rises")["side"], "near")

    def test_what_cannot_be_read_says_how_it_is_written(self) -> None:
        for text in ("", "soon", "-4", "4 ± -1", "4 ± 1 ± 1", "4 ± soon"):
            self.assertIn("write 40", self.typed(text), text)
        self.assertEqual(self.typed("44-36"), "44 is more than 36; swap them")


class Told(OfTargets):
    def test_every_figure_has_words_of_all_that_it_can_be_about(self) -> None:
        source = self.body["sources"][0]
        for figure in FIGURES:
            about = [
                one
                for one in ("source", "table", "route", "place", "stall")
                if self.call("hasFigure", one, figure)
            ]
            self.assertTrue(about, figure)
            for one in about:
                words = self.call("figureWords", figure, source if one == "source" else None, one)
                self.assertRegex(words, r"^[a-z]", (figure, one))
                self.assertNotIn("undefined", words)

    def test_a_figure_by_its_unit(self) -> None:
        for figure, value, wanted in (
            ("wait", 12345, f"12{THIN}345"),
            ("chance", 0.0341, f"3.41{THIN}%"),
            ("mean", 0.28512, "0.285"),
            ("none", None, "none"),
        ):
            self.assertEqual(self.call("told", {"figure": figure}, value), wanted)
        self.assertEqual(self.call("told", {"figure": "wait"}, 3, True), "never")

    def test_each_target_of_the_demo_names_what_it_is_of(self) -> None:
        names = {one["id"]: one["name"] for kind in ("items", "tiers", "sets") for one in self.body[kind]}
        for target in self.body["targets"]:
            thing = self.call("thingName", self.parts, target)
            for key in ("item", "tier", "set"):
                if target[key]:
                    self.assertIn(names[target[key]], thing, target["id"])
            self.assertNotRegex(thing, r"undefined|null")
            self.assertEqual(bool(self.call("aboutOf", target)), target["gone"] is None)

    def test_what_is_gone_keeps_its_id(self) -> None:
        target = {**self.target("crab-brass"), "item": "no-such-thing", "tier": None}
        self.assertEqual(self.call("thingName", self.parts, target), "no-such-thing")

    def test_how_each_stands_in_words(self) -> None:
        """Against the standings themselves, counted here."""
        for one in standings(
            demo(), {"crab-brass", "eel-pays", "mimic-hour", "angler-rare", "crate-promise"}
        ):
            told = {"depths": one.depths, "holds": list(map(bool, one.holds)), "untold": None}
            words = self.call("standingWords", one.target.model_dump(mode="json"), told, "fathom")
            held, count = sum(told["holds"]), len(one.depths)
            if held < count:
                self.assertIn(f"holds at {held} of", words)
            else:
                every = f"all {count} fathoms" if count > 1 else f"fathom {one.depths[0]}"
                self.assertEqual(words, f"holds at {every}")
            self.assertEqual(one.is_met, held == count)
        self.assertIn("cannot", self.call("standingWords", {}, {"untold": "too much"}, "fathom"))

    def test_an_edit_touches_the_targets_of_all_that_rolls_it(self) -> None:
        def touched(kind: str, name: str) -> set[str]:
            return {one["id"] for one in self.call("touched", self.parts, {"kind": kind, "id": name})}

        eel = {one["id"] for one in self.body["targets"] if one["source"] == "lantern-eel"}
        self.assertLessEqual(eel, touched("source", "lantern-eel"))
        self.assertLessEqual(eel, touched("table", "eel-catch"))
        crab = {one["id"] for one in self.body["targets"] if one["source"] == "silt-crab"}
        self.assertFalse(crab & touched("source", "lantern-eel"))
        self.assertIn("dive-pays", touched("table", "crab-meat"))
        self.assertEqual(touched("table", "no-such-table"), set())


if __name__ == "__main__":
    unittest.main()
