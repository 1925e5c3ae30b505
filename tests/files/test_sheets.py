"""Spreadsheets: out and in again changes nothing; what was typed is understood, or refused with its place."""

from __future__ import annotations

import io
import shutil
import subprocess
import tempfile
import unittest
import zipfile
from pathlib import Path
from typing import Any

import openpyxl
from hypothesis import HealthCheck, given, settings

from golddice.core.errors import QueryError
from golddice.core.exchange.sheets.bodies import Preview
from golddice.core.exchange.sheets.cells import number_of
from golddice.core.exchange.sheets.guessing import guessed
from golddice.core.exchange.sheets.preview import preview, renamed
from golddice.core.exchange.sheets.writing import game_sheets
from golddice.core.game.editing import Entities
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.files.sheet_files import LARGEST, read_sheets, write_csvs, write_workbook
from tests.games import demo, each, game_data, pick
from tests.strategies import games


class SheetsTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def taken(self, game: Game, text: str, name: str = "Tables") -> tuple[Preview, Entities]:
        path = self.folder / f"{name}.csv"
        path.write_text(text, encoding="utf-8")
        return preview(game, read_sheets(path))

    def again(self, game: Game, form: str) -> Preview:
        path = self.folder / f"game.{form}"
        (write_workbook if form == "xlsx" else write_csvs)(path, game_sheets(game, [game.depth.from_]))
        found, entities = preview(game, read_sheets(path))
        self.assertEqual(entities.data(), plain_game(game) | entities.data())
        return found

    def assert_nothing(self, found: Preview) -> None:
        self.assertEqual((found.new, found.changed, found.refused, found.entries), ([], [], [], []))
        self.assertGreater(found.unchanged, 0)


class OutAndIn(SheetsTest):
    def test_the_demo(self) -> None:
        for form in ("xlsx", "zip"):
            with self.subTest(form):
                self.assert_nothing(self.again(demo(), form))

    @given(games(state=True))
    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    def test_any_game(self, made: Game) -> None:
        for form in ("xlsx", "zip"):
            self.assert_nothing(self.again(made, form))

    def test_names_that_look_like_something_else(self) -> None:
        """Formulas, numbers, names that are twice there, separators."""
        data = game_data([pick((1, "sand"), (1, "claw"), (1, "lens"), (0.1 + 0.2, "crown"))])
        for item, name in zip(data["items"], ("=1+1", "007", "any, of; all #2", "-3"), strict=False):
            item["name"] = name
        data["items"][-1]["name"] = data["items"][0]["name"]
        data["tables"][0]["name"] = "@home"
        made = read_game(data)
        for form in ("xlsx", "zip"):
            self.assert_nothing(self.again(made, form))
        book = openpyxl.load_workbook(self.folder / "game.xlsx")
        cells = [cell for page in book.worksheets for row in page.iter_rows() for cell in row]
        self.assertNotIn("f", {cell.data_type for cell in cells})
        with zipfile.ZipFile(self.folder / "game.zip") as packed:
            self.assertIn("'=1+1", packed.read("Items.csv").decode("utf-8"))


class Typed(SheetsTest):
    def made(self) -> Game:
        return read_game(game_data([pick((1, "sand"), (3, "claw"), name="bits", nothing=2)]))

    def test_a_weight_and_a_quantity_are_changed_cell_by_cell(self) -> None:
        lines = plain_game(self.made())["tables"][0]["lines"]
        text = f'table,line,quantity,weight\nbits,{lines[0]["id"]},2-4,"0,5"\nbits,{lines[1]["id"]},1,3\n'
        found, entities = self.taken(self.made(), text)
        self.assertEqual((found.refused, found.new, found.unchanged), ([], [], 1))
        told = {(one["key"], one["after"]) for one in found.changed}
        self.assertEqual(told, {(f"{lines[0]['id']}/quantity", "2-4"), (f"{lines[0]['id']}/weight", "0,5")})
        line = entities.bodies["table"]["bits"]["lines"][0]
        self.assertEqual(line["weight"], 0.5)
        self.assertEqual(line["yields"][0]["quantity"], {"min": 2, "max": 4})

    def test_new_items_and_a_new_table_of_them_in_one_go(self) -> None:
        path = self.folder / "both.zip"
        with zipfile.ZipFile(path, "w") as packed:
            packed.writestr(
                "Tables.csv",
                "table name,rule,gives,chance\r\nWreck,each,Brass bell,1/250\r\nWreck,each,Sand,40 %\r\n",
            )
            packed.writestr(
                "Items.csv", "name;tier;value\nBrass bell;Silt;1 250\n".replace("Silt", self.tier())
            )
        found, entities = preview(self.made(), read_sheets(path))
        self.assertEqual(found.refused, [])
        self.assertEqual([one["kind"] for one in found.new], ["item", "table", "line", "line"])
        self.assertEqual(entities.bodies["item"]["brass-bell"]["value"], 1250)
        lines = entities.bodies["table"]["wreck"]["lines"]
        self.assertEqual([line["chance"] for line in lines], [0.004, 0.4])
        read_game(entities.data())

    def tier(self) -> str:
        return self.made().tiers[0].name

    def test_what_is_not_understood_is_refused_with_its_place_and_the_rest_is_told(self) -> None:
        line = self.made().tables[0].lines[0].id
        text = (
            "table,line,gives,weight,open depths,needs\n"
            f"bits,{line},Nothing like it,much,9-x,moon\n,,sand,1,,\n"
        )
        found, entities = self.taken(self.made(), text)
        self.assertEqual(
            [(one["sheet"], one["row"], one["column"]) for one in found.refused],
            [
                ("Tables", 2, "weight"),
                ("Tables", 2, "open depths"),
                ("Tables", 2, "needs"),
                ("Tables", 2, "gives"),
                ("Tables", 3, "table"),
            ],
        )
        self.assertTrue(all(one["why"] for one in found.refused))
        self.assertEqual(entities.data(), Entities.of(self.made()).data())

    def test_what_would_be_unsound_is_refused_and_the_rest_is_made(self) -> None:
        text = f"id,name,tier,value\nsand,Sand,{self.tier()},-4\nclaw,Long claw,{self.tier()},12\n"
        found, entities = self.taken(self.made(), text, "Items")
        self.assertEqual([(one["row"], one["column"]) for one in found.refused], [(2, "value")])
        self.assertEqual({one["id"] for one in found.changed}, {"claw"})
        self.assertEqual(entities.bodies["item"]["claw"]["name"], "Long claw")
        self.assertEqual(entities.bodies["item"]["sand"], Entities.of(self.made()).bodies["item"]["sand"])

    def test_a_chance_in_a_table_of_chances(self) -> None:
        made = read_game(game_data([each((0.25, "sand"), name="bits")]))
        line = made.tables[0].lines[0].id
        _, entities = self.taken(made, f"table,line,chance\nbits,{line},1 in 8\n")
        self.assertEqual(entities.bodies["table"]["bits"]["lines"][0]["chance"], 0.125)

    def test_numbers_as_people_write_them(self) -> None:
        for text, comma, number in (
            ("1 250", False, 1250),
            ("1,250", False, 1250),
            ("1,25", True, 1.25),
            ("1.250,5", True, 1250.5),
            ("12.5 %", False, 0.125),
            ("1/250", False, 0.004),
            ("1 in 4", False, 0.25),
            ("1e-3", False, 0.001),
            ("0.1", False, 0.1),
        ):
            with self.subTest(text):
                self.assertEqual(number_of(text, comma), number)
        for text in ("", "x", "1/0", "1-2", "nan", "inf", "9" * 400, "1,2,3"):
            with self.subTest(text), self.assertRaises(ValueError):
                number_of(text)


class Curves(SheetsTest):
    def setUp(self) -> None:
        super().setUp()
        data = game_data([pick((1, "sand"))])
        data["tables"][0]["lines"][0]["curve"] = "wanes"
        data["curves"] = [{"id": "wanes", "name": "Wanes", "points": [[1, 1.0], [5, 0.5], [10, 0.25]]}]
        self.made = read_game(data)

    def test_a_point_moved_one_gone_and_a_new_curve_that_a_line_takes(self) -> None:
        text = "curve,curve name,depth,multiplier\nwanes,Wanes,1,1\nwanes,Wanes,5,0.75\n"
        text += ",Swells,1,1\n,Swells,9,3\n"
        (self.folder / "Curves.csv").write_text(text)
        lines = "table,line,curve\nbits,a,Swells\n"
        (self.folder / "Tables.csv").write_text(lines)
        sheets = [*read_sheets(self.folder / "Tables.csv"), *read_sheets(self.folder / "Curves.csv")]
        found, entities = preview(self.made, sheets)
        self.assertEqual(found.refused, [])
        told = [(one["key"], one["before"], one["after"]) for one in found.changed]
        self.assertIn(("points/5", 0.5, 0.75), told)
        self.assertIn(("points/10", 0.25, None), told)
        self.assertEqual([(one["kind"], one["name"]) for one in found.new], [("curve", "Swells")])
        game = entities.game()
        self.assertEqual(game.curves[0].points, [(1, 1.0), (5, 0.75)])
        self.assertEqual(game.curves[1].points, [(1, 1.0), (9, 3.0)])
        self.assertEqual(game.tables[0].lines[0].curve, game.curves[1].id)

    def test_a_row_that_cannot_be_read_leaves_its_curve_alone(self) -> None:
        text = "curve,depth,multiplier\nwanes,1,much\nwanes,5,0.75\n"
        found, entities = self.taken(self.made, text, "Curves")
        self.assertEqual([one["row"] for one in found.refused], [2])
        self.assertEqual(entities.game().curves, self.made.curves)

    def test_a_shape_stays(self) -> None:
        data = plain_game(self.made)
        data["curves"][0]["shape"] = "step"
        found, entities = self.taken(read_game(data), "curve,depth,multiplier\nwanes,2,3\n", "Curves")
        self.assertEqual(len(found.entries), 1)
        self.assertEqual(entities.game().curves[0].shape, "step")


class Mapped(SheetsTest):
    def test_heads_of_ones_own(self) -> None:
        path = self.folder / "stuff.csv"
        path.write_text("Thing,Rank,Gold\nSand,Silt,17\n")
        sheets = renamed(read_sheets(path), {"name": "Thing", "tier": "Rank", "value": "Gold"})
        found, entities = preview(read_game(game_data([pick((1, "sand"))])), sheets)
        self.assertEqual([(one["id"], one["after"]) for one in found.changed], [("sand", "17")])
        self.assertEqual(entities.game().items[0].value, 17.0)

    def test_a_column_that_is_not_there(self) -> None:
        path = self.folder / "stuff.csv"
        path.write_text("Thing\nSand\n")
        with self.assertRaises(QueryError) as caught:
            renamed(read_sheets(path), {"name": "Ding"})
        self.assertIn("Ding", str(caught.exception))


class Guessed(SheetsTest):
    """Columns whose heads say nothing, by what they hold."""

    def guess(self, text: str) -> tuple[dict[str, str], Preview, Entities]:
        game = read_game(game_data([pick((1, "sand"), (2, "claw")), each((0.5, "lens"), name="other")]))
        path = self.folder / "stuff.csv"
        path.write_text(text, encoding="utf-8")
        [(sheet, found)] = [guessed(game, one) for one in read_sheets(path)]
        return found, *preview(game, [sheet])

    def test_a_list_of_items(self) -> None:
        found, seen, entities = self.guess("A,B,C\nSand,Silt,17\nPearl,Silt,40\n")
        self.assertEqual(found, {"A": "name", "B": "tier", "C": "value"})
        self.assertEqual([one["name"] for one in seen.new], ["Pearl"])
        self.assertEqual(entities.game().items[0].value, 17.0)

    def test_lines_of_tables(self) -> None:
        found, seen, entities = self.guess("A,B,C,D\nbits,Sand,5,1-3\nbits,Claw,7,2\n")
        self.assertEqual(found, {"A": "table", "B": "gives", "C": "weight", "D": "quantity"})
        self.assertEqual(seen.refused, [])
        self.assertEqual({line.weight for line in entities.game().tables[0].lines} & {5.0, 7.0}, {5.0, 7.0})

    def test_chances_are_told_from_weights(self) -> None:
        found, *_ = self.guess("A,B,C\nother,Lens,1 in 250\nother,Sand,40 %\n")
        self.assertEqual(found, {"A": "table", "B": "gives", "C": "chance"})

    def test_what_a_head_says_stands_and_what_is_set_aside_is_left_alone(self) -> None:
        found, *_ = self.guess("Name,Tier,Weight,(Gold),Gain\nSand,Silt,3,17,9\n")
        self.assertEqual(found, {"Weight": "value"})

    def test_the_odds_that_went_out_are_not_read_as_tables(self) -> None:
        game = read_game(game_data([pick((1, "sand"), (2, "claw"))]))
        path = self.folder / "game.xlsx"
        write_workbook(path, game_sheets(game, [1]))
        sheets = read_sheets(path)
        self.assertIn("Odds", [one.name for one in sheets])
        self.assertEqual([found for _, found in (guessed(game, one) for one in sheets) if found], [])

    def test_words_are_no_column_of_ours(self) -> None:
        found, seen, _ = self.guess("A,B\nhello,there\nyou,two\n")
        self.assertEqual((found, seen.new, seen.changed), ({}, [], []))


class Refused(SheetsTest):
    def assert_no(self, name: str, content: bytes) -> None:
        path = self.folder / name
        path.write_bytes(content)
        with self.assertRaises(QueryError):
            read_sheets(path)

    def test_what_is_no_spreadsheet(self) -> None:
        self.assert_no("broken.xlsx", b"PK\x03\x04" + b"\0" * 100)
        self.assert_no("latin.csv", "name,tier\nÉlan,x\n".encode("latin-1"))
        self.assert_no("large.csv", b"a" * (LARGEST + 1))
        self.assert_no("long.csv", b"name\n" + b"x\n" * 200_001)
        with self.assertRaises(QueryError):
            read_sheets(self.folder / "missing.csv")

    def test_a_bomb(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as file:
            for at in range(3):
                file.writestr(f"{at}.csv", b"0" * (100 * 2**20))
        self.assertLess(len(packed.getvalue()), 2**20)
        self.assert_no("bomb.zip", packed.getvalue())

    def test_a_formula_is_read_as_it_was_worked_out_and_never_evaluated(self) -> None:
        book = openpyxl.Workbook()
        page: Any = book.active
        page.title = "Items"
        page.append(["id", "name", "tier", "value"])
        page.append(["sand", "Sand", "", "=1+1"])
        book.save(self.folder / "formula.xlsx")
        sheet = read_sheets(self.folder / "formula.xlsx")[0]
        self.assertIsNone(sheet.rows[0][3])

    def test_odd_ends_of_lines_marks_and_a_wide_sheet(self) -> None:
        game = demo()
        before = Entities.of(game).data()
        for text in (
            "id,name\r\rsand,x\r",
            "\ufeffid\tname\nx\ty\n",
            "," * 5_000 + "\n1,2",
            "",
            "\n\n",
            "\0\0",
        ):
            path = self.folder / "odd.csv"
            path.write_text(text, encoding="utf-8", newline="")
            with self.subTest(text[:20]):
                preview(game, read_sheets(path))
                self.assertEqual(Entities.of(game).data(), before)


@unittest.skipUnless(shutil.which("soffice"), "no spreadsheet program here (Debian: libreoffice-calc)")
class InAnotherProgram(SheetsTest):
    def test_a_workbook_that_was_opened_and_saved_there_says_the_same(self) -> None:
        path, out = self.folder / "game.xlsx", self.folder / "out"
        write_workbook(path, game_sheets(demo(), [5]))
        asked = ["soffice", f"-env:UserInstallation=file://{self.folder}/profile", "--headless"]
        asked += ["--convert-to", "xlsx:Calc MS Excel 2007 XML", "--outdir", str(out), str(path)]
        subprocess.run(asked, check=True, capture_output=True, timeout=120)
        found, _ = preview(demo(), read_sheets(out / "game.xlsx"))
        self.assert_nothing(found)


class Large(SheetsTest):
    def test_twenty_thousand_rows(self) -> None:
        tier = demo().tiers[0].id
        rows = "".join(f"thing-{n},Thing {n},{tier},{n}\n" for n in range(20_000))
        found, entities = self.taken(demo(), "id,name,tier,value\n" + rows, "Items")
        self.assertEqual((len(found.new), found.refused), (20_000, []))
        self.assertEqual(entities.bodies["item"]["thing-777"]["value"], 777)
