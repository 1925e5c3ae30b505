"""A log of one source at many depths: what each depth is too short to show, all together show."""

from __future__ import annotations

import unittest
from typing import Any

from golddice.core.exchange.logs.making import log_of_route
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from tests.core.test_log_figures import Checked
from tests.faults import Row
from tests.games import game_data, pick

DEPTHS = 5


def made(table: dict[str, Any], times: int, **more: Any) -> Game:
    """A route through five depths, so many events at each."""
    data = game_data([table], **more)
    leg = {"id": "a", "from": 1, "to": DEPTHS, "source": "crab", "times": {"min": times, "max": times}}
    data["routes"] = [{"id": "r", "name": "R", "legs": [leg]}]
    return read_game(data)


def rows_of(game: Game, players: int, seed: int = 1) -> list[Row]:
    found = log_of_route(game, "r", players=players, events=10_000, seed=seed)
    return [list(row) for row in found]


def deck() -> dict[str, Any]:
    lines = [
        {"id": "a", "copies": 3, "yields": [{"item": "sand"}]},
        {"id": "b", "copies": 6, "yields": [{"item": "claw"}]},
        {"id": "c", "copies": 1, "yields": [{"item": "lens"}]},
    ]
    return {"id": "bits", "name": "Bits", "rule": "deck", "lines": lines}


class Pooled(Checked):
    def one(self, game: Game, rows: list[Row]) -> tuple[dict[str, Any], set[str]]:
        """What is said of the source as a whole, and what of its depths."""
        found = self.check(game, rows)
        self.assertEqual(len(found["sources"]), DEPTHS)
        (pooled,) = found["pooled"]
        self.assertEqual((pooled["depth"], pooled["events"]), (None, found["events"]))
        return pooled, {one["verdict"] for one in found["sources"]}

    def test_a_quantity_that_is_twice_as_likely(self) -> None:
        """3 of 1 to 3 comes twice as often as each of the others: a mean of 2.25 for 2."""
        fair = made(pick((1, "sand 1-3"), name="t", nothing=1), 2)
        unfair = made(pick((1, "sand 1-2"), (1, "sand 3"), name="t", nothing=2), 2)
        rows = rows_of(unfair, 130)
        pooled, each = self.one(fair, rows)
        self.assertEqual((pooled["verdict"], each), ("differs", {"agrees"}))
        (item,) = pooled["items"]
        self.assertGreater(item["z"], 4)
        self.assertAlmostEqual(item["expected"], 1300 * 0.5 * 2)

    def test_a_deck_that_is_none(self) -> None:
        """The same shares, drawn anew each time: as many of each, but not in each ten."""
        table = deck()
        lines = [
            {"id": line["id"], "weight": line["copies"], "yields": line["yields"]} for line in table["lines"]
        ]
        drawn = {"id": "bits", "name": "Bits", "rule": "pick", "lines": lines}
        fair = made(table, 4)
        pooled, each = self.one(fair, rows_of(made(drawn, 4), 12, 3))
        self.assertEqual((pooled["verdict"], "differs" in each), ("differs", False))
        self.assertIsNotNone(pooled["played"])

    def test_sound_logs_agree(self) -> None:
        """Decks, quantities, what is closed at some depths: at most one of twelve says anything."""
        says = 0
        curve = {"id": "c", "name": "C", "points": [[1, 1.0], [5, 3.0]]}
        scaled = pick((1, "sand 1-3"), (2, "claw"), name="t", nothing=1)
        scaled["lines"][0]["curve"] = "c"
        scaled["lines"][1]["depths"] = [2, 4]
        limited = pick((1, "sand 1-3"), (2, "claw"), nothing=1)
        limited["lines"][1] |= {"limit": 3, "depths": [1, 3]}
        for seed in range(4):
            for table, more in ((deck(), {}), (scaled, {"curves": [curve]}), (limited, {})):
                game = made(table, 6, **more)
                found = self.check(game, rows_of(game, 30, seed))
                says += not found["agrees"]
                if table is not limited:  # of which one place by itself carries nothing
                    self.assertEqual(len(found["pooled"]), 1)
        self.assertLessEqual(says, 1)

    def test_what_is_due_is_the_sum_of_its_depths(self) -> None:
        game = made(pick((1, "sand 1-3"), (2, "claw"), name="t", nothing=1), 6)
        found = self.check(game, rows_of(game, 20))
        for item in found["pooled"][0]["items"]:
            parts = [next(i for i in one["items"] if i["item"] == item["item"]) for one in found["sources"]]
            self.assertAlmostEqual(item["expected"], sum(one["expected"] for one in parts))
            self.assertEqual(item["observed"], sum(one["observed"] for one in parts))
            self.assertEqual(item["with_any"], sum(one["with_any"] for one in parts))

    def test_one_depth_is_not_told_twice(self) -> None:
        data = game_data([pick((1, "sand"), name="t", nothing=1)])
        leg = {"id": "a", "from": 2, "to": 2, "source": "crab", "times": {"min": 9, "max": 9}}
        data["routes"] = [{"id": "r", "name": "R", "legs": [leg]}]
        game = read_game(data)
        self.assertEqual(self.check(game, rows_of(game, 9))["pooled"], [])


if __name__ == "__main__":
    unittest.main()
