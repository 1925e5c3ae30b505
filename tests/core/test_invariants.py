"""What must hold of every game at every depth: numbers that belong together, and changes of a game that
change no number."""

from __future__ import annotations

import copy
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import DepthOdds, Lean
from golddice.core.sheets.depth_sheet import depth_sheet, profile
from golddice.core.terms.conditions import Conditions
from tests.games import demo
from tests.strategies import games

DEPTHS = range(1, 11)
Data = dict[str, Any]
thorough = settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))


def odds(made: Game, name: str = "crab", flags: tuple[str, ...] = ()) -> Lean:
    return DepthOdds(Conditions(made, DEPTHS, flags)).of(View("source", name))


class Together(unittest.TestCase):
    """Numbers that are worked out in different ways and have to agree."""

    def assert_consistent(self, made: Game, lean: Lean) -> None:
        values = np.array([made.items[at].value for at in lean.places])
        worth = values @ lean.mean
        np.testing.assert_allclose(lean.value_mean, worth, rtol=1e-11, atol=1e-300)
        self.assertTrue((lean.hit >= 0).all() and (lean.hit <= 1).all())
        self.assertTrue((lean.hit <= lean.mean * (1 + 1e-12)).all(), "any at all is at most how many")
        np.testing.assert_array_equal(lean.hit > 0, lean.mean > 0)
        self.assertTrue((lean.value_var >= 0).all())
        certain = lean.value_mean == 0
        np.testing.assert_array_equal(lean.value_var[certain], 0)

    @thorough
    @given(games(), st.sampled_from([(), ("key",)]))
    def test_worth_is_numbers_times_values(self, made: Game, flags: tuple[str, ...]) -> None:
        for name in ("crab", "egg"):
            self.assert_consistent(made, odds(made, name, flags))

    @thorough
    @given(games(state=True))
    def test_with_what_players_carry(self, made: Game) -> None:
        self.assert_consistent(made, odds(made))

    def test_of_the_demo(self) -> None:
        under = Conditions(demo(), range(1, 31))
        every = DepthOdds(under)
        for source in demo().sources:
            with self.subTest(source.id):
                self.assert_consistent(demo(), every.of(View("source", source.id)))

    @thorough
    @given(games())
    def test_shares_of_tiers(self, made: Game) -> None:
        """They add up to all that falls, or there is nothing; and are alike wherever they are told."""
        sheet = depth_sheet(made, View("source", "crab"))
        told = profile(made, View("source", "crab"))
        for of in ("falls", "worth"):
            shares = np.array(sheet[of])
            np.testing.assert_allclose(np.array(told[of]), shares, rtol=1e-12, atol=1e-15)
            whole = shares.sum(axis=1)
            np.testing.assert_allclose(whole[whole > 0], 1.0, rtol=1e-12)
            met = np.array(sheet["value_mean"]) > 0
            np.testing.assert_array_equal(whole[met] > 0, True)


class Unchanged(unittest.TestCase):
    """The same game said otherwise."""

    def assert_same(self, made: Game, change: Callable[[Data], None]) -> None:
        data = copy.deepcopy(plain_game(made))
        for table in data["tables"]:
            table.setdefault("lines", [])  # a file leaves out what goes without saying
        change(data)
        before, after = odds(made), odds(read_game(data))
        np.testing.assert_array_equal(after.places, before.places)
        close = {"rtol": 1e-9, "atol": 1e-13}
        for name in ("hit", "mean", "value_mean", "value_var"):
            np.testing.assert_allclose(getattr(after, name), getattr(before, name), err_msg=name, **close)

    @thorough
    @given(games(), st.sampled_from([0.001, 7.0, 1e6]))
    def test_all_weights_times_the_same(self, made: Game, factor: float) -> None:
        def scale(data: Data) -> None:
            for table in data["tables"]:
                if table["rule"] == "pick":
                    table["nothing"] = table.get("nothing", 0.0) * factor
                for line in table["lines"]:
                    if table["rule"] in ("pick", "retry"):
                        line["weight"] = line.get("weight", 1.0) * factor

        self.assert_same(made, scale)

    @thorough
    @given(games(), st.integers(2, 9))
    def test_a_line_parted_by_depth(self, made: Game, border: int) -> None:
        """One line is as good as two, of which one is open above a depth and one from there on."""

        def part(data: Data) -> None:
            for table in data["tables"]:
                table["lines"] = [half for line in table["lines"] for half in halves(line)]

        def halves(line: Data) -> list[Data]:
            low, high = line.get("depths") or (1, 10)
            if not low < border <= high:
                return [line]
            return [
                {**line, "depths": [low, border - 1]},
                {**line, "id": f"{line['id']}-deep", "depths": [border, high]},
            ]

        self.assert_same(made, part)

    @thorough
    @given(games(), st.randoms(use_true_random=False))
    def test_lines_in_another_order(self, made: Game, rng: Any) -> None:
        def shuffle(data: Data) -> None:
            for table in data["tables"]:
                if table["rule"] != "first":
                    rng.shuffle(table["lines"])

        self.assert_same(made, shuffle)

    @thorough
    @given(games(state=True), st.randoms(use_true_random=False))
    def test_drops_in_another_order(self, made: Game, rng: Any) -> None:
        """Every drop is tried whatever the others did; unless both roll a table that remembers."""
        if len({drop.table for drop in made.sources[0].drops}) == 1:
            return
        carries = any(
            table.rule == "deck" or any(line.guard or line.limit for line in table.lines)
            for table in made.tables
        )
        if not carries:
            self.assert_same(made, lambda data: rng.shuffle(data["sources"][0]["drops"]))

    @thorough
    @given(games())
    def test_things_that_nobody_rolls(self, made: Game) -> None:
        """More items, tables and sources: no chance is another. Pools would take an item in."""

        def add(data: Data) -> None:
            line = {"id": "a", "weight": 1, "yields": [{"item": "dust"}]}
            data["tiers"].append({"id": "haze", "name": "Haze"})
            data["items"].append({"id": "dust", "name": "Dust", "tier": "haze", "abundance": 0})
            data["tables"].append({"id": "idle", "name": "Idle", "rule": "pick", "lines": [line]})
            drop = {"id": "a", "table": "idle", "chance": 1}
            data["sources"].append({"id": "gull", "name": "Gull", "kind": "enemy", "drops": [drop]})

        self.assert_same(made, add)

    @thorough
    @given(games())
    def test_a_table_rolled_through_another(self, made: Game) -> None:
        """A drop of a table is a drop of a table whose only line is sure to roll it once."""

        def wrap(data: Data) -> None:
            for drop in data["sources"][0]["drops"]:
                name = f"around-{drop['id']}"
                line = {"id": "a", "chance": 1, "yields": [{"table": drop["table"]}]}
                data["tables"].append({"id": name, "name": name, "rule": "each", "lines": [line]})
                drop["table"] = name

        self.assert_same(made, wrap)

    @thorough
    @given(games())
    def test_chances_of_one_line_under_rules_that_then_say_the_same(self, made: Game) -> None:
        """With one line, tested on its own is tested in order is tried once."""
        for rule in ("first", "retry"):

            def alone(data: Data, rule: str = rule) -> None:
                for table in data["tables"]:
                    if table["rule"] == "each" and len(table["lines"]) == 1:
                        table["rule"] = rule
                        table |= {"tries": 1} if rule == "retry" else {}

            self.assert_same(made, alone)


if __name__ == "__main__":
    unittest.main()
