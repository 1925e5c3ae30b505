"""What is expected along a route: reference cases, and what can be written out by hand."""

from __future__ import annotations

import json
import math
import unittest
from pathlib import Path
from typing import Any

from golddice.core.errors import QueryError, TooLarge, UnknownThing
from golddice.core.game.mentions import mentions, without
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.route_report import route_odds
from golddice.core.terms.conditions import Conditions
from tests.games import game_data, pick

FOLDER = Path(__file__).parent / "reference" / "runs"


def leg(name: str, low: int, high: int, **more: Any) -> dict[str, Any]:
    return {"id": name, "from": low, "to": high, **more}


def events(source: str, count: int, name: str = "a", depth: int = 1) -> dict[str, Any]:
    return leg(name, depth, depth, source=source, times={"min": count, "max": count})


class Reference(unittest.TestCase):
    def test_every_stop_of_every_route(self) -> None:
        asked = 0
        for path in sorted(FOLDER.glob("*.expected.json")):
            case = json.loads(path.read_text())
            game = read_game(json.loads((FOLDER / case["game"]).read_text()))
            for query in case["queries"]:
                with self.subTest(case["game"], route=query["route"]):
                    self.agree(route_odds(game, query["route"]), query["expect"])
                asked += 1
        self.assertEqual(asked, 9)

    def agree(self, got: Any, wanted: Any, path: str = "") -> None:
        if isinstance(wanted, dict):
            for key, value in wanted.items():
                self.agree(got[key], value, f"{path}.{key}")
        elif isinstance(wanted, list):
            self.assertEqual(len(got), len(wanted), path)
            for at, value in enumerate(wanted):
                self.agree(got[at], value, f"{path}[{at}]")
        elif isinstance(wanted, str):
            self.assertEqual(got, wanted, path)
        else:
            room = 1e-9 * abs(wanted) if wanted else 1e-7 if path.endswith("sd") else 1e-12
            self.assertLessEqual(abs(got - wanted), room, f"{path}: {got} for {wanted}")

    def test_games_with_routes_are_written_as_they_are_read(self) -> None:
        for path in sorted(FOLDER.glob("*.golddice.json")):
            game = read_game(json.loads(path.read_text()))
            self.assertEqual(read_game(plain_game(game)), game)


class ByHand(unittest.TestCase):
    def made(self, *legs: dict[str, Any], table: dict[str, Any] | None = None, **route: Any) -> Game:
        data = game_data([table or pick((1, "sand"), name="t", nothing=1)])
        data["flags"] = [{"id": "lit", "name": "Lit"}]
        data["routes"] = [{"id": "way", "name": "Way", "legs": list(legs), **route}]
        return read_game(data)

    def value(self, game: Game) -> dict[str, Any]:
        return dict(route_odds(game, "way")["stops"][-1]["value"])

    def test_one_stop_is_so_many_events(self) -> None:
        guarded = pick((3, "sand"), (1, "lens"), name="t", nothing=6)
        guarded["lines"][1]["guard"] = {"after": 2, "rise": 0.5, "sure_at": 9}
        game = self.made(events("crab", 37), table=guarded)
        prospect = Prospect(Evaluator(Conditions(game, [1]), detail=False), View("source", "crab"))
        mean, var = prospect.value_after(37)
        found = self.value(game)
        self.assertAlmostEqual(found["mean"], mean, delta=1e-9 * mean)
        self.assertAlmostEqual(found["sd"], math.sqrt(var), delta=1e-9 * math.sqrt(var))

    def test_a_spread_far_smaller_than_the_mean(self) -> None:
        """Coins for certain, and once a lens that shares the roll: however many coins, the lens alone varies,
        in one stop, over two stops and without a route."""
        events_, chance = 100, 0.01
        once = 1 - (1 - chance) ** events_
        wanted = math.sqrt(once * (1 - once))
        for coins in (1, 10**6, 10**9):
            table = pick((1 - chance, f"sand {coins}"), (chance, f"sand {coins}"), name="t", nothing=0)
            table["lines"][1]["yields"].append({"item": "lens"})
            table["lines"][1]["limit"] = 1
            legs = (events("crab", events_), events("crab", events_ // 2), events("crab", events_ // 2, "b"))
            for way in (legs[:1], legs[1:]):
                data = plain_game(self.made(*way, table=table))
                worth = next(item["value"] for item in data["items"] if item["id"] == "lens")
                stop = route_odds(read_game(data), "way")["stops"][-1]
                self.assertAlmostEqual(stop["items"]["lens"]["sd"], wanted, delta=1e-12)
                self.assertAlmostEqual(stop["value"]["sd"], worth * wanted, delta=1e-9 * worth)
                self.assertEqual(stop["items"]["sand"]["sd"], 0.0)
            ahead = Prospect(
                Evaluator(Conditions(read_game(data), [1]), detail=False), View("source", "crab")
            )
            self.assertAlmostEqual(
                math.sqrt(ahead.value_after(events_)[1]), worth * wanted, delta=1e-9 * worth
            )

    def test_drops_share_how_often_their_source_is_met(self) -> None:
        """Two coins an event, 0 to 2 events: 0, 2 or 4 coins."""
        data = plain_game(self.made(leg("a", 1, 1, source="crab", times={"min": 0, "max": 2})))
        data["tables"][0] = pick((1, "sand"), name="t", nothing=0)
        data["sources"][0]["drops"] = [{"id": one, "table": "t", "chance": 1} for one in "ab"]
        stop = route_odds(read_game(data), "way")["stops"][-1]
        for told in (stop["value"], stop["items"]["sand"], stop["tiers"]["silt"]):
            self.assertAlmostEqual(told["mean"], 2.0, delta=1e-12)
            self.assertAlmostEqual(told["sd"], math.sqrt(8 / 3), delta=1e-12)

    def test_drops_of_a_visit_share_it_too(self) -> None:
        visit = leg("a", 1, 1, visits={"min": 1, "max": 1})
        data = plain_game(self.made())
        data["tables"] = [
            pick((1, "sand"), name="t", nothing=0),
            {
                **pick(name="who", nothing=0),
                "lines": [{"id": "x", "weight": 1, "yields": [{"source": "crab"}]}],
            },
        ]
        data["sources"][0]["drops"] = [{"id": one, "table": "t", "chance": 1} for one in "ab"]
        band = {"id": "top", "name": "Top", "from": 1, "to": 10, "spawns": "who"}
        data["depth"]["bands"] = [{**band, "encounters": {"min": 0, "max": 2}}]
        data["routes"][0]["legs"] = [visit]
        stop = route_odds(read_game(data), "way")["stops"][-1]
        self.assertAlmostEqual(stop["value"]["sd"], math.sqrt(8 / 3), delta=1e-12)

    def test_it_does_not_matter_how_legs_are_cut(self) -> None:
        deck = {
            "id": "t",
            "name": "T",
            "rule": "deck",
            "lines": [
                {"id": "a", "copies": 2, "yields": [{"item": "lens"}]},
                {"id": "b", "copies": 3, "yields": []},
            ],
        }
        whole = self.value(self.made(events("crab", 13), table=deck))
        parts = self.value(self.made(events("crab", 6, "a"), events("crab", 7, "b"), table=deck))
        self.assertAlmostEqual(whole["mean"], parts["mean"], delta=1e-9)
        self.assertAlmostEqual(whole["sd"], parts["sd"], delta=1e-9)

    def test_a_limit_is_one_for_all_legs(self) -> None:
        once = pick((1, "lens"), name="t", nothing=0)
        once["lines"][0]["limit"] = 1
        game = self.made(events("crab", 3, "a"), events("crab", 3, "b"), table=once)
        stops = route_odds(game, "way")["stops"]
        self.assertEqual([stop["items"]["lens"] for stop in stops], [{"mean": 1.0, "sd": 0.0}] * 2)

    def test_a_purse_that_may_be_too_small_is_said(self) -> None:
        data = plain_game(self.made(events("crab", 5)))
        data["items"][0]["currency"] = True
        data["sources"][0]["price"] = {"item": data["items"][0]["id"], "amount": 10}
        data["routes"][0]["purse"] = {data["items"][0]["id"]: 50}
        self.assertEqual(route_odds(read_game(data), "way")["method"], "exact")
        data["routes"][0]["purse"] = {data["items"][0]["id"]: 49}
        found = route_odds(read_game(data), "way")
        self.assertEqual(found["method"], "untold")
        self.assertIn("50 could be spent", found["why"])
        self.assertEqual(found["stops"], [{"leg": "a", "depth": 1}])

    def test_a_route_without_legs_and_one_that_is_not_there(self) -> None:
        self.assertEqual(route_odds(self.made(), "way")["stops"], [])
        with self.assertRaises(UnknownThing):
            route_odds(self.made(), "nowhere")

    def test_a_leg_that_leaves_the_game_is_named(self) -> None:
        with self.assertRaisesRegex(QueryError, "leg “far” of “way” goes to depth"):
            route_odds(self.made(leg("far", 5000, 5001)), "way")

    def test_too_many_stops_are_refused(self) -> None:
        legs = [leg(f"l{at}", 1, 10_000) for at in range(2)]
        with self.assertRaisesRegex(TooLarge, "20,000 stops"):
            route_odds(self.made(*legs), "way")


class Naming(unittest.TestCase):
    def test_what_a_route_names_is_cut_out_of_it_when_it_goes(self) -> None:
        body = {
            "id": "way",
            "flags": ["lit"],
            "purse": {"brass": 5, "sand": 1},
            "legs": [
                {**events("crab", 1), "gains": ["lit"]},
                leg("b", 1, 1, sells={"item": "brass", "share": 0.5}),
            ],
        }
        self.assertEqual(
            [(one.kind, one.target, one.path) for one in mentions("route", body)],
            [
                ("flag", "lit", "flags[0]"),
                ("item", "brass", "purse.brass"),
                ("item", "sand", "purse.sand"),
                ("source", "crab", "legs[0].source"),
                ("flag", "lit", "legs[0].gains[0]"),
                ("item", "brass", "legs[1].sells.item"),
            ],
        )
        kept = without("route", body, "item", "brass")
        self.assertEqual(kept["purse"], {"sand": 1})
        self.assertNotIn("sells", kept["legs"][1])
        self.assertEqual([one["id"] for one in without("route", body, "source", "crab")["legs"]], ["b"])
        self.assertEqual(without("route", body, "flag", "lit")["legs"][0]["gains"], [])


if __name__ == "__main__":
    unittest.main()
