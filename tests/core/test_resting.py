"""Where what a player carries makes no difference before the first of a thing, and where it does."""

from __future__ import annotations

import json
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.resting import carried_to_first, carries
from tests.games import game, pick
from tests.strategies import games

CRAB = View("source", "crab")
BY = np.array([1, 2, 7, 40])


def is_carried(made: Game, *items: str) -> bool:
    under = Conditions(made, [3], frozenset())
    return carried_to_first(under, CRAB, set(items))


def limited(made: Game, *, only: str) -> Game:
    """The same without guards and decks, and limits alone on what gives one item for certain."""
    data: dict[str, Any] = json.loads(json.dumps(plain_game(made)))
    for table in data["tables"]:
        if table["rule"] == "deck":
            table["rule"] = "pick"
            table["lines"] = [{"weight": line.pop("copies", 1), **line} for line in table.get("lines", [])]
        for line in table.get("lines", []):
            line.pop("guard", None)
            if line.pop("limit", None):
                line["yields"] = [{"item": only}]
                line["limit"] = 2
    for drop in data["sources"][0]["drops"]:
        drop.pop("guard", None)
    return read_game(data)


class BeforeTheFirst(unittest.TestCase):
    @given(games(state=True), st.sampled_from(["sand", "lens"]))
    @settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
    def test_every_event_is_as_the_first(self, made: Game, item: str) -> None:
        made = limited(made, only=item)
        under = Conditions(made, [3], frozenset())
        assume(carries(under, CRAB))
        self.assertFalse(is_carried(made, item))
        prospect = Prospect(Evaluator(under), CRAB)
        column = under.item_index[item]
        try:
            none = prospect.none_at(column, BY)
        except TooLarge:
            return
        np.testing.assert_allclose(none, (1 - prospect.hit(column)) ** BY, rtol=1e-9, atol=1e-15)

    def test_what_does_make_a_difference(self) -> None:
        lens = {"yields": [{"item": "lens"}], "id": "x", "weight": 1, "limit": 1}
        for change, told in (
            ({}, False),
            ({"yields": [{"item": "lens", "quantity": {"min": 0, "max": 2}}]}, True),
            ({"yields": [{"item": "lens", "quantity": {"dice": "1d2-1"}}]}, True),
            ({"yields": [{"item": "crown"}]}, True),
            ({"yields": [{"item": "crown"}, {"item": "lens"}]}, False),
            ({"yields": []}, True),
            ({"guard": {"after": 3, "rise": 0.1}}, True),
        ):
            with self.subTest(change=change):
                table = pick((9, "sand"))
                table["lines"].append({**lens, **change})
                self.assertEqual(is_carried(game([table]), "lens"), told)

    def test_of_several_things_one_is_enough(self) -> None:
        table = pick((9, "sand"))
        table["lines"].append({"id": "x", "weight": 1, "limit": 1, "yields": [{"item": "lens"}]})
        self.assertFalse(is_carried(game([table]), "lens", "crown"))
        self.assertTrue(is_carried(game([table]), "sand"))


if __name__ == "__main__":
    unittest.main()
