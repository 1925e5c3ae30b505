"""Tables to read, and plots: sorted, read by keyboard, copied, taken along; pasting, told before."""

from __future__ import annotations

import base64
import json
import re
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest

MET = "[aria-label='what is met']"
WAIT = "[role=slider][aria-label^='Wait for']"
# What would be saved is kept on the page instead: name and content of each file.
HELD = """
window.__saved = []
URL.createObjectURL = (blob) => { window.__blob = blob; return 'blob:kept' }
HTMLAnchorElement.prototype.click = function () {
  const name = this.download, blob = window.__blob
  const reader = new FileReader()
  reader.onload = () => window.__saved.push([name, reader.result])
  reader.readAsDataURL(blob)
}
"""


class Tables(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.open("meets/here")
        self.until("rows", lambda: len(self.rows(MET)) > 3)

    def names(self) -> list[str]:
        return [row[0].split("\n")[0] for row in self.rows(MET)]

    def test_a_head_sorts_and_what_sums_up_stays_last(self) -> None:
        before = self.names()
        head = self.find(f"{MET} thead button[aria-label='sort by met']")
        head.click()
        self.until("by name", lambda: self.names() != before)
        sums = [name for name in before if name.endswith("in all")]
        self.assertTrue(sums)
        self.assertEqual(self.names()[-len(sums) :], sums)
        own = self.names()[: -len(sums)]
        self.assertEqual(own, sorted(own, key=str.lower))
        self.assertEqual(self.find(f"{MET} th").get_attribute("aria-sort"), "ascending")
        head.click()
        self.until("turned round", lambda: self.names()[: -len(sums)] == own[::-1])
        head.click()
        self.until("as it was", lambda: self.names() == before)

    def test_one_stop_for_tab_and_arrows_within(self) -> None:
        stops = self.all(f"{MET} [tabindex='0']")
        self.assertEqual(len(stops), 1)
        ActionChains(self.browser).move_to_element(stops[0]).perform()
        self.browser.execute_script("arguments[0].focus()", stops[0])
        self.press(Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
        self.assertEqual(self.browser.switch_to.active_element.get_attribute("data-place"), "1,1")
        self.press(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
        self.until("sorted", lambda: self.all(f"{MET} th[aria-sort='descending']"))

    def test_a_block_is_copied_as_numbers(self) -> None:
        self.browser.execute_script("arguments[0].focus()", self.find(f"{MET} [data-place='0,0']"))
        ActionChains(self.browser).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN, Keys.ARROW_RIGHT).key_up(
            Keys.SHIFT
        ).perform()
        self.assertEqual(len(self.all(f"{MET} [aria-selected='true']")), 4)
        self.browser.execute_script(
            "navigator.clipboard.writeText = (text) => { window.__copied = text; return Promise.resolve() }"
        )
        self.chord(Keys.CONTROL, "c")
        text = str(self.until("copied", lambda: self.browser.execute_script("return window.__copied")))
        rows = [line.split("\t") for line in text.split("\n")]
        self.assertEqual([row[0] for row in rows], self.names()[:2])
        meets: dict[str, Any] = self.client.post(
            f"/api/games/{self.game}/meets", json={"depth": 15, "points": 3}
        ).json()
        counts = sorted(meets["sources"].values(), reverse=True)[:2]
        self.assertEqual([float(row[1]) for row in rows], counts)

    def test_enter_on_a_row_opens_it(self) -> None:
        self.browser.execute_script("arguments[0].focus()", self.find(f"{MET} [data-place='0,0']"))
        name = self.names()[0]
        self.press(Keys.ENTER)
        self.until("its sheet", lambda: self.find("h1, [data-title]").text.startswith(name))


class Plots(BrowserTest):
    def test_values_are_read_by_keyboard(self) -> None:
        self.open("source/lantern-eel")
        plot = self.until("the wait", lambda: self.find(WAIT))
        self.browser.execute_script("arguments[0].focus()", plot)
        self.press(Keys.END)
        said = str(plot.get_attribute("aria-valuetext"))
        self.assertRegex(said, r"^by kill [\d\u202f]+: \d")
        self.press(Keys.ARROW_LEFT)
        self.assertNotEqual(plot.get_attribute("aria-valuetext"), said)
        self.assertEqual(self.find("[data-testid=read]").text, plot.get_attribute("aria-valuetext"))

    def test_its_numbers_are_one_key_away(self) -> None:
        self.open("source/lantern-eel")
        plot = self.until("the wait", lambda: self.find(WAIT))
        self.browser.execute_script("arguments[0].focus()", plot)
        self.press("n")
        rows = self.until("numbers", lambda: self.rows("[aria-label$=', numbers']"))
        self.assertTrue(all(0 <= float(row[1]) <= 100 for row in rows))
        self.assertEqual([int(row[0]) for row in rows], sorted(int(row[0]) for row in rows))

    def test_numbers_and_pictures_are_saved(self) -> None:
        self.open("source/lantern-eel")
        self.browser.execute_script(HELD)
        plot = self.until("the wait", lambda: self.find(WAIT))
        for entry in ("Save the numbers (CSV)", "Save the picture (PNG)", "Save the drawing (SVG)"):
            ActionChains(self.browser).move_to_element(plot).perform()
            plot.find_element(By.XPATH, "..").find_element(By.CSS_SELECTOR, ".take button").click()
            self.find("[role=menu]")
            self.browser.find_element(By.XPATH, f"//*[@role='menuitem'][contains(., '{entry}')]").click()
        read = "return JSON.stringify(window.__saved)"
        saved = self.until(
            "three files",
            lambda: (found := json.loads(self.browser.execute_script(read))) and len(found) == 3 and found,
        )
        kinds = {name.rsplit(".", 1)[1]: content for name, content in saved}
        self.assertEqual(set(kinds), {"csv", "png", "svg"})
        self.assertTrue(kinds["png"].startswith("data:image/png;base64,iVBOR"))
        self.assertGreater(len(kinds["png"]), 10_000)

    def test_a_plot_by_depth_is_read_by_keys_and_saved_with_its_title_axis_and_depths(self) -> None:
        self.open("source/lantern-eel")
        self.button("all fathoms").click()
        self.browser.execute_script(HELD)
        plot = self.until("tier shares", lambda: self.find("[role=slider][aria-label^='tier shares of']"))
        self.browser.execute_script("arguments[0].focus()", plot)
        self.press(Keys.END)
        self.assertIn("at 30", plot.get_attribute("aria-valuetext") or "")
        self.assertIn("Flotsam", plot.get_attribute("aria-valuetext") or "")
        ActionChains(self.browser).move_to_element(plot).perform()
        plot.find_element(By.XPATH, "..").find_element(By.CSS_SELECTOR, ".take button").click()
        entry = "//*[@role='menuitem'][contains(., 'Save the drawing (SVG)')]"
        self.browser.find_element(By.XPATH, entry).click()
        read = "return JSON.stringify(window.__saved)"
        ((name, content),) = self.until("a file", lambda: json.loads(self.browser.execute_script(read)))
        self.assertTrue(name.startswith("tier-shares-of-what-falls"))
        drawing = base64.b64decode(content.split(",")[1]).decode()
        said = re.findall(r"<text[^>]*>([^<]*)</text>", drawing)
        self.assertEqual(said[:3], ["tier shares of what falls, Lantern Eel", "0", "100 %"])
        self.assertTrue({"1", "10", "30"} & set(said[3:]))
        self.assertGreater(len(said), 8)

    def test_a_calendar_is_read_by_keys_and_as_numbers(self) -> None:
        self.open("stall/lamp-stall")
        plot = self.until("a calendar", lambda: self.find("[role=slider][aria-label^='on sale at']"))
        self.browser.execute_script("arguments[0].focus()", plot)
        self.press(Keys.ARROW_DOWN)
        day, goods = (plot.get_attribute("aria-valuetext") or "").split("\n")
        self.assertRegex(day, r"^\d{4}-\d\d-\d\d")
        self.assertEqual(len(goods.split(", ")), 4)
        self.press("n")
        table = "[aria-label='on sale at Lamp stall, numbers']"
        rows = self.until("numbers", lambda: self.rows(table))
        self.assertEqual(len(rows), 42)
        self.assertTrue(all(row[2:].count("1") == 4 for row in rows))


class Pasting(BrowserTest):
    def paste(self, row: str, column: str, text: str) -> None:
        self.open("table/eel-catch")
        cell = self.cell(row, column)
        cell.click()
        script = """
            const data = new DataTransfer()
            data.setData('text/plain', arguments[1])
            const how = {clipboardData: data, bubbles: true, cancelable: true}
            arguments[0].dispatchEvent(new ClipboardEvent('paste', how))
        """
        self.browser.execute_script(script, cell, text)

    def test_what_is_not_there_is_offered_and_made_in_one_step(self) -> None:
        before = self.whole()
        self.paste("h", "gives", "gives\tweight\nLamp oil\t7\nTide compass\t2\nTide compass\t3")
        asked = self.find("[role=alertdialog]")
        self.assertIn("the first row names the columns", asked.text.lower())
        self.assertIn("2 lines are new", asked.text)
        self.assertIn("Tide compass", asked.find_element(By.TAG_NAME, "fieldset").text)
        self.button("Paste").click()
        self.saved(2)
        after = self.whole()
        made = [item for item in after["items"] if item["name"] == "Tide compass"]
        self.assertEqual(len(made), 1)
        lines = self.table()["lines"][-3:]
        self.assertEqual([line["weight"] for line in lines], [7, 2, 3])
        self.assertEqual([line["yields"][0]["item"] for line in lines[1:]], [made[0]["id"]] * 2)
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        again = self.whole()
        self.assertEqual(again["items"], before["items"])
        self.assertEqual(again["tables"], before["tables"])

    def test_what_is_refused_is_told_and_the_rest_taken(self) -> None:
        before = self.table()
        self.paste("g", "gives", "Lamp oil\t1\tmany\nNo such thing\t1\t4")
        asked = self.find("[role=alertdialog]")
        self.assertIn("“many” is not a number", asked.text)
        asked.find_element(By.CSS_SELECTOR, "input[type=checkbox]").click()
        self.until("refused too", lambda: "2 cells are refused" in self.find("[role=alertdialog]").text)
        self.button("Paste").click()
        self.saved(2)
        lines = self.table()["lines"]
        self.assertEqual(lines[6]["weight"], before["lines"][6]["weight"])
        self.assertEqual(lines[6]["yields"][0]["item"], "lamp-oil")
        self.assertEqual((lines[7]["weight"], lines[7]["yields"]), (4, before["lines"][7]["yields"]))

    def test_leaving_it_changes_nothing(self) -> None:
        before = self.whole()
        self.paste("h", "gives", "Lamp oil\t1\t7\nLamp oil\t1\t7")
        self.button("Leave it as it is").click()
        self.until("gone", lambda: not self.all("[role=alertdialog]"))
        self.assertEqual(self.whole()["tables"], before["tables"])


class Reaching(BrowserTest):
    def test_r_rolls_after_an_edit_of_a_number(self) -> None:
        self.open("source/lantern-eel")
        self.type_into("g", "entry", "4")
        self.saved(2)
        self.press("r")
        self.until("rolled", lambda: "1 kill" in self.find("[aria-label=tray]").text)
        self.assertFalse(self.all("[role=gridcell] input"))

    def test_a_word_leads_into_the_guide(self) -> None:
        self.open("source/lantern-eel")
        self.until("swing", lambda: self.button("swing")).click()
        self.until("the guide", lambda: self.find("#guide-share-of-the-swing"))
