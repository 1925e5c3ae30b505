"""Numbers that may move, in the page's words: each told apart from all others, and by how much it moves."""

from __future__ import annotations

import unittest
from collections import defaultdict

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.models import Game
from golddice.core.game.reading import read_game, whole
from golddice.core.tuning.numbers import numbers_of
from golddice.server.routes.tuning import named
from tests.games import demo, game, game_data, pick
from tests.web.page import PageTest
from tests.web.test_targets import body_of

NAMES, PARTS, WORDS = "tuning/names.ts", "game/parts.ts", "game/words.ts"


class OfNames(PageTest):
    MODULES = (PARTS, NAMES, WORDS)


class Numbers(OfNames):
    def names_of(self, game: Game) -> dict[str, list[str]]:
        """By name where the numbers that are called so are."""
        found, body = defaultdict(list), body_of(game)
        for number in numbers_of(game):
            found[self.page.call(NAMES, "numberName", {"parts of": body}, named(number))].append(number.where)
        return dict(found)

    def test_no_two_numbers_of_a_game_are_called_alike(self) -> None:
        alike = {name: where for name, where in self.names_of(demo()).items() if len(where) > 1}
        self.assertEqual(alike, {})

    def test_nor_those_of_a_bundle(self) -> None:
        few = {"min": 1, "max": 3}
        table = pick((2, "sand 2"), (1, "sand 3"))
        bundle = [{"item": "claw", "quantity": few}, {"table": "bits-2", "quantity": few}]
        table["lines"].append({"id": "both", "weight": 1, "yields": bundle})
        named = self.names_of(game([table, {**pick((1, "lens")), "id": "bits-2", "name": "More bits"}]))
        self.assertEqual({name for name, where in named.items() if len(where) > 1}, set())
        self.assertIn("Bits, Claw and More bits: least of More bits", named)
        self.assertIn("Bits, 2 Sand: weight", named)


class Lines(OfNames):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(("sand", "claw")), st.integers(1, 3)), min_size=1, max_size=6))
    def test_no_two_lines_of_a_table_are_and_most_by_what_they_give(
        self, gives: list[tuple[str, int]]
    ) -> None:
        table = pick(*((1, f"{item} {many}") for item, many in gives))
        made = read_game(game_data([table]))
        body, table = body_of(made), whole(made.tables[0])
        names = [
            self.page.call(WORDS, "nameOfLine", {"parts of": body}, table, one["id"])
            for one in table["lines"]
        ]
        self.assertEqual(len(set(names)), len(gives))
        of_items = [item for item, _ in gives]
        for name, (item, many) in zip(names, gives, strict=True):
            if of_items.count(item) == 1:
                self.assertEqual(name, item.capitalize())
            elif gives.count((item, many)) == 1:
                self.assertEqual(name, f"{many} {item.capitalize()}")
        self.assertEqual(self.page.call(WORDS, "nameOfLine", {"parts of": body}, table, "gone"), "gone")


class Sizes(OfNames):
    @settings(max_examples=80, deadline=None)
    @given(st.floats(1e-3, 1e3), st.floats(1e-2, 100))
    def test_what_is_said_leads_to_what_comes_of_it(self, before: float, ratio: float) -> None:
        said = self.page.call(NAMES, "sizeWords", before, before * ratio)
        sign, number = said[0], float(said.strip("×÷+−%\u202f").replace("\u202f", ""))
        meant = {
            "×": number,
            "÷": 1 / number if number else 0.0,
            "+": 1 + number / 100,
            "−": 1 - number / 100,
        }
        self.assertAlmostEqual(meant[sign] / ratio, 1, delta=0.006)

    def test_from_nothing(self) -> None:
        self.assertEqual(self.page.call(NAMES, "sizeWords", 0, 2), "new")
        self.assertEqual(self.page.call(NAMES, "sizeWords", 0, 0), "")


if __name__ == "__main__":
    unittest.main()
