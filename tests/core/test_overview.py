"""The whole game on one sheet, held against its other sheets, and against what is written out by hand."""

from __future__ import annotations

import html
import unittest
from typing import Any

import numpy as np

from golddice.core.errors import QueryError, UnknownThing
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.overview.collection import collection, played
from golddice.core.overview.page import overview_page
from golddice.core.overview.report import overview
from golddice.core.sheets.item_view import item_view
from golddice.core.sheets.meeting import meets
from golddice.core.terms.stops import route_of
from tests.games import demo, each, game, game_data, pick, source


class Along(unittest.TestCase):
    def test_an_hour_is_what_a_visit_says(self) -> None:
        made = demo()
        found = overview(made)
        values, tiers = ({item.id: part(item) for item in made.items} for part in (_value, _tier))
        for row, depth in enumerate(found["depths"]):
            met = meets(made, depth)
            worth = dict.fromkeys(found["worth"], 0.0)
            for item, many in met.get("items", {}).items():
                worth[tiers[item]] += values[item] * many * (met["per_hour"] or 0.0)
            for tier, told in worth.items():
                self.assertAlmostEqual(found["worth"][tier][row], told, delta=1e-9 * (1 + told))
            for name, events in met.get("sources", {}).items():
                told = events * (met["per_hour"] or 0.0)
                self.assertAlmostEqual(found["met"][name][row], told, delta=1e-9 * (1 + told))


def _value(item: Any) -> float:
    return float(item.value)


def _tier(item: Any) -> str:
    return str(item.tier)


class Coverage(unittest.TestCase):
    def made(self) -> Game:
        """Sand by anybody, claws once, lenses only with a key, crowns never."""
        gated = pick((1, "lens"), name="gated", nothing=3)
        gated["lines"][0]["needs"] = ["key"]
        once = each((0.25, "claw"), (0.5, "sand"), name="once")
        once["lines"][0]["limit"] = 2
        sources = [
            {**source("crab", "once", seconds=10), "depths": [2, 5]},
            {**source("eel", "gated", seconds=4)},
            {**source("pack", "bits", price={"item": "sand", "amount": 30}), "kind": "parcel"},
        ]
        items = [
            {"id": one, "name": one.title(), "tier": "silt", "value": 1, "currency": one == "sand"}
            for one in ("sand", "claw", "lens", "crown", "bead")
        ]
        tables = [pick((1, "bead"), name="bits", nothing=1), gated, once]
        return game(tables, sources=sources, items=items, flags=[{"id": "key", "name": "Key"}])

    def test_by_hand(self) -> None:
        found = overview(self.made())["coverage"]
        claw = found["claw"]
        self.assertEqual((claw["count"], claw["limited"]), (1, True))
        self.assertEqual(claw["sources"], [{"id": "crab", "from": 2, "to": 5}])
        self.assertEqual((claw["best"]["events"], claw["best"]["chance"]), (3, 0.25))
        self.assertAlmostEqual(claw["best"]["hours"], 3 * 10 / 3600)
        self.assertFalse(found["sand"]["limited"])
        self.assertEqual(
            (found["lens"]["count"], found["lens"]["with"], found["lens"]["ever"]), (0, ["key"], True)
        )
        self.assertEqual(
            (found["crown"]["count"], found["crown"]["with"], found["crown"]["ever"]), (0, [], False)
        )
        bead = found["bead"]["best"]
        self.assertEqual((bead["source"], bead["hours"], bead["price"]), ("pack", None, 30.0))

    def test_with_the_flag(self) -> None:
        found = overview(self.made(), ["key"])["coverage"]["lens"]
        self.assertEqual((found["count"], found["best"]["source"], found["with"]), (1, "eel", []))

    def test_what_a_flag_shuts_out(self) -> None:
        data = plain_game(self.made())
        line = next(one for one in data["tables"] if one["id"] == "once")["lines"][1]
        line["unless"] = ["key"]
        self.assertEqual(overview(read_game(data))["coverage"]["sand"]["without"], ["key"])

    def test_the_sources_are_those_of_the_items_sheet(self) -> None:
        made = demo()
        found = overview(made)["coverage"]
        for item in made.items[::4]:
            told = item_view(made, item.id)
            self.assertEqual(found[item.id]["count"], len(told["sources"]), item.id)
            ids = {one["id"] for one in told["sources"]}
            self.assertTrue({one["id"] for one in found[item.id]["sources"]} <= ids)
            best = next(one for one in told["sources"] if one["id"] == found[item.id]["best"]["source"])
            row = found[item.id]["best"]["depth"] - made.depth.from_
            self.assertAlmostEqual(best["p_any"][row], found[item.id]["best"]["chance"], delta=1e-12)

    def test_a_wait_follows_what_is_carried(self) -> None:
        table = each((0.01, "lens"))
        table["lines"][0]["guard"] = {"after": 0, "rise": 0, "sure_at": 5}
        found = overview(game([table]))["coverage"]["lens"]["best"]
        self.assertEqual(found["events"], 5)


class Money(unittest.TestCase):
    def test_by_hand(self) -> None:
        """Ten crabs a visit, 6 seconds each and 4 after each: 2 coins each, 720 an hour."""
        spawns = {
            **pick(name="life", nothing=0),
            "lines": [{"id": "a", "weight": 1, "yields": [{"source": "crab"}]}],
        }
        items = [
            {"id": "sand", "name": "Sand", "tier": "silt", "value": 1, "currency": True},
            {"id": "claw", "name": "Claw", "tier": "silt", "value": 7},
        ]
        crab = source("crab", "bits", seconds=6)
        pack = {**source("pack", "bits", price={"item": "sand", "amount": 90}), "kind": "parcel"}
        band = {"id": "top", "name": "Top", "from": 1, "to": 10, "spawns": "life", "between_seconds": 4}
        depth = {"from": 1, "to": 10, "bands": [{**band, "encounters": {"min": 10, "max": 10}}]}
        tables = [each((1, "sand 2"), (0.5, "claw")), spawns]
        route = {"id": "r", "name": "R", "legs": [{"id": "a", "from": 1, "to": 1, "source": "crab"}]}
        route["legs"].append({"id": "b", "from": 1, "to": 1, "sells": {"item": "sand", "share": 0.5}})
        data = game_data(tables, items=items, sources=[crab, pack], depth=depth)
        found = overview(read_game({**data, "routes": [route]}))["money"]
        (sand,) = found["money"]
        self.assertAlmostEqual(sand["income"]["top"], 720.0)
        self.assertEqual(sand["parcels"], [{"source": "pack", "price": 90.0, "hours": 90 / 720}])
        self.assertAlmostEqual(found["sales"]["income"]["top"], 0.5 * 7 * 0.5 * 360)


class Collection(unittest.TestCase):
    def made(self, table: dict[str, Any], times: Any, **more: Any) -> Game:
        data = game_data([table], **more)
        leg = {"id": "a", "from": 1, "to": 1, "source": "crab", "times": times}
        data["routes"] = [{"id": "r", "name": "R", "legs": [leg]}]
        return read_game(data)

    def test_nothing_carried(self) -> None:
        made = self.made(each((0.1, "lens"), (0.5, "sand"), name="t"), {"min": 0, "max": 2})
        found = collection(made, "r", (1, 5))
        self.assertEqual((found["method"], found["last"]), ("exact", "lens"))
        for at, runs in enumerate((1, 5)):
            for item, chance in (("lens", 0.1), ("sand", 0.5)):
                none = ((1 + (1 - chance) + (1 - chance) ** 2) / 3) ** runs
                self.assertAlmostEqual(found["items"][item][at], 1 - none, delta=1e-12)
        self.assertAlmostEqual(
            found["runs"][1]["owned"], sum(found["items"][one][1] for one in ("lens", "sand"))
        )

    def test_what_is_carried_goes_on_from_run_to_run(self) -> None:
        """Sure at the seventh try: three tries a run, so in the third run at the latest."""
        table = each((0.1, "lens"), name="t")
        table["lines"][0]["guard"] = {"after": 0, "rise": 0, "sure_at": 7}
        found = collection(self.made(table, {"min": 3, "max": 3}), "r", (1, 2, 3))
        wanted = [1 - 0.9**3, 1 - 0.9**6, 1.0]
        np.testing.assert_allclose(found["items"]["lens"], wanted, atol=1e-12)

    def test_played_where_it_is_not_told_agrees(self) -> None:
        made = demo()
        exact = collection(made, "first-dive", (1, 5))
        had, players = played(made, route_of(made, "first-dive"), (1, 5))
        for at in range(2):
            share = np.array([exact["items"][item.id][at] for item in made.items])
            error = np.sqrt(share * (1 - share) / players) + 1e-12
            self.assertLess(float(np.abs((had[at] - share) / error).max()), 5.0)

    def test_what_is_asked_wrongly(self) -> None:
        made = demo()
        for runs in ((), (0,), (101,)):
            with self.assertRaises(QueryError):
                collection(made, "first-dive", runs)
        with self.assertRaises(UnknownThing):
            collection(made, "no-such")


class Page(unittest.TestCase):
    def test_everything_is_on_it_and_nothing_is_markup(self) -> None:
        data = plain_game(demo())
        data["items"][0]["name"] = "<b>Token & co"
        page = overview_page(read_game(data))
        self.assertNotIn("<b>Token", page)
        self.assertIn("&lt;b&gt;Token &amp; co", page)
        for item in data["items"]:
            self.assertIn(html.escape(item["name"]), page)
        self.assertNotIn("<script", page)
        self.assertIn("targets are met", page)

    def test_an_empty_game_has_one_too(self) -> None:
        empty = read_game({**game_data([]), "sources": []})
        self.assertIn("Nothing is met at any depth", overview_page(empty))


if __name__ == "__main__":
    unittest.main()
