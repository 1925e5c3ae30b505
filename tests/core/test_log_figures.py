"""What a log shows beyond rates: waits, droughts, anything at all, all things at once."""

from __future__ import annotations

import itertools
import random
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import log_of_source
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.logs.streaks import Followed, drought, longest_drought, none_so_long
from golddice.core.exchange.logs.together import Either, chi_square
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from tests.faults import EVENT, ITEM, PLAYER, TIME, Row, held, random_game
from tests.games import game_data, pick

CRAB = View("source", "crab")


def rows_of(game: Game, players: int = 40, events: int = 60, seed: int = 1) -> list[Row]:
    made = log_of_source(game, "crab", depth=1, flags=(), players=players, events=events, seed=seed)
    return [list(row) for row in made]


class Checked(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "log.csv"

    def place(self, game: Game, rows: list[Row]) -> dict[str, Any]:
        found: dict[str, Any] = self.check(game, rows)["sources"][0]
        return found

    def check(self, game: Game, rows: list[Row]) -> dict[str, Any]:
        return held(game, rows, self.path)


class Together(Checked):
    def test_either_of_two_is_their_chance_in_a_tier_of_their_own(self) -> None:
        luck = random.Random(5)
        for _ in range(12):
            game = random_game(luck)
            items = [one.id for one in game.items if one.id.startswith("i")]
            under = Conditions(game, [1], frozenset())
            either = Either(under, np.arange(len(items))).of(View("source", "eel"))
            assert either is not None
            for one, other in itertools.combinations(range(len(items)), 2):
                self.assertAlmostEqual(
                    either[one, other], self.in_a_tier(game, {items[one], items[other]}), 12
                )
            for one, item in enumerate(items):
                self.assertAlmostEqual(either[one, one], self.in_a_tier(game, {item}), 12)

    def in_a_tier(self, game: Game, items: set[str]) -> float:
        data = game.model_dump(mode="json", exclude_defaults=True, by_alias=True)
        data["tiers"].append({"id": "own", "name": "Own"})
        for item in data["items"]:
            item["tier"] = "own" if item["id"] in items else "t"
        prospect = Prospect(Evaluator(Conditions(read_game(data), [1], frozenset())), View("source", "eel"))
        return prospect.hit(prospect.columns.tier(1))

    def test_of_a_pick_it_is_pearsons(self) -> None:
        game = read_game(game_data([pick((5, "sand"), (3, "claw"), (2, "lens"))]))
        under = Conditions(game, [1], frozenset())
        items = np.array([under.item_index[one] for one in ("sand", "claw", "lens")])
        hits, due = np.array([530, 270, 200]), np.array([500, 300, 200])
        told = chi_square(under, CRAB, items, hits, 1000)
        assert told is not None
        self.assertEqual(told[0]["of"], 2)
        self.assertAlmostEqual(told[0]["value"], float(((hits - due) ** 2 / due).sum()))
        self.assertAlmostEqual(told[1], float(np.exp(-told[0]["value"] / 2)))  # of two degrees of freedom

    def test_what_never_comes_together_is_seen(self) -> None:
        game = read_game(game_data([pick((1, "sand"), (1, "claw"))]))
        rows = rows_of(game)
        self.assertEqual(self.place(game, rows)["together"]["verdict"], "agrees")
        both = [[*row[:ITEM], "claw" if row[ITEM] == "sand" else "sand", 1] for row in rows[:20]]
        found = self.place(game, sorted([*rows, *both], key=lambda row: row[EVENT]))
        self.assertEqual((found["together"]["value"], found["together"]["verdict"]), (None, "differs"))

    def test_many_small_differences_are_one_large_one(self) -> None:
        names = [f"i{at}" for at in range(10)]
        data = game_data([pick(*((1, name) for name in names))])
        data["items"] = [{"id": one, "name": one, "tier": data["tiers"][0]["id"]} for one in names]
        game = read_game(data)
        many = [100 + (22 if at % 2 else -22) for at in range(10)]  # of each 100 are due, give or take 9.6
        told = [name for name, count in zip(names, many, strict=True) for _ in range(count)]
        rows = [[str(at), at, at, "crab", "", 1, "", item, 1] for at, item in enumerate(told)]
        found = self.place(game, rows)
        self.assertEqual({item["verdict"] for item in found["items"]}, {"agrees"})
        self.assertEqual(found["together"]["verdict"], "differs")

    def test_every_line_by_itself_instead_of_one_is_named(self) -> None:
        """The rate of each thing is the same either way; how often nothing comes is not."""
        table = pick((2, "sand"), (3, "claw"), (1, "lens"), nothing=4)
        lines = [
            {**{key: value for key, value in line.items() if key != "weight"}, "chance": line["weight"] / 10}
            for line in table["lines"]
        ]
        wrong = {"id": table["id"], "name": table["name"], "rule": "each", "lines": lines}
        found = self.place(read_game(game_data([table])), rows_of(read_game(game_data([wrong]))))
        self.assertEqual({item["verdict"] for item in found["items"]}, {"agrees"})
        self.assertEqual(found["any"]["verdict"], "differs")
        self.assertEqual((found["better"][0]["id"], found["better"][0]["each"]), ("crab", table["id"]))


class Streaks(Checked):
    @given(st.floats(0.05, 0.95), st.integers(1, 5), st.integers(0, 9))
    def test_no_run_so_long_agrees_with_all_there_are(self, hit: float, run: int, tries: int) -> None:
        due = 0.0
        for way in itertools.product((0, 1), repeat=tries):
            longest = max((len(list(one)) for miss, one in itertools.groupby(way) if miss == 0), default=0)
            due += (longest < run) * hit ** sum(way) * (1 - hit) ** (tries - sum(way))
        self.assertAlmostEqual(none_so_long(hit, run, tries)[tries], due, 12)

    @given(st.lists(st.lists(st.booleans(), min_size=1, max_size=12), min_size=1, max_size=6))
    def test_the_longest_is_that_of_one_player(self, players: list[list[bool]]) -> None:
        counts = np.array([len(one) for one in players])
        known = Followed(np.arange(counts.sum()), np.cumsum(counts) - counts, counts)
        has = np.array([one for player in players for one in player])
        runs = [len(list(one)) for way in players for hit, one in itertools.groupby(way) if not hit]
        self.assertEqual(longest_drought(known, np.flatnonzero(has)), max(runs, default=0))

    def test_droughts_that_are_due_come(self) -> None:
        """Of 400 drawn here, nine in ten are within what is told, and p is as often small as it should."""
        luck, within, small = np.random.default_rng(3), 0, 0
        counts = np.array([30, 50, 80] * 4)
        known = Followed(np.arange(counts.sum()), np.cumsum(counts) - counts, counts)
        for _ in range(400):
            told, p = drought(0.08, known, np.flatnonzero(luck.random(counts.sum()) < 0.08))
            within += told["due"][0] <= told["longest"] <= told["due"][1]
            small += p < 0.05
        self.assertGreater(within, 350)
        self.assertLess(small, 30)

    def test_the_right_rate_in_the_wrong_order_is_seen(self) -> None:
        """As many sands as are due, all of them in a player's first events."""
        game = read_game(game_data([pick((3, "sand"), nothing=7)]))
        rows = rows_of(game)
        self.assertEqual(self.place(game, rows)["verdict"], "agrees")
        by_player = [[row for row in rows if row[PLAYER] == player] for player in range(40)]
        for mine in by_player:
            given = sorted((row[ITEM:] for row in mine), key=lambda one: one[0] == "")
            for row, what in zip(mine, given, strict=True):
                row[ITEM:] = what
        item = self.place(game, [row for mine in by_player for row in mine])["items"][0]
        self.assertAlmostEqual(item["chance"], 0.3)
        self.assertEqual((item["wait"]["within"], item["wait"]["players"]), (2, 40))
        self.assertEqual(item["wait"]["verdict"], "differs")
        self.assertEqual(item["drought"]["verdict"], "differs")
        self.assertGreater(item["drought"]["longest"], item["drought"]["due"][1])

    def test_order_is_that_of_time_not_of_the_file(self) -> None:
        game = read_game(game_data([pick((1, "sand"), nothing=9)]))
        rows = rows_of(game)
        item = self.place(game, rows)["items"][0]
        by_item = self.place(game, sorted(rows, key=lambda row: (row[ITEM], row[PLAYER])))["items"][0]
        self.assertEqual(by_item, item)
        for row in rows:
            row[TIME] = ""
        untold = self.place(game, rows)["items"][0]
        self.assertEqual((untold["wait"], untold["drought"]), (None, None))

    def test_a_promise_shortens_the_wait_that_is_due(self) -> None:
        table = pick((1, "sand"), nothing=9)
        table["lines"][0]["guard"] = {"after": 1, "rise": 5}
        guarded, bare = read_game(game_data([table])), read_game(game_data([pick((1, "sand"), nothing=9)]))
        item = self.place(guarded, rows_of(guarded))["items"][0]
        self.assertEqual((item["wait"]["verdict"], item["drought"]["verdict"]), ("agrees", "agrees"))
        self.assertLess(item["wait"]["within"], 7)
        without = self.place(guarded, rows_of(bare, players=100, events=10))["items"][0]
        self.assertEqual(without["wait"]["verdict"], "differs")


class Large(Checked):
    def test_places_share_out_all_rows(self) -> None:
        """Places in any order in the file tell the same as one after another."""
        data = game_data([pick((1, "sand"), (1, "claw"), nothing=2)])
        data["sources"].append({**data["sources"][0], "id": "eel", "name": "Eel"})
        game, luck = read_game(data), random.Random(2)
        rows = rows_of(game)
        rows += [[f"e{row[EVENT]}", *row[1:3], "eel", *row[4:5], 2, *row[6:]] for row in rows]
        whole = held(game, rows, self.path)["sources"]
        luck.shuffle(rows)
        self.assertEqual(held(game, rows, self.path)["sources"], whole)
        self.assertEqual([one["events"] for one in whole], [2400, 2400])

    def test_a_log_is_read_from_its_file(self) -> None:
        game = read_game(game_data([pick((1, "sand"))]))
        held(game, rows_of(game, players=2, events=3), self.path)
        self.assertEqual(check_log(game, read_log(game, self.path))["events"], 6)
