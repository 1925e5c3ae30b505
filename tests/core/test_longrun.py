"""The long run and the waits of chains that can be worked out by hand, and the ways to get there."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import breadth_first_order, connected_components

from golddice.core.odds.chaining import classes_from_start
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.evaluator import Evaluator
from golddice.core.odds.longrun import Waiting, long_run_weights
from golddice.core.odds.prospect import Prospect
from golddice.core.odds.report import View, odds
from golddice.core.odds.streak import Leaping, Streak
from tests.games import each, game, pick

CRAB = View("source", "crab")


class Chains(unittest.TestCase):
    def test_two_states(self) -> None:
        weights = long_run_weights(np.array([[0.9, 0.1], [0.3, 0.7]]))
        np.testing.assert_allclose(weights, [0.75, 0.25], rtol=1e-12)

    def test_one_that_goes_round_has_an_average_all_the_same(self) -> None:
        weights = long_run_weights(np.roll(np.eye(4), 1, axis=1))
        np.testing.assert_allclose(weights, 0.25)

    def test_states_that_are_left_for_good_weigh_nothing(self) -> None:
        weights = long_run_weights(np.array([[0.5, 0.25, 0.25], [0, 1, 0], [0, 0, 1.0]]))
        np.testing.assert_allclose(weights, [0.0, 0.5, 0.5], atol=1e-12)

    def test_states_that_are_never_reached_weigh_nothing(self) -> None:
        weights = long_run_weights(np.array([[1.0, 0, 0], [0.5, 0.5, 0], [0, 0, 1.0]]))
        np.testing.assert_allclose(weights, [1.0, 0.0, 0.0])

    @given(st.integers(1, 6), st.integers(0, 10_000))
    def test_random_chains_are_what_very_many_steps_lead_to(self, size: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        chain = rng.random((size, size)) + 0.05
        chain /= chain.sum(axis=1, keepdims=True)
        after = np.linalg.matrix_power(chain, 400)[0]
        np.testing.assert_allclose(long_run_weights(chain), after, atol=1e-10)


class Classes(unittest.TestCase):
    @given(st.integers(1, 12), st.integers(0, 10_000), st.sampled_from([0.08, 0.15, 0.3]))
    def test_they_are_those_of_a_library(self, size: int, seed: int, density: float) -> None:
        chain = np.random.default_rng(seed).random((size, size)) < density
        found, closed = classes_from_start(chain.astype(np.float64))
        reached = breadth_first_order(csr_matrix(chain), 0, return_predecessors=False)
        self.assertEqual(set(np.flatnonzero(found >= 0)), set(reached))
        labels = connected_components(csr_matrix(chain), connection="strong")[1]
        for one in reached:
            for other in reached:
                self.assertEqual(found[one] == found[other], labels[one] == labels[other])
        for at in range(closed.size):
            members = found == at
            self.assertEqual(bool(closed[at]), not chain[np.ix_(members, ~members)].any())

    def test_a_long_chain_is_no_deeper_than_its_states(self) -> None:
        chain = np.eye(3_000, k=1)
        chain[-1, -1] = 1
        found, closed = classes_from_start(chain)
        self.assertEqual((closed.size, closed.sum(), found[0]), (3_000, 1, 2_999))


class Waits(unittest.TestCase):
    def waits(self, none: list[float], blocks: int = 7) -> dict[str, int | None]:
        waiting = Waiting(1)
        for first in range(0, len(none), blocks):
            waiting.feed(np.array(none[first : first + blocks])[:, None])
        waiting.give_up()
        return waiting.waits[0]

    def test_the_first_event_that_is_enough(self) -> None:
        none = [0.8**n for n in range(1, 40)]
        self.assertEqual(self.waits(none), {"first_50": 4, "first_90": 11, "first_99": 21})

    def test_blocks_of_any_length_tell_the_same(self) -> None:
        none = [0.93**n for n in range(1, 90)]
        every = [self.waits(none, blocks) for blocks in (1, 2, 13, 64, 100)]
        self.assertEqual(every, every[:1] * 5)

    def test_a_tie_is_enough(self) -> None:
        self.assertEqual(self.waits([0.5, 0.25, 0.1, 0.01])["first_50"], 1)

    def test_a_steady_fall_is_followed_to_its_end(self) -> None:
        waiting = Waiting(2)
        p = np.array([1e-4, 0.02])
        waiting.feed((1 - p) ** np.arange(1, 65)[:, None])
        waiting.steady()
        self.assertTrue(waiting.done)
        for at, chance in enumerate(p):
            wanted = {
                name: math.log1p(-q) / math.log1p(-chance)
                for name, q in (("first_50", 0.5), ("first_90", 0.9), ("first_99", 0.99))
            }
            for name, exact in wanted.items():
                self.assertEqual(waiting.waits[at][name], math.ceil(exact))

    def test_what_has_stopped_falling_never_comes(self) -> None:
        waiting = Waiting(1)
        waiting.feed(np.full((64, 1), 0.7))
        waiting.steady()
        self.assertEqual(waiting.waits[0]["first_50"], None)

    def test_a_fall_that_is_still_dying_away_is_not_steady(self) -> None:
        """0.6 plus what halves every event: it will stop at 0.6, and must not be drawn on."""
        waiting = Waiting(1)
        waiting.feed((0.6 + 0.4 * 0.65 ** np.arange(1, 65))[:, None])
        waiting.steady()
        self.assertFalse(waiting.done)


class Streaks(unittest.TestCase):
    @given(st.integers(1, 5), st.integers(0, 10_000), st.sampled_from([0, 1, 3, 64, 65, 200]))
    def test_leaps_end_where_steps_do(self, size: int, seed: int, events: int) -> None:
        rng = np.random.default_rng(seed)
        matrix = rng.random((size, size))
        matrix *= 0.97 / matrix.sum(axis=1, keepdims=True)
        steps = Streak(lambda none: matrix @ none, size, 1)
        np.testing.assert_allclose(Leaping(matrix).upto(events), steps.upto(events), rtol=1e-10)

    def test_asked_again_it_goes_on(self) -> None:
        leaping = Leaping(np.array([[0.5]]))
        self.assertEqual(leaping.upto(2)[:, 0].tolist(), [1.0, 0.5, 0.25])
        self.assertAlmostEqual(float(leaping.upto(100)[100, 0]), 0.5**100, delta=1e-40)
        self.assertEqual(leaping.upto(1).shape, (2, 1))


class Renewals(unittest.TestCase):
    """A guard makes hits a renewal process: the long run is one over the mean time between hits."""

    def guarded(self, **guard: float) -> dict[str, object]:
        table = each((0.1, "lens"))
        table["lines"][0]["guard"] = guard
        return table

    def between(self, chances: list[float]) -> float:
        """Mean events from hit to hit; the last chance is 1."""
        mean, left = 0.0, 1.0
        for n, chance in enumerate(chances, start=1):
            mean += n * left * chance
            left *= 1 - chance
        return mean

    def test_sure_at(self) -> None:
        mean = odds(game([self.guarded(sure_at=8)]), CRAB)["items"]["lens"]["long_run_mean"]
        self.assertAlmostEqual(mean, 1 / self.between([0.1] * 7 + [1.0]), places=12)

    def test_rising(self) -> None:
        found = odds(game([self.guarded(after=2, rise=0.3)]), CRAB)["items"]["lens"]
        chances = [0.1, 0.1, 0.1, 0.4, 0.7, 1.0]
        self.assertAlmostEqual(found["long_run_mean"], 1 / self.between(chances), places=12)
        self.assertEqual(found["first_99"], 6)

    def test_a_deck_pays_its_cards_in_the_long_run(self) -> None:
        lines = [
            {"id": "a", "copies": 3, "yields": [{"item": "lens"}]},
            {"id": "b", "copies": 7, "yields": []},
        ]
        deck = {"id": "bits", "name": "Bits", "rule": "deck", "lines": lines}
        found = odds(game([deck]), CRAB)["items"]["lens"]
        self.assertAlmostEqual(found["long_run_mean"], 0.3, places=12)
        # Seven blanks at most lie on top.
        self.assertEqual(found["first_99"], 7)

    def test_a_limit_is_spent_in_the_long_run(self) -> None:
        table = pick((1, "lens"), (3, "sand"))
        table["lines"][0]["limit"] = 2
        found = odds(game([table]), CRAB)["items"]
        self.assertEqual(found["lens"]["long_run_mean"], 0.0)
        self.assertAlmostEqual(found["sand"]["long_run_mean"], 1.0)

    def test_many_events_are_the_long_run_times_their_number(self) -> None:
        prospect = Prospect(Evaluator(Conditions(game([self.guarded(sure_at=8)]), [1])), "source", "crab")
        lens = prospect.columns.item(2)
        more = prospect.count_after(lens, 3_000)[0] - prospect.count_after(lens, 2_000)[0]
        self.assertAlmostEqual(more / 1_000, prospect.long_run_mean(lens), places=10)


if __name__ == "__main__":
    unittest.main()
