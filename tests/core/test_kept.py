"""What is kept: packing, bag, purse, ground, kit, sets and properties of players who are played."""

from __future__ import annotations

import json
import math
import random
import unittest
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np

from golddice.core.errors import GameError
from golddice.core.game.models import Game, Item
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.kit.sets import Completion
from golddice.core.odds.kit.slots import Slot
from golddice.core.terms.conditions import Conditions
from golddice.core.trial.kept import proceeds
from golddice.core.trial.packing import Packing
from golddice.core.trial.route import RouteUnit, course_of
from golddice.core.trial.trace import Rolled, replayed
from golddice.core.trial.trial import RouteTrial, Trial, local_executor, run_trial
from tests.core.keeper import Box, Keeper
from tests.games import game_data, pick

PACKINGS = Path(__file__).parent / "reference" / "packing"
CRAB = View("source", "crab")


def thing(name: str, **more: Any) -> Item:
    return Item(id=name, name=name, tier="silt", **more)


def ran(game: Game, trial: Any) -> dict[str, Any]:
    with local_executor(2) as executor:
        return run_trial(game, trial, executor)


class Packings(unittest.TestCase):
    def test_every_reference_packing_to_the_cell(self) -> None:
        for path in sorted(PACKINGS.glob("*.json")):
            case = json.loads(path.read_text())
            items = {name: thing(name, **more) for name, more in case["items"].items()}
            packing, wanted = Packing(*case["cells"]), case["expect"]
            places = [packing.add(items[name]) for name, count in case["units"] for _ in range(count)]
            with self.subTest(path.name):
                self.assertEqual(places, wanted["places"])
                self.assertEqual([vars(stack) for stack in packing.stacks], wanted["stacks"])
                self.assertEqual(packing.left, wanted["does_not_fit"])
                self.assertEqual(packing.purse, wanted["purse"])
                self.assertEqual(packing.cells_used, wanted["cells_used"])

    def test_the_first_place_is_the_one_that_looking_finds(self) -> None:
        luck = random.Random(5)
        for _ in range(80):
            columns, rows = luck.choice([1, 7, 63, 64, 65, 100]), luck.randint(1, 9)
            widest = luck.choice([3, columns])
            sizes = [(luck.randint(1, widest), luck.randint(1, rows + 1)) for _ in range(4)]
            items = [
                thing(f"i-{at}", width=width, height=height, stack=luck.randint(1, 3))
                for at, (width, height) in enumerate(sizes)
            ]
            packing, box = Packing(columns, rows), Box(columns, rows)
            for _ in range(40):
                item = luck.choice(items)
                with self.subTest(columns=columns, rows=rows, item=item):
                    self.assertEqual(packing.add(item) is not None, box.add(item))
            self.assertEqual(packing.cells_used, len(box.taken))
            cells = {
                (stack.column + x, stack.row + y)
                for stack in packing.stacks
                for width, height in [sizes[int(stack.item[2:])][:: -1 if stack.turned else 1]]
                for x in range(width)
                for y in range(height)
            }
            self.assertEqual(cells, box.taken)


def rich_data(luck: random.Random) -> dict[str, Any]:
    """A random game with everything that can be kept, and a route through it."""
    table = pick(*((luck.choice([1, 2, 5]), name) for name in ("sand", "claw", "lens", "crown")), name="bits")
    table["lines"] += [
        {"id": "coin", "weight": 3, "yields": [{"item": "coin", "quantity": {"min": 1, "max": 9}}]}
    ]
    for line in table["lines"][:2]:
        line["yields"][0]["quantity"] = {"min": 0, "max": luck.randint(1, 6)}
    table["rolls"] = {"min": 1, "max": luck.randint(1, 4)}
    met = {"id": "met", "name": "Met", "rule": "pick", "rolls": {"min": 1, "max": 2}, "lines": []}
    met["lines"] = [
        {"id": "a", "weight": 2, "yields": [{"item": "sand"}, {"source": "crab"}, {"item": "lens"}]},
        {"id": "b", "weight": 1, "yields": [{"source": "chest"}]},
        {"id": "c", "weight": 1, "yields": [{"source": "stall"}]},
    ]
    data = game_data([table, met])
    data["items"].append({"id": "coin", "name": "Coin", "tier": "silt", "value": 0.1, "currency": True})
    for item in data["items"][:4]:
        item |= {"stack": luck.randint(1, 4), "width": luck.randint(1, 2), "height": luck.randint(1, 3)}
        item["value"] = luck.choice([0.29, 1, 3.7])
    data["items"][2] |= {"slot": "hand", "stats": {"reach": {"min": 1, "max": 2}}}
    data["items"][3] |= {
        "slot": "hand",
        "stats": {"reach": {"min": 0, "max": 3}, "bite": {"min": -1, "max": 1}},
    }
    data["scores"] = {"bite": -0.5}
    drops = data["sources"][0]["drops"]
    ground = {"lasts": 10, "pick_up": {"min": 1, "max": 12}, "missed": 0.2}
    data["sources"][0] |= luck.choice([{}, ground])
    data["sources"] += [
        {
            "id": "chest",
            "name": "Chest",
            "kind": "container",
            "cells": [luck.randint(1, 3), 2],
            "drops": drops,
        },
        {
            "id": "stall",
            "name": "Stall",
            "kind": "parcel",
            "price": {"item": "coin", "amount": 7},
            "drops": drops,
        },
    ]
    data["depth"]["bands"] = [{"id": "top", "name": "Top", "from": 1, "to": 9, "spawns": "met"}]
    empties: list[dict[str, Any]] = [{"sells": {"item": "coin", "share": 0.29}}, {"stores": True}, {}]
    data["routes"] = [
        {
            "id": "way",
            "name": "Way",
            "purse": {"coin": luck.randint(0, 20)},
            "bag": luck.choice([[3, 3], [6, 2], [66, 1]]),
            "legs": [
                {"id": "a", "from": 1, "to": 2, "visits": {"min": 1, "max": 3}, **luck.choice(empties)},
                {"id": "b", "from": 3, "to": 3, "source": "stall", "times": {"min": 3, "max": 5}},
                {"id": "c", "from": 3, "to": 4, "source": "crab", "times": {"min": 2, "max": 6}},
                {"id": "d", "from": 2, "to": 2, "source": "chest", "times": {"min": 1, "max": 4}},
                {"id": "e", "from": 1, "to": 1, **luck.choice(empties)},
                {"id": "f", "from": 1, "to": 1, "source": "stall", "times": {"min": 9, "max": 9}},
            ],
        }
    ]
    data["properties"] = [{"id": "breath", "name": "Breath", "base": 10, "least": 0, "most": 30}]
    data["sets"] = [
        {
            "id": "pair",
            "name": "Pair",
            "items": [{"item": "sand", "count": 3}, {"item": "crown"}],
            "effects": [{"property": "breath", "amount": 5}],
        }
    ]
    data["items"][1]["effects"] = [{"property": "breath", "amount": -4, "units": 3}]
    return data


class Players(unittest.TestCase):
    """Every player's keep, set beside the keeper's, who works from what was received alone."""

    def test_bag_purse_and_container_of_random_games(self) -> None:
        luck, seen = random.Random(7), Counter[str]()
        for _ in range(60):
            game = read_game(rich_data(luck))
            course = course_of(game, game.routes[0])
            together = RouteUnit(course, 3, 0, 4).played()
            for player in range(4):
                rolled = replayed(course, game, seed=3, player=player, count=10_000)
                keeper = kept_by(game, rolled)
                alone = RouteUnit(course, 3, player, 1).played()
                with self.subTest(game=game.routes[0], player=player):
                    self.compare(game, course.items.tolist(), keeper, alone.kept)
                    np.testing.assert_array_equal(alone.kept["purse"][0], together.kept["purse"][player])
                    np.testing.assert_array_equal(alone.kept["worn"][0], together.kept["worn"][player])
                for name in ("lost", "left", "sold", "aside", "held"):
                    seen[name] += sum(getattr(keeper, name).values())
        self.assertTrue(all(seen[name] > 100 for name in ("lost", "left", "sold", "aside", "held")), seen)

    def compare(self, game: Game, columns: list[int], keeper: Keeper, kept: Any) -> None:
        names = [game.items[at].id for at in columns]
        for told, name in (
            ("bag", "held"),
            ("lost", "lost"),
            ("left", "left"),
            ("sold", "sold"),
            ("aside", "aside"),
        ):
            wanted = [getattr(keeper, name)[item] for item in names]
            self.assertEqual(kept[f"{told}_sum"].tolist(), wanted, told)
        self.assertEqual(kept["purse"][0, -1, 0], keeper.purse["coin"])
        cells = 0 if keeper.bag is None else len(keeper.bag.taken)
        self.assertEqual(kept["cells"][0, -1], cells)
        complete = keeper.owned["sand"] >= 3 and keeper.owned["crown"] >= 1
        self.assertEqual(int(kept["complete_sum"][-1, 0]), int(complete))
        breath = 10 + 5 * complete - 4 * min(3, keeper.owned["claw"])
        self.assertAlmostEqual(kept["properties"][0, -1, 0], breath)


def kept_by(game: Game, rolled: Rolled) -> Keeper:
    """Walks a replay: what was received, what was out of reach, which purchases were refused."""
    route = game.routes[0]
    keeper, sources = Keeper(game, route), {source.id: source for source in game.sources}
    ends = np.cumsum([abs(leg.to - leg.from_) + 1 for leg in route.legs]).tolist()
    done = 0
    for event in rolled.events:
        while done < len(ends) and (event.stop or 0) >= ends[done]:
            keeper.leg_done(done)
            done += 1
        leg = route.legs[done]
        name = next((step["source"] for step in event.steps if step["kind"] == "event"), leg.source)
        source = sources[name] if event.event > 0 and name is not None else None
        if source is not None and source.price is not None:
            keeper.purse["coin"] -= 7
        missed: list[Counter[str]] = []
        for step in event.steps:
            if step["kind"] == "item":
                missed.append(Counter())
            elif step["kind"] == "missed":
                missed[-1][step["item"]] += step["count"]
            elif step["kind"] == "refused":
                assert keeper.purse["coin"] < 7
        keeper.event(source, event.received, missed)
    for rest in range(done, len(ends)):
        keeper.leg_done(rest)
    return keeper


class Exactly(unittest.TestCase):
    """Kit and sets of players who are played, beside the exact answers."""

    def test_worn_upgrades_and_completion_of_random_games(self) -> None:
        luck, scores = random.Random(11), []
        for _ in range(80):
            game, events, players = read_game(self.data(luck)), luck.randint(1, 40), 3_000
            result = ran(game, Trial(CRAB, 3, players, events, luck.randint(0, 10**6)))
            under = Conditions(game, [3])
            for name in ("hand", "foot"):
                told = result["slots"][name]
                worn, upgrades = Slot(under, CRAB, name).after(events)
                if told["worn"]["sd"] > 1e-9:
                    scores.append(
                        (told["worn"]["mean"] - worn.mean) / (told["worn"]["sd"] / math.sqrt(players))
                    )
                self.assertAlmostEqual(told["upgrades"]["mean"], upgrades, delta=0.05 + 0.1 * upgrades)
                along = sum(one["upgrades"] for one in told["along"])
                self.assertAlmostEqual(along, told["upgrades"]["mean"])
            exact = Completion(under, CRAB, game.sets[0]).after(events)
            spread = math.sqrt(exact * (1 - exact) / players)
            if spread > 0:
                scores.append((result["sets"]["pair"]["complete"] - exact) / spread)
        self.assertGreater(len(scores), 225)
        self.assertLess(np.mean(np.square(scores)), 1.5)
        self.assertLess(max(map(abs, scores)), 5)

    def data(self, luck: random.Random) -> dict[str, Any]:
        each = {"id": "each", "name": "Each", "rule": "each", "lines": []}
        names = ("sand", "claw", "lens", "crown")
        each["lines"] = [
            {"id": name, "chance": luck.choice([0.02, 0.1, 0.5]), "yields": [{"item": name}]}
            for name in names
        ]
        data = game_data([luck.choice([each, pick(*((luck.choice([1, 4]), name) for name in names))])])
        for at, item in enumerate(data["items"]):
            stats = {
                stat: {"min": luck.randint(-2, 2), "max": luck.randint(2, 5)}
                for stat in ("reach", "bite", "glow")[: luck.randint(0, 3)]
            }
            item |= {"slot": ("hand", "foot")[at % 2], "stats": stats}
        data["scores"] = {"bite": luck.choice([-1.0, 0.5, 2.0])}
        data["tiers"][1]["stat_factor"] = 1.5
        data["sets"] = [{"id": "pair", "name": "Pair", "items": [{"item": "lens"}, {"item": "sand"}]}]
        return data

    def test_which_piece_is_last(self) -> None:
        data = game_data([pick((9, "sand"), (1, "lens"))])
        data["sets"] = [{"id": "pair", "name": "Pair", "items": [{"item": "sand"}, {"item": "lens"}]}]
        one = ran(read_game(data), Trial(CRAB, 1, 20_000, 200, 3))["sets"]["pair"]
        # The first event brings one of them; the other is last.
        self.assertAlmostEqual(one["last"]["lens"], 0.9, delta=0.01)
        self.assertAlmostEqual(one["spare"], 0.9 * 9 + 0.1 / 9 - 0.0, delta=0.2)

    def test_pieces_of_one_event_share_being_the_last(self) -> None:
        both = {"id": "a", "weight": 1, "yields": [{"item": "sand"}, {"item": "lens"}]}
        data = game_data([{**pick((1, "sand")), "lines": [both]}])
        data["sets"] = [{"id": "pair", "name": "Pair", "items": [{"item": "sand"}, {"item": "lens"}]}]
        one = ran(read_game(data), Trial(CRAB, 1, 100, 3, 3))["sets"]["pair"]
        self.assertEqual(one["last"], {"sand": 0.5, "lens": 0.5})
        self.assertEqual((one["first_50"], one["spare"]), (1, 0.0))


class Luck(unittest.TestCase):
    def test_what_is_received_is_the_same_whatever_is_kept(self) -> None:
        for at in range(5):
            data = rich_data(random.Random(at))
            data["sources"][2].pop("price")
            kept = read_game(data)
            bare = {key: value for key, value in data.items() if key not in ("sets", "properties", "scores")}
            for item in bare["items"]:
                item.pop("effects", None)
            route = {key: value for key, value in data["routes"][0].items() if key not in ("bag", "purse")}
            route["legs"] = [
                {key: value for key, value in leg.items() if key not in ("sells", "stores")}
                for leg in route["legs"]
            ]
            free = read_game({**bare, "routes": [route]})
            digests = {ran(game, RouteTrial("way", 300, 5))["digest"] for game in (kept, free)}
            self.assertEqual(len(digests), 1)

    def test_a_source_by_itself_is_free_and_a_route_pays(self) -> None:
        data = rich_data(random.Random(3))
        game = read_game(data)
        alone = ran(game, Trial(View("source", "stall"), 1, 50, 10, 1))
        self.assertNotIn("purse", alone)
        self.assertEqual(alone["events"], 500)
        data["routes"][0] |= {"purse": {"coin": 7}, "legs": data["routes"][0]["legs"][-1:]}
        paid = ran(read_game(data), RouteTrial("way", 50, 1))
        self.assertEqual(paid["events"], round(50 * paid["purse"]["bought"]["stall"]["bought"]))
        self.assertEqual(paid["purse"]["bought"]["stall"]["never"], 0.0)

    def test_too_late_leaves_everything_and_missed_is_by_the_unit(self) -> None:
        data = game_data([pick((1, "sand"))])
        data["tables"][0]["lines"][0]["yields"][0]["quantity"] = {"min": 10, "max": 10}
        data["sources"][0] |= {"lasts": 5, "pick_up": {"min": 1, "max": 10}}
        late = ran(read_game(data), Trial(CRAB, 1, 20_000, 1, 3))["kept"]["items"]["sand"]
        self.assertAlmostEqual(late["missed"], 5.0, delta=0.1)
        data["sources"][0] = {**data["sources"][0], "missed": 0.3, "lasts": 100}
        some = ran(read_game(data), Trial(CRAB, 1, 20_000, 1, 3))["kept"]["items"]["sand"]
        self.assertAlmostEqual(some["missed"], 3.0, delta=0.05)
        self.assertAlmostEqual(some["missed"] + some["bag"], 10.0)

    def test_the_number_of_workers_changes_nothing(self) -> None:
        game = read_game(rich_data(random.Random(4)))
        trial = RouteTrial("way", 3_000, 5)
        results = []
        for workers in (1, 3):
            with local_executor(workers) as executor:
                results.append(run_trial(game, trial, executor))
        self.assertEqual(*results)


class Sales(unittest.TestCase):
    def test_a_share_is_of_exact_decimals(self) -> None:
        one = np.array([[100], [10]], dtype=np.int64)
        self.assertEqual(proceeds(one, [1.0], 0.29).tolist(), [29, 2])
        self.assertEqual(proceeds(one, [0.1], 1.0).tolist(), [10, 1])

    def test_more_than_whole_numbers_of_the_machine_hold(self) -> None:
        many = np.array([[10**9, 10**9]], dtype=np.int64)
        self.assertEqual(proceeds(many, [1e12, 0.123456789], 0.5).tolist(), [2**62])
        self.assertEqual(proceeds(many, [0.0, 1.1], 0.123456789).tolist(), [135802467])


class Unsound(unittest.TestCase):
    def problems(self, **more: Any) -> str:
        data = game_data([pick((1, "sand"))])
        data["items"].append({"id": "coin", "name": "Coin", "tier": "silt", "currency": True})
        with self.assertRaises(GameError) as caught:
            read_game({**data, **more})
        return "; ".join(f"{one.path}: {one.message}" for one in caught.exception.problems)

    def test_what_is_refused_names_the_place_and_the_mend(self) -> None:
        leg = {"id": "a", "from": 1, "to": 1}
        way: dict[str, Any] = {"id": "w", "name": "W", "legs": [leg]}
        parcel = {"id": "p", "name": "P", "kind": "parcel", "price": {"item": "sand", "amount": 1}}
        for words, more in {
            "routes[0].bag[0]: must be 1 or more": {"routes": [{**way, "bag": [0, 5]}]},
            "sources[0].price.item: “sand” is no money": {"sources": [parcel]},
            "routes[0].purse.sand: “sand” is no money": {"routes": [{**way, "purse": {"sand": 3}}]},
            "“lens” is no money": {"routes": [{**way, "legs": [{**leg, "sells": {"item": "lens"}}]}]},
            "sets[0].items[0].item: there is no item “whale”": {
                "sets": [{"id": "s", "name": "S", "items": [{"item": "whale"}]}]
            },
            "properties[1].id: “a” is the id of properties[0]": {
                "properties": [{"id": "a", "name": "A"}, {"id": "a", "name": "B"}]
            },
            "least 5 is more than most 1": {"properties": [{"id": "a", "name": "A", "least": 5, "most": 1}]},
            "there is no property “b”": {
                "properties": [{"id": "a", "name": "A"}],
                "sets": [{"id": "s", "name": "S", "effects": [{"property": "b", "amount": 1}]}],
            },
        }.items():
            with self.subTest(words):
                self.assertIn(words, self.problems(**more))
