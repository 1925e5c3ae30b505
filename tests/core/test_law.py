"""Laws of quantities against every number that they can be drawn as."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from golddice.core.game.quantity import Quantity, parse_quantity, quantity_fields
from golddice.core.terms.law import Law, law_of
from tests.games import game, pick
from tests.oracle import Oracle

ranges = st.tuples(st.integers(0, 6), st.integers(0, 5), st.integers(1, 4))
scales = st.sampled_from([0.0, 0.3, 1.0, 1.5, 2.75])


def enumerated(quantity: Quantity, scale: float) -> list[tuple[float, int]]:
    """What the oracle says that it can be drawn as, on a curve of this height."""
    curve = [{"id": "flat", "name": "Flat", "points": [[1, scale]]}]
    oracle = Oracle(game([pick((1, "sand"))], curves=curve), 1)
    return oracle.amounts(quantity.model_copy(update={"curve": "flat"}))


class AgainstEnumeration(unittest.TestCase):
    def agree(self, law: Law, drawn: list[tuple[float, int]]) -> None:
        mean = sum(p * x for p, x in drawn)
        var = sum(p * (x - mean) ** 2 for p, x in drawn)
        self.assertAlmostEqual(float(law.mean[0]), mean, places=12)
        self.assertAlmostEqual(float(law.var[0]), var, places=10)
        self.assertAlmostEqual(float(law.some[0]), sum(p for p, x in drawn if x), places=12)
        hits = np.array([[0.0, 1e-9, 0.2, 0.97, 1.0]])
        wanted = [
            sum(p * -np.expm1(x * np.log1p(-h)) if h < 1 else p * (x > 0) for p, x in drawn) for h in hits[0]
        ]
        np.testing.assert_allclose(law.any_of(hits)[0], wanted, rtol=1e-12, atol=1e-24)
        roots = np.exp(2j * np.pi * np.arange(5) / 7)
        wanted = [sum(p * root**x for p, x in drawn) for root in roots]
        np.testing.assert_allclose(law.pgf(roots), wanted, rtol=1e-11, atol=1e-12)

    @given(ranges, scales)
    def test_ranges(self, shape: tuple[int, int, int], scale: float) -> None:
        low, count, step = shape
        quantity = Quantity(min=low, max=low + count * step, step=step)
        self.agree(law_of(quantity, np.array([scale])), enumerated(quantity, scale))

    @settings(max_examples=40)
    @given(st.sampled_from(["1d2", "2d6", "2d6+1", "3d4-2", "1d1", "4d2-3"]), scales)
    def test_dice(self, text: str, scale: float) -> None:
        quantity = parse_quantity(text)
        self.agree(law_of(quantity, np.array([scale])), enumerated(quantity, scale))

    @given(st.integers(0, 40), st.integers(33, 120), st.integers(1, 7), st.floats(1e-12, 1.0))
    def test_the_closed_form_of_wide_ranges(self, low: int, count: int, step: int, hit: float) -> None:
        """Where a range has more than thirty values its repeats are a geometric series."""
        law = law_of(Quantity(min=low, max=low + (count - 1) * step, step=step))
        self.assertEqual(law.step, step)
        listed = Law(law.values, law.chances)
        wanted, got = listed.any_of(np.array([[hit]])), law.any_of(np.array([[hit]]))
        np.testing.assert_allclose(got, wanted, rtol=1e-11)
        roots = np.exp(2j * np.pi * np.arange(1, 6) / 64)
        np.testing.assert_allclose(law.pgf(roots), listed.pgf(roots), rtol=1e-9, atol=1e-11)

    def test_a_curve_makes_another_law_at_each_depth(self) -> None:
        law = law_of(parse_quantity("2-4"), np.array([1.0, 0.5, 2.25]))
        np.testing.assert_allclose(law.mean, [3.0, 1.5, 6.75], rtol=1e-12)
        for row, scale in enumerate((1.0, 0.5, 2.25)):
            values, chances = law.row(row)
            alone = law_of(parse_quantity("2-4"), np.array([scale]))
            self.assertAlmostEqual(float(chances @ values), float(alone.mean[0]), places=12)
            self.assertAlmostEqual(float(chances.sum()), 1.0, places=12)


class Written(unittest.TestCase):
    def test_what_is_typed_comes_back_as_it_was(self) -> None:
        for text in ("3", "1-3", "0-2", "1000-2000/100", "2d6+1", "1d4", "3d6-2"):
            with self.subTest(text=text):
                self.assertEqual(str(parse_quantity(text)), text)

    def test_blanks_and_signs_are_forgiven(self) -> None:
        for typed, meant in ((" 1 - 3 ", "1-3"), ("1–3", "1-3"), ("2D6", "2d6"), ("5-5", "5")):
            with self.subTest(typed=typed):
                self.assertEqual(str(parse_quantity(typed)), meant)

    def test_the_ends_are_told(self) -> None:
        for text, least, most in (("1-3", 1, 3), ("2d6+1", 3, 13), ("3d4-3", 0, 9), ("7", 7, 7)):
            quantity = parse_quantity(text)
            self.assertEqual((quantity.least, quantity.most), (least, most))

    def test_what_is_no_quantity_is_refused_with_what_is(self) -> None:
        for text in ("", "many", "1-", "1-2-3", "1.5", "-2", "d", "2d", "1-3/0"):
            with self.subTest(text=text), self.assertRaises((ValueError, ValidationError)):
                parse_quantity(text)
        with self.assertRaisesRegex(ValueError, "is written 3, 1-3, 1000-2000/100 or 2d6"):
            quantity_fields("a few")

    def test_ranges_that_contradict_themselves_say_how(self) -> None:
        for fields, reason in (
            ({"min": 3, "max": 1}, "min"),
            ({"min": 0, "max": 5, "step": 2}, "step"),
            ({"min": -1, "max": 1}, "min"),
            ({"dice": "2d6", "min": 1}, "dice"),
        ):
            with self.subTest(fields=fields), self.assertRaisesRegex(ValidationError, reason):
                Quantity.model_validate(fields)


if __name__ == "__main__":
    unittest.main()
