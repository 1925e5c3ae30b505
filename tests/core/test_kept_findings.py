"""Findings about what is kept: each seen where it holds, and gone when it is mended."""

from __future__ import annotations

import copy
import math
import unittest
from typing import Any

from golddice.core.errors import GameError
from golddice.core.findings import findings
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.odds.kit.slots import Slot
from golddice.core.sheets.kept.parcel import parcel
from golddice.core.terms.conditions import Conditions
from golddice.core.tuning import standings
from golddice.core.tuning.asking import Ask
from golddice.core.tuning.proposal import propose
from tests.games import each, game_data, pick


def told(data: dict[str, Any]) -> list[str]:
    return [one.message for one in findings(read_game(data))]


class Found(unittest.TestCase):
    def setUp(self) -> None:
        self.data = game_data([pick((1, "sand"), (1, "claw"), (1, "lens"), (1, "crown"))])
        self.data["items"].append(
            {"id": "coin", "name": "Coin", "tier": "silt", "value": 1, "currency": True}
        )

    def sees(self, words: str, data: dict[str, Any]) -> None:
        self.assertTrue(any(words in one for one in told(data)), (words, told(data)))

    def sees_not(self, words: str, data: dict[str, Any]) -> None:
        self.assertFalse(any(words in one for one in told(data)), told(data))

    def test_a_set_with_a_piece_nobody_can_receive_and_its_mend(self) -> None:
        pieces = [{"item": "sand"}, {"item": "coin"}]
        self.data["sets"] = [{"id": "pair", "name": "Pair", "items": pieces}]
        game = read_game(self.data)
        [found] = [one for one in findings(game) if one.kind == "set"]
        self.assertEqual(found.path, "sets[0].items[1]")
        assert found.mend is not None
        entries = [Entry(one["kind"], one["id"], one["body"]) for one in found.mend.entries]
        mended = Entities.of(game).edited(entries).game()
        self.assertEqual([piece.item for piece in mended.sets[0].items], ["sand"])
        self.assertFalse([one for one in findings(mended) if one.kind == "set"])

    def test_properties_beyond_their_bounds(self) -> None:
        effect = {"property": "breath", "amount": 40, "units": 3}
        self.data["properties"] = [{"id": "breath", "name": "Breath", "base": 60, "most": 100}]
        self.data["items"][0]["effects"] = [effect]
        self.sees("all pieces together come to 180, 80 more than its most of 100", self.data)
        self.data["items"][0]["effects"] = [{**effect, "amount": -20}]
        self.sees("it can fall to 0: say its least", self.data)
        self.data["properties"][0]["least"] = 10
        self.sees("comes to 0, 10 below its least of 10", self.data)
        self.data["properties"][0]["least"] = 0
        self.assertFalse([one for one in findings(read_game(self.data)) if one.kind == "property"])

    def test_a_score_for_a_stat_that_nothing_has(self) -> None:
        self.data["scores"] = {"reach": 1.0}
        self.sees("nothing that is worn has that stat", self.data)
        self.data["items"][0] |= {"slot": "hand", "stats": {"reach": {"min": 1, "max": 2}}}
        self.sees_not("nothing that is worn has that stat", self.data)

    def test_a_slot_in_which_rarity_does_not_tell(self) -> None:
        for item, stat in ((0, (1, 3)), (2, (1, 3.5))):
            stats = {"reach": {"min": stat[0], "max": stat[1]}}
            self.data["items"][item] |= {"slot": "hand", "stats": stats}
        # Uniform on 1 to 3 is above uniform on 1 to 3.5 in 40 of 100.
        self.sees("for hand, Silt scores as much as Pearl in 40 of 100", self.data)
        self.data["items"][2]["stats"]["reach"]["max"] = 6
        self.sees_not("scores as much as", self.data)

    def test_a_drop_that_fills_the_bag(self) -> None:
        leg = {"id": "a", "from": 1, "to": 1, "source": "crab"}
        self.data["routes"] = [{"id": "way", "name": "Way", "bag": [3, 2], "legs": [leg]}]
        self.data["tables"][0]["lines"][0]["yields"][0]["quantity"] = {"min": 1, "max": 6}
        self.sees("6 Sand at once take 6 cells, and the bag of Way has 6", self.data)
        self.data["items"][0]["stack"] = 6
        self.sees_not("at once take", self.data)

    def route(self, **more: Any) -> dict[str, Any]:
        data = copy.deepcopy(self.data)
        price = {"item": "coin", "amount": 100}
        stall = {"id": "stall", "name": "Stall", "kind": "parcel", "price": price}
        data["sources"].append({**stall, "drops": data["sources"][0]["drops"]})
        legs = [{"id": "a", "from": 1, "to": 1, "source": "crab"}, *more.pop("before", [])]
        legs.append({"id": "z", "from": 1, "to": 1, "source": "stall"})
        data["routes"] = [{"id": "way", "name": "Way", "legs": legs, **more}]
        return data

    def test_a_price_nobody_can_pay(self) -> None:
        self.sees("nobody can pay 100 Coin: along Way none is earned before", self.route())
        self.sees_not("nobody can pay", self.route(purse={"coin": 100}))
        self.sees("nobody can pay", self.route(purse={"coin": 99}))
        sale = {"id": "s", "from": 1, "to": 1, "sells": {"item": "coin"}}
        self.sees_not("nobody can pay", self.route(before=[sale]))
        found = self.route()
        found["tables"][0]["lines"].append({"id": "e", "weight": 1, "yields": [{"item": "coin"}]})
        self.sees_not("nobody can pay", found)

    def test_a_round_that_earns_without_end(self) -> None:
        sale = {"id": "s", "from": 1, "to": 1, "sells": {"item": "coin", "share": 0.9}}
        # A purchase brings (1 + 3 + 40 + 500) / 4 = 136 on average: 122.4 of it when sold.
        self.sees("by buying Stall and selling what it gives: 22.4 Coin a round", self.route(before=[sale]))
        sale["sells"]["share"] = 0.7  # type: ignore[index]
        self.sees_not("without end", self.route(before=[sale]))
        self.sees_not("without end", self.route())
        found = self.route()
        many = [{"item": "coin", "quantity": {"min": 500, "max": 500}}]
        found["tables"][0]["lines"].append({"id": "e", "weight": 4, "yields": many})
        self.sees("by buying Stall: 150 Coin a round", found)


class Wanted(unittest.TestCase):
    """Targets of what is kept: where they stand, and that numbers are found for them."""

    def setUp(self) -> None:
        chances = {"sand": 0.2, "claw": 0.1, "lens": 0.05}
        lines = [{"id": name, "chance": one, "yields": [{"item": name}]} for name, one in chances.items()]
        self.data = game_data([{"id": "bits", "name": "Bits", "rule": "each", "lines": lines}])
        self.data["items"].append(
            {"id": "coin", "name": "Coin", "tier": "silt", "value": 1, "currency": True}
        )
        self.data["items"][0] |= {"slot": "hand", "stats": {"reach": {"min": 1, "max": 2}}}
        self.data["sets"] = [{"id": "pair", "name": "Pair", "items": [{"item": "sand"}, {"item": "claw"}]}]
        self.data["sources"][0] |= {"price": {"item": "coin", "amount": 30}, "cells": [1, 1]}

    def target(self, figure: str, wanted: float, **more: Any) -> dict[str, Any]:
        one = {"id": "t", "name": "T", "source": "crab", "figure": figure, "wanted": wanted, "depths": [1, 1]}
        return {**self.data, "targets": [{**one, **more}]}

    def stands(self, data: dict[str, Any]) -> float:
        [found] = standings(read_game(data))
        self.assertIsNone(found.untold)
        return found.figures[0]

    def test_where_they_stand(self) -> None:
        cost = self.target("cost", 600, item="lens")
        self.assertAlmostEqual(self.stands(cost), 600.0)
        done = (1 - 0.8**10) * (1 - 0.9**10)
        self.assertAlmostEqual(self.stands(self.target("complete", 0.5, set="pair", events=10)), done)
        ups = sum((1 - 0.8**k) / k for k in range(1, 11))
        self.assertAlmostEqual(self.stands(self.target("upgrades", 2, slot="hand", events=10)), ups)
        # One cell holds one of the three: all fits unless two or more come.
        fits = 0.8 * 0.9 * 0.95 + 0.2 * 0.9 * 0.95 + 0.8 * 0.1 * 0.95 + 0.8 * 0.9 * 0.05
        self.assertAlmostEqual(self.stands(self.target("fits", 0.9)), fits, delta=0.02)

    def test_numbers_are_found(self) -> None:
        for data in (
            self.target("cost", 300, item="lens"),
            self.target("complete", 0.8, set="pair", events=10, tolerance=0.001),
            self.target("upgrades", 2, slot="hand", events=10, tolerance=0.001),
        ):
            found = propose(read_game(data), Ask())
            with self.subTest(data["targets"][0]["figure"]):
                self.assertEqual((found.status, found.untold), ("met", {}))
                self.assertTrue(standings(found.game)[0].is_met)

    def test_what_fits_is_found_by_the_same_players(self) -> None:
        for side, wanted, tolerance in (
            ("at-least", 0.97, 0.0),
            ("near", 0.8, 0.005),
            ("at-most", 0.5, 0.0),
            ("near", 1.0, 0.001),
        ):
            data = self.target("fits", wanted, side=side, tolerance=tolerance)
            found = propose(read_game(data), Ask())
            with self.subTest(side=side, wanted=wanted):
                self.assertEqual((found.status, found.untold, found.played), ("met", {}, ["t"]))
                [stands] = standings(found.game)
                self.assertTrue(stands.is_met)
                chances = {line.yields[0].item: line.chance for line in found.game.tables[0].lines}
                clear = math.prod(1 - one for one in chances.values())
                fits = clear + sum(clear / (1 - one) * one for one in chances.values())
                self.assertAlmostEqual(stands.figures[0], fits, delta=0.03)

    def test_what_cannot_fit_contradicts_what_must_come(self) -> None:
        data = self.target("fits", 0.99, side="at-least")
        both = {"source": "crab", "depths": [1, 1], "side": "at-least", "figure": "chance", "wanted": 0.9}
        data["targets"] += [{**both, "id": item, "name": item, "item": item} for item in ("sand", "lens")]
        found = propose(read_game(data), Ask())
        self.assertEqual((found.status, sorted(found.conflict)), ("nearest", ["lens", "sand", "t"]))

    def test_a_figure_wants_its_thing(self) -> None:
        for words, more in (
            ("is of a set", self.target("complete", 0.5)),
            ("is of a slot", self.target("upgrades", 0.5)),
            ("name it, and no", self.target("share", 0.5, set="pair", tier="silt", item="sand")),
            ("only a source", {**self.target("fits", 1), "targets": []}),
        ):
            if words == "only a source":
                more["targets"] = [{"id": "t", "name": "T", "table": "bits", "figure": "fits", "wanted": 1}]
            with self.subTest(words), self.assertRaisesRegex(GameError, words):
                read_game(more)

    def test_a_guarantee_bounds_what_one_costs(self) -> None:
        """Nobody pays more than for ten parcels; on average the sum of 0.99^k for k below 10."""
        self.data["items"][4]["value"] = 10
        lens = self.data["tables"][0]["lines"][2]
        lens |= {"chance": 0.01, "guard": {"sure_at": 10}}
        mean = sum(0.99**k for k in range(10))
        told = parcel(read_game(self.data), "crab", depth=1)
        self.assertAlmostEqual(told["items"]["lens"]["mean"], 30 * mean, delta=1e-9)
        self.assertEqual(told["items"]["lens"]["cost_99"], 300)
        cost = self.target("cost", 30 * mean, item="lens", tolerance=0.001)
        self.assertAlmostEqual(self.stands(cost), 30 * mean, delta=1e-9)
        found = propose(read_game(self.target("cost", 150, item="lens", tolerance=0.5)), Ask())
        self.assertEqual(found.status, "met")
        [stands] = standings(found.game)
        self.assertAlmostEqual(stands.figures[0], 150, delta=0.5)
        back = (0.2 * 1 + 0.1 * 3 + 40 / mean) / 300
        self.assertAlmostEqual(told["pays_back"], back, delta=1e-9)

    def test_what_some_never_have_costs_no_number(self) -> None:
        once = self.data["tables"][0]["lines"][2]
        once |= {"chance": 0.5, "limit": 1}
        told = parcel(read_game(self.data), "crab", depth=1)["items"]["lens"]
        self.assertAlmostEqual(told["mean"], 60.0)
        outer, inner = each((0.5, "@inner")), pick((1, "lens"), (3, "sand"), name="inner", nothing=0)
        outer["lines"][0]["limit"] = 1
        self.data["tables"] = [outer, inner]
        told = parcel(read_game(self.data), "crab", depth=1)["items"]["lens"]
        self.assertEqual((told["mean"], told["cost_90"]), (None, None))

    def test_upgrades_are_told_at_each_depth(self) -> None:
        """A stat's curve makes depths differ at which every chance is the same."""
        data = self.target("upgrades", 2, slot="hand", events=10, depths=[1, 10])
        data["curves"] = [{"id": "deep", "name": "Deep", "points": [[1, 1], [10, 0.1]]}]
        data["items"][0]["stats"] = {"reach": {"min": 2, "max": 2}}
        data["items"][2] |= {"slot": "hand", "stats": {"reach": {"min": 3, "max": 3, "curve": "deep"}}}
        [found] = standings(read_game(data))
        for depth, figure in zip(found.depths, found.figures, strict=True):
            under = Conditions(read_game(data), [depth])
            self.assertAlmostEqual(figure, Slot(under, View("source", "crab"), "hand").after(10)[1])
        self.assertGreater(found.figures[0], found.figures[-1] + 0.05)

    def test_an_edit_of_the_set_or_of_a_score_is_seen(self) -> None:
        data = self.target("upgrades", 2, slot="hand", events=10)
        before = self.stands(data)
        data["scores"] = {"reach": -1.0}
        self.assertNotEqual(self.stands(data), before)
        data["scores"], data["curves"] = {}, [{"id": "deep", "name": "Deep", "points": [[1, 1], [10, 5]]}]
        data["items"][0]["stats"] = {"reach": {"min": 2, "max": 2}}
        data["items"][2] |= {"slot": "hand", "stats": {"reach": {"min": 3, "max": 3}}}
        before = self.stands(data)
        data["tiers"][1]["stat_factor"] = 0.25
        less = self.stands(data)
        self.assertLess(less, before)
        data["items"][2]["stats"]["reach"]["curve"] = "deep"
        data["curves"][0]["points"] = [[1, 4], [10, 4]]
        self.assertAlmostEqual(self.stands(data), before)
        del data["items"][2]["stats"]["reach"]["curve"]
        data = self.target("complete", 0.5, set="pair", events=10)
        before = self.stands(data)
        data["sets"] = [{**data["sets"][0], "items": [{"item": "sand"}]}]
        self.assertGreater(self.stands(data), before)
