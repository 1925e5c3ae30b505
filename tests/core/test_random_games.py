"""What must hold of every game, whatever is in it: findings, sheets, removals, files."""

from __future__ import annotations

import math
import re
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from golddice.core.errors import GameError, QueryError, TooLarge
from golddice.core.findings import findings
from golddice.core.game.editing import EditError, Entities, Entry, removal, uses
from golddice.core.game.models import Game
from golddice.core.game.reading import plain, plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.event.rules import roll_chances
from golddice.core.sheets.compare import compared
from golddice.core.sheets.depth_sheet import depth_sheet
from golddice.core.sheets.meeting import meets, meets_profile
from golddice.core.sheets.report import odds
from golddice.core.sheets.sheet import SheetOdds, spread
from golddice.core.terms.conditions import Conditions
from tests.strategies import games

CRAB = View("source", "crab")
LIMITS = settings(max_examples=35, deadline=None, suppress_health_check=list(HealthCheck))


def at_path(data: Any, path: str) -> Any:
    """What stands at a path like `tables[0].lines[1].chance`; a key left at its default is None."""
    for step in re.findall(r"[a-z_]+|\[\d+\]", path):
        data = data[int(step[1:-1])] if step.startswith("[") else data.get(step)
        if data is None:
            return None
    return data


class Findings(unittest.TestCase):
    @LIMITS
    @given(games(state=True))
    def test_each_names_a_place_and_says_something(self, made: Game) -> None:
        data = plain_game(made)
        for finding in findings(made):
            self.assertIn(finding.level, ("error", "warning"))
            self.assertGreater(len(finding.message), 10)
            holder = finding.path.rsplit(".", 1)[0] if "." in finding.path else finding.path
            self.assertIsNotNone(at_path(data, holder), finding.path)

    @settings(LIMITS, max_examples=20)
    @given(games(state=True), st.data())
    def test_a_mend_leaves_a_sound_game_without_it(self, made: Game, data: st.DataObject) -> None:
        mended = [one for one in findings(made) if one.mend is not None]
        assume(mended)
        finding = data.draw(st.sampled_from(mended))
        assert finding.mend is not None
        entries = [Entry(one["kind"], one["id"], one["body"]) for one in finding.mend.entries]
        after = Entities.of(made).edited(entries).game()
        left = [(one.kind, one.id, one.line, one.message) for one in findings(after)]
        self.assertNotIn((finding.kind, finding.id, finding.line, finding.message), left)


class Sheets(unittest.TestCase):
    @LIMITS
    @given(games(), st.integers(1, 10))
    def test_figures_hang_together(self, made: Game, depth: int) -> None:
        sheet = SheetOdds(made, CRAB, depth).sheet()
        for name, item in sheet["items"].items():
            self.assertTrue(0 <= item["p_any"] <= 1, name)
            self.assertLessEqual(item["p_any"], item["mean"] + 1e-12, name)
            self.assertGreaterEqual(item["sd"], 0, name)
        worth = sum(one.value * sheet["items"].get(one.id, {"mean": 0})["mean"] for one in made.items)
        self.assertAlmostEqual(sheet["value"]["mean"], worth, places=9)
        for tier in made.tiers:
            mine = [sheet["items"].get(one.id) for one in made.items if one.tier == tier.id]
            total = sum(one["mean"] for one in mine if one)
            self.assertAlmostEqual(sheet["tiers"][tier.id]["mean"], total, places=9)
        shares = [tier["share"] for tier in sheet["tiers"].values()]
        self.assertAlmostEqual(sum(shares), 1.0 if worth > 0 or sum(shares) > 0 else 0.0, places=9)

    @LIMITS
    @given(games(), st.integers(1, 10))
    def test_one_roll_does_one_thing_in_rules_that_pick_one(self, made: Game, depth: int) -> None:
        tables = SheetOdds(made, CRAB, depth).sheet()["tables"]
        for table in made.tables:
            if table.id in tables and table.rule != "each":
                chances = [line["chance"] for line in tables[table.id]["lines"].values()]
                self.assertAlmostEqual(sum(chances) + tables[table.id]["nothing"], 1.0, places=9)

    @LIMITS
    @given(games(), st.integers(1, 10))
    def test_shares_of_the_swing_of_drops_add_up(self, made: Game, depth: int) -> None:
        sheet = SheetOdds(made, CRAB, depth).sheet()
        assume(sheet["value"]["sd"] > 1e-9)
        self.assertAlmostEqual(sum(drop["share"] for drop in sheet["drops"].values()), 1.0, places=6)

    @settings(LIMITS, max_examples=12)
    @given(games(state=True), st.integers(1, 10), st.integers(1, 40))
    def test_a_hundred_players_stand_in_a_row(self, made: Game, depth: int, events: int) -> None:
        try:
            found = spread(made, CRAB, depth=depth, events=events)
        except TooLarge:
            return
        dots = found["dots"]
        self.assertEqual(dots, sorted(dots))
        self.assertLessEqual(dots[0], found["p50"])
        self.assertLessEqual(found["p50"], dots[-1])
        report = odds(made, CRAB, depth=depth, events=events)
        mean, sd = report["after"]["value"]["mean"], report["after"]["value"]["sd"]
        # A hundred evenly drawn quantiles lie about their mean as the whole does, roughly (Cantelli).
        self.assertLessEqual(abs(found["p50"] - mean), sd + 1e-6 + found["grid_error"])

    @LIMITS
    @given(games())
    def test_depth_sheets_are_shares(self, made: Game) -> None:
        for name in ("crab", "egg"):
            found = depth_sheet(made, View("source", name))
            for shares in (*found["falls"], *found["worth"]):
                self.assertTrue(math.isclose(sum(shares), 1.0, abs_tol=1e-9) or sum(shares) == 0.0, shares)

    @settings(LIMITS, max_examples=30)
    @given(games(), st.integers(1, 10), st.sampled_from(["outer", "middle", "inner"]))
    def test_each_reading_of_a_table_is_a_table_that_can_be_saved(
        self, made: Game, depth: int, name: str
    ) -> None:
        entities = Entities.of(made)
        for one in compared(made, name, depth):
            after = entities.edited([Entry("table", name, plain(one.table))]).game()
            under = Conditions(after, [depth])
            chances = roll_chances(under.table(name), under)[0][:, 0]
            got = {line.id: chance for line, chance in zip(one.table.lines, chances, strict=True)}
            for line, wanted in one.chances.items():  # what was nothing may be a line now
                self.assertAlmostEqual(got[line], wanted, places=9)


class Edits(unittest.TestCase):
    @LIMITS
    @given(games(state=True), st.data())
    def test_a_removal_leaves_nobody_naming_it(self, made: Game, data: st.DataObject) -> None:
        entities = Entities.of(made)
        kind = data.draw(st.sampled_from(["item", "table", "source", "curve", "flag", "tier"]))
        name = data.draw(st.sampled_from(sorted(entities.bodies[kind])))
        try:
            after = entities.edited(removal(entities, kind, name))
        except EditError:  # a tier with items, a pool of a tier
            self.assertEqual(kind, "tier")
            return
        self.assertNotIn(name, after.bodies[kind])
        self.assertEqual(uses(after, kind, name), [])
        read_game(after.data())

    @LIMITS
    @given(games(state=True))
    def test_apart_and_together_and_through_a_file(self, made: Game) -> None:
        data = Entities.of(made).data()
        self.assertEqual(plain_game(read_game(data)), plain_game(made))

    @LIMITS
    @given(games(), st.data())
    def test_one_key_bent_is_refused_or_sound(self, made: Game, data: st.DataObject) -> None:
        """Whatever stands in one place of a file: a sound game, or a GameError with a path."""
        body = plain_game(made)
        table = data.draw(st.sampled_from(body["tables"]))
        key = data.draw(st.sampled_from(sorted(table)))
        table[key] = data.draw(
            st.sampled_from([None, -1, 1e400, "x", [], {}, [None], {"min": 5, "max": 1}, "1-3"])
        )
        try:
            found = read_game(body)
        except GameError as error:
            self.assertTrue(all(problem.message for problem in error.problems))
        else:
            self.assertEqual(plain_game(read_game(plain_game(found))), plain_game(found))


class Meeting(unittest.TestCase):
    @LIMITS
    @given(games(), st.integers(1, 10), st.integers(1, 5))
    def test_a_visit_adds_up(self, made: Game, depth: int, points: int) -> None:
        band = {
            "id": "all",
            "name": "All",
            "from": 1,
            "to": 10,
            "spawns": "outer",
            "encounters": {"min": 1, "max": 3},
        }
        data = plain_game(made)
        data["depth"] = {"from": 1, "to": 10, "bands": [band]}
        game = read_game(data)
        found = meets(game, depth, points=points)
        items = np.zeros(len(game.items))
        for name, events in found["sources"].items():
            sheet = odds(game, View("source", name), depth=depth)["items"]
            items += events * np.array([sheet.get(one.id, {"mean": 0.0})["mean"] for one in game.items])
        for at, one in enumerate(game.items):
            self.assertAlmostEqual(found["items"].get(one.id, 0.0), float(items[at]), places=9)
        profile = meets_profile(game)
        shares = profile["falls"][depth - 1]
        self.assertAlmostEqual(sum(shares), 1.0 if items.sum() > 0 else 0.0, places=9)
        repeats = found["repeats"]
        for name, chance in repeats["at_least_one"].items():
            self.assertTrue(0 <= chance <= 1, name)
        self.assertLessEqual(repeats["distinct"], len(game.sources) + 1e-9)

    def test_too_many_points_are_refused(self) -> None:
        with self.assertRaises(QueryError):
            meets(read_game(GAME), 1, points=1_001)


GAME = {"format": "golddice-game", "version": 1, "name": "Empty", "tiers": [], "items": [], "tables": []}


if __name__ == "__main__":
    unittest.main()
