"""Which number moves a figure: against the figure itself, with each number a per mille larger."""

from __future__ import annotations

import math
import unittest

from golddice.core.errors import QueryError
from golddice.core.tuning import standings
from golddice.core.tuning.levers import levers
from golddice.core.tuning.numbers import with_values
from tests.games import demo

BY = 1e-4


class Levers(unittest.TestCase):
    def figure(self, name: str, depth: int, values: dict) -> float:  # type: ignore[type-arg]
        [stood] = standings(with_values(demo(), values), [name])
        return stood.figures[stood.depths.index(depth)]

    def test_they_say_what_happens(self) -> None:
        for name, depth in (("eel-pays", 20), ("stalker-curios", 5), ("eel-wonders", 27), ("crab-brass", 4)):
            target = next(one for one in demo().targets if one.id == name)
            found = levers(demo(), target, depth)
            self.assertGreater(len(found), 4, name)
            sizes = [abs(one.elasticity) for one in found]
            self.assertEqual(sizes, sorted(sizes, reverse=True))
            for one in found[:6]:
                up, down = (
                    self.figure(name, depth, {one.number: one.number.value * math.exp(sign * BY)})
                    for sign in (1, -1)
                )
                self.assertAlmostEqual(one.elasticity, math.log(up / down) / (2 * BY), places=5)

    def test_weights_of_a_table_sum_to_nothing(self) -> None:
        """All of them larger by a per cent change nothing."""
        target = next(one for one in demo().targets if one.id == "eel-pays")
        mine = [one for one in levers(demo(), target, 20) if one.number.id == "eel-catch"]
        weights = [one.elasticity for one in mine if one.number.sort in ("weight", "nothing")]
        self.assertAlmostEqual(sum(weights), 0.0, places=9)

    def test_where_it_asks_nothing(self) -> None:
        target = next(one for one in demo().targets if one.id == "eel-pays")
        with self.assertRaisesRegex(QueryError, "asks nothing at 3"):
            levers(demo(), target, 3)


if __name__ == "__main__":
    unittest.main()
