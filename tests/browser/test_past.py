"""History on screen: looked at, marked, gone on from, set beside; and who else is there."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest, kill_pages, start_browser


class PastTest(BrowserTest):
    def words(self, selector: str = "main") -> str:
        return self.find(selector).text

    def edit(self, of: str, **changed: Any) -> int:
        """A change that somebody else makes."""
        now = self.whole()
        item = next(one for one in now["items"] if one["id"] == of)
        entry = {"kind": "item", "id": of, "body": {**item, **changed}}
        asked = {"base": now["revision"], "label": f"edited {of}", "entries": [entry], "who": "Ada"}
        made = self.client.post(f"/api/games/{self.game}/changes", json=asked)
        self.assertEqual(made.status_code, 200, made.text)
        return int(made.json()["revision"])


class History(PastTest):
    def test_who_did_what_and_a_mark(self) -> None:
        self.edit("lamp-oil", value=99)
        self.open("history/all")
        self.until("the change", lambda: "edited lamp-oil" in self.words())
        self.assertIn("Lamp oil · Ada", self.words())
        self.labelled("mark of revision 2: . Change").click()
        self.press("before the rebalance", Keys.ENTER)
        self.until("the mark", lambda: "before the rebalance" in self.words())
        marks = self.client.get(f"/api/games/{self.game}/marks").json()
        self.assertEqual(marks, {"2": "before the rebalance"})

    def test_edits_alike_are_one_line(self) -> None:
        for value in (11, 12, 13):
            self.edit("lamp-oil", value=value)
        self.open("history/all")
        self.until("a run", lambda: "and the like, 3 times" in self.words())
        self.assertIn("2–4", self.words())

    def test_the_game_as_it_was_is_read_only(self) -> None:
        self.edit("lamp-oil", name="Tar oil", value=99)
        self.open("history/all")
        self.until("both", lambda: "edited lamp-oil" in self.words())
        looks = [one for one in self.all("main button") if one.text == "look"]
        looks[-1].click()
        self.until("it is said", lambda: "As it was at revision 1" in self.words("header"))
        self.click_through("item/lamp-oil")
        self.until("as it was", lambda: self.words("main h1") == "Lamp oil")
        self.labelled("slot: none. Change").click()
        self.press("hand", Keys.ENTER)
        self.until("no edit", lambda: "the game as it was" in self.words("[role=alert]"))
        self.press(Keys.ESCAPE)
        self.assertEqual(self.whole()["revision"], 2)
        self.edit("cork-float", value=3)  # what others do meanwhile is seen on coming back
        self.button("Back to today").click()
        self.until("today", lambda: "revision 3" in self.words("header"))
        self.until("its name", lambda: self.words("main h1") == "Tar oil")

    def click_through(self, path: str) -> None:
        """Another sheet without loading the page anew."""
        self.browser.execute_script(
            "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))",
            f"/g/{self.game}/{path}",
        )

    def test_it_goes_on_from_there_and_that_is_taken_back(self) -> None:
        self.edit("lamp-oil", value=99)
        self.open("history/all")
        self.until("both", lambda: "edited lamp-oil" in self.words())
        self.labelled("go on from here, revision 1").click()
        self.saved(3)
        values = {item["id"]: item["value"] for item in self.whole()["items"]}
        self.assertNotEqual(values["lamp-oil"], 99)
        self.until("told", lambda: "back to revision 1" in self.words())
        self.browser.execute_script("document.activeElement.blur()")
        self.chord(Keys.CONTROL, "z")
        self.saved(4)
        values = {item["id"]: item["value"] for item in self.whole()["items"]}
        self.assertEqual(values["lamp-oil"], 99)

    def test_two_revisions_beside_each_other(self) -> None:
        self.edit("lamp-oil", value=400)
        self.open("history/all")
        self.until("both", lambda: len(self.all("main input[type=checkbox]")) == 2)
        for one in self.all("main input[type=checkbox]"):
            one.click()
        beside = "[aria-label='two revisions']"
        self.until("what was edited", lambda: "Lamp oil" in self.words(beside))
        self.until("what moved", lambda: "worth of" in self.words(beside), 30)

    def test_two_revisions_on_the_sheets(self) -> None:
        table = self.table()
        table["lines"][6]["weight"] = 9
        change = {
            "base": 1,
            "label": "more",
            "entries": [{"kind": "table", "id": "eel-catch", "body": table}],
        }
        self.client.post(f"/api/games/{self.game}/changes", json=change)
        self.edit("lamp-oil", value=400)
        self.open("history/all")
        self.until("all", lambda: len(self.all("main input[type=checkbox]")) == 3)
        for one in (self.all("main input[type=checkbox]")[0], self.all("main input[type=checkbox]")[-1]):
            one.click()
        self.button("show both on the sheets").click()
        self.until("it is said", lambda: "what it was at 1" in self.words("header"))
        self.button("Lantern Eel").click()
        was = "[data-testid=was]"
        self.until("both weights", lambda: self.cell("g", "entry").text.split() == ["2", "9"])
        self.assertEqual(len(self.all(f"main {was}")), 1, "what is as it was stands alone")
        self.button("Back to today").click()
        self.until("one", lambda: not self.all(was))

    def test_what_was_edited_in_a_copy_is_brought_over(self) -> None:
        origin = self.game
        self.game = self.client.post(f"/api/games/{origin}/duplicate").json()["id"]
        self.edit("lamp-oil", value=99)
        self.edit("cork-float", value=88)
        self.open("history/all")
        copy = "[aria-label='a copy']"
        self.until("what differs", lambda: "Cork float" in self.words(copy))
        self.find("input[aria-label='take Cork float, value']").click()
        self.button("Bring 1 over").click()
        values = lambda: {  # noqa: E731
            item["id"]: item["value"] for item in self.client.get(f"/api/games/{origin}").json()["items"]
        }
        self.until("it is there", lambda: values()["lamp-oil"] == 99)
        self.assertNotEqual(values()["cork-float"], 88)
        # What was edited there meanwhile is not overwritten.
        self.edit("lamp-oil", value=77)
        self.until("it has come", lambda: "revision 4" in self.words("header"))
        self.button("Bring 1 over").click()
        self.until("a word", lambda: "changed elsewhere" in self.words("[role=alert]"))
        self.assertEqual(values()["lamp-oil"], 99)


class Start(PastTest):
    def test_the_first_page_begins_games_and_ticks_off_what_was_done(self) -> None:
        self.open("source/lantern-eel")
        self.browser.execute_script("localStorage.removeItem('golddice.first')")
        self.press("]")
        self.press("r")
        self.until("a roll", lambda: "1 kills" in self.words("body") or "1 kill" in self.words("body"))
        self.browser.get(self.address)
        self.until("ticked", lambda: len(self.all("[aria-label='done']")) >= 2)
        self.until("a strip", lambda: bool(self.all("main [title*='Flotsam']")))
        self.labelled("Name of a game from a spreadsheet").send_keys("Reef", Keys.ENTER)
        self.until("in it", lambda: "Exchange" in self.words("main h1"))
        self.browser.get(self.address)
        self.button("The demo game again, as it came").click()
        self.until("in it", lambda: "Saltglass Deep" in self.words("header"))


class Others(PastTest):
    def test_who_else_is_here_comes_and_goes(self) -> None:
        self.open("source/lantern-eel")
        other = start_browser()
        try:
            other.get(f"{self.address}/g/{self.game}/source/lantern-eel")
            cell = "[aria-label='lines of Eel catch'] [data-row='g'] [data-column=entry]"
            self.until("their cell", lambda: other.find_element(By.CSS_SELECTOR, cell).click() is None)
            mark = f"{cell} [data-person=somebody]"
            self.until("marked here", lambda: self.all(mark), 12)
            self.assertEqual(len(self.all("[data-person]")), 1)
            other.get(f"{self.address}/g/{self.game}/item/lamp-oil")
            self.until("no longer there", lambda: not self.all("[data-person]"), 12)
            other.execute_script("localStorage.setItem('golddice.who', 'Ada')")
            self.until("somebody", lambda: bool(self.all("button[aria-label='who else is here']")), 12)
            self.find("button[aria-label='who else is here']").click()
            self.until("who, and where", lambda: "Ada" in self.words("[aria-label='people here']"))
            self.assertIn("Lamp oil", self.words("[aria-label='people here']"))
            kill_pages(other)  # it cannot say that it goes
            gone = lambda: not self.all("button[aria-label='who else is here']")  # noqa: E731
            self.until("they are gone", gone, 6)
        finally:
            other.quit()
