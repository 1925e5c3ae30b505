"""What is held by hand while others edit, the server is away, or the page is left: a drag, an open cell,
a form. Nothing that was typed is lost without a word, and nothing of others is put back."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.editing import GRID, EditingTest


class Held(EditingTest):
    """A drag that others overtake."""

    def hold(self, handle: WebElement, x: int, y: int) -> ActionChains:
        ActionChains(self.browser).click_and_hold(handle).move_by_offset(x, y).perform()
        return ActionChains(self.browser)

    def test_a_boundary_of_the_strip(self) -> None:
        table = self.table()
        boundary = self.find("[aria-label^='Boundary between']")
        drag = self.hold(boundary, 20, 0)
        made = {**table["lines"][0], "id": "z", "weight": 3}
        lines = [{**one, "weight": 77} if one["id"] == "g" else one for one in table["lines"]]
        self.elsewhere({**table, "lines": [*lines, made], "notes": "Theirs."})
        self.until("it came", lambda: self.all(f"{GRID} [data-row=z]"))
        self.assertEqual(float(self.text("g", "entry")), 77)  # beneath the draft
        drag.move_by_offset(20, 0).release().perform()
        self.saved(3)
        now = self.table()
        self.assertEqual(now["notes"], "Theirs.")
        weights = {one["id"]: one["weight"] for one in now["lines"]}
        self.assertEqual((weights["g"], weights["z"]), (77, 3))
        moved = [one["id"] for one in table["lines"] if weights[one["id"]] != one["weight"]]
        self.assertEqual(len([one for one in moved if one != "g"]), 2)

    def test_a_point_of_a_curve(self) -> None:
        curve = next(one for one in self.whole()["curves"] if not one["private"])
        self.open(f"curve/{curve['id']}")
        drag = self.hold(self.find("circle[role=slider]"), 20, 0)
        self.elsewhere({**curve, "name": "Theirs"}, "curve")
        self.until("it came", lambda: "Theirs" in self.find("main h1").text)
        drag.move_by_offset(10, 0).release().perform()
        self.saved(3)
        now = next(one for one in self.whole()["curves"] if one["id"] == curve["id"])
        self.assertEqual(now["name"], "Theirs")
        self.assertNotEqual(now["points"], curve["points"])

    def test_a_border_of_bands(self) -> None:
        settings = self.settings()
        drag = self.hold(self.find("[aria-label^='border above']"), 0, 40)
        self.elsewhere({**settings, "currency": "shells"}, "settings")
        self.until("it came", lambda: self.whole()["revision"] == 2)
        self.saved(2)
        drag.move_by_offset(0, 10).release().perform()
        self.saved(3)
        now = self.settings()
        self.assertEqual(now["currency"], "shells")
        self.assertNotEqual(now["depth"]["bands"], settings["depth"]["bands"])

    def test_a_bead_of_a_route(self) -> None:
        route = self.whole()["routes"][0]
        self.open(f"route/{route['id']}")
        drag = self.hold(self.find("[aria-label^='leg 1 begins']"), 0, 30)
        self.elsewhere({**route, "notes": "Theirs."}, "route")
        self.until("it came", lambda: self.whole()["revision"] == 2)
        self.saved(2)
        drag.move_by_offset(0, 5).release().perform()
        self.saved(3)
        now = self.whole()["routes"][0]
        self.assertEqual(now["notes"], "Theirs.")
        self.assertNotEqual(now["legs"], route["legs"])

    def settings(self) -> dict[str, Any]:
        found: dict[str, Any] = self.whole()["settings"]
        return found


class Open(EditingTest):
    """A cell, a note or a form that is open."""

    def test_a_cell_that_changed_under_an_open_editor_is_asked_about(self) -> None:
        self.cell("g", "entry").click()
        self.press("9")
        self.line_elsewhere("g", weight=33)
        self.press(Keys.ENTER)
        self.until("it is asked", lambda: "Eel catch" in self.find("[role=alertdialog]").text)
        self.assertEqual(self.line("g")["weight"], 33)
        self.button("Keep mine").click()
        self.saved(3)
        self.assertEqual(self.line("g")["weight"], 9)

    def test_a_word_of_a_sentence_likewise(self) -> None:
        self.labelled("blank weight").click()
        self.elsewhere({**self.table(), "nothing": 33})
        self.saved(2)
        self.press("44", Keys.ENTER)
        self.until("it is asked", lambda: self.all("[role=alertdialog]"))
        self.button("Take theirs").click()
        self.until("theirs", lambda: "33" in self.labelled("blank weight").text)
        self.assertEqual(self.table()["nothing"], 33)

    def test_what_one_types_is_kept_when_the_page_is_reloaded_or_left(self) -> None:
        self.cell("g", "entry").click()
        self.press("9")
        self.browser.refresh()
        self.until("the page", lambda: self.text("g", "entry"))
        self.until("kept", lambda: self.line("g")["weight"] == 9)
        self.until("the sheet", lambda: self.text("g", "chance") != " %")
        self.cell("f", "entry").click()
        self.press("8")
        self.browser.back()
        self.until("kept", lambda: self.line("f")["weight"] == 8)

    def test_what_one_types_is_kept_when_the_page_is_closed(self) -> None:
        self.cell("g", "entry").click()
        self.press("9")
        first = self.browser.current_window_handle
        self.browser.switch_to.new_window("tab")
        other = self.browser.current_window_handle
        self.browser.switch_to.window(first)
        self.browser.close()
        self.browser.switch_to.window(other)

        def kept() -> bool:
            # A closed page goes when the machine gets to it; the next one that opens sends what it left.
            self.open("source/lantern-eel")
            return bool(self.line("g")["weight"] == 9)

        self.until("kept", kept)

    def test_another_sheet_takes_a_note_and_a_title(self) -> None:
        self.labelled("name of the source").click()
        self.press("Gulper")
        go = "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))"
        self.browser.execute_script(go, f"/g/{self.game}/source/silt-crab")
        self.until("kept", lambda: self.source()["name"] == "Gulper")

    def test_escape_in_a_note_throws_nothing_away(self) -> None:
        self.labelled("notes of the source").click()
        self.press("Pays for the lamp.", Keys.ESCAPE)
        self.saved(2)
        self.assertEqual(self.source()["notes"], "Pays for the lamp.")

    def test_what_is_typed_into_a_bubble_is_saved_where_one_presses_beside_it(self) -> None:
        self.cell("g", "limits").find_element("css selector", "button").click()
        self.find("input[aria-label=limit]").send_keys("3")
        self.find("main h1").click()
        self.saved(2)
        self.assertEqual(self.line("g")["limit"], 3)
        self.until("it is closed", lambda: not self.all("[role=dialog]"))
        self.cell("g", "limits").find_element("css selector", "button").click()
        self.find("input[aria-label=limit]").send_keys("4", Keys.ESCAPE)
        self.until("it is closed", lambda: not self.all("[role=dialog]"))
        self.assertEqual(self.line("g")["limit"], 3)

    def test_a_row_that_goes_says_what_was_typed_and_the_keys_go_on(self) -> None:
        self.cell("g", "entry").click()
        self.press("123")
        table = self.table()
        self.elsewhere({**table, "lines": [one for one in table["lines"] if one["id"] != "g"]})
        self.until("it is told", lambda: "“123” is not saved" in self.toasts())
        self.saved(2)
        self.press("7", Keys.ENTER)
        self.saved(3)
        weights = [one["weight"] for one in self.table()["lines"]]
        self.assertIn(7, weights)

    def test_keys_are_heard_beside_a_cell_that_was_refused(self) -> None:
        self.cell("g", "entry").click()
        self.press("1,234", Keys.ENTER)
        self.until("why not", lambda: self.find(f"{GRID} [role=alert]").text)
        self.cell("f", "entry").click()
        self.press(Keys.ARROW_UP)
        place = self.browser.switch_to.active_element
        self.assertEqual(place.get_attribute("data-column"), "entry")
        self.press("6", Keys.ENTER)
        self.saved(2)
        self.until("it is told", lambda: "“1,234” is not saved" in self.toasts())


class Refused(EditingTest):
    def test_a_copy_of_a_long_name_is_made(self) -> None:
        long = "x" * 118
        self.elsewhere({**self.source(), "name": long}, "source")
        self.saved(2)
        menu = self.find(f"[aria-label='what to do with {long}']")
        self.browser.execute_script("arguments[0].parentElement.style.display = 'block'", menu)
        menu.click()
        self.choice("same tables").click()
        self.saved(3)
        self.assertTrue([one for one in self.whole()["sources"] if one["name"].endswith("x, copy")])

    def test_a_refusal_that_nobody_takes_is_told(self) -> None:
        """A curve's shape is chosen after another page has removed the curve."""
        curve = next(one for one in self.whole()["curves"] if not one["private"])
        self.open(f"curve/{curve['id']}")
        gone = {"base": 1, "kind": "curve", "id": curve["id"], "page": "page-elsewhere"}
        shape = self.find("[aria-label='shape of the curve']")
        shape.click()
        with self.away():
            self.client.post(f"/api/games/{self.game}/removals", json=gone).raise_for_status()
            self.choice("steps").click()
        self.until("said", lambda: self.all("[role=alertdialog]") or "shape" in self.toasts())

    def expected(self, message: str) -> bool:
        return super().expected(message) or "INTERNET_DISCONNECTED" in message


class Away(EditingTest):
    def test_what_has_not_gone_out_is_taken_back_at_once(self) -> None:
        before = self.line("g")["weight"]
        with self.away():
            self.type_into("f", "entry", "8")
            self.until("it says so", lambda: "1 edit kept here" in self.status())
            self.type_into("g", "entry", "9")
            self.until("it says so", lambda: "2 edits kept here" in self.status())
            self.find("[aria-label^='Undo: ']").click()
            self.until("seen", lambda: float(self.text("g", "entry")) == before)
            self.until("one is left", lambda: "1 edit kept here" in self.status())
            self.find("[aria-label^='Do again: ']").click()
            self.until("seen", lambda: float(self.text("g", "entry")) == 9)
            self.chord(Keys.CONTROL, "z")
            self.until("seen", lambda: float(self.text("g", "entry")) == before)
        self.saved(2)
        self.assertEqual((self.line("f")["weight"], self.line("g")["weight"]), (8, before))

    def test_what_is_saved_is_not_taken_back_unseen(self) -> None:
        self.type_into("g", "entry", "9")
        self.saved(2)
        with self.away():
            self.type_into("f", "entry", "8")
            self.until("it says so", lambda: "1 edit kept here" in self.status())
            for _ in range(4):
                self.chord(Keys.CONTROL, "z")
            self.until("why not", lambda: "out of reach" in self.toasts())
        self.until("there again", lambda: "All saved" in self.status())
        self.assertEqual(self.line("g")["weight"], 9)

    def test_removing_says_that_it_cannot_be_done(self) -> None:
        self.open("items/catalogue")
        name = self.whole()["items"][0]["id"]
        with self.away():
            self.cell(name, "value", "items").click()
            self.press(Keys.DELETE)
            self.until("said", lambda: "out of reach" in self.toasts())
        self.assertEqual(self.whole()["items"][0]["id"], name)

    def expected(self, message: str) -> bool:
        return super().expected(message) or "INTERNET_DISCONNECTED" in message


class Rows(EditingTest):
    def test_a_paste_lands_where_it_was_meant(self) -> None:
        table = self.table()
        last = table["lines"][-1]["id"]
        self.cell(last, "entry").click()
        self.paste(last, "41\n42")
        self.until("it is asked", lambda: self.all("[role=alertdialog]"))
        made = {**table["lines"][0], "id": "z", "weight": 3}
        self.elsewhere({**table, "lines": [made, *table["lines"]]})
        self.until("it came", lambda: self.all(f"{GRID} [data-row=z]"))
        self.button("Paste").click()
        self.saved(3)
        weights = {one["id"]: one["weight"] for one in self.table()["lines"]}
        self.assertEqual((weights[last], weights["z"]), (41, 3))
        self.assertEqual(len(weights), len(table["lines"]) + 2)
        self.assertIn(42, weights.values())

    def test_of_several_rows_with_one_in_use_all_go(self) -> None:
        self.open("items/catalogue")
        items = [one["id"] for one in self.whole()["items"]]
        self.cell(items[0], "value", "items").click()
        ActionChains(self.browser).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN).key_up(
            Keys.SHIFT
        ).send_keys(Keys.DELETE).perform()
        self.until("it is asked", lambda: "Of 3 items" in self.find("[role=alertdialog]").text)
        self.button("Remove it and what needs it").click()
        self.saved(2)
        self.assertEqual([one["id"] for one in self.whole()["items"]], items[3:])
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        self.assertEqual([one["id"] for one in self.whole()["items"]], items)

    def paste(self, row: str, text: str) -> None:
        script = """
        const data = new DataTransfer(); data.setData('text/plain', arguments[1])
        const how = {clipboardData: data, bubbles: true, cancelable: true}
        arguments[0].dispatchEvent(new ClipboardEvent('paste', how))"""
        self.browser.execute_script(script, self.cell(row, "entry"), text)


class Keyboard(EditingTest):
    def test_ctrl_z_works_on_a_choice(self) -> None:
        before = self.line("g")["weight"]
        self.type_into("g", "entry", "9")
        self.saved(2)
        target = self.whole()["targets"][0]["id"]
        go = "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))"
        self.browser.execute_script(go, f"/g/{self.game}/target/{target}")
        self.browser.execute_script("arguments[0].focus()", self.find("main select"))
        self.chord(Keys.CONTROL, "z")
        self.saved(3)
        self.assertEqual(self.line("g")["weight"], before)

    def test_enter_that_takes_a_candidate_does_not_save(self) -> None:
        self.labelled("name of the source").click()
        script = """
        const field = document.activeElement
        const how = {key: 'Enter', bubbles: true, isComposing: true}
        field.dispatchEvent(new KeyboardEvent('keydown', how)); return field.isConnected"""
        self.press("Gulper")
        self.assertTrue(self.browser.execute_script(script))
        self.assertEqual(self.browser.switch_to.active_element.tag_name, "input")
        self.assertEqual(self.whole()["revision"], 1)

    def test_what_is_empty_is_refused_in_plain_words(self) -> None:
        self.labelled("name of the source").click()
        self.press(Keys.DELETE, Keys.ENTER)
        self.until("why not", lambda: "must not be empty" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)

    def test_like_another_a_source_without_drops_has_its_drops(self) -> None:
        self.elsewhere({**self.source("silt-crab"), "drops": []}, "source")
        self.open("source/silt-crab")
        self.button("like no other").click()
        self.choice("Lantern Eel").click()
        self.saved(3)
        crab = self.source("silt-crab")
        self.assertEqual([one["id"] for one in crab["drops"]], [one["id"] for one in self.source()["drops"]])
        self.assertFalse(crab["without"])
        self.assertEqual(crab["seconds"], self.source("silt-crab")["seconds"])

    def test_what_a_source_leaves_out_is_shown_and_taken_back(self) -> None:
        young = self.source("young-eel")
        gone = young["drops"][0]
        self.elsewhere({**young, "drops": young["drops"][1:]}, "source")
        self.open("source/young-eel")
        elder = self.source()["name"]
        table = next(one["name"] for one in self.whole()["tables"] if one["id"] == gone["table"])
        self.labelled(f"take {table} from {elder} again").click()
        self.saved(3)
        after = self.source("young-eel")
        self.assertEqual(
            ({one["id"] for one in after["drops"]}, after["without"]),
            ({one["id"] for one in young["drops"]}, []),
        )


if __name__ == "__main__":
    unittest.main()
