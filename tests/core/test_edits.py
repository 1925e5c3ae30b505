"""One edit after another: what is taken over from before must be what would be worked out anew."""

from __future__ import annotations

import copy
import unittest
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.errors import GameError, TooLarge
from golddice.core.game.editing import EditError, Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import full
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.terms import conditions
from golddice.core.odds.terms.conditions import Conditions
from golddice.core.odds.terms.view import View
from golddice.core.sheets.sheet import SheetOdds
from tests.games import demo
from tests.strategies import chances, games, guards, quantities, weights

VIEWS = [("source", "crab"), ("source", "egg"), ("table", "outer"), ("table", "middle"), ("table", "inner")]


def changed(draw: st.DrawFn, entities: Entities) -> Entry:
    """Some edit of a random game: of a table, a line, a drop, a curve or a tier's curve."""
    kind = draw(st.sampled_from(["table", "table", "table", "source", "curve", "tier"]))
    name = draw(st.sampled_from(sorted(entities.bodies[kind])))
    body = full(kind, copy.deepcopy(entities.bodies[kind][name]))
    if kind == "curve":
        body["points"] = [[1, draw(st.sampled_from([0.0, 0.5, 1.0]))], [7, draw(st.sampled_from([1.0, 2.0]))]]
    elif kind == "tier":
        body["curve"] = draw(st.sampled_from([None, "swell", "never"]))
    elif kind == "source":
        drop = draw(st.sampled_from(body["drops"]))
        drop["chance"] = draw(chances)
        drop["curve"] = draw(st.sampled_from([None, "swell"]))
    else:
        _edit_table(draw, body)
    return Entry(kind, name, body)


def _edit_table(draw: st.DrawFn, body: dict[str, Any]) -> None:
    what = draw(st.sampled_from(["rolls", "entry", "quantity", "guard", "out"]))
    lines = body["lines"]
    if what == "rolls" or not lines:
        body["rolls"] = draw(quantities())
        return
    line = draw(st.sampled_from(lines))
    if what == "out":
        lines.remove(line)
    elif what == "guard":
        line["guard"] = draw(st.one_of(st.none(), guards))
    elif what == "quantity" and line["yields"]:
        line["yields"][0]["quantity"] = draw(quantities())
    else:
        for key, values in (("weight", weights), ("chance", chances), ("copies", st.integers(0, 3))):
            if key in line:
                line[key] = draw(values)


@st.composite
def histories(draw: st.DrawFn) -> list[Game]:
    """A game and what it became, edit after edit."""
    entities = Entities.of(draw(games(state=draw(st.booleans()))))
    found = [entities.game()]
    for _ in range(draw(st.integers(1, 5))):
        try:
            entities = entities.edited([changed(draw, entities)])
        except EditError:
            continue  # a guard on a deck, say
        found.append(entities.game())
    return found


class TakingOver(unittest.TestCase):
    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(histories(), st.integers(1, 10), st.booleans(), st.sampled_from([(), ("key",)]))
    def test_edit_after_edit(
        self, history: list[Game], depth: int, detail: bool, flags: tuple[str, ...]
    ) -> None:
        before: Evaluator | None = None
        for made in history:
            now = Evaluator(Conditions(made, [depth], flags), detail, before)
            anew = Evaluator(Conditions(made, [depth], flags), detail)
            for kind, name in VIEWS:
                self.same(Prospect(now, kind, name), Prospect(anew, kind, name), f"{kind} {name}")
            before = now

    def same(self, taken: Prospect, anew: Prospect, what: str) -> None:
        try:
            wanted = anew.outcome
        except TooLarge:
            return
        got = taken.outcome
        np.testing.assert_array_equal(got.columns, wanted.columns, what)
        for name in ("hit", "mean", "var", "cov", "value_mean", "value_var"):
            np.testing.assert_allclose(
                getattr(got, name), getattr(wanted, name), rtol=1e-12, atol=1e-15, err_msg=f"{what}, {name}"
            )

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(histories(), st.integers(1, 10))
    def test_whole_sheets(self, history: list[Game], depth: int) -> None:
        """As the server asks: the same view over and over, its waits and long run too."""
        before: Evaluator | None = None
        for made in history:
            now = SheetOdds(made, View("source", "crab"), depth, (), before)
            anew = SheetOdds(made, View("source", "crab"), depth)
            try:
                wanted = anew.sheet(), anew.wait({"kind": "item", "id": "lens"})
            except (TooLarge, GameError):
                before = None
                continue
            self.close((now.sheet(), now.wait({"kind": "item", "id": "lens"})), wanted)
            before = now.evaluator

    def close(self, got: Any, wanted: Any, path: str = "") -> None:
        """Plain data alike, numbers to 1e-9."""
        if isinstance(wanted, dict):
            self.assertEqual(got.keys(), wanted.keys(), path)
            for key in wanted:
                self.close(got[key], wanted[key], f"{path}.{key}")
        elif isinstance(wanted, list | tuple):
            self.assertEqual(len(got), len(wanted), path)
            for at, (a, b) in enumerate(zip(got, wanted, strict=True)):
                self.close(a, b, f"{path}[{at}]")
        elif isinstance(wanted, float) and isinstance(got, float):
            self.assertLess(abs(got - wanted), 1e-9 * max(1.0, abs(wanted)), path)
        else:
            self.assertEqual(got, wanted, path)

    def test_edits_of_the_demo_to_and_fro(self) -> None:
        """Every table of the demo has its rolls changed and changed back, on one chain of evaluators."""
        entities = Entities.of(demo())
        before = Evaluator(Conditions(demo(), [14]))
        for name, body in list(entities.bodies["table"].items()):
            for rolls in ({"min": 2, "max": 3}, full("table", body)["rolls"]):
                entities = entities.edited([Entry("table", name, {**body, "rolls": rolls})])
                before = Evaluator(Conditions(entities.game(), [14]), previous=before)
                for source in demo().sources:
                    before.source(source.id)
        anew = Evaluator(Conditions(demo(), [14]))
        for source in demo().sources:
            with self.subTest(source=source.id):
                got, wanted = before.source(source.id), anew.source(source.id)
                np.testing.assert_array_equal(got.mean, wanted.mean)
                np.testing.assert_array_equal(got.cov, wanted.cov)

    def test_a_long_drag_does_not_remember_every_draft(self) -> None:
        """What is remembered of drafts is forgotten now and then, and the numbers stay right."""
        entities = Entities.of(demo())
        body = entities.bodies["table"]["eel-catch"]
        before: Evaluator | None = None
        held = []
        with patch.object(conditions, "_SPARE", 40):
            for turn in range(120):
                draft = entities.edited([Entry("table", "eel-catch", {**body, "nothing": 1 + turn})]).game()
                before = Evaluator(Conditions(draft, [14]), previous=before)
                now = before.source("lantern-eel")
                held.append(len(before.under._memory))
                if turn % 30 == 29:
                    anew = Evaluator(Conditions(draft, [14])).source("lantern-eel")
                    np.testing.assert_array_equal(now.mean, anew.mean)
        self.assertLess(max(held), 2 * held[0] + 80)
        self.assertGreater(max(held), held[0])  # some of it is taken over


if __name__ == "__main__":
    unittest.main()
