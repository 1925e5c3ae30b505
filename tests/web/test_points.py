"""Points of a curve on the page: drawn as the server reads them, and made of words."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.curves import multiplier
from golddice.core.game.models import Curve
from tests.web.page import PageTest

POINTS = "sheets/curve/points.ts"
FIRST, LAST = 1, 30
values = st.sampled_from([0.0, 0.004, 0.2, 1.0, 1.5, 3.0, 250.0])
some_points = st.dictionaries(st.integers(FIRST, LAST), values, min_size=1, max_size=7).map(
    lambda found: [list(point) for point in sorted(found.items())]
)


class OfCurves(PageTest):
    MODULES = (POINTS,)

    def call(self, name: str, *args: Any) -> Any:
        return self.page.call(POINTS, name, *args)

    def along(self, shape: str, points: list[list[float]]) -> list[float]:
        curve = Curve.model_validate(
            {"id": "c", "name": "C", "shape": shape, "points": list(map(tuple, points))}
        )
        return [float(one) for one in multiplier(curve, np.arange(FIRST, LAST + 1))]


class Points(OfCurves):
    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(["line", "step", "ease"]), some_points)
    def test_a_curve_is_drawn_as_it_is_reckoned_with(self, shape: str, points: list[list[float]]) -> None:
        wanted = self.along(shape, points)
        for depth in (FIRST, 7, 16, 23, LAST):
            drawn = self.call("valueAt", {"shape": shape, "points": points}, depth)
            self.assertAlmostEqual(drawn, wanted[depth - FIRST], delta=1e-9 * (1 + wanted[depth - FIRST]))

    @settings(max_examples=40, deadline=None)
    @given(some_points, st.data(), st.integers(-5, 40), st.floats(-1, 9))
    def test_a_point_that_is_moved_stays_between_its_neighbours(
        self, points: list[list[float]], data: st.DataObject, depth: int, value: float
    ) -> None:
        at = data.draw(st.integers(0, len(points) - 1))
        moved = self.call("moved", points, at, depth, value, [FIRST, LAST])
        depths = [one[0] for one in moved]
        self.assertEqual(depths, sorted(set(depths)))
        self.assertTrue(all(FIRST <= one <= LAST for one in depths))
        self.assertGreaterEqual(moved[at][1], 0)
        self.assertEqual([one for n, one in enumerate(moved) if n != at], points[:at] + points[at + 1 :])

    def test_the_last_point_cannot_be_taken_away(self) -> None:
        self.assertEqual(self.call("withoutPoint", [[3, 1], [5, 2]], 0), [[5, 2]])
        self.assertEqual(self.call("withoutPoint", [[3, 1]], 0), [[3, 1]])

    def test_a_point_put_where_one_is_takes_its_place(self) -> None:
        self.assertEqual(self.call("withPoint", [[3, 1], [9, 2]], 5, 0.25), [[3, 1], [5, 0.25], [9, 2]])
        self.assertEqual(self.call("withPoint", [[3, 1], [9, 2]], 9, -4), [[3, 1], [9, 0]])

    @settings(max_examples=30, deadline=None)
    @given(some_points)
    def test_rows_of_a_spreadsheet_come_back(self, points: list[list[float]]) -> None:
        text = self.call("textOf", points)
        self.assertEqual(self.call("pointsOf", text, [FIRST, LAST]), points)
        turned = "\r\n".join(reversed(text.split("\n")))
        self.assertEqual(self.call("pointsOf", turned, [FIRST, LAST]), points)

    def test_rows_that_are_no_points(self) -> None:
        for text, why in (
            ("3\t1\n3\t2", "depth 3 stands twice"),
            ("31\t1", "depths go from 1 to 30, not 31"),
            ("2.5\t1", "“2.5\t1” is no depth and multiplier; two columns are wanted"),
            ("4", "“4” is no depth and multiplier; two columns are wanted"),
            ("4\t-1", "“4\t-1” is no depth and multiplier; two columns are wanted"),
        ):
            self.assertEqual(self.call("pointsOf", text, [FIRST, LAST]), why)


class Words(OfCurves):
    """A curve said in words, by what it comes to."""

    def said(self, words: str) -> list[float]:
        made = self.call("curveOfWords", words, FIRST, LAST)
        self.assertIsNotNone(made, words)
        return self.along(made["shape"], made["points"])

    def test_doubling_and_halving(self) -> None:
        for words, factor, every in (("doubles every 5", 2.0, 5), ("Halves every 10 fathoms", 0.5, 10)):
            found = self.said(words)
            for depth in range(FIRST, LAST + 1 - every):
                ratio = found[depth - FIRST + every] / found[depth - FIRST]
                # Exact at its points; what lies between is a curve through them.
                room = 2e-3 if (depth - FIRST) % every == 0 else 0.06
                self.assertAlmostEqual(ratio / factor, 1.0, delta=room, msg=f"{words} at {depth}")

    def test_from_here_to_there(self) -> None:
        found = self.said("from 0.2 at 4 to 3 at 24")
        self.assertEqual((found[0], found[3], found[23], found[29]), (0.2, 0.2, 3.0, 3.0))
        self.assertAlmostEqual(found[13], 1.6)
        self.assertIsNone(self.call("curveOfWords", "from 1 at 9 to 2 at 9", FIRST, LAST))

    def test_only_on_one_side(self) -> None:
        on, up = self.said("only from 12 on"), self.said("only up to 12")
        self.assertEqual([on[10], on[11]], [0.0, 1.0])
        self.assertEqual([up[11], up[12]], [1.0, 0.0])
        self.assertEqual(self.said("only from 1 on"), [1.0] * LAST)
        self.assertEqual(self.said("only up to 30"), [1.0] * LAST)

    def test_a_peak_and_none(self) -> None:
        peak = self.said("peaks at 18")
        self.assertEqual((int(np.argmax(peak)) + FIRST, max(peak)), (18, 1.0))
        self.assertEqual(self.said("the same everywhere"), [1.0] * LAST)
        self.assertEqual(self.said("doubles every 2,5")[:1], [1.0])

    def test_words_that_are_none_of_ours(self) -> None:
        for words in ("", "rises", "peaks at 31", "doubles every 0.5", "only from twelve on"):
            self.assertIsNone(self.call("curveOfWords", words, FIRST, LAST), words)


if __name__ == "__main__":
    unittest.main()
