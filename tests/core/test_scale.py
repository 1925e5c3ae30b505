"""Along all depths: where an item is found, what a player meets, which stats overlap; by hand."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings

from golddice.core.errors import GameError, QueryError, UnknownThing
from golddice.core.findings import findings
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.depths.along import all_depths
from golddice.core.odds.depths.ways import item_ways
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.sheets.depth_sheet import depth_sheet
from golddice.core.sheets.item_view import item_view, tier_view
from golddice.core.sheets.meeting import meets, meets_profile, repeats
from golddice.core.sheets.stats import beats
from golddice.core.terms.conditions import Conditions
from tests.games import demo, each, game, pick, source
from tests.strategies import games

SWELL = {"id": "swell", "name": "Swell", "points": [[1, 0.5], [10, 2.0]]}


class Sheet(unittest.TestCase):
    def test_shares_and_figures_by_depth(self) -> None:
        lines = [
            {"id": "a", "chance": 0.5, "yields": [{"item": "sand"}]},
            {"id": "b", "chance": 0.1, "curve": "swell", "yields": [{"item": "lens"}]},
        ]
        found = depth_sheet(game([{**each(), "lines": lines}], curves=[SWELL]), View("source", "crab"))
        self.assertEqual(found["depths"], list(range(1, 11)))
        self.assertAlmostEqual(found["items"]["lens"]["mean"][0], 0.05)
        self.assertAlmostEqual(found["items"]["lens"]["p_any"][9], 0.2)
        # At the deepest 0.5 of sand worth 1 beside 0.2 of lens worth 40.
        self.assertAlmostEqual(found["falls"][9][1], 0.2 / 0.7)
        self.assertAlmostEqual(found["worth"][9][1], 8 / 8.5)
        self.assertAlmostEqual(found["value_mean"][9], 8.5)
        variance = 0.25 * 1 + 0.16 * 40**2
        self.assertAlmostEqual(found["cv"][9], variance**0.5 / 8.5)

    def test_bands_are_events_at_any_of_their_depths(self) -> None:
        """Depths 2 and 3 of the upper band are met: chances 0.5 and 1, worth 20 and 40 on average."""
        late = {"id": "late", "name": "Late", "shape": "step", "points": [[1, 0.25], [2, 0.5], [3, 1.0]]}
        lines = [{"id": "a", "chance": 1, "curve": "late", "yields": [{"item": "lens"}]}]
        bands = [
            {"id": "up", "name": "Up", "from": 1, "to": 3},
            {"id": "mid", "name": "Mid", "from": 4, "to": 6},
            {"id": "down", "name": "Down", "from": 7, "to": 10},
        ]
        made = game(
            [{**each(), "lines": lines}],
            curves=[late],
            depth={"from": 1, "to": 10, "bands": bands},
            sources=[source("crab", "bits", depths=[2, 4])],
        )
        up, mid = depth_sheet(made, View("source", "crab"))["bands"]
        self.assertEqual((up["name"], mid["name"]), ("Up", "Mid"))
        self.assertAlmostEqual(up["items"]["lens"]["p_any"], 0.75)
        self.assertAlmostEqual(up["value_mean"], 30)
        # An event at one of both: 0 a quarter of the time, 40 else.
        self.assertAlmostEqual(up["cv"], (0.25 * 0.75) ** 0.5 * 40 / 30)
        self.assertAlmostEqual(mid["cv"], 0.0)

    def test_a_source_that_gives_nothing_has_no_cv(self) -> None:
        found = depth_sheet(game([each((0, "sand"))]), View("source", "crab"))
        self.assertIsNone(found["cv"][0])
        self.assertEqual(found["falls"][0], [0.0, 0.0])


class OneItem(unittest.TestCase):
    def made(self) -> Game:
        tables = [
            pick((1, "@inner 2"), (1, "lens"), nothing=2),
            {**each((0.25, "lens 3"), name="inner"), "rolls": {"min": 2, "max": 2}},
            pick((1, "lens"), (3, "sand"), name="other"),
        ]
        near = source("crab", "bits", depths=[1, 4], seconds=10)
        far = source("eel", "other", depths=[7, 10], seconds=2)
        return game(tables, sources=[near, far])

    def test_every_way_with_what_it_gives(self) -> None:
        under = all_depths(self.made())
        ways = {(way.source, *(name for _, name in way.path)): way.mean for way in item_ways(under, 2)}
        self.assertEqual(set(ways), {("crab", "bits"), ("crab", "bits", "inner"), ("eel", "other")})
        # A quarter of kills give the inner table twice; it rolls twice, each time 3 in a quarter.
        self.assertAlmostEqual(ways["crab", "bits", "inner"][0], 0.25 * 2 * 2 * 0.25 * 3)
        self.assertAlmostEqual(ways["crab", "bits"][0], 0.25)
        self.assertEqual(ways["crab", "bits"][5], 0.0)

    def test_the_ways_add_up_to_what_a_source_gives(self) -> None:
        for item in ("lantern-gland", "beacon-lens", "brass-token", "iron-shackle"):
            under = all_depths(demo())
            found = item_view(demo(), item)
            for one in found["sources"]:
                mine = [np.array(way["mean"]) for way in found["ways"] if way["source"] == one["id"]]
                np.testing.assert_allclose(np.sum(mine, axis=0), one["mean"], rtol=1e-9, atol=1e-15)
            self.assertEqual(len(found["depths"]), under.depths.size)

    def test_a_source_that_a_line_yields_is_gone_through(self) -> None:
        """A quarter of crabs leave an egg, which holds a lens half of the time."""
        tables = [pick((1, "sand"), name="bits"), pick((1, "lens"), nothing=1, name="shell")]
        tables[0]["lines"].append({"id": "egg", "weight": 1, "yields": [{"source": "egg"}]})
        tables[0]["nothing"] = 2
        made = game(tables, sources=[source("crab", "bits"), source("egg", "shell")])
        crab, egg = item_ways(all_depths(made), 2)
        self.assertEqual(crab.path, [("table", "bits"), ("source", "egg"), ("table", "shell")])
        self.assertAlmostEqual(crab.mean[0], 0.25 * 0.5)
        self.assertEqual((egg.path, egg.mean[0]), ([("table", "shell")], 0.5))

    @settings(max_examples=60, deadline=None)
    @given(games())
    def test_the_ways_add_up_in_random_games(self, made: Game) -> None:
        for item in made.items:
            found = item_view(made, item.id)
            for one in found["sources"]:
                mine = [np.array(way["mean"]) for way in found["ways"] if way["source"] == one["id"]]
                np.testing.assert_allclose(np.sum(mine, axis=0), one["mean"], rtol=1e-9, atol=1e-15)

    def test_a_tier_is_found_where_any_of_its_items_is(self) -> None:
        """At every depth of the demo the chance of any, and how many, are those of single evaluations."""
        made = demo()
        for tier in (made.tiers[1], made.tiers[3]):
            found = tier_view(made, tier.id)
            for one in found["sources"]:
                source = next(entry for entry in made.sources if entry.id == one["id"])
                low, high = source.depths or (1, 30)
                for depth in {low, (low + high) // 2, high}:
                    at = Prospect(Evaluator(Conditions(made, [depth])), View("source", source.id))
                    column = at.columns.tier(at.under.tier_index[tier.id])
                    row = found["depths"].index(depth)
                    self.assertAlmostEqual(one["p_any"][row], at.hit(column), places=12)
                    self.assertAlmostEqual(one["mean"][row], at.mean(column), places=12)

    def test_a_tier_by_hand(self) -> None:
        """Lens and crown are pearl: half of the picks are either, two picks miss both a quarter."""
        table = pick((1, "lens"), (1, "crown"), (2, "sand"), rolls={"min": 2, "max": 2})
        found = tier_view(game([table]), "pearl")
        self.assertAlmostEqual(found["sources"][0]["p_any"][0], 0.75)
        self.assertAlmostEqual(found["sources"][0]["mean"][0], 1.0)
        self.assertEqual((found["first"], found["gaps"]), (1, []))
        with self.assertRaises(UnknownThing):
            tier_view(game([table]), "no-such")

    def test_where_to_look_and_where_not(self) -> None:
        found = item_view(self.made(), "lens")
        self.assertEqual(found["first"], 1)
        self.assertEqual(found["gaps"], [(5, 6)])
        self.assertEqual((found["best_event"]["source"], found["best_event"]["depth"]), ("crab", 1))
        # 0.25 an event of 2 s is more an hour than 1 an event of 10 s.
        self.assertEqual(found["best_hour"]["source"], "eel")
        self.assertAlmostEqual(found["best_hour"]["figure"], 0.25 * 1800)
        self.assertIsNone(item_view(self.made(), "crown")["first"])
        with self.assertRaises(UnknownThing):
            item_view(self.made(), "no-such")

    def test_the_gap_is_a_finding(self) -> None:
        messages = [one.message for one in findings(self.made()) if one.id == "lens"]
        self.assertEqual(messages, ["nobody can get Lens at depths 5 to 6, though before and after it falls"])

    def test_stats_grow_with_depth_and_tier(self) -> None:
        tiers = [{"id": "silt", "name": "Silt"}, {"id": "pearl", "name": "Pearl", "stat_factor": 3}]
        stats = {"sight": {"min": 2, "max": 4, "curve": "swell"}}
        items = [{"id": "lens", "name": "Lens", "tier": "pearl", "stats": stats}]
        found = item_view(game([pick((1, "lens"))], tiers=tiers, items=items, curves=[SWELL]), "lens")[
            "stats"
        ]
        self.assertEqual((found["sight"]["low"][0], found["sight"]["high"][0]), (3.0, 6.0))
        self.assertEqual((found["sight"]["low"][9], found["sight"]["high"][9]), (12.0, 24.0))

    def test_rivals_of_other_tiers_for_the_same_slot(self) -> None:
        tiers = [{"id": "silt", "name": "Silt"}, {"id": "pearl", "name": "Pearl", "stat_factor": 2}]
        items = [
            {
                "id": "a",
                "name": "A",
                "tier": "silt",
                "slot": "eyes",
                "stats": {"sight": {"min": 0, "max": 2}},
            },
            {
                "id": "b",
                "name": "B",
                "tier": "pearl",
                "slot": "eyes",
                "stats": {"sight": {"min": 0.5, "max": 1.5}},
            },
            {
                "id": "c",
                "name": "C",
                "tier": "pearl",
                "slot": "hand",
                "stats": {"sight": {"min": 0, "max": 1}},
            },
        ]
        found = item_view(game([pick((1, "a"), (1, "b"), (1, "c"))], tiers=tiers, items=items), "a")["rivals"]
        # 0 to 2 against 1 to 3, after the factor: half lie in the shared half, and there it is even.
        self.assertEqual([(one["item"], one["stat"]) for one in found], [("b", "sight")])
        self.assertAlmostEqual(found[0]["beats"][0], 0.125)

    def test_a_lower_tiers_roll_beats_a_higher_ones(self) -> None:
        """The same stat under the factors of the neighbouring tiers, whatever the depth."""
        factors = [("silt", 1.0), ("pearl", 2.0), ("crown", 6.0), ("halo", 2.0)]
        tiers = [{"id": name, "name": name.title(), "stat_factor": factor} for name, factor in factors]
        stats = {"sight": {"min": 1, "max": 3, "curve": "swell"}, "reach": {"min": 5, "max": 5}}
        table = [pick((1, "lens"))]

        def found(tier: str) -> list[tuple[str, str, float]]:
            items = [{"id": "lens", "name": "Lens", "tier": tier, "stats": stats}]
            view = item_view(game(table, tiers=tiers, items=items, curves=[SWELL]), "lens")
            return [(one["tier"], one["stat"], round(one["chance"], 12)) for one in view["upsets"]]

        # 1 to 3 against 2 to 6: half are above 2, a quarter of those below 3, and there it is even.
        lower = [("silt", "sight", 0.0625), ("silt", "reach", 0.0)]
        # 2 to 6 against 6 to 18 never; against the same again, even.
        self.assertEqual(found("pearl"), [*lower, ("crown", "sight", 0.0), ("crown", "reach", 0.0)])
        self.assertEqual(found("silt"), [("pearl", "sight", 0.0625), ("pearl", "reach", 0.0)])
        self.assertEqual(found("halo"), [("crown", "sight", 1.0), ("crown", "reach", 1.0)])

    def test_a_stats_curve_must_exist(self) -> None:
        items = [
            {"id": "lens", "name": "Lens", "tier": "silt", "stats": {"a": {"min": 1, "max": 2, "curve": "x"}}}
        ]
        with self.assertRaises(GameError) as caught:
            game([pick((1, "lens"))], items=items)
        self.assertEqual(caught.exception.problems[0].path, "items[0].stats.a.curve")

    def test_a_lower_roll_beats_a_higher_one(self) -> None:
        self.assertAlmostEqual(beats((0, 1), (0, 1)), 0.5)
        self.assertAlmostEqual(beats((0, 1), (2, 3)), 0.0)
        self.assertAlmostEqual(beats((2, 3), (0, 1)), 1.0)
        # Half of rolls lie in the shared half, and there it is even.
        self.assertAlmostEqual(beats((0, 2), (1, 3)), 0.125)
        self.assertAlmostEqual(beats((5, 5), (0, 10)), 0.5)
        self.assertAlmostEqual(beats((0, 10), (2, 2)), 0.8)
        rng = np.random.default_rng(1)
        for low, high in (((1, 4), (2, 3)), ((2, 3), (1, 4)), ((1, 5), (3, 9))):
            share = np.mean(rng.uniform(*low, 400_000) > rng.uniform(*high, 400_000))
            self.assertAlmostEqual(beats(low, high), float(share), delta=0.005)


class Spawns(unittest.TestCase):
    def made(self, **band: Any) -> Game:
        spawns = {
            "id": "life",
            "name": "Life",
            "rule": "pick",
            "nothing": 2,
            "lines": [
                {"id": "a", "weight": 5, "yields": [{"source": "crab"}]},
                {"id": "b", "weight": 3, "yields": [{"source": "eel", "quantity": {"min": 2, "max": 2}}]},
            ],
        }
        sources = [source("crab", "bits", seconds=6), source("eel", "other", seconds=4)]
        bands = [{"id": "shelf", "name": "Shelf", "from": 1, "to": 5, "spawns": "life", **band}]
        tables = [pick((1, "sand")), pick((1, "lens"), nothing=3, name="other"), spawns]
        depth = {"from": 1, "to": 10, "bands": bands}
        return game(tables, sources=sources, depth=depth)

    def test_a_visit_by_hand(self) -> None:
        made = self.made(encounters={"min": 10, "max": 10}, between_seconds=3)
        found = meets(made, 2)
        self.assertAlmostEqual(found["sources"]["crab"], 5.0)
        self.assertAlmostEqual(found["sources"]["eel"], 6.0)
        self.assertAlmostEqual(found["seconds"], 10 * 3 + 5 * 6 + 6 * 4)
        self.assertAlmostEqual(found["per_hour"], 3600 / 84)
        self.assertAlmostEqual(found["items"]["sand"], 5.0)
        self.assertAlmostEqual(found["items"]["lens"], 1.5)

    def test_what_comes_once_has_none_an_hour(self) -> None:
        data = plain_game(self.made(encounters={"min": 10, "max": 10}))
        data["tables"][1]["lines"][0]["limit"] = 1
        found = meets(read_game(data), 2)
        self.assertAlmostEqual(found["items"]["lens"], 1.5)  # a fresh player's visit
        self.assertEqual(found["later"], {"sand": 5.0, "lens": 0.0})
        alike = meets(self.made(encounters={"min": 10, "max": 10}), 2)
        self.assertEqual(alike["later"], alike["items"])

    def test_what_is_met_once_brings_nothing_an_hour(self) -> None:
        """The spawn table's own limit; and a table that two sources roll, followed once for both."""
        data = plain_game(self.made(encounters={"min": 10, "max": 10}))
        data["tables"][2]["lines"][1]["limit"] = 1
        self.assertEqual(meets(read_game(data), 2)["later"], {"sand": 10 * 5 / 7, "lens": 0.0})
        data = plain_game(self.made(encounters={"min": 10, "max": 10}))
        data["tables"][1]["lines"][0]["guard"] = {"after": 0, "rise": 0, "sure_at": 2}
        data["sources"][0]["drops"].append({"id": "b", "table": "other", "chance": 1})
        # A roll in 1, 3/4 of them in 2: every 1.75 rolls; 5 rolls of the crab's and 6 of the eel's.
        self.assertAlmostEqual(meets(read_game(data), 2)["later"]["lens"], 11 / 1.75)

    def test_nobody_buys_for_an_hour(self) -> None:
        data = plain_game(self.made())
        data["items"][0]["currency"] = True
        data["sources"].append(
            source("pack", "bits", price={"item": "sand", "amount": 3}) | {"kind": "parcel"}
        )
        found = item_view(read_game(data), "sand")
        self.assertIn("pack", [one["id"] for one in found["sources"]])
        self.assertEqual(found["best_hour"]["source"], "crab")

    def test_the_profile_is_that_of_the_items_of_a_visit(self) -> None:
        made = demo()
        found = meets_profile(made)
        tier_of = {item.id: item.tier for item in made.items}
        value_of = {item.id: item.value for item in made.items}
        for depth in (1, 9, 16, 30):
            items = meets(made, depth)["items"]
            row = found["depths"].index(depth)
            for weigh, shares in ((lambda _: 1.0, found["falls"]), (value_of.get, found["worth"])):
                by_tier = {tier.id: 0.0 for tier in made.tiers}
                for item, count in items.items():
                    by_tier[tier_of[item]] += count * (weigh(item) or 0.0)
                wanted = np.array(list(by_tier.values())) / sum(by_tier.values())
                np.testing.assert_allclose(shares[row], wanted, rtol=1e-9, atol=1e-12)

    def test_where_nothing_is_met_the_profile_is_empty(self) -> None:
        found = meets_profile(game([pick((1, "sand"))]))
        self.assertEqual(found["falls"], [[0.0, 0.0]] * 10)

    def test_repeats_by_hand(self) -> None:
        found = meets(self.made(), 2, points=2)["repeats"]
        self.assertAlmostEqual(found["all_same"], 0.5**2 + 0.3**2)
        self.assertAlmostEqual(found["at_least_one"]["crab"], 0.75)
        self.assertAlmostEqual(found["distinct"], 0.75 + 1 - 0.7**2)

    def test_repeats_of_a_spawn_table_within_another(self) -> None:
        """Half of the points have a crab; the others an eel three times in four, at depth 1 twice as
        likely as its line says: 6 to 1."""
        inner = pick((1, "sand"), name="deep", nothing=1)
        inner["lines"] = [{"id": "e", "weight": 3, "curve": "doubled", "yields": [{"source": "eel"}]}]
        outer = {**pick((1, "@deep"), name="spawns"), "rolls": {"min": 2, "max": 2}}
        outer["lines"].append({"id": "c", "weight": 1, "yields": [{"source": "crab"}]})
        catch = pick((1, "sand"), name="catch")
        curves = [{"id": "doubled", "name": "Doubled", "points": [[1, 2.0]]}]
        made = game(
            [catch, inner, outer], sources=[source("crab", "catch"), source("eel", "catch")], curves=curves
        )
        found = repeats(Conditions(made, [1]), "spawns", 2)
        crab, eel = 0.5, 0.5 * 6 / 7
        self.assertAlmostEqual(found["at_least_one"]["crab"], 1 - (1 - crab) ** 2)
        self.assertAlmostEqual(found["at_least_one"]["eel"], 1 - (1 - eel) ** 2)
        self.assertAlmostEqual(found["all_same"], crab**2 + eel**2)
        self.assertAlmostEqual(found["distinct"], 2 - (1 - crab) ** 2 - (1 - eel) ** 2)

    def test_outside_a_band_or_without_spawns_nothing_is_met(self) -> None:
        self.assertEqual(meets(self.made(), 7), {"band": None, "spawns": None})
        self.assertEqual(meets(game([pick((1, "sand"))]), 1)["spawns"], None)
        with self.assertRaises(QueryError):
            meets(self.made(), 2, points=0)

    def test_encounters_may_name_a_curve_that_is_there(self) -> None:
        with self.assertRaises(GameError) as caught:
            self.made(encounters={"min": 4, "max": 4, "curve": "x"})
        self.assertEqual(caught.exception.problems[0].path, "depth.bands[0].encounters.curve")


class Scaling(unittest.TestCase):
    def only(self, made: Game) -> list[str]:
        return [one.message for one in findings(made) if one.kind == "source"]

    def test_a_tier_that_runs_backwards(self) -> None:
        wane = {"id": "wane", "name": "Wane", "points": [[1, 1], [10, 0.1]]}
        lines = [
            {"id": "a", "weight": 6, "yields": [{"item": "sand"}]},
            {"id": "b", "weight": 4, "curve": "wane", "yields": [{"item": "lens"}]},
        ]
        found = self.only(game([{**pick(), "lines": lines}], curves=[wane]))
        self.assertIn("Pearl falls from 40 % to 6.25 % with depth, while the lower Silt rises", found)

    def leaping(self, **depth: Any) -> list[str]:
        """Pearl's weight is 1 of 10 from depth 6 on, a hundredth of that before."""
        leap = {"id": "leap", "name": "Leap", "shape": "step", "points": [[1, 0.01], [6, 1]]}
        lines = [
            {"id": "a", "weight": 9, "yields": [{"item": "sand"}]},
            {"id": "b", "weight": 1, "curve": "leap", "yields": [{"item": "lens"}]},
        ]
        scale = {"from": 1, "to": 10, **depth}
        return self.only(game([{**pick(), "lines": lines}], curves=[leap], depth=scale))

    def test_a_top_tier_that_leaps(self) -> None:
        told = "Pearl leaps from 0.111 % to 10 % at depth 6: 90.1 times as much, and more than 3 is a leap"
        self.assertEqual(self.leaping(), [told])

    def test_how_much_is_a_leap_is_the_games_to_say(self) -> None:
        self.assertEqual(len(self.leaping(leap=90)), 1)
        self.assertEqual(self.leaping(leap=91), [])
        for wrong in (1, 0.5, -3, float("inf")):
            with self.assertRaises(GameError) as caught:
                self.leaping(leap=wrong)
            self.assertEqual(caught.exception.problems[0].path, "depth.leap")


if __name__ == "__main__":
    unittest.main()
