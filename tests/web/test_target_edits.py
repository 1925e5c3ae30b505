"""A target with another figure, or of another thing: whatever is chosen, the server takes it."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from golddice.core.errors import GameError
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.target import Target
from tests.games import demo
from tests.web.page import PageTest
from tests.web.test_targets import FIGURES, body_of_demo

EDITS, TARGETS, PARTS = "sheets/target/edits.ts", "game/targets.ts", "game/parts.ts"
LOOKED_AT = ("source", "table", "route", "place", "stall")


class Chosen(PageTest):
    MODULES = (PARTS, TARGETS, EDITS)
    body: ClassVar[dict[str, Any]]
    data: ClassVar[dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.body = body_of_demo()
        cls.data = plain_game(demo())

    def edited(self, name: str, target: dict[str, Any], *more: Any) -> dict[str, Any]:
        found: dict[str, Any] = self.page.call(EDITS, name, {"parts of": self.body}, target, *more)
        return found

    def taken(self, target: dict[str, Any]) -> Target:
        """As the server reads it into the game. Raises AssertionError where it refuses it."""
        told = {key: value for key, value in target.items() if value is not None}
        try:
            game = read_game({**self.data, "targets": [told]})
        except GameError as error:
            raise AssertionError(f"{told}: {error}") from None
        return game.targets[0]

    def figures_of(self, about: str) -> list[str]:
        return [one for one in FIGURES if self.page.call(TARGETS, "hasFigure", about, one)]

    def of(self, about: str) -> dict[str, Any]:
        """A target of the demo that is about such a thing, or one that was pointed at it."""
        for one in self.body["targets"]:
            if one[about] and one["gone"] is None:
                return dict(one)
        return self.edited("withView", self.of("source"), about, self.body[f"{about}s"][0]["id"])


class Figures(Chosen):
    def test_any_figure_that_there_is_can_be_chosen(self) -> None:
        """From each target of the demo, of the kinds that it is about, one after another."""
        for about in ("source", "route", "place", "stall"):
            target = self.of(about)
            for figure in self.figures_of(about):
                made = self.edited("withFigure", target, figure)
                with self.subTest(about=about, figure=figure):
                    self.assertEqual(made["figure"], figure)
                    self.assertEqual((made["id"], made[about]), (target["id"], target[about]))
                    self.taken(
                        made | {"wanted": made["wanted"] or 1.0} if made["side"] in ("near",) else made
                    )
                target = made

    def test_of_a_table_too(self) -> None:
        target = self.edited("withView", self.of("source"), "table", "eel-catch")
        self.taken(target)
        for figure in self.figures_of("table"):
            with self.subTest(figure):
                made = self.edited("withFigure", target, figure)
                self.assertIsNone(made["source"])
                self.taken(made)

    def test_what_the_new_one_is_not_of_goes_and_what_it_needs_comes(self) -> None:
        target = self.of("source") | {"item": "lamp-oil", "tier": None, "tag": None}
        self.assertEqual(self.edited("withFigure", target, "mean")["item"], "lamp-oil")
        whole = self.edited("withFigure", target, "value")
        self.assertEqual([whole[one] for one in ("item", "tier", "tag", "set", "slot")], [None] * 5)
        self.assertIsNotNone(self.edited("withFigure", whole, "share")["tier"])
        self.assertEqual(self.edited("withFigure", target, "none")["events"], 20)
        self.assertEqual(self.edited("withFigure", target | {"long_run": True}, "wait")["long_run"], False)
        self.assertEqual(self.edited("withFigure", target, "least")["side"], "at-least")
        self.assertEqual(self.edited("withFigure", target, "complete")["set"], self.body["sets"][0]["id"])


class Things(Chosen):
    def test_from_anything_to_anything_else(self) -> None:
        """Each kind of thing that a target of the demo is about, to each other kind."""
        lists = {
            "source": "sources",
            "table": "tables",
            "route": "routes",
            "place": "places",
            "stall": "stalls",
        }
        for before in ("source", "route", "place", "stall"):
            target = self.of(before)
            for about, name in lists.items():
                thing = self.body[name][-1]["id"]
                made = self.edited("withView", target, about, thing)
                with self.subTest(before=before, about=about):
                    self.assertEqual([one for one in LOOKED_AT if made[one]], [about])
                    self.assertTrue(self.page.call(TARGETS, "hasFigure", about, made["figure"]))
                    self.taken(made)

    def test_every_target_of_every_kind_there_and_back(self) -> None:
        for target in self.body["targets"]:
            if target["gone"] is not None or not target["source"]:
                continue
            there = self.edited("withView", target, "table", "eel-catch")
            back = self.edited("withView", there, "source", target["source"])
            with self.subTest(target["id"]):
                self.taken(there)
                self.assertEqual(self.taken(back).source, target["source"])

    def test_a_target_of_what_is_gone_is_pointed_at_what_is_there(self) -> None:
        gone = self.of("source") | {"source": None, "gone": "source old-eel"}
        made = self.edited("withView", gone, "source", "lantern-eel")
        self.assertEqual((made["gone"], made["source"]), (None, "lantern-eel"))
        self.taken(made)


class Names(Chosen):
    def test_a_name_that_nobody_chose_follows_what_it_is_about(self) -> None:
        unnamed = self.edited(
            "withView", self.of("source") | {"figure": "value", "name": ""}, "source", "silt-crab"
        )
        self.assertEqual(unnamed["name"], "")  # which somebody chose
        own = {**unnamed, "name": "Worth of Silt crab", "item": None, "tier": None, "tag": None}
        moved = self.edited("withView", own, "source", "lantern-eel")
        self.assertEqual(moved["name"], "Worth of Lantern Eel")
        self.assertEqual(self.edited("withFigure", moved, "cv")["name"][:13], "Lantern Eel: ")

    def test_a_name_that_somebody_chose_stays(self) -> None:
        target = self.of("source")
        self.assertEqual(self.edited("withFigure", target, "value")["name"], target["name"])
        self.assertEqual(self.edited("withView", target, "table", "eel-catch")["name"], target["name"])


class Sides(Chosen):
    def side(self, target: dict[str, Any], side: str) -> dict[str, Any]:
        found: dict[str, Any] = self.page.call(EDITS, "withSide", target, side)
        return found

    def test_an_order_wants_no_number(self) -> None:
        target = self.of("source") | {
            "figure": "value",
            "item": None,
            "tier": None,
            "wanted": 40,
            "tolerance": 4,
        }
        for side in ("never-falls", "never-rises"):
            made = self.side(target, side)
            self.assertEqual((made["wanted"], made["tolerance"]), (0, 0))
        self.assertEqual(self.side(target, "at-most")["wanted"], 40)


if __name__ == "__main__":
    unittest.main()
