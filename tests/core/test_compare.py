"""The same entries under every rule, against hand calculations."""

from __future__ import annotations

import unittest

from golddice.core.game.models import RULES
from golddice.core.sheets.compare import Reading, as_rule, compared
from tests.games import demo, each, game, pick

ENTRIES = pick((50, "sand"), (30, "claw"), nothing=20)


class Compare(unittest.TestCase):
    def readings(self) -> dict[str, Reading]:
        return {one.rule: one for one in compared(game([ENTRIES]), "bits", 1)}

    def test_the_same_entries_mean_different_chances(self) -> None:
        found = self.readings()
        expected = {
            "pick": ({"a": 0.5, "b": 0.3}, 0.2),
            "each": ({"a": 0.5, "b": 0.3}, 0.5 * 0.7),
            "first": ({"a": 0.5, "b": 0.5 * 0.3}, 0.5 * 0.7),
            # One of two lines, tested on its own chance: misses with 0.6; three times in a row 0.216.
            "retry": ({"a": 0.25 / 0.4 * 0.784, "b": 0.15 / 0.4 * 0.784}, 0.216),
            "deck": ({"a": 0.5, "b": 0.3}, 0.2),
        }
        for rule, (chances, nothing) in expected.items():
            with self.subTest(rule):
                for line, chance in chances.items():
                    self.assertAlmostEqual(found[rule].chances[line], chance, places=12)
                self.assertAlmostEqual(found[rule].nothing, nothing, places=12)
                self.assertAlmostEqual(found[rule].hits, sum(chances.values()), places=12)

    def test_chances_become_weights_that_add_up_with_a_blank(self) -> None:
        table = game([each((0.25, "sand"), (0.1, "claw"))]).tables[0]
        body = as_rule(table, "pick").model_dump()
        self.assertEqual([line["weight"] for line in body["lines"]], [25, 10])
        self.assertEqual(body["nothing"], 65)

    def test_a_guard_does_not_go_into_a_deck_and_a_limit_does(self) -> None:
        guarded = {"id": "a", "weight": 1, "guard": {"sure_at": 4}, "limit": 2, "yields": [{"item": "sand"}]}
        table = game([{**pick(), "lines": [guarded]}]).tables[0]
        self.assertIsNone(as_rule(table, "deck").lines[0].guard)
        self.assertEqual(as_rule(table, "deck").lines[0].limit, 2)
        self.assertIsNotNone(as_rule(table, "first").lines[0].guard)

    def test_every_table_of_the_demo_can_be_read_by_every_rule(self) -> None:
        for table in demo().tables:
            readings = compared(demo(), table.id, 14)
            self.assertEqual([one.rule for one in readings], list(RULES))
            own = next(one for one in readings if one.rule == table.rule)
            self.assertIs(own.table, table)
            for one in readings:
                total = one.hits + one.nothing
                if one.rule != "each":
                    self.assertAlmostEqual(total, 1.0, places=9, msg=f"{table.id} as {one.rule}")


if __name__ == "__main__":
    unittest.main()
