"""Lists, curves and numbers as a page turns them into edits, applied by the server's own code."""

from __future__ import annotations

import unittest
from collections import Counter
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entities, Entry
from golddice.core.game.mentions import mentions
from golddice.core.game.models import KINDS
from golddice.core.game.reading import read_game
from tests.games import demo, game_data, pick
from tests.web.page import PageTest
from tests.web.test_targets import body_of

LISTS, CURVES, PLACES, PARTS = (
    "game/entries.ts",
    "game/curves.ts",
    "game/places.ts",
    "game/parts.ts",
)
OWN = "*own"
NAMES = tuple(f"i{at}" for at in range(7))
lists = st.lists(st.sampled_from(NAMES), unique=True)


def entries_of(told: list[dict[str, Any]]) -> list[Entry]:
    return [Entry(one["kind"], one["id"], one["body"], one.get("before")) for one in told]


class OfEntries(PageTest):
    MODULES = (LISTS, CURVES, PLACES, PARTS)
    body: ClassVar[dict[str, Any]]
    game: ClassVar[Entities]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.game = with_curves_in_all()
        cls.body = body_of(cls.game.game())

    def call(self, module: str, name: str, *more: Any) -> Any:
        return self.page.call(module, name, {"parts of": self.body}, *more)


class Lists(OfEntries):
    @settings(max_examples=150, deadline=None)
    @given(lists, lists, st.sets(st.sampled_from(NAMES)))
    def test_what_was_there_becomes_what_is_wanted(
        self, before: list[str], after: list[str], renamed: set[str]
    ) -> None:
        """Made, taken out, renamed and moved in any way at once."""
        was = [{"id": name, "name": name, "tier": "plain"} for name in before]
        now = [{**item(name), "name": "Other"} if name in renamed else item(name) for name in after]
        # A page tells what changed by what is another object: what is not here twice is.
        told = self.page.call(LISTS, "entriesOf", "item", was, now)
        found = with_items(was).edited(entries_of(told))
        self.assertEqual([part.id for part in found.parsed["item"].values()], after)
        self.assertEqual(
            {part.id for part in found.parsed["item"].values() if part.name == "Other"}, renamed & set(after)
        )


def item(name: str) -> dict[str, Any]:
    return {"id": name, "name": name, "tier": "plain"}


def with_items(items: list[dict[str, Any]]) -> Entities:
    data = game_data([pick(name="bits")], items=items, tiers=[{"id": "plain", "name": "Plain"}])
    return Entities.of(read_game({**data, "sources": []}))


def with_curves_in_all() -> Entities:
    """The demo, with a curve also where none of it has one."""
    game = Entities.of(demo())
    curve = list(game.bodies["curve"])[1]
    route = {**game.bodies["route"]["first-dive"]}
    visits = {"min": 2, "max": 4, "curve": curve}
    route["legs"] = [*route["legs"], {"id": "more", "from": 3, "to": 5, "visits": visits}]
    return game.edited([Entry("route", "first-dive", route)])


class Curves(OfEntries):
    def test_curves_are_found_wherever_the_server_finds_them(self) -> None:
        for kind in KINDS:
            for name, body in self.game.bodies[kind].items():
                wanted = Counter(one.target for one in mentions(kind, body) if one.kind == "curve")
                self.assertEqual(Counter(self.page.call(PLACES, "curvesIn", body)), wanted, name)

    def test_another_in_place_of_each(self) -> None:
        named = {one.target for one in self.all_mentioned(self.game)}
        self.assertGreater(len(named), 4)
        by = next(iter(self.game.bodies["curve"]))
        for gone in sorted(named - {by}):
            with self.subTest(gone=gone):
                edited = self.game.edited(entries_of(self.call(CURVES, "replacedCurve", gone, by)))
                self.assertNotIn(gone, edited.bodies["curve"])
                before = Counter(one.target for one in self.all_mentioned(self.game))
                after = Counter(one.target for one in self.all_mentioned(edited))
                self.assertEqual(after[by], before[by] + before[gone])

    def all_mentioned(self, game: Entities) -> list[Any]:
        bodies = ((kind, game.bodies[kind][name]) for kind, name in game.every())
        return [one for kind, body in bodies for one in mentions(kind, body) if one.kind == "curve"]

    def test_those_of_its_own_are_flat_private_and_named_apart(self) -> None:
        shared = next(iter(self.game.bodies["curve"]))
        found = self.call(CURVES, "chosenCurves", [OWN, shared, "", OWN], "Eel catch")
        first, second = found["curves"][0], found["curves"][3]
        self.assertEqual(found["curves"][1:3], [shared, None])
        self.assertNotEqual(first, second)
        made = self.game.edited(entries_of(found["entries"])).parsed["curve"]
        depth = self.body["settings"]["depth"]
        for name in (first, second):
            self.assertTrue(made[name].private)
            self.assertEqual(made[name].points, [(depth["from"], 1.0), (depth["to"], 1.0)])


if __name__ == "__main__":
    unittest.main()
