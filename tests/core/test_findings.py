"""Findings: each kind is found where it is, says why, and its mend mends it."""

from __future__ import annotations

import unittest
from typing import Any

from golddice.core.findings import Finding, findings
from golddice.core.game.editing import Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from tests.games import demo, each, game, game_data, pick

SWELL = {"id": "swell", "name": "Swell", "points": [[1, 0.5], [10, 2.0]]}
LATE = {"id": "late", "name": "Late", "shape": "step", "points": [[1, 0], [4, 1]]}


def line(key: str, value: float, what: str = "sand", **more: Any) -> dict[str, Any]:
    return {"id": f"{key}-{what}-{value}".replace(".", "-"), key: value, "yields": [{"item": what}], **more}


class Found(unittest.TestCase):
    """How the tests below speak of findings."""

    def only(self, made: Game, path: str) -> Finding:
        """The one finding at a path."""
        at = [one for one in findings(made) if one.path == path]
        every = [(one.path, one.message) for one in findings(made)]
        self.assertEqual(len(at), 1, f"{path} among {every}")
        return at[0]

    def none(self, made: Game, path: str) -> None:
        self.assertEqual([one.message for one in findings(made) if one.path == path], [])

    def mended(self, made: Game, finding: Finding) -> Game:
        """The game after the finding's mend, through the same check as any edit."""
        self.assertIsNotNone(finding.mend)
        assert finding.mend is not None
        entries = [Entry(one["kind"], one["id"], one["body"]) for one in finding.mend.entries]
        return Entities.of(made).edited(entries).game()

    def assert_mends(self, made: Game, path: str) -> Game:
        after = self.mended(made, self.only(made, path))
        self.none(after, path)
        return after


class Items(Found):
    def test_one_that_nobody_offers(self) -> None:
        made = game([pick((1, "sand"), (1, "claw"), (1, "lens"))])
        self.assertIn("nobody can receive Crown", self.only(made, "items[3]").message)

    def test_a_pool_offers_all_that_fit_it(self) -> None:
        pool = {"id": "p", "weight": 1, "yields": [{"pool": {"tiers": ["silt", "pearl"]}}]}
        made = game([{**pick(), "lines": [pool]}])
        self.assertFalse([one for one in findings(made) if one.kind == "item"])

    def test_one_too_large_for_every_container_that_gives_it(self) -> None:
        def with_cells(cells: list[int], width: int = 3) -> Game:
            drops = [{"id": "a", "table": "bits"}]
            chest = {"id": "chest", "name": "Chest", "kind": "container", "cells": cells, "drops": drops}
            items = [{"id": "sand", "name": "Sand", "tier": "silt", "width": width, "height": 1}]
            return game([pick((1, "sand"))], sources=[chest], items=items)

        self.assertIn(
            "3 × 1 cells, too large for Chest", self.only(with_cells([2, 2]), "items[0].width").message
        )
        self.none(with_cells([1, 3]), "items[0].width")  # it fits the other way up
        self.none(with_cells([4, 1]), "items[0].width")


class Tables(Found):
    def test_one_that_nobody_reaches(self) -> None:
        made = game([pick((1, "sand")), pick((1, "claw"), name="spare")])
        self.assertIn("nobody reaches Spare", self.only(made, "tables[1]").message)

    def test_one_without_lines_or_cards(self) -> None:
        self.assertIn("no lines", self.only(game([pick()]), "tables[0]").message)
        cards = {"id": "bits", "name": "Bits", "rule": "deck", "lines": [line("copies", 0)]}
        self.assertIn("no cards", self.only(game([cards]), "tables[0]").message)

    def test_lines_that_can_never_hit(self) -> None:
        closed: list[tuple[dict[str, Any], str]] = [
            (line("weight", 0, "claw"), "its weight is 0"),
            (line("weight", 1, "claw", curve="never"), "its curve keeps it closed"),
            (line("weight", 1, "claw", needs=["key"], unless=["key"]), "needs a flag and must not have it"),
        ]
        never = {"id": "never", "name": "Never", "points": [[1, 0]]}
        flags = [{"id": "key", "name": "Key"}]
        for odd, why in closed:
            with self.subTest(why=why):
                made = game(
                    [{**pick((1, "sand")), "lines": [line("weight", 1), odd]}], curves=[never], flags=flags
                )
                self.assertIn(why, self.only(made, "tables[0].lines[1]").message)
                after = self.assert_mends(made, "tables[0].lines[1]")
                self.assertEqual(len(after.tables[0].lines), 1)

    def test_a_guard_can_save_a_line_of_0(self) -> None:
        saved = line("chance", 0, "claw", guard={"after": 2, "rise": 0.1})
        self.none(game([{**each(), "lines": [saved]}]), "tables[0].lines[0]")
        saved = line("weight", 0, "claw", guard={"sure_at": 9})
        self.none(game([{**pick(), "lines": [line("weight", 1), saved]}]), "tables[0].lines[1]")
        # A rising weight multiplies, and 0 times anything is 0.
        lost = line("weight", 0, "claw", guard={"rise": 1.0})
        self.only(game([{**pick(), "lines": [line("weight", 1), lost]}]), "tables[0].lines[1]")

    def test_a_line_shadowed_by_a_certain_one(self) -> None:
        def row(*lines: dict[str, Any]) -> Game:
            return game([{"id": "bits", "name": "Bits", "rule": "first", "lines": list(lines)}])

        made = row(line("chance", 1), line("chance", 0.5, "claw"))
        self.assertIn("never tested", self.only(made, "tables[0].lines[1]").message)
        self.assert_mends(made, "tables[0].lines[1]")
        self.none(row(line("chance", 1, depths=[1, 5]), line("chance", 0.5, "claw")), "tables[0].lines[1]")
        only_early = line("chance", 0.5, "claw", depths=[2, 4])
        self.only(row(line("chance", 1, depths=[1, 5]), only_early), "tables[0].lines[1]")
        self.none(row(line("chance", 1, limit=1), line("chance", 0.5, "claw")), "tables[0].lines[1]")

    def test_weights_that_look_like_percentages(self) -> None:
        made = game([pick((60, "sand"), (38, "claw"), nothing=4)])
        self.assertIn("add up to 102", self.only(made, "tables[0]").message)
        after = self.assert_mends(made, "tables[0]")
        self.assertEqual(after.tables[0].model_dump()["nothing"], 2)
        self.none(game([pick((60, "sand"), (30, "claw"), nothing=20)]), "tables[0]")
        # Too much by more than the blank has: there is no obvious mend.
        self.assertIsNone(self.only(game([pick((60, "sand"), (41, "claw"))]), "tables[0]").mend)

    def test_guards_that_do_nothing_or_everything(self) -> None:
        for guard, path in (({"sure_at": 1}, ".guard.sure_at"), ({"after": 3}, ".guard")):
            made = game([{**pick(), "lines": [line("weight", 1), line("weight", 1, "claw", guard=guard)]}])
            after = self.assert_mends(made, f"tables[0].lines[1]{path}")
            self.assertIsNone(after.tables[0].lines[1].guard)

    def test_a_pool_that_nothing_fits(self) -> None:
        lost = {"id": "p", "weight": 1, "yields": [{"pool": {"tags": ["no-such"]}}]}
        made = game([{**pick(), "lines": [lost]}])
        self.assertIn("no item fits", self.only(made, "tables[0].lines[0].yields[0].pool").message)


class Chances(Found):
    def test_one_that_a_curve_pushes_over_1(self) -> None:
        made = game([{**each(), "lines": [line("chance", 0.8, curve="swell")]}], curves=[SWELL])
        finding = self.only(made, "tables[0].lines[0]")
        self.assertIn("160 %", finding.message)
        self.assertEqual(finding.depths, (6, 10))  # 0.8 times the curve passes 1 between 5 and 6
        after = self.assert_mends(made, "tables[0].lines[0]")
        self.assertEqual(after.tables[0].lines[0].model_dump()["chance"], 0.5)

    def test_a_drop_that_a_curve_pushes_over_1(self) -> None:
        drops = [{"id": "a", "table": "bits", "chance": 0.75, "curve": "swell"}]
        crab = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops}
        made = game([pick((1, "sand"))], sources=[crab], curves=[SWELL])
        after = self.assert_mends(made, "sources[0].drops[0]")
        self.assertLessEqual(after.sources[0].drops[0].chance * 2.0, 1.0)

    def test_tries_that_look_certain(self) -> None:
        tries = {"id": "bits", "name": "Bits", "rule": "retry", "tries": 3, "lines": [line("chance", 0.4)]}
        made = game([tries])
        finding = self.only(made, "tables[0].tries")
        self.assertIn("21.6 % of rolls give nothing", finding.message)  # 0.6 cubed
        after = self.mended(made, finding)
        self.assertEqual(after.tables[0].model_dump()["tries"], 10)  # 0.6^10 is the first under 1 %
        self.none(game([{**tries, "tries": 2}]), "tables[0].tries")

    def test_tests_that_add_up_to_certainty_and_are_not(self) -> None:
        half = {
            "id": "bits",
            "name": "Bits",
            "rule": "first",
            "lines": [line("chance", 0.5), line("chance", 0.6, "claw")],
        }
        finding = self.only(game([half]), "tables[0]")
        self.assertIn("add up to 110 %, but in 20 % of rolls", finding.message)
        # Lines of `each` may well add up to more; exactly 100 % is what looks like a mistake.
        self.none(game([{**half, "rule": "each"}]), "tables[0]")
        self.only(game([each((0.5, "sand"), (0.5, "claw"))]), "tables[0]")


class Quantities(Found):
    def test_chances_are_added_up_as_players_with_each_flag_have_them(self) -> None:
        """Half and half with the bell rung, half and a quarter without: only the first looks sure."""
        bell = [{"id": "bell", "name": "Bell rung"}]
        rung = line("chance", 0.5, "claw", needs=["bell"])
        silent = line("chance", 0.25, "lens", unless=["bell"])
        table = {"id": "bits", "name": "Bits", "rule": "each", "lines": [line("chance", 0.5), rung, silent]}
        message = self.only(game([table], flags=bell), "tables[0]").message
        self.assertTrue(message.startswith("with Bell rung, the chances add up to 100 %"), message)
        # Nobody has both: 0.5 + 0.25 + 0.25 would be 100 % only if flags were not looked at.
        rung["chance"] = 0.25
        self.none(game([table], flags=bell), "tables[0]")

    def test_a_private_curve_that_nobody_uses_or_two(self) -> None:
        own = {"id": "own", "name": "Sand, its own", "private": True, "points": [[1, 1], [10, 2]]}
        made = game([pick((1, "sand"), (1, "claw"))], curves=[own])
        finding = self.only(made, "curves[0].private")
        self.assertIn("does not use it any more", finding.message)
        self.assertEqual(self.mended(made, finding).curves, [])
        table = pick((1, "sand"), (1, "claw"))
        table["lines"][0]["curve"] = "own"
        self.none(game([table], curves=[own]), "curves[0].private")
        table["lines"][1]["curve"] = "own"
        made = game([table], curves=[own])
        self.assertIn("but 2 use it", self.only(made, "curves[0].private").message)
        self.assertFalse(self.assert_mends(made, "curves[0].private").curves[0].private)

    def test_mends_are_made_when_they_are_asked_for(self) -> None:
        """A mend speaks of the game as it was found, however often it is asked."""
        made = game(
            [{**each((2 / 3, "sand")), "lines": [line("chance", 0.8, curve="swell")]}], curves=[SWELL]
        )
        finding = self.only(made, "tables[0].lines[0]")
        assert finding.mend is not None
        self.assertEqual(finding.mend.entries, finding.mend.entries)
        self.assertEqual(finding.plain()["mend"]["entries"], finding.mend.entries)
        self.assertEqual(made.tables[0].lines[0].chance, 0.8)  # type: ignore[union-attr]

    def test_tries_of_players_with_a_flag(self) -> None:
        lines = [
            {"id": "a", "weight": 1, "chance": 0.2, "yields": [{"item": "sand"}]},
            {"id": "b", "weight": 3, "chance": 0.4, "needs": ["bell"], "yields": [{"item": "claw"}]},
        ]
        table = {"id": "bits", "name": "Bits", "rule": "retry", "tries": 3, "lines": lines}
        made = game([table], flags=[{"id": "bell", "name": "Bell rung"}])
        finding = self.only(made, "tables[0].tries")
        self.assertIn("with Bell rung, 3 tries at 35 % look certain, but 27.5 % of rolls", finding.message)
        self.none(self.mended(made, finding), "tables[0].tries")

    def test_more_than_a_stack_holds(self) -> None:
        made = game([pick((1, "sand 1-3"))])
        path = "tables[0].lines[0].yields[0].quantity"
        self.assertIn("up to 3 Sand, but a stack holds 1", self.only(made, path).message)
        self.assertEqual(self.assert_mends(made, path).items[0].stack, 3)

    def test_currency_needs_no_stack(self) -> None:
        items = [{"id": "sand", "name": "Sand", "tier": "silt", "currency": True}]
        self.none(game([pick((1, "sand 1-3"))], items=items), "tables[0].lines[0].yields[0].quantity")

    def test_none_at_all(self) -> None:
        made = game([pick((1, "sand 0"))])
        self.assert_mends(made, "tables[0].lines[0].yields[0].quantity")

    def test_a_min_1_that_can_give_nothing(self) -> None:
        given = {"item": "sand", "quantity": {"min": 1, "max": 1, "curve": "swell"}}
        made = game([{**pick(), "lines": [{"id": "a", "weight": 1, "yields": [given]}]}], curves=[SWELL])
        finding = self.only(made, "tables[0].lines[0].yields[0].quantity")
        self.assertIn("50 % of those give nothing", finding.message)
        self.assertEqual(finding.depths, (1, 3))

    def test_an_explosion(self) -> None:
        tables = [
            pick((1, "@middle 1000")),
            pick((1, "@inner 1000"), name="middle"),
            pick((1, "sand"), name="inner", rolls={"min": 10, "max": 10}),
        ]
        self.assertIn("simulated", self.only(game(tables), "sources[0]").message)


class Depths(Found):
    def test_a_gap_in_a_sources_range(self) -> None:
        lines = [line("weight", 1, depths=[1, 3]), line("weight", 1, "claw", depths=[6, 10])]
        made = game([{**pick(), "lines": lines}])
        finding = self.only(made, "tables[0]")
        self.assertIn("at depths 4 to 5 Bits has no open line, though Crab rolls it", finding.message)
        self.assertEqual(finding.depths, (4, 5))

    def test_no_gap_where_the_source_is_not_met(self) -> None:
        drops = [{"id": "a", "table": "bits"}]
        crab = {"id": "crab", "name": "Crab", "kind": "enemy", "depths": [1, 3], "drops": drops}
        lines = [line("weight", 1, depths=[1, 3])]
        self.none(game([{**pick(), "lines": lines}], sources=[crab]), "tables[0]")

    def test_a_gap_further_in(self) -> None:
        inner = {**pick(name="inner"), "lines": [line("weight", 1, curve="late")]}
        outer = pick((1, "@inner"))
        finding = self.only(game([outer, inner], curves=[LATE]), "tables[1]")
        self.assertEqual(finding.depths, (1, 3))

    def spawning(self, *lines: dict[str, Any], depths: list[int] | None = None) -> Game:
        """One band over all ten depths, whose spawn table has these lines; a crab that is met there."""
        band = {"id": "shelf", "name": "Shelf", "from": 1, "to": 10, "spawns": "life"}
        scale = {"from": 1, "to": 10, "bands": [band]}
        life = {"id": "life", "name": "Life", "rule": "pick", "lines": list(lines)}
        data = game_data([pick((1, "lens")), life], depth=scale)
        data["sources"][0]["depths"] = depths
        return read_game(data)

    def about(self, made: Game, kind: str, name: str) -> list[str]:
        return [one.message for one in findings(made) if (one.kind, one.id) == (kind, name)]

    def test_a_band_of_which_the_spawn_table_is_shut(self) -> None:
        crab = {"id": "a", "weight": 1, "yields": [{"source": "crab"}]}
        wanted = ["at depths 1 to 3 Life has no open line, though Shelf rolls it"]
        self.assertEqual(self.about(self.spawning({**crab, "depths": [4, 10]}), "table", "life"), wanted)
        both = ({**crab, "depths": [4, 10]}, {"id": "b", "weight": 1, "depths": [1, 3], "yields": []})
        self.assertEqual(self.about(self.spawning(*both), "table", "life"), [])

    def test_a_band_that_spawns_what_is_not_met_there(self) -> None:
        crab = {"id": "a", "weight": 1, "depths": [2, 10], "yields": [{"source": "crab"}]}
        made = self.spawning(crab, depths=[3, 8])
        found = next(one for one in findings(made) if one.kind == "source")
        message = "Shelf spawns Crab at depths 2 and 9 to 10, where it is not met by its depths"
        self.assertEqual((found.message, found.depths), (message, (2, 10)))
        assert found.mend is not None
        self.assertEqual(found.mend.label, "open its line in Life at 3-8 only")
        mended = self.mended(made, found)
        self.assertEqual(mended.tables[1].lines[0].depths, (3, 8))
        self.assertEqual(self.about(mended, "source", "crab"), [])

    def test_a_source_beyond_the_games_depths(self) -> None:
        data = game_data([pick((1, "lens"))], depth={"from": 1, "to": 5})
        data["sources"][0]["depths"] = [6, 9]
        wanted = ["nobody meets Crab: its depths 6 to 9 lie outside the game's 1 to 5"]
        self.assertEqual(self.about(read_game(data), "source", "crab"), wanted)

    def test_depths_without_a_band_are_mended_by_the_band_above(self) -> None:
        bands = [
            {"id": "a", "name": "Shelf", "from": 1, "to": 3},
            {"id": "b", "name": "Stair", "from": 6, "to": 10},
        ]
        made = game([pick((1, "sand"))], depth={"from": 1, "to": 10, "bands": bands})
        self.assertIn("at depths 4 to 5 there is no band", self.only(made, "depth.bands[0].to").message)
        after = self.assert_mends(made, "depth.bands[0].to")
        self.assertEqual([(band.from_, band.to) for band in after.depth.bands], [(1, 5), (6, 10)])

    def test_bands_that_overlap(self) -> None:
        bands = [
            {"id": "a", "name": "Shelf", "from": 3, "to": 6},
            {"id": "b", "name": "Stair", "from": 5, "to": 10},
            {"id": "c", "name": "Bay", "from": 1, "to": 8},
            {"id": "d", "name": "Ledge", "from": 4, "to": 5},
        ]
        made = game([pick((1, "sand"))], depth={"from": 1, "to": 10, "bands": bands})
        words = "at depths 5 to 6 Shelf counts and not Stair: where bands overlap, the first does"
        self.assertEqual(self.only(made, "depth.bands[1].from").message, words)
        after = self.assert_mends(made, "depth.bands[1].from")
        self.assertEqual(after.depth.bands[1].from_, 7)
        after = self.assert_mends(made, "depth.bands[2].from")
        self.assertEqual((after.depth.bands[2].from_, after.depth.bands[2].to), (1, 2))
        self.assertIsNone(self.only(made, "depth.bands[3].from").mend)

    def test_a_guard_in_a_stock_does_not_count(self) -> None:
        stock = pick((1, "sand"), (1, "lens"), name="stock", nothing=0)
        stock["lines"][0]["guard"] = {"after": 1, "rise": 1}
        stock["lines"][1]["limit"] = 2
        stall = {"id": "s", "name": "Stall", "stock": "stock", "slots": 1}
        place = {
            "id": "p",
            "name": "P",
            "size": [2, 1],
            "stock": "stock",
            "spots": [{"id": "a", "x": 0, "y": 0}],
        }
        data = game_data([pick((1, "sand")), stock])
        made = read_game({**data, "stalls": [stall], "places": [place]})
        told = "guards and limits of Stock do not count {}: its lines are laid out, not rolled"
        self.assertEqual(self.about(made, "stall", "s"), [told.format("at a stall")])
        self.assertIn(told.format("in a place"), self.about(made, "place", "p"))
        for line in stock["lines"]:
            line.pop("guard", None), line.pop("limit", None)
        data = game_data([pick((1, "sand")), stock])
        self.assertEqual(self.about(read_game({**data, "stalls": [stall]}), "stall", "s"), [])

    def test_sources_that_give_nothing(self) -> None:
        bare = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": []}
        self.assertIn("no drops", self.only(game([], sources=[bare]), "sources[0]").message)
        never = {**bare, "drops": [{"id": "a", "table": "bits", "chance": 0}]}
        made = game([pick((1, "sand"))], sources=[never])
        self.assertIn("its chance is 0", self.only(made, "sources[0].drops[0]").message)


class Demo(Found):
    def test_it_has_a_few_and_no_errors(self) -> None:
        found = findings(demo())
        self.assertNotIn("error", {finding.level for finding in found})
        self.assertTrue(4 <= len(found) <= 12, [one.message for one in found])

    def test_every_mend_of_the_demo_leaves_a_sound_game_with_fewer_findings(self) -> None:
        count = len(findings(demo()))
        mends = [one for one in findings(demo()) if one.mend is not None]
        self.assertGreaterEqual(len(mends), 3)
        for finding in mends:
            with self.subTest(finding.message):
                self.assertLess(len(findings(self.mended(demo(), finding))), count)


class Routes(unittest.TestCase):
    """Each with what is odd, and the nearest that is not."""

    def told(self, *legs: dict[str, Any], **route: Any) -> list[str]:
        data = game_data([pick((1, "sand"), name="bits"), pick((1, "sand"), name="life")])
        data["depth"]["bands"] = [{"id": "top", "name": "Top", "from": 1, "to": 4, "spawns": "life"}]
        data["sources"][0]["depths"] = [2, 6]
        data["flags"] = [{"id": "lit", "name": "Lit"}, {"id": "idle", "name": "Idle"}]
        data["tables"][0]["lines"][0]["needs"] = ["lit"]
        data["routes"] = [{"id": "way", "name": "Way", "legs": list(legs), **route}]
        found = [one for one in findings(read_game(data)) if one.kind == "route"]
        for one in found:
            if one.mend is not None:
                self.assertEqual(one.mend.entries[0]["kind"], "route")
        return [one.message for one in found]

    def test_legs(self) -> None:
        visits, kills = {"visits": {"min": 1, "max": 1}}, {"source": "crab"}
        self.assertEqual(self.told(), ["nobody goes anywhere: it has no legs"])
        self.assertEqual(self.told({"id": "a", "from": 1, "to": 4, **visits}), [])
        self.assertEqual(
            self.told({"id": "a", "from": 6, "to": 3, **visits}),
            ["leg 1 meets nothing at depth 5 to 6: no band there names a spawn table"],
        )
        self.assertEqual(self.told({"id": "a", "from": 2, "to": 6, **kills}), [])
        self.assertEqual(
            self.told({"id": "a", "from": 1, "to": 7, **kills}),
            ["leg 1 acts on Crab at depth 1, 7, where it is not met: its depths are 2 to 6"],
        )
        self.assertIn("nobody can go along it", self.told({"id": "a", "from": 9, "to": 11})[0])

    def test_flags(self) -> None:
        leg = {"id": "a", "from": 1, "to": 1}
        self.assertEqual(self.told({**leg, "gains": ["lit"], "loses": ["lit"]}), [])
        self.assertEqual(
            self.told({**leg, "gains": ["lit"]}, flags=["lit"]), ["leg 1 gains “Lit”, which is set already"]
        )
        self.assertEqual(self.told({**leg, "loses": ["lit"]}), ["leg 1 loses “Lit”, which is not set"])
        self.assertEqual(
            self.told({**leg, "gains": ["idle"]}), ["leg 1 gains “Idle”, which nothing asks about"]
        )


if __name__ == "__main__":
    unittest.main()
