"""Places, stalls and families on screen."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.driver import BrowserTest
from tests.server.test_pictures import png

COLUMNS, ROWS = 24, 14


class PlacesTest(BrowserTest):
    def entity(self, key: str, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()[key] if one["id"] == name)
        return found

    def words(self, selector: str) -> str:
        return self.find(selector).text


class Places(PlacesTest):
    def place(self) -> dict[str, Any]:
        return self.entity("places", "drowned-market")

    def plan(self) -> WebElement:
        return self.find("[role=application]")

    def stroke(self, *cells: tuple[int, int], alt: bool = False) -> None:
        """A drag from cell to cell."""
        plan = self.plan()
        wide, high = plan.size["width"] / COLUMNS, plan.size["height"] / ROWS
        middle = plan.size["width"] / 2, plan.size["height"] / 2
        at = [(int((x + 0.5) * wide - middle[0]), int((y + 0.5) * high - middle[1])) for x, y in cells]
        hand = ActionChains(self.browser, duration=0)
        if alt:
            hand.key_down(Keys.ALT)
        hand.move_to_element_with_offset(plan, *at[0]).click_and_hold()
        for one in at[1:]:
            hand.move_to_element_with_offset(plan, *one)
        hand.release()
        if alt:
            hand.key_up(Keys.ALT)
        hand.perform()

    def painted(self, cover: str) -> set[tuple[int, int]]:
        rows = next(one["rows"] for one in self.place()["covers"] if one["id"] == cover)
        return {(x, y) for y, row in enumerate(rows) for x, mark in enumerate(row) if mark == "#"}

    def test_figures_are_those_of_the_server_and_a_line_is_shown_alone(self) -> None:
        self.open("place/drowned-market")
        self.until("lines", lambda: len(self.all("[aria-label=lines] tbody tr")) == 8)
        locker = next(row for row in self.all("[aria-label=lines] tbody tr") if "locker" in row.text.lower())
        self.assertIn("100", locker.text)
        self.assertIn("too few spots for Cracked tile", self.words("main"))
        locker.click()
        self.until("it alone", lambda: "alone" in self.words("[aria-label=lines] p"))

    def test_a_cover_is_painted_erased_and_undone(self) -> None:
        self.open("place/drowned-market")
        self.until("lines", lambda: bool(self.all("[aria-label=lines] tbody tr")))
        before = self.painted("kitchens")
        self.button("Kitchens").click()
        self.stroke((2, 12), (8, 12))
        self.saved(2)
        row = {(x, 12) for x in range(2, 9)}
        self.assertEqual(self.painted("kitchens"), before | row)
        self.stroke((4, 12), (5, 12), alt=True)
        self.saved(3)
        self.assertEqual(self.painted("kitchens"), before | row - {(4, 12), (5, 12)})
        self.chord(Keys.CONTROL, "z")
        self.until("undone", lambda: self.painted("kitchens") == before | row)

    def test_a_spot_by_keys(self) -> None:
        self.open("place/drowned-market")
        self.until("lines", lambda: bool(self.all("[aria-label=lines] tbody tr")))
        self.browser.execute_script("arguments[0].focus()", self.plan())
        self.press(Keys.ARROW_DOWN, Keys.ARROW_RIGHT, Keys.ENTER)
        self.saved(2)
        self.assertIn((1, 1), {(one["x"], one["y"]) for one in self.place()["spots"]})
        self.until("one more", lambda: "of 35 spots" in self.words("main"))
        self.press(Keys.DELETE)
        self.saved(3)
        self.assertNotIn((1, 1), {(one["x"], one["y"]) for one in self.place()["spots"]})

    def test_the_sentence_is_edited_and_set_out_again(self) -> None:
        self.open("place/drowned-market")
        self.labelled("how many spots are filled: 70 %. Change").click()
        self.press("12", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.place()["filled"], {"count": 12})
        self.button("set out once").click()
        self.until("set out", lambda: "set out again" in self.words("main"))
        self.button("show the chances").click()
        self.choose("how it is set out", "every spot rolls by itself,")
        self.saved(3)
        self.assertEqual((self.place()["way"], self.place()["filled"]), ("each-rolls", 0.6))
        self.until("exact", lambda: "settings-out" not in self.words("main"))

    def test_what_comes_back_for_whoever_comes_more_often(self) -> None:
        self.open("place/vent-field")
        self.until("figures", lambda: bool(self.all("[aria-label='items of the place'] tbody tr")))
        rare = self.words("[aria-label='items of the place']")
        self.labelled("seconds between visits: 600. Change").click()
        self.press("60", Keys.ENTER)
        self.until("other figures", lambda: self.words("[aria-label='items of the place']") != rare)

    def test_a_picture_is_laid_under_the_plan(self) -> None:
        self.open("place/drowned-market")
        with tempfile.TemporaryDirectory() as folder:
            for name, content in (("notes.png", b"no picture"), ("plan.png", png(24, 14))):
                (Path(folder) / name).write_bytes(content)
            chosen = self.find("input[aria-label='picture under the plan']")
            chosen.send_keys(f"{folder}/notes.png")
            self.until("a word", lambda: "no PNG" in self.words("[data-sonner-toaster]"))
            self.find("input[aria-label='picture under the plan']").send_keys(f"{folder}/plan.png")
            self.until("it is there", lambda: bool(self.all("[role=application] img")))
        self.choose("how clear the picture is", "whole")
        self.assertEqual(self.find("[role=application] img").value_of_css_property("opacity"), "1")
        self.open("place/drowned-market")
        self.until("it is kept", lambda: bool(self.all("[role=application] img")))
        self.button("take it away").click()
        self.until("it is gone", lambda: not self.all("[role=application] img"))


class Stalls(PlacesTest):
    def test_a_calendar_and_what_a_seed_does(self) -> None:
        self.open("stall/lamp-stall")
        self.until("periods", lambda: bool(self.all("[aria-label='What is on sale in 42 periods']")))
        self.assertEqual(len(self.all("[aria-label=goods] tbody tr")), 8)
        self.labelled("slots: 4. Change").click()
        self.press("6", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.entity("stalls", "lamp-stall")["slots"], 6)
        self.labelled("period: 1 day. Change").click()
        self.press("6 hours", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.entity("stalls", "lamp-stall")["period_seconds"], 21_600)

    def test_what_is_shown_is_what_a_server_works_out(self) -> None:
        asked = {"stall": "lamp-stall", "at": "2031-04-01T00:00:00Z", "count": 42}
        told = self.client.post(f"/api/games/{self.game}/stall", json=asked).json()
        self.open("stall/lamp-stall")
        self.until("the calendar", lambda: bool(self.all("[aria-label=calendar] svg g")))
        self.find("[aria-label^='from when on']").click()
        self.chord(Keys.CONTROL, "a")
        self.press("2031-04-01", Keys.ENTER)
        self.until("that day", lambda: "2031-04-01" in self.words("[aria-label=calendar]"))
        calendar = self.find("[aria-label=calendar] svg")
        first = -calendar.size["height"] // 2 + 19 + 6
        ActionChains(self.browser).move_to_element_with_offset(calendar, 0, first).perform()
        lines = {one["id"]: one for one in self.table("lamp-goods")["lines"]}
        names = {one["id"]: one["name"] for one in self.whole()["items"]}
        for good in told["periods"][0]["goods"]:
            name = names[lines[good]["yields"][0]["item"]]
            self.until(name, lambda name=name: name in self.words("[aria-label=calendar]"))  # type: ignore[misc]

    def test_by_the_clock_of_another_place(self) -> None:
        self.open("stall/lamp-stall")
        self.until("the calendar", lambda: bool(self.all("[aria-label=calendar] svg g")))
        self.addCleanup(self.browser.execute_script, "localStorage.removeItem('golddice.zone')")
        self.choose_value("by the clock of", "Asia/Tokyo")
        self.find("[aria-label^='from when on']").click()
        self.chord(Keys.CONTROL, "a")
        self.press("2031-04-01", Keys.ENTER)
        # A period that begins at midnight in UTC begins at nine there; that day's begins on the day before.
        first = "[aria-label=calendar] svg g text"
        self.until("that day", lambda: self.words(first) == "03-31 09:00")
        self.open("stall/lamp-stall")
        self.until("it is remembered", lambda: "09:00" in self.words(first))

    def test_the_share_of_a_good_is_held(self) -> None:
        self.open("stall/lamp-stall")
        self.until("goods", lambda: bool(self.all("[aria-label=goods] button.held")))
        self.all("[aria-label=goods] button.held")[0].click()
        self.saved(2)
        made = self.whole()["targets"][-1]
        self.assertEqual((made["stall"], made["figure"]), ("lamp-stall", "on-sale"))
        self.open(f"target/{made['id']}")
        self.until("it stands", lambda: "holds" in self.words("[data-testid=standing]"))
        self.choose_value("figure", "absence")
        self.saved(3)
        self.assertEqual(self.whole()["targets"][-1]["good"], made["good"])


class Targets(PlacesTest):
    def test_how_much_lies_there_is_held_and_asked_otherwise(self) -> None:
        self.open("place/drowned-market")
        held = "[aria-label='items of the place'] button.held"
        self.until("items", lambda: bool(self.all(held)))
        self.all(held)[0].click()
        self.saved(2)
        made = self.whole()["targets"][-1]
        self.assertEqual((made["place"], made["figure"]), ("drowned-market", "mean"))
        self.open(f"target/{made['id']}")
        self.until("it stands", lambda: "holds" in self.words("[data-testid=standing]"))
        self.choose_value("figure", "all-placed")
        self.saved(3)
        self.assertIsNone(self.whole()["targets"][-1]["item"])
        self.choose("source or table", "Lantern Eel")
        self.saved(4)
        made = self.whole()["targets"][-1]
        self.assertEqual((made["source"], made["place"], made["figure"]), ("lantern-eel", None, "value"))

    def test_a_leg_empties_a_place(self) -> None:
        self.open("route/first-dive")
        self.choose("leg 1, what is done", "Drowned market")
        self.saved(2)
        leg = self.entity("routes", "first-dive")["legs"][0]
        self.assertEqual((leg["place"], leg["visits"]), ("drowned-market", None))
        self.assertIn("empties", self.words("li[aria-label='leg 1']"))
        self.until("what it brings", lambda: "brass" in self.words("li[aria-label='leg 1']"))


class Families(PlacesTest):
    def test_a_figure_of_its_own_is_given_back(self) -> None:
        self.open("source/elder-eel")
        self.until("its family", lambda: bool(self.button("like Lantern Eel")))
        self.assertEqual(self.entity("sources", "elder-eel")["seconds"], 14.0)
        muted = lambda: len(self.all("main header .of-family"))  # noqa: E731
        before = muted()
        self.labelled("give seconds back to Lantern Eel").click()
        self.until("it is muted", lambda: muted() == before + 1)
        self.saved(2)
        eel = self.entity("sources", "elder-eel")
        self.assertEqual((eel["seconds"], eel["like"]), (9.0, "lantern-eel"))
        self.assertNotIn("seconds", eel["stated"])

    def test_those_that_follow_are_named_and_follow(self) -> None:
        self.open("source/lantern-eel")
        self.until("who follows", lambda: "Young eel" in self.words("main"))
        self.labelled("seconds a kill: 9. Change").click()
        self.press("10", Keys.ENTER)
        self.saved(2)
        seconds = {name: self.entity("sources", name)["seconds"] for name in ("elder-eel", "young-eel")}
        self.assertEqual(seconds, {"elder-eel": 14.0, "young-eel": 6.0})
        self.button("Elder eel").click()
        self.until("the elder", lambda: "/source/elder-eel" in self.browser.current_url)

    def test_one_that_is_like_nobody_keeps_what_it_has(self) -> None:
        before = self.entity("sources", "young-eel")
        self.open("source/young-eel")
        self.until("its family", lambda: bool(self.button("like Lantern Eel")))
        self.button("like Lantern Eel").click()
        self.choice("Like no other").click()
        self.saved(2)
        after = self.entity("sources", "young-eel")
        self.assertIsNone(after["like"])
        self.assertEqual(after["drops"], before["drops"])
