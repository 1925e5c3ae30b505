"""Logs of the running game: each fault planted and found, none planted and none found."""

from __future__ import annotations

import csv
import json
import math
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from scipy.stats import norm

from golddice.core.errors import QueryError
from golddice.core.exchange.logs.checking import check_log
from golddice.core.exchange.logs.making import COLUMNS, log_of_route, log_of_source
from golddice.core.exchange.logs.reading import read_log
from golddice.core.exchange.sheets.preview import preview
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.files.sheet_files import read_sheets
from tests.demo_files import SESSION, WORKBOOK, session_text
from tests.faults import named, tried
from tests.games import demo, game_data, pick, source

Row = list[Any]
EVENT, TIME, PLAYER, SOURCE, INSTANCE, DEPTH, FLAGS, ITEM, QUANTITY = range(9)


def made(**more: Any) -> Game:
    """Sand 1 to 3 or a claw; a lens that is sure by 6; a crown that one may have twice; a chest."""
    bits = pick((6, "sand"), (3, "claw"), name="bits", nothing=2)
    bits["lines"][0]["yields"][0]["quantity"] = {"min": 1, "max": 3}
    rare = pick((1, "lens"), name="rare", nothing=9)
    rare["lines"][0]["guard"] = {"after": 3, "rise": 0.1, "sure_at": 6}
    once = pick((1, "crown"), name="once", nothing=4)
    once["lines"][0]["limit"] = 2
    crab = source("crab", "bits")
    crab["drops"] += [{"id": f"of-{name}", "table": name, "chance": 1.0} for name in ("rare", "once")]
    chest = source("chest", "bits") | {"kind": "container"}
    other = pick((1, "claw"), (1, "crown"), name="other")
    data = game_data([bits, rare, once, other], sources=[crab, chest, source("eel", "other")], **more)
    return read_game(data)


def rows_of(game: Game, name: str = "crab", players: int = 40, events: int = 60, seed: int = 1) -> list[Row]:
    given = {"depth": game.depth.from_, "flags": (), "players": players, "events": events, "seed": seed}
    return [list(row) for row in log_of_source(game, name, **given)]


class Logs(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def written(self, rows: list[Row], heads: tuple[str, ...] = COLUMNS) -> Path:
        path = self.folder / "log.csv"
        with path.open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows([heads, *rows])
        return path

    def told(self, game: Game, rows: list[Row]) -> dict[str, Any]:
        return check_log(game, read_log(game, self.written(rows)))

    def faults(self, game: Game, rows: list[Row]) -> dict[str, int]:
        return {one["fault"]: one["count"] for one in self.told(game, rows)["faults"]}


class Planted(Logs):
    def assert_found(self, kind: str, plant: Callable[[list[Row]], int], name: str = "crab") -> None:
        """Nothing but this, as often as it was planted, and nothing where it was not."""
        game = made()
        rows = rows_of(game, name)
        self.assertEqual(self.faults(game, rows), {})
        count = plant(rows)
        self.assertEqual(self.faults(game, rows).get(kind), count)

    def test_an_event_that_fires_twice(self) -> None:
        def plant(rows: list[Row]) -> int:
            again = [row for row in rows if row[EVENT] in ("3-7", "5-9")]
            rows += [list(row) for row in again]
            return 2

        self.assert_found("twice", plant)

    def test_rolls_that_bring_the_same_twice_are_no_fault(self) -> None:
        """A bundle that is always rolled twice, and one that is now and then."""
        for times in ({"min": 2, "max": 2}, {"min": 1, "max": 2}):
            both = {"id": "a", "weight": 1, "yields": [{"item": "sand"}, {"item": "claw"}]}
            data = game_data([{**pick((1, "sand")), "lines": [both]}])
            data["sources"][0]["drops"][0]["times"] = times
            game = read_game(data)
            made = log_of_source(game, "crab", depth=1, flags=(), players=20, events=30, seed=3)
            rows = [list(row) for row in made]
            self.assertEqual(self.faults(game, rows), {}, times)

    def test_each_event_that_fires_twice(self) -> None:
        both = {"id": "a", "weight": 1, "yields": [{"item": "sand"}, {"item": "claw"}]}
        game = read_game(game_data([{**pick((1, "sand")), "lines": [both]}]))
        made = log_of_source(game, "crab", depth=1, flags=(), players=20, events=30, seed=3)
        pairs = [list(row) for row in made]
        rows = [row for at in range(0, len(pairs), 2) for row in [*pairs[at : at + 2]] * 2]
        self.assertIn("twice", self.faults(game, rows))

    def test_a_second_roll_under_the_same_name(self) -> None:
        """It brings other things than the first, but more than one event can."""

        def plant(rows: list[Row]) -> int:
            again, planted = rows_of(made(), seed=9), 0
            for at in range(0, len(rows), 20):
                second = [row for row in again if row[EVENT] == rows[at][EVENT] and row[ITEM]]
                first = [row for row in rows if row[EVENT] == rows[at][EVENT] and row[ITEM]]
                rows += [list(row) for row in second]
                planted += len(first) + len(second) > 3
            rows.sort(key=lambda row: [int(one) for one in row[EVENT].split("-")])
            self.assertGreater(planted, 5)
            return planted

        self.assert_found("twice", plant)

    def test_amounts_that_are_added_up_in_one_row_are_no_fault(self) -> None:
        """Of two drops, and of a table that a line rolls ten to thirty times."""
        bits = pick((1, "sand"), name="bits", nothing=1)
        bits["lines"][0]["yields"][0]["quantity"] = {"min": 2, "max": 4}
        heap = pick((1, "@grain"), name="heap", nothing=0)
        heap["lines"][0]["yields"][0]["quantity"] = {"min": 10, "max": 30}
        crab = source("crab", "bits")
        crab["drops"].append({"id": "more", "table": "bits"})
        grain = pick((1, "claw"), name="grain", nothing=0)
        game = read_game(game_data([bits, heap, grain], sources=[crab, source("eel", "heap")]))
        for name in ("crab", "eel"):
            apart, rows = rows_of(game, name), []
            for row in apart:
                if rows and rows[-1][EVENT] == row[EVENT]:
                    rows[-1][QUANTITY] += row[QUANTITY]
                else:
                    rows.append(list(row))
            self.assertLess(len(rows), len(apart))
            self.assertEqual(self.faults(game, apart), {}, name)
            self.assertEqual(self.faults(game, rows), {}, name)
            next(row for row in rows if row[ITEM])[QUANTITY] = 31
            self.assertEqual(self.faults(game, rows), {"outside-range": 1}, name)

    def test_what_can_come_is_told_from_the_least(self) -> None:
        game = made()
        rows = rows_of(game)
        next(row for row in rows if row[ITEM] == "sand")[QUANTITY] = 7
        [found] = self.told(game, rows)["faults"]
        self.assertIn("1 to 3 can come", found["says"])

    def test_two_of_one_instance_within_a_second(self) -> None:
        def plant(rows: list[Row]) -> int:
            row = list(next(row for row in rows if row[EVENT] == "3-7"))
            row[EVENT], row[TIME] = "again", row[TIME] + 0.4
            rows.append(row)
            return 1

        self.assert_found("twice", plant)

    def test_a_chest_that_rolls_again(self) -> None:
        def plant(rows: list[Row]) -> int:
            for at in range(3):
                row = list(rows[at * 20])
                row[EVENT], row[TIME] = f"again-{at}", row[TIME] + 500.0
                rows.append(row)
            return 3

        self.assert_found("reopened", plant, "chest")

    def test_an_end_that_never_comes(self) -> None:
        def plant(rows: list[Row]) -> int:
            sand = [row for row in rows if row[ITEM] == "sand"]
            for row in sand:
                row[QUANTITY] = min(row[QUANTITY], 2)
            return len(sand)

        self.assert_found("missing-end", plant)

    def test_a_quantity_outside(self) -> None:
        def plant(rows: list[Row]) -> int:
            for row in [row for row in rows if row[ITEM] == "sand"][:4]:
                row[QUANTITY] = 4
            return 4

        self.assert_found("outside-range", plant)

    def test_an_item_that_cannot_come_from_there(self) -> None:
        def plant(rows: list[Row]) -> int:
            for row in [row for row in rows if row[ITEM] == "sand"][:5]:
                row[ITEM], row[QUANTITY] = "crown", 1
            return 5

        self.assert_found("cannot-fall", plant, "chest")

    def test_a_limit_that_is_passed(self) -> None:
        def plant(rows: list[Row]) -> int:
            for player in (3, 8):
                rows += [
                    [f"more-{player}-{at}", 9000.0, player, "crab", "", 1, "", "crown", 1] for at in range(3)
                ]
            return 2

        self.assert_found("over-limit", plant)

    def test_a_guard_that_does_not_keep_its_word(self) -> None:
        def plant(rows: list[Row]) -> int:
            mine = [row for row in rows if row[PLAYER] == 4 and row[ITEM] == "lens"]
            for row in mine:
                row[ITEM], row[QUANTITY] = "", ""
            return 10  # sixty events without it, and it was sure by the sixth

        self.assert_found("late-guard", plant)

    def test_a_seed_that_is_fixed(self) -> None:
        game = made()
        one = [row for row in rows_of(game) if row[PLAYER] == 0]
        rows = []
        for player in range(12):
            rows += [[f"{player}-{row[EVENT]}", *row[1:2], player, *row[3:4], "", *row[5:]] for row in one]
        self.assertEqual(self.faults(game, rows).get("same-results"), 12)

    def test_a_depth_and_a_flag_at_which_it_cannot_fall(self) -> None:
        table = pick((1, "sand"), (1, "claw"), (1, "lens"))
        table["lines"][1]["depths"], table["lines"][2]["needs"] = [1, 3], ["key"]
        game = read_game(game_data([table], flags=[{"id": "key", "name": "Key"}]))
        row = ["1", 0, 0, "crab", "", 3, "", "claw", 1]
        self.assertEqual(self.faults(game, [row]), {})
        self.assertEqual(self.faults(game, [[*row[:DEPTH], 4, "", "claw", 1]]), {"cannot-fall": 1})
        self.assertEqual(self.faults(game, [[*row[:DEPTH], 4, "", "lens", 1]]), {"cannot-fall": 1})
        self.assertEqual(self.faults(game, [[*row[:DEPTH], 4, "key", "lens", 1]]), {})


class RandomGames(Logs):
    def test_each_fault_is_found_and_none_where_none_was_planted(self) -> None:
        """`bench logs` does it with a hundred games."""
        found = list(tried(2, seed=3, path=self.folder / "log.csv"))
        self.assertEqual([fault for fault, is_found in found if not is_found and fault != "none"], [])
        self.assertEqual(sum(said for fault, said in found if fault == "none"), 0)
        self.assertEqual(len(found), 2 * 9)

    def test_which_table_it_really_was_stands_first(self) -> None:
        told = [is_first for is_told, is_first in named(8, seed=5, path=self.folder / "log.csv") if is_told]
        self.assertGreater(len(told), 5)
        self.assertEqual(told, [True] * len(told))


class Agreement(Logs):
    def test_what_was_played_here_agrees(self) -> None:
        """Of 24 logs of the demo, false alarms of any kind in fewer than one in twenty."""
        game, wrong, judged = demo(), [], 0
        for name, depth in (("silt-crab", 4), ("lantern-eel", 14), ("kiln-chest", 22), ("guild-parcel", 9)):
            for seed in range(6):
                given = {"depth": depth, "flags": (), "players": 12, "events": 40, "seed": seed}
                found = self.told(game, [list(row) for row in log_of_source(game, name, **given)])
                self.assertEqual(found["events"], 480)
                judged += sum(item["verdict"] != "few" for item in found["sources"][0]["items"])
                if not found["agrees"]:
                    wrong.append((name, seed, found["faults"]))
        self.assertGreater(judged, 160)
        self.assertLess(len(wrong), 3, wrong)

    def test_a_route_that_was_played_agrees(self) -> None:
        game = demo()
        rows = [list(row) for row in log_of_route(game, game.routes[0].id, players=20, events=60, seed=3)]
        found = self.told(game, rows)
        self.assertEqual(found["faults"], [])
        self.assertNotIn("differs", {group["verdict"] for group in found["sources"]})

    def test_another_table_is_named(self) -> None:
        """A chest that rolls the eel's table: which one it is, and how many times likelier."""
        game = made()
        rows = rows_of(game, "eel", players=20, events=20)
        for row in rows:
            row[SOURCE] = "chest"
        found = self.told(game, rows)["sources"][0]
        self.assertEqual(found["verdict"], "differs")
        self.assertIn(found["better"][0]["id"], ("eel", "other"))
        self.assertGreater(found["better"][0]["times_likelier"], 1e9)

    def test_every_line_by_itself_instead_of_the_first_is_named(self) -> None:
        """Code that asks of each line whether it hits, though the first hit was to end it. (Of a pick the
        rate of every single thing is the same either way.)"""
        lines = [{"id": one, "chance": 0.5, "yields": [{"item": one}]} for one in ("sand", "claw", "lens")]
        table = {"id": "bits", "name": "Bits", "rule": "first", "lines": lines}
        wrong, game = read_game(game_data([{**table, "rule": "each"}])), read_game(game_data([table]))
        found = self.told(game, rows_of(wrong, "crab", players=40, events=50))["sources"][0]
        self.assertEqual(found["verdict"], "differs")
        self.assertEqual((found["better"][0]["id"], found["better"][0]["each"]), ("crab", "bits"))

    def test_a_depth_that_is_shifted_is_named(self) -> None:
        game = demo()
        given = {"depth": 26, "flags": (), "players": 40, "events": 50, "seed": 2}
        rows = [list(row) for row in log_of_source(game, "kiln-chest", **given)]
        for row in rows:
            row[DEPTH] = 8
        found = self.told(game, rows)["sources"][0]
        self.assertEqual(found["verdict"], "differs")
        self.assertEqual(found["better"][0]["kind"], "source")
        self.assertEqual(found["better"][0]["id"], "kiln-chest")
        self.assertLessEqual(abs(found["better"][0]["depth"] - 26), 3)

    def test_of_few_events_little_is_said(self) -> None:
        game = made()
        found = self.told(game, rows_of(game, "chest", players=1, events=3))
        self.assertEqual({item["verdict"] for item in found["sources"][0]["items"]}, {"few"})
        self.assertTrue(found["agrees"])

    def test_figures_are_those_of_the_log(self) -> None:
        game = made()
        rows = rows_of(game, "chest", players=20, events=100)
        found = self.told(game, rows)["sources"][0]
        items = {item["item"]: item for item in found["items"]}
        sand = [row for row in rows if row[ITEM] == "sand"]
        self.assertEqual(items["sand"]["with_any"], len(sand))
        self.assertEqual(items["sand"]["observed"], sum(row[QUANTITY] for row in sand))
        self.assertAlmostEqual(items["sand"]["expected"], 2000 * 2 * 6 / 11)
        self.assertAlmostEqual(items["sand"]["chance"], 6 / 11)
        low, high = items["sand"]["interval"]
        self.assertTrue(low < len(sand) / 2000 < high)
        self.assertGreater(items["sand"]["power"], 0.99)
        # As many events as are said to be needed see it four times in five.
        error = math.sqrt((6 / 11) * (5 / 11) / items["sand"]["needed"])
        self.assertAlmostEqual(norm.sf(1.96 - 0.2 * (6 / 11) / error), 0.8, delta=0.01)


class Reading(Logs):
    def test_names_other_heads_and_json_lines(self) -> None:
        game = made()
        rows = rows_of(game, "chest", players=5, events=20)
        plain = self.told(game, rows)
        names = {one.id: one.name for one in (*game.items, *game.sources)}
        named = [
            [*row[:3], names[row[SOURCE]], *row[4:7], names.get(row[ITEM], ""), row[QUANTITY]] for row in rows
        ]
        heads = ("id", "when", "who", "what", "which", "fathom", "quests", "got", "many")
        log = read_log(game, self.written(named, heads), dict(zip(COLUMNS, heads, strict=True)))
        self.assertEqual(check_log(game, log)["sources"], plain["sources"])
        path = self.folder / "log.jsonl"
        lines = [json.dumps(dict(zip(COLUMNS, map(str, row), strict=True))) for row in rows]
        path.write_text("\n".join(lines), encoding="utf-8")
        self.assertEqual(check_log(game, read_log(game, path))["sources"], plain["sources"])

    def test_rows_that_are_nonsense_are_counted_and_left_out(self) -> None:
        game = made()
        good = ["1", 0, 0, "crab", "", 1, "", "sand", 1]
        bad = [
            [*good[:SOURCE], "crabb", *good[INSTANCE:]],
            [*good[:ITEM], "gold", 1],
            [*good[:DEPTH], 99, "", "sand", 1],
            [*good[:ITEM], "sand", -2],
            [*good[:ITEM], "sand", "many"],
        ]
        found = self.told(game, [good, *bad])
        self.assertEqual((found["rows"], found["events"]), (6, 1))
        told = {one["why"]: (one["count"], one["rows"]) for one in found["refused"]}
        self.assertEqual(told["a source that is not in the game"], (1, [2]))
        self.assertEqual(told["an item that is not in the game"], (1, [3]))
        self.assertEqual(told["a depth that is no depth of the game"], (1, [4]))
        self.assertEqual(told["a quantity that is no whole number from 0"], (2, [5, 6]))

    def test_what_is_no_log_is_told(self) -> None:
        game = made()
        for text in ("", "a,b\n1,2\n", "\x00\x01\xff"):
            path = self.folder / "no.csv"
            path.write_text(text, encoding="utf-8")
            with self.subTest(text), self.assertRaises(QueryError):
                read_log(game, path)
        with self.assertRaises(QueryError):
            read_log(game, self.folder / "missing.csv")


class DemoFiles(unittest.TestCase):
    """What ships beside the demo is what is made for it, and has what is said of it."""

    def test_the_session_has_its_two_faults_and_nothing_else(self) -> None:
        self.assertEqual(
            SESSION.read_text(encoding="utf-8"), session_text(demo()), "run python -m tests.demo_files"
        )
        found = check_log(demo(), read_log(demo(), SESSION))
        self.assertEqual([one["fault"] for one in found["faults"]], ["reopened", "missing-end"])
        verdicts = {group["source"]: group["verdict"] for group in found["sources"]}
        wanted = {"lantern-eel": "differs", "silt-crab": "agrees", "kiln-chest": "agrees"}
        self.assertEqual(verdicts, wanted)

    def test_the_workbook_has_its_edits(self) -> None:
        found, _ = preview(demo(), read_sheets(WORKBOOK))
        self.assertEqual([one["name"] for one in found.new], ["Tar barrel"])
        told = [(one["id"], one["key"], one["after"]) for one in found.changed]
        self.assertEqual(told, [("lamp-oil", "value", 8), ("eel-catch", "g/weight", 3)])
        self.assertEqual(found.refused, [])
