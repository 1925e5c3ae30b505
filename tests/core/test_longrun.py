"""The long run and the waits of chains that can be worked out by hand, and the ways to get there."""

from __future__ import annotations

import math
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import breadth_first_order, connected_components

from golddice.core.arrays import FloatArray
from golddice.core.errors import TooLarge
from golddice.core.game.views import View
from golddice.core.odds.carried.chain import long_run_weights
from golddice.core.odds.carried.first_hit import FirstHit, MatrixStreak, Misses, Streak
from golddice.core.odds.carried.loops import classes_from_start
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.report import odds
from golddice.core.terms.conditions import Conditions
from tests.games import each, game, pick

CRAB = View("source", "crab")
Rows = list[list[float]]


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


def streak(moves: FloatArray, hit: FloatArray | None = None) -> MatrixStreak:
    """Of moves without one; what is missing of a row is the hit."""
    return MatrixStreak(Misses.of(moves, np.maximum(1.0 - moves.sum(axis=1), 0.0) if hit is None else hit))


def first_by(none: Callable[[int], float], q: float, last: int) -> int:
    """The first event at which the chance of none is no more than 1 - q, by bisection."""
    low, high = 0, last
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if none(middle) > 1 - q else (low, middle)
    return high


SURE = (("first_50", 0.5), ("first_90", 0.9), ("first_99", 0.99))


class Waits(unittest.TestCase):
    """What `FirstHit` tells of chains: by steps, by how they end, and by doubling, all the same."""

    def waits(self, matrix: Rows, miss: float = 1.0) -> dict[str, int | None]:
        return FirstHit(math.log(miss), [streak(np.array(matrix, dtype=np.float64))], 20_000).waits

    def test_one_state_is_the_geometric_law(self) -> None:
        for chance in (0.2, 0.02, 1e-4, 1e-7, 1e-9, 1e-11):
            wanted = {name: math.ceil(math.log1p(-q) / math.log1p(-chance)) for name, q in SURE}
            found = FirstHit(0.0, [streak(np.array([[1 - chance]]), np.array([chance]))], 20_000).waits
            self.assertEqual(found, wanted)
            self.assertEqual(FirstHit(math.log1p(-chance), [], 20_000).waits, wanted)

    def test_a_tie_is_enough(self) -> None:
        self.assertEqual(self.waits([[0.5]])["first_50"], 1)

    def test_what_cannot_come_never_comes(self) -> None:
        self.assertEqual(self.waits([[1.0]])["first_50"], None)
        # from the first state only half ever leave for the one where it comes
        found = self.waits([[0, 0.4, 0.6], [0, 0.5, 0], [0, 0, 1]])
        self.assertEqual(found, {"first_50": None, "first_90": None, "first_99": None})

    def test_the_chance_never_to_have_one(self) -> None:
        """0.3 of the players end where it cannot come any more: half have one, nine in ten never will."""
        matrix = [[0.5, 0.2, 0.15], [0, 0.9, 0], [0, 0, 1]]
        self.assertAlmostEqual(streak(np.array(matrix)).for_ever, 0.3, places=12)
        found = self.waits(matrix)
        self.assertIsNotNone(found["first_50"])
        self.assertEqual((found["first_90"], found["first_99"]), (None, None))
        self.assertEqual(streak(np.eye(2)).for_ever, 1.0)
        self.assertEqual(streak(np.array([[0.9]])).for_ever, 0.0)

    def test_what_comes_very_late_is_not_called_never(self) -> None:
        """A thousand times as long as it is followed step by step."""
        chance, sure = 1e-6, 5
        chain = np.diag(np.full(sure, 1 - chance)) + np.diag(np.full(sure - 1, chance), 1)
        found = self.waits(chain.tolist())
        for name, q in SURE:
            exact = stats.nbinom.ppf(q, sure, chance) + sure
            self.assertAlmostEqual((found[name] or 0) / exact, 1, delta=1e-6)

    def test_a_fall_that_has_only_just_begun_is_not_drawn_on(self) -> None:
        """A rare step to where it comes at once: the first events tell nothing of those after."""
        chain = [[1 - 1e-6, 1e-6], [0, 0.5]]
        found = self.waits(chain)["first_50"] or 0
        power = lambda k: float(np.linalg.matrix_power(np.array(chain), k)[0].sum())  # noqa: E731
        self.assertEqual(found, first_by(power, 0.5, 10**8))

    @given(st.integers(1, 6), st.integers(0, 10_000), st.sampled_from([1e-5, 1e-3, 0.1]))
    def test_random_chains(self, size: int, seed: int, scale: float) -> None:
        rng = np.random.default_rng(seed)
        matrix = rng.random((size, size)) * (rng.random((size, size)) < 0.7) + 1e-3 * np.eye(size)
        matrix /= matrix.sum(axis=1, keepdims=True)
        matrix *= 1 - scale * (0.1 + 0.9 * rng.random((size, 1)))
        found = self.waits(matrix.tolist(), miss=1 - 1e-6)

        def none(events: int) -> float:
            return float(np.linalg.matrix_power(matrix, events)[0].sum() * (1 - 1e-6) ** events)

        for name, q in SURE:
            exact = first_by(none, q, 10**9)
            self.assertLessEqual(abs((found[name] or 0) - exact), max(1, 1e-8 * exact), name)

    @given(st.integers(2, 5), st.integers(0, 10_000))
    def test_far_chances_are_powers(self, size: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        matrix = rng.random((size, size))
        matrix *= (1 - 1e-4 * rng.random((size, 1))) / matrix.sum(axis=1, keepdims=True)
        events = np.array([0, 1, 17, 600, 5_000, 12_345])
        found = FirstHit(math.log(0.9999), [streak(matrix)], 20_000).none_at(events)
        wanted = [np.linalg.matrix_power(matrix, int(k))[0].sum() * 0.9999**k for k in events]
        np.testing.assert_allclose(found, wanted, rtol=1e-8)

    def test_what_can_neither_be_stepped_nor_squared_is_too_large(self) -> None:
        slow = np.array([[1 - 1e-6, 1e-6], [0, 0.5]])
        stepped = Streak(lambda figure: np.asarray(slow @ figure), np.array([0.0, 0.5]))
        with self.assertRaises(TooLarge):
            _ = FirstHit(0.0, [stepped], 400).waits

    def test_what_is_come_ever_closer_to_is_never_there(self) -> None:
        """Half of the players lose the chance for good: the share that has one nears 50 %, from below."""
        found = self.waits([[0.5, 0.25], [0, 1]])
        self.assertEqual(found, {"first_50": None, "first_90": None, "first_99": None})
        # reached in one step, it is there
        self.assertEqual(self.waits([[0, 0.5], [0, 1]])["first_50"], 1)

    def test_slow_and_tiny_at_once_keep_their_digits(self) -> None:
        """Two states that hardly change, of which one never has it: squared a few dozen times."""
        move, hit = 1e-7, 1e-11
        moves = np.array([[1 - move, move], [move, 1 - move - hit]])
        found = FirstHit(0.0, [streak(moves, np.array([0.0, hit]))], 512).waits["first_50"] or 0
        # Far slower than the states mix, half of the time in each: one in 2 / hit events.
        self.assertAlmostEqual(found / (math.log(2) * 2 / hit), 1.0, delta=1e-4)
        again = FirstHit(0.0, [streak(moves.T.copy(), np.array([0.0, hit]))], 512).waits["first_50"] or 0
        self.assertEqual(found, again)


class RareDrops(unittest.TestCase):
    """A drop that hits seldom before a table that remembers: laws of their own, from textbooks."""

    def waits(self, table: dict[str, Any], chance: float) -> dict[str, int]:
        crab = {"id": "crab", "name": "Crab", "kind": "enemy"}
        drops = [{"id": "a", "table": "bits", "chance": chance}]
        made = game([table], sources=[crab | {"drops": drops}])
        found: dict[str, int] = odds(made, CRAB)["items"]["crown"]
        return found

    def test_a_guard_that_is_sure_waits_for_so_many_hits_of_the_drop(self) -> None:
        """Sure at the n-th roll, else never: the n-th success, a negative binomial law."""
        for chance, sure in ((0.3, 4), (1e-3, 100), (1e-4, 100), (1e-5, 3)):
            line = {"id": "a", "chance": 0, "guard": {"sure_at": sure}, "yields": [{"item": "crown"}]}
            found = self.waits({**each(), "lines": [line]}, chance)
            for name, q in SURE:
                exact = stats.nbinom.ppf(q, sure, chance) + sure
                self.assertLessEqual(abs(found[name] - exact), max(0, 1e-9 * exact), (chance, sure, name))

    def test_one_card_of_a_deck(self) -> None:
        """After j draws of n cards it is still in with chance 1 - j / n; j is binomial."""
        for chance, cards in ((0.5, 6), (1e-2, 61), (1e-3, 61), (1e-5, 61)):
            lines = [
                {"id": "a", "copies": 1, "yields": [{"item": "crown"}]},
                {"id": "b", "copies": cards - 1, "yields": []},
            ]
            deck = {"id": "bits", "name": "Bits", "rule": "deck", "lines": lines}
            found, drawn = self.waits(deck, chance), np.arange(cards)

            def none(events: int, chance: float = chance, cards: int = cards, drawn: Any = drawn) -> float:
                return float((stats.binom.pmf(drawn, events, chance) * (1 - drawn / cards)).sum())

            for name, q in SURE:
                exact = first_by(none, q, 10**9)
                self.assertLessEqual(abs(found[name] - exact), max(1, 1e-7 * exact), (chance, cards, name))


class Streaks(unittest.TestCase):
    @given(st.integers(1, 5), st.integers(0, 10_000), st.sampled_from([0, 1, 3, 64, 65, 200]))
    def test_leaps_end_where_steps_do(self, size: int, seed: int, events: int) -> None:
        rng = np.random.default_rng(seed)
        matrix = rng.random((size, size))
        matrix *= 0.97 / matrix.sum(axis=1, keepdims=True)
        steps = Streak(lambda figure: np.asarray(matrix @ figure), 1.0 - matrix.sum(axis=1))
        np.testing.assert_allclose(streak(matrix).had(events), steps.had(events), rtol=1e-10)

    def test_asked_again_it_goes_on(self) -> None:
        leaping = streak(np.array([[0.5]]))
        self.assertEqual(leaping.had(2).tolist(), [0.0, 0.5, 0.75])
        self.assertAlmostEqual(float(leaping.had(100)[100]), 1.0, places=15)
        self.assertEqual(leaping.had(1).shape, (2,))

    def test_a_tail_is_told_once_all_states_fall_alike(self) -> None:
        matrix = np.array([[0.5, 0.4], [0.3, 0.6]])  # both rows sum to 0.9
        tail = streak(matrix).tail(1)
        assert tail is not None
        self.assertAlmostEqual(math.exp(tail.step_log), 0.9, places=12)
        self.assertIsNone(streak(np.array([[0.5, 0.4], [0.0, 0.3]])).tail(1))


class Means(unittest.TestCase):
    """The mean wait, by each of its ways."""

    def test_of_one_chain_and_of_what_is_followed_event_by_event(self) -> None:
        moves = np.array([[0.5, 0.3], [0.1, 0.6]])
        hit = 1.0 - moves.sum(axis=1)
        stepped = Streak(lambda figure: np.asarray(moves @ figure), hit)
        for miss in (0.0, math.log(0.9)):
            wanted = np.linalg.inv(np.eye(2) - math.exp(miss) * moves).sum(axis=1)[0]
            for one in (streak(moves), stepped):
                self.assertAlmostEqual(FirstHit(miss, [one], 20_000).mean, wanted, delta=1e-9)
            both = FirstHit(miss, [streak(moves), stepped], 20_000)
            self.assertAlmostEqual(both.mean, float(both.none_by(2_000).sum()), delta=1e-9)

    def test_where_some_never_have_one(self) -> None:
        lost = streak(np.array([[0.5, 0.25], [0.0, 1.0]]), np.array([0.25, 0.0]))
        self.assertEqual(FirstHit(0.0, [lost], 20_000).mean, math.inf)
        self.assertLess(FirstHit(math.log(0.99), [lost], 20_000).mean, 100.0)
        self.assertEqual(FirstHit(math.log(0.5), [], 1).mean, 2.0)


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
        prospect = Prospect(
            Evaluator(Conditions(game([self.guarded(sure_at=8)]), [1])), View("source", "crab")
        )
        lens = prospect.columns.item(2)
        more = prospect.count_after(lens, 3_000)[0] - prospect.count_after(lens, 2_000)[0]
        self.assertAlmostEqual(more / 1_000, prospect.long_run_mean(lens), places=10)


if __name__ == "__main__":
    unittest.main()
