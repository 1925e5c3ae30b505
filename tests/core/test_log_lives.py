"""Logs of sources at which players carry something: they are held against lives like those in the log."""

from __future__ import annotations

import itertools
import math
import random
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom, poisson

from golddice.core.exchange.logs.judging import steps
from golddice.core.exchange.logs.making import log_of_route, log_of_source
from golddice.core.exchange.logs.played import PlayedDroughts
from golddice.core.exchange.logs.streaks import none_so_long
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.lives import Asked, Lives, Paths, lived
from tests.core.test_log_figures import CRAB, Checked, rows_of
from tests.faults import DEPTH, PLAYER, TIME, Row
from tests.games import game_data, pick


def guarded(**guard: int) -> dict[str, Any]:
    table = pick((1, "sand"), (2, "claw"), nothing=12)
    table["lines"][0]["guard"] = guard
    return table


def two_depths(table: dict[str, Any]) -> Game:
    data = game_data([table])
    down = {"id": "a", "from": 1, "to": 2, "source": "crab", "times": {"min": 5, "max": 30}}
    data["routes"] = [{"id": "r", "name": "R", "legs": [down, {**down, "id": "b", "to": 1}]}]
    return read_game(data)


def rows_of_route(game: Game, players: int = 60, seed: int = 1) -> list[Row]:
    return [list(row) for row in log_of_route(game, "r", players=players, events=10_000, seed=seed)]


def lives_of(game: Game, depths: list[int], paths: Paths, replicas: int = 400) -> Lives:
    items = len(game.items)
    together = np.tile(np.arange(items), (len(depths), 1))
    asked = Asked(together, np.full((len(depths), items), 4), np.full(len(depths), -1))
    places = [(Conditions(game, [depth], frozenset()), CRAB) for depth in depths]
    return lived(places, paths, asked, replicas, 3)


class Played(unittest.TestCase):
    def test_lives_agree_with_the_exact_walk(self) -> None:
        """Means, spread, the first one; of players with different numbers of events."""
        game = read_game(game_data([guarded(after=3, rise=2, sure_at=12)]))
        counts = np.array([5, 20, 20, 60])
        lives = lives_of(game, [1], Paths(np.arange(5), np.zeros(4, dtype=np.int64), counts), 4000)
        prospect = Prospect(Evaluator(Conditions(game, [1], frozenset()), detail=False), CRAB)
        for slot, item in enumerate(lives.items):
            column = prospect.columns.item(int(item))
            due = [prospect.count_after(column, int(count)) for count in counts]
            mean, var = sum(one[0] for one in due), sum(one[1] for one in due)
            error = math.sqrt(var / lives.replicas)
            self.assertLess(abs(lives.units[0, slot] - mean), 4.5 * error)
            self.assertLess(abs(lives.units_var[0, slot] / var - 1.0), 0.1)
            had = 1.0 - float(prospect.none_at(column, np.array([4]))[0])
            tries = 4 * lives.replicas
            error = math.sqrt(tries * had * (1.0 - had))
            self.assertLess(abs(lives.had[0, slot] - tries * had), 4.5 * error)

    def test_of_a_pick_they_vary_together_as_they_should(self) -> None:
        game = read_game(game_data([pick((1, "sand"), (2, "claw"), nothing=1)]))
        lives = lives_of(game, [1], Paths(np.array([0, 1]), np.array([0]), np.array([100])), 8000)
        chances = np.array([0.25, 0.5])
        due = 100 * (np.diag(chances) - np.outer(chances, chances))
        order = [list(lives.items).index(game_item(game, one)) for one in ("sand", "claw")]
        numbers = lives.items[order]
        np.testing.assert_allclose(lives.both[0][np.ix_(numbers, numbers)], due, atol=1.5)
        self.assertAlmostEqual(float(lives.any[0]), 75.0, delta=0.3)
        self.assertAlmostEqual(float(lives.any_var[0]), 18.75, delta=1.2)

    def test_what_is_carried_goes_from_place_to_place(self) -> None:
        """At most three sands of a life, wherever they come; and who comes back goes on there."""
        table = pick((1, "sand"), nothing=1)
        table["lines"][0]["limit"] = 3
        game = two_depths(table)
        paths = Paths(np.array([0, 3]), np.array([0, 1, 0]), np.array([4, 400, 50]))
        lives = lives_of(game, [1, 2], paths)
        sand = list(lives.items).index(game_item(game, "sand"))
        self.assertAlmostEqual(float(lives.units[:, sand].sum()), 3.0, 9)
        self.assertAlmostEqual(float(lives.units[0, sand]), 2 - 1 / 16, delta=0.25)
        at = lives.droughts[0, sand]
        self.assertEqual((at.sum(), lives.droughts[1, sand].sum()), (400, 400))
        self.assertGreater(np.average(np.arange(at.size), weights=at), 45)  # the last fifty bring none

    def test_droughts_are_those_of_the_law(self) -> None:
        game = read_game(game_data([pick((1, "sand"), nothing=3)]))
        lives = lives_of(game, [1], Paths(np.arange(11), np.zeros(10, dtype=np.int64), np.full(10, 40)), 2000)
        sand = list(lives.items).index(game_item(game, "sand"))
        played = PlayedDroughts(lives.droughts[0, sand], lives.width, 10)
        for length in (5, 10, 15, 20, 25):
            due = none_so_long(0.25, length + 1, 40)[40] ** 10
            self.assertAlmostEqual(played.at_most(length), due, delta=0.02)
        beyond = 1 - none_so_long(0.25, 32, 40)[40] ** 10  # hardly one of 20 000 lives is there
        self.assertLess(abs(math.log((1 - played.at_most(31)) / beyond)), 1.0)

    def test_nothing_is_longer_than_a_promise(self) -> None:
        lives = np.array([10.0, 50.0, 900.0])
        self.assertEqual(PlayedDroughts(lives, 1, 1000).at_most(2), 1.0)
        self.assertAlmostEqual(PlayedDroughts(lives, 1, 2).at_most(1), (60 / 960) ** 2)


class Steps(unittest.TestCase):
    @given(st.floats(0.001, 0.999), st.integers(1, 400), st.data())
    def test_no_surprise_where_there_is_none(self, chance: float, tries: int, data: st.DataObject) -> None:
        """Never less than a quarter of what is true, of a sum of ones; a half of the cases and more do not
        reach it."""
        hits = data.draw(st.integers(0, tries))
        off, var = hits - tries * chance, tries * chance * (1 - chance)
        true = binom.sf(hits - 1, tries, chance) if off > 0 else binom.cdf(hits, tries, chance)
        self.assertGreaterEqual(steps(off, var, 1.0) + 1e-12, true / 4)

    def test_a_rare_one_more(self) -> None:
        self.assertAlmostEqual(steps(0.99, 0.01, 1.0), 2 * float(poisson.sf(0, 0.01)))
        self.assertAlmostEqual(steps(4.95, 0.25, 5.0), 2 * float(poisson.sf(0, 0.01)))
        self.assertEqual((steps(0.0, 0.0, 1.0), steps(1.0, 0.0, 1.0)), (1.0, 0.0))


class Told(Checked):
    def test_all_is_told_where_something_is_carried(self) -> None:
        game = read_game(game_data([guarded(after=3, rise=2)]))
        found = self.place(game, rows_of(game))
        self.assertEqual((found["verdict"], found["played"]), ("agrees", 200))
        self.assertGreater(found["any"]["expected"], 400)
        self.assertEqual(found["together"]["of"], 2)
        for item in found["items"]:
            self.assertLessEqual(item["drought"]["due"][0], item["drought"]["longest"])
            self.assertGreater(item["power"], 0.05)

    def test_right_counts_in_the_wrong_order_are_seen(self) -> None:
        """All of a player's sands in a row: no rate tells, the drought does."""
        game = read_game(game_data([guarded(after=3, rise=2)]))
        rows = rows_of(game)
        turned: list[Row] = []
        for _, mine in itertools.groupby(rows, key=lambda row: row[PLAYER]):
            player = list(mine)
            times = [row[TIME] for row in player]
            player.sort(key=lambda row: row[-2] != "sand")
            turned += [[row[0], time, *row[2:]] for row, time in zip(player, times, strict=True)]
        item = next(one for one in self.place(game, turned)["items"] if one["item"] == "sand")
        self.assertEqual((item["drought"]["verdict"], item["verdict"]), ("differs", "differs"))
        self.assertLess(abs(item["z"]), 3)

    def test_many_numbers_of_events_and_several_depths_are_told(self) -> None:
        table = guarded(after=3, rise=2)
        table["lines"][1]["limit"] = 4
        game = two_depths(table)
        rows = rows_of_route(game)
        found = self.check(game, rows)
        self.assertEqual([one["verdict"] for one in found["sources"]], ["agrees", "agrees"])
        for place in found["sources"]:
            self.assertTrue(place["told"])
            self.assertTrue(all(one["drought"] for one in place["items"] if one["expected"] > 5))
        # Had what was carried not come along, more of what is limited would be due at the second depth.
        claw = [next(i for i in one["items"] if i["item"] == "claw") for one in found["sources"]]
        self.assertLess(sum(one["expected"] for one in claw), 4.0 * 60 + 1e-6)
        deep = [row for row in rows if row[DEPTH] == 2]
        alone = self.check(game, deep)["sources"][0]
        there = next(one for one in alone["items"] if one["item"] == "claw")
        self.assertGreater(there["expected"], 1.5 * claw[1]["expected"])

    def test_forty_one_numbers_of_events(self) -> None:
        game = read_game(game_data([guarded(sure_at=8)]))
        made = [
            [f"{player}-{row[0]}", row[1], player, *row[3:]]
            for player in range(45)
            for row in log_of_source(
                game, "crab", depth=1, flags=(), players=1, events=20 + player, seed=player
            )
        ]
        found = self.place(game, made)
        self.assertEqual((found["told"], found["verdict"]), (True, "agrees"))

    def test_different_lines_of_one_pick_are_held_together(self) -> None:
        table = pick((5, "sand"), (3, "claw"), (2, "lens"), nothing=4) | {
            "distinct": True,
            "rolls": {"min": 2, "max": 2},
        }
        game = read_game(game_data([table]))
        found = self.place(game, rows_of(game))
        self.assertEqual((found["together"]["of"], found["together"]["verdict"]), (3, "agrees"))
        self.assertIsNotNone(found["items"][0]["chance"])
        with_repeats = read_game(game_data([{**table, "distinct": False}]))
        self.assertEqual(self.place(game, rows_of(with_repeats))["together"]["verdict"], "differs")

    def test_logs_without_a_fault_agree(self) -> None:
        """At most one in twenty may say anything; of these at most two of twelve."""
        luck, says = random.Random(11), 0
        for seed in range(12):
            table = guarded(after=luck.randint(0, 4), rise=luck.choice([1, 5, 20]))
            table["lines"][1]["limit"] = luck.randint(1, 10)
            game = two_depths(table)
            says += not self.check(game, rows_of_route(game, players=30, seed=seed))["agrees"]
        self.assertLessEqual(says, 2)


def game_item(game: Game, name: str) -> int:
    return [one.id for one in game.items].index(name)


if __name__ == "__main__":
    unittest.main()
