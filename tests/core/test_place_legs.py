"""Legs on which players empty a place: expected, played, and set out spot by spot as written here."""

from __future__ import annotations

import random
import unittest
from typing import Any

import numpy as np

from golddice.core.errors import GameError
from golddice.core.findings import findings
from golddice.core.game.editing import Entities, removal
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.stalls import Sale
from golddice.core.sheets.place_report import place_report
from golddice.core.sheets.route_report import route_odds
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.laid import _drawn_ways, ways_of
from golddice.core.terms.places.shares import order_of, units_of
from golddice.core.terms.places.spots import place_of
from golddice.core.trial.route import course_of
from golddice.core.trial.trace import replayed
from golddice.core.trial.trial import RouteTrial, local_executor, run_trial
from golddice.core.tuning.asking import Ask
from golddice.core.tuning.proposal import propose
from golddice.core.tuning.targets import Standing, standings
from tests.core.test_places import random_place
from tests.games import game_data, pick


def with_leg(data: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A place stocked with a crab too, who drops gold; and a route that empties it twice."""
    data["items"].append({"id": "gold", "name": "Gold", "tier": "pearl", "value": 7})
    data["tables"].append(pick((1, "gold"), (3, "gold"), name="gold-table"))
    data["tables"][1]["lines"][0]["yields"][0]["quantity"] = {"min": 2, "max": 4}
    data["sources"][0]["drops"] = [{"id": "a", "table": "gold-table"}]
    stock = data["tables"][0]["lines"]
    stock[0]["yields"][0]["quantity"] = {"min": 0, "max": 3}
    stock.append({"id": "crabs", "weight": 2, "yields": [{"source": "crab"}]})
    leg = {"id": "a", "from": 1, "to": 2, "place": "p", **more}
    return {**data, "routes": [{"id": "r", "name": "R", "legs": [leg]}]}


def rolling(data: dict[str, Any], luck: random.Random) -> dict[str, Any]:
    data["places"][0] |= {"way": "each-rolls", "filled": luck.choice([0.3, 0.8, 1.0]), "least": []}
    data["tables"][0]["nothing"] = luck.choice([0, 2.5])
    return data


def ran(game: Game, players: int = 20_000) -> dict[str, Any]:
    with local_executor(2) as executor:
        return run_trial(game, RouteTrial("r", players, 5), executor)


class Emptied(unittest.TestCase):
    def games(self) -> list[Game]:
        luck, found = random.Random(12), []
        for at in range(16):
            data = with_leg(random_place(luck))
            found.append(read_game(rolling(data, luck) if at % 2 else data))
        return found

    def test_what_is_expected_is_what_lies_there(self) -> None:
        for at, game in enumerate(self.games()):
            told = route_odds(game, "r")
            self.assertEqual(told["method"], "exact", told)
            lies = place_report(game, "p", depth=1)
            with self.subTest(at):
                for name, item in lies["items"].items():
                    if name == "gold":
                        continue
                    self.assertAlmostEqual(told["stops"][0]["items"][name]["mean"], item["mean"], 9)
                    self.assertAlmostEqual(told["stops"][1]["items"][name]["mean"], 2 * item["mean"], 9)
                crabs = lies["lines"]["crabs"]["placed"]
                self.assertAlmostEqual(told["stops"][1]["events_mean"], 2 * crabs, 9)
                self.assertAlmostEqual(told["stops"][1]["seconds_mean"], 12 * crabs, 9)
                gold = (0.25 * 3 + 0.75) * crabs
                self.assertAlmostEqual(told["stops"][0]["items"]["gold"]["mean"], gold, 9)

    def test_players_fare_as_expected(self) -> None:
        scores = []
        for game in self.games():
            result = ran(game)
            for stop in result["stops"]:
                scores.append(stop["value"]["z"])
            scores += [one["z"] for one in result["items"].values()]
            for value in (stop["value"] for stop in result["stops"]):
                self.assertAlmostEqual(
                    value["sd"], value["expected_sd"], delta=0.05 * value["expected_sd"] + 1e-9
                )
        scores = [one for one in scores if one is not None]
        self.assertGreater(len(scores), 60)
        self.assertLess(float(np.mean(np.square(scores))), 1.5)
        self.assertLess(max(map(abs, scores)), 4.5)

    def test_how_many_find_a_spot_jointly(self) -> None:
        luck = random.Random(2)
        for _ in range(12):
            game = read_game(random_place(luck))
            spots = Lying(Conditions(game, [1]), place_of(game, "p"))
            ways, is_rough = ways_of(spots)
            self.assertFalse(is_rough)
            self.assertAlmostEqual(sum(ways.values()), 1.0, 12)
            units, runs = units_of(spots), 3_000
            counted: dict[tuple[int, ...], int] = {}
            for _ in range(runs):
                free, placed = set(range(len(spots.place.spots))), [0] * len(units)
                for line in order_of(spots):
                    for _ in range(units[line]):
                        able = [spot for spot in sorted(free) if spots.allowed[spot, line]]
                        if able:
                            free.remove(luck.choice(able))
                            placed[line] += 1
                counted[tuple(placed)] = counted.get(tuple(placed), 0) + 1
            self.assertLessEqual(set(counted), set(ways))
            drawn = _drawn_ways(spots, units)
            for way, chance in ways.items():
                self.assertAlmostEqual(counted.get(way, 0) / runs, chance, delta=0.05)
                self.assertAlmostEqual(drawn.get(way, 0.0), chance, delta=0.05)

    def test_limits_and_guards_of_the_stock_play_no_part(self) -> None:
        luck = random.Random(5)
        for way in ("shared-out", "each-rolls"):
            data = with_leg(random_place(luck))
            data = rolling(data, luck) if way == "each-rolls" else data
            free = route_odds(read_game(data), "r")
            data["tables"][0]["lines"][0]["limit"] = 1
            data["tables"][0]["lines"][1]["guard"] = {"after": 1, "rise": 5}
            self.assertEqual(route_odds(read_game(data), "r"), free)

    def test_flags_and_depths_open_lines(self) -> None:
        data = random_place(random.Random(5))
        data["places"][0] |= {"covers": [], "filled": 1.0, "least": []}
        for spot in data["places"][0]["spots"]:
            spot["kinds"] = []
        data = with_leg(data, gains=["has-tongs"])
        data["flags"] = [{"id": "has-tongs", "name": "Has tongs"}]
        data["routes"][0]["legs"].append({"id": "b", "from": 2, "to": 2, "place": "p"})
        data["tables"][0]["lines"][3]["needs"] = ["has-tongs"]
        data["tables"][0]["lines"][3]["weight"] = 100
        stops = route_odds(read_game(data), "r")["stops"]
        crowns = [stop["items"].get("crown", {"mean": 0.0})["mean"] for stop in stops]
        self.assertEqual(crowns[:2], [0.0, 0.0])
        self.assertGreater(crowns[2], 0.0)
        result = ran(read_game(data), 2_000)
        self.assertGreater(result["items"]["crown"]["mean"], 0.0)

    def test_too_many_ways_are_played_and_not_expected(self) -> None:
        luck, tags = random.Random(5), [f"t{at}" for at in range(12)]
        data = game_data([pick((1, "sand"))])
        data["tables"][0]["lines"] = []
        for at in range(30):
            name = f"i{at}"
            data["items"].append({"id": name, "name": name, "tier": "silt", "tags": luck.sample(tags, 3)})
            line = {"id": f"l{at}", "weight": luck.choice([1, 2, 3]), "yields": [{"item": name}]}
            data["tables"][0]["lines"].append(line)
        spots = [{"id": f"s{at}", "x": at % 20, "y": at // 20, "kinds": [tags[at % 12]]} for at in range(200)]
        place = {"id": "p", "name": "P", "size": [20, 10], "stock": "bits", "filled": 0.9, "spots": spots}
        routes = [{"id": "r", "name": "R", "legs": [{"id": "a", "from": 1, "to": 1, "place": "p"}]}]
        game = read_game({**data, "places": [place], "routes": routes})
        told = route_odds(game, "r")
        self.assertEqual(told["method"], "untold")
        self.assertIn("P can be set out in too many ways", told["why"])
        result, lies = ran(game, 4_000), place_report(game, "p")
        self.assertIsNone(result["value"].get("z"))
        for name, item in result["items"].items():
            self.assertAlmostEqual(item["mean"], lies["items"][name]["mean"], delta=0.1)
        self.assertGreater(len(result["items"]), 20)

    def test_a_replay_shows_what_was_found(self) -> None:
        game = read_game(with_leg(random_place(random.Random(8))))
        found = replayed(course_of(game, game.routes[0]), game, seed=3, player=0, first=1, count=20)
        result = ran(game, 1)
        received: dict[str, int] = {}
        for event in found.events:
            for item, count in event.received:
                received[item] = received.get(item, 0) + count
        self.assertEqual(
            {name: one["mean"] for name, one in result["items"].items() if one["mean"]}, received
        )
        words = [step["text"] for event in found.events for step in event.steps if "text" in step]
        self.assertEqual(words.count("P is set out once"), 2)


class Unsound(unittest.TestCase):
    def setUp(self) -> None:
        self.data = with_leg(random_place(random.Random(5)))

    def test_a_leg_does_one_thing(self) -> None:
        self.data["routes"][0]["legs"][0]["source"] = "crab"
        with self.assertRaises(GameError) as caught:
            read_game(self.data)
        self.assertIn("routes[0].legs[0]", str(caught.exception))
        self.assertIn("empties its place", str(caught.exception))

    def test_a_place_that_is_not_there(self) -> None:
        self.data["routes"][0]["legs"][0]["place"] = "market"
        with self.assertRaises(GameError) as caught:
            read_game(self.data)
        self.assertIn("routes[0].legs[0].place", str(caught.exception))

    def test_where_it_is_not_found(self) -> None:
        self.data["places"][0]["depths"] = [2, 4]
        told = [one.message for one in findings(read_game(self.data)) if one.kind == "route"]
        self.assertTrue(any("leg 1 empties P at depth 1, where it is not found" in one for one in told), told)

    def test_a_leg_goes_with_its_place(self) -> None:
        entities = Entities.of(read_game(self.data))
        after = entities.edited(removal(entities, "place", "p"))
        self.assertEqual(after.game().routes[0].legs, [])


class Wanted(unittest.TestCase):
    """Targets about places, stalls, and routes that empty a place."""

    def setUp(self) -> None:
        self.data = with_leg(random_place(random.Random(4)))
        self.data["stalls"] = [
            {"id": "lamp", "name": "Lamp", "stock": "gold-table", "slots": 1, "seed": 3, "way": "draw"}
        ]

    def wanting(self, figure: str, wanted: float, **more: Any) -> dict[str, Any]:
        return {
            **self.data,
            "targets": [{"id": "t", "name": "T", "figure": figure, "wanted": wanted, **more}],
        }

    def stands(self, figure: str, wanted: float = 1.0, **more: Any) -> Standing:
        return standings(read_game(self.wanting(figure, wanted, **more)))[0]

    def test_of_a_place(self) -> None:
        lies = place_report(read_game(self.data), "p", depth=1)
        mean = self.stands("mean", item="lens", place="p", depths=[1, 3])
        self.assertEqual(mean.depths, [1, 2, 3])
        self.assertAlmostEqual(mean.figures[0], lies["items"]["lens"]["mean"], 12)
        chance = self.stands("chance", item="lens", place="p")
        self.assertAlmostEqual(chance.figures[0], lies["items"]["lens"]["p_any"], 12)
        of_tier = self.stands("mean", tier="silt", place="p").figures[0]
        silt = lies["items"]["sand"]["mean"] + lies["items"]["claw"]["mean"]
        self.assertAlmostEqual(of_tier, silt, 12)
        self.assertFalse(mean.is_played)

    def test_that_nothing_is_left_over(self) -> None:
        luck, checked = random.Random(2), 0
        for _ in range(12):
            self.data = random_place(luck)
            game = read_game(self.data)
            spots = Lying(Conditions(game, [1]), place_of(game, "p"))
            units, order, runs, whole = units_of(spots), order_of(spots), 2_000, 0
            for _ in range(runs):
                free, left = set(range(len(spots.place.spots))), 0
                for line in order:
                    for _ in range(units[line]):
                        able = [spot for spot in sorted(free) if spots.allowed[spot, line]]
                        if able:
                            free.remove(luck.choice(able))
                        else:
                            left += 1
                whole += left == 0
            figure = self.stands("all-placed", place="p", depths=[1, 1]).figures[0]
            self.assertAlmostEqual(figure, whole / runs, delta=0.05)
            checked += 0 < figure < 1
        self.assertGreater(checked, 0)

    def test_of_a_stall(self) -> None:
        sale = Sale(read_game(self.data), read_game(self.data).stalls[0])
        share = self.stands("on-sale", 0.25, stall="lamp", good="a")
        self.assertAlmostEqual(share.figures[0], 0.25, 12)
        self.assertTrue(share.is_met)
        goods = [sale.on_sale(period) for period in range(400)]
        longest = run = 0
        for here in goods:
            run = 0 if "a" in here else run + 1
            longest = max(longest, run)
        self.assertEqual(self.stands("absence", 10, stall="lamp", good="a").figures, [longest])

    def test_of_a_route_that_empties_it(self) -> None:
        told = route_odds(read_game(self.data), "r")["stops"][-1]["items"]["lens"]["mean"]
        target = {"item": "lens", "route": "r"}
        self.assertAlmostEqual(self.stands("mean", **target).figures[0], told, 9)
        self.assertAlmostEqual(self.stands("mean", **target).figures[0], told, 9)
        self.data["places"][0] |= {"filled": {"count": 1}, "least": []}
        self.assertLess(self.stands("mean", **target).figures[0], told)

    def test_a_stale_answer_is_not_given_when_tags_change(self) -> None:
        before = self.stands("mean", item="lens", place="p").figures[0]
        for spot in self.data["places"][0]["spots"]:
            spot["kinds"] = ["pearls"]
        self.assertEqual(self.stands("mean", item="lens", place="p").figures[0], 0.0)
        self.data["items"][2]["tags"] = ["pearls"]
        self.assertGreater(self.stands("mean", item="lens", place="p").figures[0], 0.0)
        self.assertGreater(before, 0.0)

    def test_they_are_left_out_of_a_proposal_by_name(self) -> None:
        found = propose(read_game(self.wanting("mean", 99, item="lens", place="p")), Ask())
        self.assertIn("tuned by hand", found.untold["t"])

    def test_unsound_ones(self) -> None:
        for words, more in (
            ("of one source, table, route, place or stall", {"place": "p", "stall": "lamp"}),
            ("not told of a place", {"place": "p", "figure": "value"}),
            ("name one", {"place": "p", "figure": "chance", "tier": "silt"}),
            ("choose on-sale", {"stall": "lamp", "figure": "mean", "item": "lens"}),
            ("name it as good", {"stall": "lamp", "figure": "on-sale"}),
            ("told of a place or a stall", {"source": "crab", "figure": "all-placed"}),
            ("own depth", {"stall": "lamp", "figure": "on-sale", "good": "a", "depths": [1, 2]}),
            ("nothing is carried", {"place": "p", "item": "lens", "figure": "mean", "long_run": True}),
        ):
            with self.subTest(words), self.assertRaises(GameError) as caught:
                read_game(self.wanting(**{"figure": "mean", "wanted": 1.0, **more}))
            self.assertIn(words, str(caught.exception))

    def test_a_good_that_is_no_more(self) -> None:
        found = self.stands("on-sale", 0.25, stall="lamp", good="z")
        self.assertIn("no such good", str(found.untold))

    def test_what_it_is_about_may_go(self) -> None:
        for more in ({"place": "p", "item": "lens", "figure": "mean"}, {"stall": "lamp", "good": "a"}):
            data = self.wanting(**{"figure": "on-sale", "wanted": 1.0, **more})
            kind = "place" if "place" in more else "stall"
            entities = Entities.of(read_game(data))
            after = entities.edited(removal(entities, kind, str(more[kind]))).game()
            self.assertEqual(after.targets[0].gone, f"{kind}/{more[kind]}")
            self.assertIn("is gone", str(standings(after)[0].untold))
