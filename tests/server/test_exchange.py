"""What goes out and comes in over HTTP: spreadsheets, documents for a game's code, logs, schemas."""

from __future__ import annotations

import csv
import io
import json
import unittest
import zipfile
from typing import Any, ClassVar

import httpx
import jsonschema

from golddice.core.exchange.logs.making import COLUMNS, log_of_source
from golddice.core.game.reading import read_game
from tests.games import DEMO, ROOT, demo
from tests.support import running_server


class Exchange(unittest.TestCase):
    client: ClassVar[httpx.Client]

    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(module=cls.__module__))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=120))

    def setUp(self) -> None:
        self.game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
        self.url = f"/api/games/{self.game}"

    def out(self, form: str, **asked: Any) -> httpx.Response:
        found = self.client.get(f"{self.url}/export/{form}", params=asked)
        self.assertEqual(found.status_code, 200, found.text[:300])
        return found

    def preview(self, name: str, content: bytes, status: int = 200) -> Any:
        found = self.client.post(f"{self.url}/sheets", params={"name": name}, content=content)
        self.assertEqual(found.status_code, status, found.text[:300])
        return found.json()

    def test_out_and_in_again_changes_nothing(self) -> None:
        for form, name in (("xlsx", "book.xlsx"), ("csv", "sheets.zip")):
            found = self.preview(name, self.out(form).content)
            self.assertEqual((found["new"], found["changed"], found["refused"]), ([], [], []), form)
            self.assertEqual(found["entries"], [])
            self.assertGreater(found["unchanged"], 150)
        names = zipfile.ZipFile(io.BytesIO(self.out("csv", first=3, last=4).content)).namelist()
        self.assertIn("Odds.csv", names)

    def test_nothing_is_asked_about_its_own_sheets_that_are_only_to_be_read(self) -> None:
        workbook = self.client.get(f"{self.url}/export/xlsx", params={"first": 5, "last": 14}).content
        read = self.client.post(f"{self.url}/sheets", params={"name": "own.xlsx"}, content=workbook).json()
        asked = [
            head
            for sheet in read["sheets"]
            for head in sheet["heads"]
            if head and (sheet["kind"] is None or head.strip().lower() not in sheet["known"])
        ]
        self.assertEqual(asked, [])

    def test_pasted_cells_become_one_edit(self) -> None:
        cells = "Name\tTier\tValue\tTags\nLamp oil\tSalvage\t77\t\nTar barrel\tSalvage\t12\tsticky\n"
        found = self.preview("pasted", cells.encode())
        self.assertEqual(found["sheets"][0]["kind"], "items")
        told = [(one["kind"], one["name"]) for one in found["new"]]
        self.assertEqual(told, [("item", "Tar barrel"), ("tag", "sticky")])
        [changed] = [one for one in found["changed"] if one["key"] == "value"]
        self.assertEqual((changed["id"], changed["after"]), ("lamp-oil", "77"))
        whole = self.client.get(self.url).json()
        self.assertNotIn("Tar barrel", [item["name"] for item in whole["items"]])
        asked = {"base": found["revision"], "label": "took a sheet", "entries": found["entries"]}
        made = self.client.post(f"{self.url}/changes", json=asked)
        self.assertEqual(made.status_code, 200, made.text)
        values = {item["name"]: item["value"] for item in self.client.get(self.url).json()["items"]}
        self.assertEqual((values["Lamp oil"], values["Tar barrel"]), (77.0, 12.0))
        self.client.post(f"{self.url}/undo")
        values = {item["name"]: item["value"] for item in self.client.get(self.url).json()["items"]}
        self.assertNotIn("Tar barrel", values)

    def test_what_cannot_be_read_is_refused_and_nothing_made(self) -> None:
        self.assertIn("UTF-8", self.preview("broken.csv", b"name;tier\n\xff\xfa", 422)["detail"])
        self.assertIn("workbook", self.preview("broken.xlsx", b"PK\x03\x04nonsense", 422)["detail"])
        found = self.preview("items.csv", b"name,tier,value\nLamp oil,Nowhere,much\n")
        self.assertEqual([one["column"] for one in found["refused"]], ["tier", "value"])
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_documents_for_code(self) -> None:
        for of, name in (("game", "game"), ("thresholds", "thresholds")):
            schema = self.client.get(f"/api/schemas/{of}").json()
            kept = json.loads((ROOT / "docs" / "schemas" / f"{name}.schema.json").read_text())
            self.assertEqual(schema, kept, "run: golddice schema > docs/schemas/… anew")
        told = self.out("thresholds", first=4, last=6).json()
        jsonschema.validate(told, self.client.get("/api/schemas/thresholds").json())
        self.assertEqual(told["depths"], [4, 6])
        self.assertEqual(self.out("vectors", first=4, last=4).json()["format"], "golddice-vectors")
        page = self.out("odds-page")
        self.assertIn("text/html", page.headers["content-type"])
        self.assertIn("Last changed", page.text)
        self.assertEqual(self.client.get(f"{self.url}/export/pdf").status_code, 422)

    def log(self, rows: list[Any]) -> Any:
        text = io.StringIO()
        writer = csv.writer(text)
        writer.writerow(COLUMNS)
        writer.writerows(rows)
        content = text.getvalue().encode()
        found = self.client.post(f"{self.url}/log", params={"name": "log.csv"}, content=content)
        self.assertEqual(found.status_code, 200, found.text[:300])
        return found.json()

    def test_a_log_and_a_fault_in_it(self) -> None:
        game = read_game(json.loads(DEMO.read_text(encoding="utf-8")))
        made = log_of_source(game, "lantern-eel", depth=14, flags=(), players=40, events=50, seed=9)
        rows = [list(row) for row in made]
        held = self.log(rows)
        self.assertTrue(held["agrees"], held["faults"])
        self.assertEqual((held["events"], held["sources"][0]["source"]), (2_000, "lantern-eel"))
        twice = [row for row in rows if row[0] == rows[0][0]]
        faults = self.log([*rows, *twice * 3])["faults"]
        self.assertIn("twice", [one["fault"] for one in faults])
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_what_was_found_is_kept_and_forgotten(self) -> None:
        asked = {"source": "silt-crab", "depth": 3, "players": 20, "events": 30}
        made = self.client.get(f"{self.url}/made-log", params=asked)
        self.assertEqual(made.status_code, 200)
        held = self.client.post(f"{self.url}/log", params={"name": "crabs.csv"}, content=made.content).json()
        self.assertTrue(held["agrees"])
        [kept] = self.client.get(f"{self.url}/logs").json()
        self.assertEqual((kept["name"], kept["revision"]), ("crabs.csv", 1))
        self.assertEqual(self.client.get(f"{self.url}/logs/{kept['id']}").json(), held)
        self.client.delete(f"{self.url}/logs/{kept['id']}")
        self.assertEqual(self.client.get(f"{self.url}/logs").json(), [])
        self.assertEqual(self.client.get(f"{self.url}/logs/{kept['id']}").status_code, 404)
        many = {**asked, "players": 1_000, "events": 1_000}
        self.assertEqual(self.client.get(f"{self.url}/made-log", params=many).status_code, 422)
        nobody = {**asked, "source": "nobody"}
        self.assertEqual(self.client.get(f"{self.url}/made-log", params=nobody).status_code, 404)

    def test_columns_of_other_names(self) -> None:
        cells = b"Thing,Rank,Gold,Weight\nLamp oil,Salvage,77,3\n"
        guessed = self.preview("stuff.csv", cells)
        self.assertEqual(guessed["sheets"][0]["guessed"], {"Thing": "name", "Rank": "tier", "Gold": "value"})
        unknown = self.preview("stuff.csv", b"Thing,Rank\nsome,words\nand,others\n")
        self.assertEqual((unknown["sheets"][0]["kind"], unknown["changed"]), (None, []))
        asked = {
            "name": "stuff.csv",
            "columns": json.dumps({"name": "Thing", "tier": "Rank", "value": "Gold"}),
        }
        found = self.client.post(f"{self.url}/sheets", params=asked, content=cells).json()
        self.assertEqual([one["key"] for one in found["changed"]], ["value"])
        for columns in ("nonsense", "[]", '{"name": 3}', '{"name": "Ding"}'):
            asked["columns"] = columns
            refused = self.client.post(f"{self.url}/sheets", params=asked, content=cells)
            self.assertEqual(refused.status_code, 422, columns)

    def test_nonsense_is_counted_by_reason(self) -> None:
        row = ["1", "soon", "1", "lantern-eel", "", "14", "", "lamp-oil", "1"]
        held = self.log([row, ["2", "3.0", "1", "nobody", "", "14", "", "", ""]])
        self.assertEqual([one["rows"] for one in held["refused"]], [[2]], held["refused"])
        refused = self.client.post(f"{self.url}/log", params={"name": "x.csv"}, content=b"a,b\n1,2\n")
        self.assertEqual(refused.status_code, 422)
        self.assertGreater(len(demo().items), 0)
