"""What a cohort received, added up unit by unit, against the same by hand from every player's bag."""

from __future__ import annotations

import itertools
import math
import unittest
from collections import Counter
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.views import View
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.playing import Bags, Unit, played
from golddice.core.trial.summary import QUANTILES, Summary
from golddice.core.trial.tallies import SMALL, Spreads, Tallies, Tally, totals_of
from tests.games import demo, game, pick

# beside small ones some that are counted apart
whole = st.integers(0, 200) | st.integers(SMALL - 2, SMALL + 2) | st.integers(0, 2**50)


class OneKind(unittest.TestCase):
    @given(st.lists(st.lists(whole, min_size=1, max_size=40), min_size=1, max_size=4))
    def test_in_pieces_is_at_once(self, pieces: list[list[int]]) -> None:
        parts, at_once = Tally(), Tally()
        for piece in pieces:
            parts.add(np.array(piece))
        at_once.add(np.array([value for piece in pieces for value in piece]))
        for mine, theirs in zip(parts.seen, at_once.seen, strict=True):
            self.assertEqual(mine.tolist(), theirs.tolist())
        counted = Counter(value for piece in pieces for value in piece)
        self.assertEqual(dict(zip(*(part.tolist() for part in parts.seen), strict=True)), counted)
        self.assertEqual(parts.zeros, counted[0])

    @given(
        st.lists(whole, min_size=1, max_size=200), st.sampled_from([0.01, 0.05, 0.25, 0.5, 0.9, 0.99, 1.0])
    )
    def test_a_quantile_is_the_smallest_with_so_many_at_or_below(self, values: list[int], q: float) -> None:
        tally = Tally()
        tally.add(np.array(values))
        [found] = tally.quantiles([q])
        share = sum(value <= found for value in values) / len(values)
        before = sum(value < found for value in values) / len(values)
        self.assertGreaterEqual(share, q - 1e-9)
        self.assertLess(before, q)
        self.assertIn(found, values)

    @given(st.lists(st.integers(0, 10_000), min_size=1, max_size=200), st.integers(1, 60))
    def test_bins_hold_everyone_once(self, values: list[int], most: int) -> None:
        tally = Tally()
        tally.add(np.array(values))
        bins = tally.bins(most)
        self.assertLessEqual(len(bins), most)
        self.assertEqual(sum(one["count"] for one in bins), len(values))
        self.assertEqual((bins[0]["from"], bins[-1]["to"] >= max(values)), (min(values), True))
        for one, after in itertools.pairwise(bins):
            self.assertEqual(one["to"] + 1, after["from"])
        for one in bins:
            self.assertEqual(one["count"], sum(one["from"] <= value <= one["to"] for value in values))


class Several(unittest.TestCase):
    """Several kinds of numbers counted together are each as by itself."""

    @given(
        st.lists(st.lists(st.tuples(whole, whole, whole), min_size=1, max_size=30), min_size=1, max_size=4)
    )
    def test_tallies_and_sums(self, pieces: list[list[tuple[int, int, int]]]) -> None:
        together, apart = Tallies(3), [Tally() for _ in range(3)]
        for piece in pieces:
            rows = np.array(piece).T
            together.add(rows)
            self.assertEqual(totals_of(rows), [sum(one) for one in zip(*piece, strict=True)])
            for tally, row in zip(apart, rows, strict=True):
                tally.add(row)
        for kind, tally in enumerate(apart):
            for mine, theirs in zip(together[kind].seen, tally.seen, strict=True):
                self.assertEqual(mine.tolist(), theirs.tolist())

    def test_sums_beyond_what_64_bits_hold(self) -> None:
        self.assertEqual(totals_of(np.array([[2**62, 2**62, 2**62], [1, 2, 3]])), [3 * 2**62, 6])

    def test_nobody_and_nothing(self) -> None:
        for kinds, players in ((0, 5), (2, 0)):
            rows, spreads = np.zeros((kinds, players), dtype=np.int64), Spreads(kinds)
            Tallies(kinds).add(rows)
            spreads.add(rows)
            self.assertEqual((totals_of(rows), spreads.sd.tolist()), ([0] * kinds, [0.0] * kinds))

    @given(st.lists(st.lists(st.tuples(whole, whole), min_size=1, max_size=30), min_size=1, max_size=4))
    def test_spreads(self, pieces: list[list[tuple[int, int]]]) -> None:
        """Against all at once, also where nearly all of it is alike and squares about 0 would overflow."""
        spreads, every = Spreads(2), np.array([pair for piece in pieces for pair in piece]).T + 2**52
        for piece in pieces:
            spreads.add(np.array(piece).T + 2**52)
        apart = [[value - int(row[0]) for value in row.tolist()] for row in every]
        for kind, row in enumerate(apart):
            mean = Fraction(sum(row), len(row))
            sd = math.sqrt(sum((value - mean) ** 2 for value in row) / len(row))
            self.assertAlmostEqual(float(spreads.sd[kind]), sd, delta=1e-9 * sd + 1.0)


class Cohort(unittest.TestCase):
    """Players of the demo's Lantern Eel: the summary's figures, and those from their bags."""

    players, events = 700, 60

    @classmethod
    def setUpClass(cls) -> None:
        program = compiled(Conditions(demo(), [14]), View("source", "lantern-eel"))
        marks = np.array([10, 30, 60])
        cls.units = [
            played(Unit.of(program, 11, first, 100, cls.events, marks))
            for first in range(0, cls.players, 100)
        ]
        cls.summary = Summary(program.items, len(demo().items), cls.events)
        for unit in cls.units:
            cls.summary.add(unit)
        cls.items = program.items

    units: list[Bags]
    summary: Summary

    def joined(self, name: str) -> np.ndarray:
        return np.concatenate([getattr(unit, name) for unit in self.units])

    def test_counts(self) -> None:
        counts = self.joined("counts")
        for slot in range(counts.shape[1]):
            mine, figures = counts[:, slot], self.summary.item(slot)
            self.assertEqual(figures["total"], mine.sum())
            self.assertAlmostEqual(figures["mean"], mine.mean())
            self.assertAlmostEqual(figures["sd"], mine.std())
            self.assertAlmostEqual(figures["none_share"], (mine == 0).mean())
            for q in QUANTILES:
                wanted = np.quantile(mine, q, method="inverted_cdf")
                self.assertEqual(figures[f"p{round(100 * q):02d}"], wanted)

    def test_waits_and_droughts(self) -> None:
        first, drought = self.joined("first"), self.joined("drought")
        for slot in range(first.shape[1]):
            mine = np.where(first[:, slot] == 0, self.events + 1, first[:, slot])
            figures = self.summary.item(slot)
            for q in (50, 90, 99):
                wait = int(np.quantile(mine, q / 100, method="inverted_cdf"))
                self.assertEqual(figures[f"first_{q}"], None if wait > self.events else wait)
                dry = np.quantile(drought[:, slot], q / 100, method="inverted_cdf")
                self.assertEqual(figures[f"drought_{q}"], dry)

    def test_a_drought_is_never_shorter_than_the_wait_before_the_first(self) -> None:
        first, drought = self.joined("first"), self.joined("drought")
        waited = np.where(first == 0, self.events, first - 1)
        self.assertTrue(np.all(drought >= waited))
        self.assertTrue(np.all(drought <= self.events))

    def test_value(self) -> None:
        counts = self.joined("counts")
        worth = np.array([demo().items[at].value for at in self.items])
        np.testing.assert_allclose(self.summary.values, counts @ worth, rtol=1e-12)
        figures = self.summary.value()
        self.assertAlmostEqual(figures["cv"], figures["sd"] / figures["mean"])
        self.assertEqual(sum(one["count"] for one in self.summary.value_bins()), self.players)

    def test_the_fan_rises_and_ends_at_the_value(self) -> None:
        fan = np.array(self.summary.fan())
        self.assertEqual(fan.shape, (3, len(QUANTILES)))
        self.assertTrue(np.all(np.diff(fan, axis=0) >= 0))  # nobody loses anything
        self.assertTrue(np.all(np.diff(fan, axis=1) >= 0))
        wanted = np.quantile(self.summary.values, QUANTILES, method="inverted_cdf")
        np.testing.assert_allclose(fan[-1], wanted)

    def test_extremes_are_players_of_the_cohort(self) -> None:
        found, values = self.summary.extremes(), self.summary.values
        self.assertEqual(values[found["unluckiest"]], values.min())
        self.assertEqual(values[found["luckiest"]], values.max())
        below, above = (values < values[found["median"]]).sum(), (values > values[found["median"]]).sum()
        self.assertLessEqual(max(below, above), self.players // 2)

    def test_the_digest_tells_players_apart_and_not_how_they_were_cut(self) -> None:
        program = compiled(Conditions(demo(), [14]), View("source", "lantern-eel"))
        marks = np.array([10, 30, 60])
        whole = Summary(program.items, len(demo().items), self.events)
        whole.add(played(Unit.of(program, 11, 0, self.players, self.events, marks)))
        self.assertEqual(whole.digest, self.summary.digest)
        other = Summary(program.items, len(demo().items), self.events)
        other.add(played(Unit.of(program, 12, 0, self.players, self.events, marks)))
        self.assertNotEqual(other.digest, whole.digest)


class ByHand(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(st.integers(1, 40), st.integers(0, 2**31))
    def test_one_that_always_comes(self, events: int, seed: int) -> None:
        program = compiled(Conditions(game([pick((1, "sand"))]), [1]), View("source", "crab"))
        summary = Summary(program.items, 4, events)
        summary.add(played(Unit.of(program, seed, 0, 5, events, np.array([events]))))
        figures = summary.item(0)
        self.assertEqual((figures["total"], figures["sd"], figures["none_share"]), (5 * events, 0, 0))
        self.assertEqual((figures["first_99"], figures["drought_99"]), (1, 0))
        self.assertEqual(summary.value()["cv"], 0)

    def test_nothing_ever(self) -> None:
        program = compiled(Conditions(game([pick((0, "sand"), nothing=1)]), [1]), View("source", "crab"))
        summary = Summary(program.items, 4, 7)
        summary.add(played(Unit.of(program, 1, 0, 5, 7, np.array([7]))))
        self.assertIsNone(summary.value()["cv"])
        self.assertEqual(summary.value()["mean"], 0)
        for slot in range(len(program.items)):
            self.assertEqual(summary.item(slot)["drought_50"], 7)
            self.assertIsNone(summary.item(slot)["first_50"])


if __name__ == "__main__":
    unittest.main()
