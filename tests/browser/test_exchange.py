"""Spreadsheets and logs on screen: seen before they are taken, taken in a part, one step back."""

from __future__ import annotations

import csv
import tempfile
from pathlib import Path
from typing import Any

from selenium.webdriver import Keys

from golddice.core.exchange.logs.making import COLUMNS, log_of_source
from tests.browser.driver import BrowserTest
from tests.games import demo

CELLS = "Name\tTier\tValue\nLamp oil\tSalvage\t77\nTar barrel\tSalvage\t12\nCork float\tNowhere\t3\n"


class Sheets(BrowserTest):
    def words(self, selector: str = "main") -> str:
        return self.find(selector).text

    def values(self) -> dict[str, Any]:
        return {item["name"]: item["value"] for item in self.whole()["items"]}

    def paste(self, cells: str) -> None:
        self.open("exchange/all")
        field = self.find("textarea[aria-label='cells pasted']")
        self.browser.execute_script(
            "Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set.call(...arguments);"
            "arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
            field,
            cells,
        )
        self.button("See what they would do").click()

    def test_pasted_cells_are_seen_taken_and_taken_back(self) -> None:
        self.paste(CELLS)
        self.until("the preview", lambda: "1 new" in self.words())
        told = self.words()
        self.assertIn("refused", told)
        self.assertIn("Nowhere", told)
        self.assertEqual(self.whole()["revision"], 1)
        self.button("Take all").click()
        self.saved(2)
        values = self.values()
        self.assertEqual((values["Lamp oil"], values["Tar barrel"], values["Cork float"]), (77, 12, 3))
        self.until("it is left", lambda: "Choose a file" in self.words())
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        self.assertNotIn("Tar barrel", self.values())

    def test_a_part_is_taken(self) -> None:
        self.paste(CELLS)
        self.until("the preview", lambda: "1 new" in self.words())
        self.find("input[aria-label='take Lamp oil']").click()
        self.button("Take 2").click()
        self.saved(2)
        self.assertIn("Tar barrel", self.values())
        self.assertNotEqual(self.values()["Lamp oil"], 77)

    def test_a_column_is_said_to_be_one(self) -> None:
        self.paste("Name\tTier\tGold\tSay\nLamp oil\tSalvage\t77\t5\n")
        guessed = lambda: self.words().split("read by what they hold:")[1].split("columns not read")[0]  # noqa: E731
        self.until("guessed", lambda: "read by what they hold" in self.words() and "Gold is" in guessed())
        self.until("its cell", lambda: "1 cell changed" in self.words())
        self.choose_value("what the column Gold is", "")
        self.until("another guess", lambda: "Say is" in guessed())
        self.choose_value("what the column Say is", "stack")
        self.until("neither", lambda: "Gold is" in self.words() and "Say is" in self.words())
        self.choose_value("what the column Gold is", "value")
        self.until("both", lambda: "2 cells changed" in self.words())

    def test_one_press_tries_a_workbook_and_a_log(self) -> None:
        self.open("exchange/all")
        self.button("try one").click()
        self.until("what it would do", lambda: "2 cells changed" in self.words(), 20)
        self.open("log/all")
        self.button("try one").click()
        self.until("what was found", lambda: "2 faults" in self.words(), 40)

    def test_a_file_that_is_none_is_refused_in_words(self) -> None:
        self.open("exchange/all")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "book.xlsx"
            path.write_bytes(b"PK\x03\x04 no workbook")
            self.find("input[aria-label='spreadsheet']").send_keys(str(path))
            self.until("a word", lambda: "no workbook" in self.words("[role=alert]"))

    def test_the_workbook_that_goes_out_says_nothing_new(self) -> None:
        self.open("exchange/all")
        link = next(one for one in self.all("[aria-label='going out'] a") if one.text == "Workbook")
        content = self.client.get(str(link.get_attribute("href"))).content
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "saltglass.xlsx"
            path.write_bytes(content)
            self.find("input[aria-label='spreadsheet']").send_keys(str(path))
            self.until("nothing new", lambda: "what the game says already" in self.words())


class Tried(BrowserTest):
    """What ships beside the demo, followed as the guide says."""

    def file_of(self, path: str, name: str, folder: str) -> str:
        content = self.client.get(f"/api/games/demo/{path}").content
        file = Path(folder) / name
        file.write_bytes(content)
        return str(file)

    def test_the_workbook(self) -> None:
        self.open("exchange/all")
        with tempfile.TemporaryDirectory() as folder:
            book = self.file_of("workbook", "saltglass-deep.xlsx", folder)
            self.find("input[aria-label='spreadsheet']").send_keys(book)
            self.until("the preview", lambda: "1 new" in self.find("main").text)
        self.assertIn("2 cells changed", self.find("main").text)
        self.button("Take all").click()
        self.saved(2)

    def test_the_session(self) -> None:
        self.open("log/all")
        with tempfile.TemporaryDirectory() as folder:
            log = self.file_of("session", "saltglass-session.csv", folder)
            self.find("input[aria-label='log']").send_keys(log)
            self.until("two faults", lambda: "2 faults" in self.find("main").text, 60)
        told = self.find("[aria-label=faults]").text
        self.assertIn("that had been opened before", told)
        self.assertIn("3 of 1-3 Eelskin never", told)
        self.open("log/all")
        before = "[aria-label='held before'] button"
        self.until("it is kept", lambda: "saltglass-session.csv" in self.find(before).text)
        self.find(before).click()
        self.until("shown again", lambda: "2 faults" in self.find("main").text)


class Logs(BrowserTest):
    def test_a_log_with_a_fault_is_told_in_sentences(self) -> None:
        rows = list(log_of_source(demo(), "lantern-eel", depth=14, flags=(), players=30, events=40, seed=4))
        crab = log_of_source(demo(), "silt-crab", depth=3, flags=(), players=30, events=40, seed=5)
        # What the crab drops is written as the kelp stalker's: an index that points at the wrong table.
        wrong = [(f"c{row[0]}", row[1], row[2], "kelp-stalker", f"c{row[4]}", *row[5:]) for row in crab]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "session.csv"
            with path.open("w", newline="") as file:
                writer = csv.writer(file)
                writer.writerow(COLUMNS)
                writer.writerows([*rows, *rows[:1], *wrong])
            self.open("log/all")
            self.find("input[aria-label='log']").send_keys(str(path))
            self.until("it is held", lambda: "do not agree" in self.find("main").text, 60)
        self.assertIn("rows", self.find("[aria-label=faults]").text)
        eel = self.find("section[aria-label='Lantern Eel at fathom 14']").text
        self.assertIn("agrees", eel)
        stalker = self.find("section[aria-label='Kelp stalker at fathom 3']").text
        self.assertIn("It looks like Silt crab at fathom", stalker)
