"""Items that a view cannot tell apart, and what is kept from question to question."""

from __future__ import annotations

import gc
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import plain, read_game
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds, odds_of_view
from golddice.core.odds.depths.twins import first_twins
from golddice.core.terms.catalogue import catalogue_of
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of
from golddice.core.terms.size import most_rolls
from tests.games import each, game, game_data, pick
from tests.strategies import games

DEPTHS = range(1, 11, 3)


def item(name: str, tier: str = "silt", tags: str = "", **more: Any) -> dict[str, Any]:
    return {"id": name, "name": name.title(), "tier": tier, "value": len(name), "tags": tags.split(), **more}


SHELF = [
    item("bead", tags="glass"),
    item("bowl", tags="glass"),
    item("bottle", tags="glass"),
    item("prism", tags="glass", tier="pearl"),
    item("pane", tags="glass", abundance=2),
    item("mirror", tags="glass salt"),
    item("shell", tags="salt"),
    item("scale", tags="salt"),
    item("rope"),
]


def shelf_game(*tables: dict[str, Any]) -> Game:
    return game(list(tables), items=SHELF)


def of_pool(name: str, *pools: dict[str, Any], **more: Any) -> dict[str, Any]:
    lines = [
        {"id": "abcdef"[at], "weight": at + 1, "yields": [{"pool": pool}]} for at, pool in enumerate(pools)
    ]
    return {**pick(name=name, **more), "lines": lines}


GLASS, SALT = {"tags": ["glass"]}, {"tags": ["salt"]}


class Twins(unittest.TestCase):
    def firsts(self, made: Game) -> dict[str, str]:
        """Which item stands for which, where another does."""
        under = Conditions(made, DEPTHS)
        first = first_twins(under, most_rolls(under, View("source", "crab")))
        names = [one.id for one in made.items]
        return {names[at]: names[to] for at, to in enumerate(first) if to != at}

    def assert_same(self, made: Game, kind: str = "source", name: str = "crab") -> None:
        """Worked out for the first of twins, against worked out for every item."""
        under = Conditions(made, DEPTHS)
        found, whole = odds_of_view(under, View(kind, name)), DepthOdds(under).of(View(kind, name))
        self.assertEqual(found.places.tolist(), whole.places.tolist())
        for ours, theirs in ((found.hit, whole.hit), (found.mean, whole.mean)):
            np.testing.assert_allclose(ours, theirs, rtol=1e-13, atol=1e-300)
        np.testing.assert_allclose(found.value_mean, whole.value_mean, rtol=1e-13)
        np.testing.assert_allclose(found.value_var, whole.value_var, rtol=1e-13, atol=1e-12)

    def test_tier_abundance_and_pools_tell_items_apart(self) -> None:
        made = shelf_game(of_pool("bits", GLASS, SALT, rolls={"min": 1, "max": 3}))
        self.assertEqual(self.firsts(made), {"bowl": "bead", "bottle": "bead", "scale": "shell"})
        self.assert_same(made)

    def test_a_line_that_names_an_item_tells_it_apart(self) -> None:
        """By name in one line, and by its pool in another; a table that nobody rolls names in vain."""
        made = shelf_game(of_pool("bits", GLASS), pick((1, "bead"), name="apart"))
        self.assertEqual(self.firsts(made), {"bowl": "bead", "bottle": "bead", "mirror": "bead"})
        made = shelf_game(
            {**pick((3, "@glass"), (1, "bowl")), "id": "bits"}, of_pool("glass", GLASS, nothing=2)
        )
        self.assertEqual(self.firsts(made), {"bottle": "bead", "mirror": "bead"})
        self.assert_same(made)

    def test_a_quantity_by_depth_and_a_second_yield_name_items_too(self) -> None:
        swell = {"id": "swell", "name": "Swell", "points": [[1, 1.0], [10, 3.0]]}
        many = {"min": 1, "max": 1, "curve": "swell"}
        lines = [
            {"id": "a", "chance": 0.5, "yields": [{"item": "bead", "quantity": many}]},
            {"id": "b", "chance": 0.5, "yields": [{"item": "rope"}, {"item": "bowl"}]},
            {"id": "c", "chance": 0.5, "yields": [{"pool": GLASS}]},
        ]
        made = game([{**each(), "lines": lines}], items=SHELF, curves=[swell])
        self.assertEqual(self.firsts(made), {"mirror": "bottle"})
        self.assert_same(made)

    def test_where_state_matters_within_an_event(self) -> None:
        guarded = of_pool("bits", GLASS, SALT, rolls={"min": 4, "max": 4})
        guarded["lines"][1]["limit"] = 1
        self.assert_same(shelf_game(guarded))

    def test_tables_have_views_of_their_own(self) -> None:
        made = shelf_game(
            pick((1, "@glass"), (2, "bowl"), (1, "@salt")), of_pool("glass", GLASS), of_pool("salt", SALT)
        )
        for name in ("bits", "glass", "salt"):
            self.assert_same(made, "table", name)

    @settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow])
    @given(games(state=True), st.sampled_from([("source", "crab"), ("table", "middle"), ("table", "outer")]))
    def test_random_games(self, made: Game, view: tuple[str, str]) -> None:
        """With a twin of each item, which nothing but its name tells apart."""
        data = plain(made)
        data["items"] += [{**one, "id": f"{one['id']}-two", "name": "Two"} for one in data["items"]]
        self.assert_same(read_game(data), *view)


class Kept(unittest.TestCase):
    """What is worked out once must not outlive what it was worked out from."""

    def setUp(self) -> None:
        self.entities = Entities.of(read_game(game_data([pick((1, "sand"), (3, "lens"))])))

    def edited(self, kind: str, ident: str, **change: Any) -> Game:
        body = {**self.entities.bodies[kind][ident], **change}
        return self.entities.edited([Entry(kind, ident, body)]).game()

    def test_a_form_is_of_its_table_and_leaves_with_it(self) -> None:
        before = self.entities.game().tables[0]
        self.assertIs(form_of(before), form_of(before))
        after = self.edited("table", "bits", rule="pick", nothing=5).tables[0]
        self.assertIsNot(form_of(after), form_of(before))
        at = id(after)
        self.assertIn(at, form_of._found)
        del after
        gc.collect()
        self.assertNotIn(at, form_of._found)

    def test_a_copy_with_other_lines_has_a_form_of_its_own(self) -> None:
        table = self.entities.game().tables[0]
        self.assertEqual(form_of(table).named, ["sand", "lens"])
        copied = table.model_copy(update={"lines": table.lines[:1]})
        self.assertEqual(form_of(copied).named, ["sand"])

    def test_edits_elsewhere_leave_the_catalogue(self) -> None:
        game = self.entities.game()
        index = catalogue_of(game)
        self.assertIs(catalogue_of(self.edited("table", "bits", nothing=5)), index)
        self.assertIsNot(catalogue_of(self.edited("item", "sand", value=2)), index)
        self.assertIs(catalogue_of(self.edited("tier", "silt", name="Mud")), index)  # a name tells nothing
        self.assertIs(catalogue_of(game), index)

    def test_figures_follow_an_edit_of_an_item(self) -> None:
        """The catalogue that was kept for the game before must not answer for the one after."""
        value = {
            name: float(odds_of_view(Conditions(made, [1]), View("source", "crab")).value_mean[0])
            for name, made in (
                ("before", self.entities.game()),
                ("dearer", self.edited("item", "lens", value=80)),
                ("again", self.entities.game()),
            )
        }
        self.assertEqual(value, {"before": 30.25, "dearer": 60.25, "again": 30.25})


if __name__ == "__main__":
    unittest.main()
