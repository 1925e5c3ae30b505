"""New things as a page makes them: whole, as the server would send them back, named like nothing there."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entities, Entry, new_id
from golddice.core.game.models import KINDS
from golddice.core.game.reading import plain_game, read_game, whole
from tests.games import demo
from tests.web.page import PageTest
from tests.web.test_targets import body_of_demo

FRESH, PARTS, LEGS = "game/fresh.ts", "game/parts.ts", "sheets/route/legs.ts"
# Of every kind: what makes one, and what it is given besides its id and name.
MAKERS: dict[str, tuple[str, list[Any]]] = {
    "table": ("freshTable", []),
    "source": ("freshSource", []),
    "item": ("freshItem", [demo().tiers[0].id]),
    "tier": ("freshTier", [3]),
    "set": ("freshSet", []),
    "property": ("freshProperty", []),
    "place": ("freshPlace", ["eel-catch"]),
    "stall": ("freshStall", ["eel-catch", 7]),
    "target": ("freshTarget", [{"kind": "source", "id": "lantern-eel"}]),
}


class OfFresh(PageTest):
    MODULES = (PARTS, FRESH, LEGS)
    game: ClassVar[Entities]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.game = Entities.of(demo())

    def made(self, kind: str) -> dict[str, Any]:
        maker, more = MAKERS[kind]
        found: dict[str, Any] = self.page.call(FRESH, maker, "brand-new", "Brand new", *more)
        return found

    def kept(self, kind: str, body: dict[str, Any]) -> dict[str, Any]:
        """As the server has it after an edit. Raises where it refuses it."""
        edited = self.game.edited([Entry(kind, body["id"], body)])
        return whole(edited.parsed[kind][body["id"]])


class Whole(OfFresh):
    def test_each_kind_comes_back_as_it_was_made(self) -> None:
        for kind in MAKERS:
            with self.subTest(kind=kind):
                made = self.made(kind)
                self.assertEqual(self.kept(kind, made), made)

    def test_a_route_with_its_first_leg_and_a_flag(self) -> None:
        leg = self.page.call(LEGS, "newLeg", [], 5)
        route = self.page.call(FRESH, "freshRoute", "brand-new", "Brand new", [leg])
        self.assertEqual(self.kept("route", route), route)
        flag = self.page.call(FRESH, "freshFlag", "brand-new")
        self.assertEqual(self.kept("flag", flag), flag)

    def test_no_kind_that_a_shelf_can_make_is_left_out(self) -> None:
        self.assertEqual(set(KINDS) - set(MAKERS) - {"route", "flag", "curve"}, set())

    def test_a_drop_of_a_fresh_source(self) -> None:
        drop = self.page.call(FRESH, "freshDrop", "a", "eel-catch")
        source = {**self.made("source"), "drops": [drop]}
        self.assertEqual(self.kept("source", source)["drops"], [drop])


class Named(OfFresh):
    def test_what_is_only_named_becomes_items_of_the_lowest_tier_and_tiers(self) -> None:
        names = ["Brass eel", "Brass eel", "Ägäis’ pearl", "???"]
        offers = [{"kind": "item", "name": name} for name in names]
        offers += [{"kind": "tier", "name": "Odd"}, {"kind": "place", "name": "Nowhere"}]
        entries = self.page.call(FRESH, "madeOf", {"parts of": body_of_demo()}, offers)
        self.assertEqual([one["kind"] for one in entries], [*["item"] * 4, "tier"])
        self.assertEqual(len({(one["kind"], one["id"]) for one in entries}), 5)
        made = self.game.edited([Entry(one["kind"], one["id"], one["body"]) for one in entries]).game()
        self.assertEqual([item.name for item in made.items[-4:]], names)
        self.assertEqual({item.tier for item in made.items[-4:]}, {demo().tiers[0].id})
        self.assertEqual(read_game(plain_game(made)), made)

    @settings(max_examples=80, deadline=None)
    @given(
        st.text(max_size=70) | st.integers(50, 70).map(lambda letters: letters * "a" + " eel"),
        st.sets(st.sampled_from(("thing", "a", "a-2", "eel", "eel-2"))),
    )
    def test_an_id_is_free_one_that_a_file_may_hold_and_the_servers(self, name: str, taken: set[str]) -> None:
        found = self.page.call(PARTS, "freshId", name, {"ids": sorted(taken)})
        self.assertNotIn(found, taken)
        self.assertRegex(found, r"^[a-z0-9]+(-[a-z0-9]+)*$")
        if all(one.isalnum() or one == " " for one in name) and name.isascii():
            self.assertEqual(found, new_id(name, taken))


if __name__ == "__main__":
    unittest.main()
