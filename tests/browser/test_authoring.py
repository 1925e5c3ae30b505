"""What a designer does: edit lines, type answers, drag the strip, undo, and see the numbers follow."""

from __future__ import annotations

import unittest

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest


class Lines(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")

    def test_fast_fingers_lose_nothing(self) -> None:
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")
        self.cell("c", "entry").click()
        self.press("5", Keys.ENTER, "6", Keys.ENTER, "7", Keys.ENTER)
        self.saved(4)
        self.assertEqual([self.text(line, "entry") for line in "cde"], ["5", "6", "7"])

    def test_numbers_follow_every_keystroke_and_esc_takes_them_back(self) -> None:
        before = self.text("g", "chance")
        self.cell("g", "entry").click()
        self.press("20")
        self.until("a draft's numbers", lambda: self.text("g", "chance") != before)
        self.press(Keys.ESCAPE)
        self.until("the old numbers", lambda: self.text("g", "chance") == before)
        self.saved(1)

    def test_an_entered_weight_is_saved_and_undone_across_a_reload(self) -> None:
        self.type_into("g", "entry", "3.2")
        self.saved(2)
        self.browser.refresh()
        self.until("3.2 after a reload", lambda: self.text("g", "entry") == "3.2")
        self.find('[aria-label^="Undo"]').click()
        self.until("2 after undo", lambda: self.text("g", "entry") == "2")
        self.find('[aria-label^="Do again"]').click()
        self.until("3.2 after redo", lambda: self.text("g", "entry") == "3.2")

    def test_an_answer_comes_true(self) -> None:
        self.type_into("g", "one_in", "1 in 250")
        self.until("250", lambda: self.text("g", "one_in") == "250")
        self.type_into("g", "chance", "2 %")
        self.until("2 %", lambda: self.text("g", "chance") == "2.00 %")
        self.assertEqual(self.text("a", "entry"), "34")

    def test_a_refused_edit_keeps_what_was_typed_and_says_why(self) -> None:
        self.type_into("g", "entry", "-3")
        alert = self.find("[role=alert]")
        self.assertIn("must be 0 or more", alert.text)
        field = self.find('[aria-label="lines of Eel catch"] input')
        self.assertEqual(field.get_attribute("value"), "-3")
        self.press(Keys.ESCAPE)
        self.until("the old weight", lambda: self.text("g", "entry") == "2")
        self.saved(1)

    def test_a_quantity_is_typed_as_people_write_it(self) -> None:
        self.type_into("a", "quantity", "2-8/2")
        self.until("the quantity", lambda: self.text("a", "quantity") == "2-8/2")
        self.saved(2)
        self.type_into("a", "quantity", "5-2")
        self.assertIn("swap", self.find("[role=alert]").text)

    def test_what_a_line_gives_is_found_by_a_few_letters(self) -> None:
        self.cell("b", "gives").click()
        self.press("choir", Keys.ENTER)
        self.until("the item", lambda: self.text("b", "gives") == "Choir jelly")
        # What is odd about it comes a moment later, over the grid, which it moves down.
        self.until("what is odd", lambda: "a stack holds" in self.find("main").text)
        self.cell("b", "gives").click()
        self.press("cabinet", Keys.ENTER)
        self.until("the table", lambda: self.text("b", "gives") == "Cabinet of curios")
        self.assertTrue(self.button("Cabinet of curios"))

    def test_keys_move_duplicate_and_delete_lines(self) -> None:
        grid = '[aria-label="lines of Eel catch"] [data-row]'

        def order() -> str:
            return "".join(row.get_attribute("data-row") or "" for row in self.all(grid))

        self.cell("b", "gives").click()
        self.chord(Keys.ALT, Keys.ARROW_UP)
        self.until("moved up", lambda: order() == "bacdefgh")
        self.chord(Keys.CONTROL, "d")
        self.until("duplicated", lambda: len(order()) == 9)
        self.press(Keys.DELETE)
        self.until("deleted", lambda: len(order()) == 8)
        self.saved(4)

    def test_a_block_goes_out_and_in_by_tabs(self) -> None:
        self.cell("a", "gives").click()
        script = """
            const grid = document.querySelector('[aria-label="lines of Eel catch"]')
            const cell = grid.querySelector('[data-row="g"] [data-column="gives"]')
            const data = new DataTransfer()
            data.setData('text/plain', 'Glass eye\\t2-4\\t7\\nBurning glass\\t1\\t9\\nMirror shard\\t1\\t5')
            const how = {clipboardData: data, bubbles: true, cancelable: true}
            cell.dispatchEvent(new ClipboardEvent('paste', how))
        """
        self.cell("g", "gives").click()
        self.browser.execute_script(script)
        self.button("Paste").click()
        self.saved(2)
        self.assertEqual(self.text("g", "gives"), "Glass eye")
        self.assertEqual((self.text("h", "entry"), self.text("g", "quantity")), ("9", "2-4"))
        self.assertEqual(self.text("i", "gives"), "Mirror shard")

    def test_a_boundary_of_the_strip_is_dragged_and_keyed(self) -> None:
        boundary = self.find('[aria-label="Boundary between Eelskin and Glass sand"]')
        before = float(self.text("a", "chance").rstrip(" %"))
        ActionChains(self.browser).drag_and_drop_by_offset(boundary, 40, 0).perform()
        self.saved(2)
        width = self.find('[role=group][aria-label^="what one roll of Eel catch"]').size["width"]
        self.until("more chance", lambda: float(self.text("a", "chance").rstrip(" %")) > before + 1)
        now = float(self.text("a", "chance").rstrip(" %"))
        self.assertAlmostEqual(now - before, 100 * 40 / width, delta=0.6)
        self.find('[aria-label="Boundary between Eelskin and Glass sand"]').send_keys(Keys.ARROW_LEFT)
        self.saved(3)
        self.until("less", lambda: abs(float(self.text("a", "chance").rstrip(" %")) - now + 1) < 0.1)

    def test_depth_is_keyed_typed_and_dragged(self) -> None:
        depth = '[aria-orientation="vertical"]'
        start = int(self.find(depth).get_attribute("aria-valuenow") or 0)
        before = self.text("g", "chance")
        self.press("]")
        self.until("one deeper", lambda: self.find(depth).get_attribute("aria-valuenow") == str(start + 1))
        self.until("other numbers", lambda: self.text("g", "chance") != before)
        scale = self.find(depth)
        ActionChains(self.browser).move_to_element_with_offset(
            scale, 0, int(scale.size["height"] / 2) - 3
        ).click_and_hold().move_by_offset(0, -1).release().perform()
        self.until("the deepest", lambda: self.find(depth).get_attribute("aria-valuenow") == "30")


class Sources(BrowserTest):
    def test_a_chance_a_rule_and_a_new_drop(self) -> None:
        self.open("source/silt-crab")
        self.labelled("chance of the drop").click()
        self.press("50 %", Keys.ENTER)
        self.saved(2)
        self.labelled("how Crab meat is rolled").click()
        self.button("tests every line on its own").click()
        self.saved(3)
        first = "[aria-label='lines of Crab meat'] [data-row='a'] [data-column='entry']"
        self.until("chances", lambda: "%" in self.find(first).text)
        self.labelled("add a drop").click()
        self.choice("Eel catch").click()
        self.saved(4)
        self.until("three drops", lambda: len(self.all("[data-drop]")) == 3)

    def test_a_guard_a_limit_and_a_flag(self) -> None:
        self.open("source/silt-crab")
        grid = "lines of Crab meat"
        self.until("numbers", lambda: self.text("e", "chance", grid) != " %")
        self.labelled("limits of Pearl of the step").click()
        for field, text in (("limit", "1"), ("after how many misses", "5"), ("rise", "50")):
            self.find(f'form [aria-label="{field}"]').send_keys(text)
        self.find('form [aria-label="sure at"]').send_keys("30", Keys.ENTER)
        self.saved(2)
        self.assertIn("once", self.cell("e", "limits", grid).text)
        self.cell("e", "gives", grid).click()
        self.until("waits with state", lambda: "none any more" in self.find('[data-testid="sentence"]').text)
        self.until("sure at 30", lambda: self.labelled("Wait in kills").is_displayed())

    def test_flags_are_set_for_what_is_on_screen(self) -> None:
        self.open("source/bell-crate")
        grid = "lines of Bell crate fittings"
        self.until("closed", lambda: self.text("e", "chance", grid) == "0 %")
        self.button("Has the long tongs").click()
        self.until("open", lambda: self.text("e", "chance", grid) not in ("0 %", " %"))

    def test_every_rule_can_be_chosen_and_undone(self) -> None:
        self.open("source/silt-crab")
        self.until("numbers", lambda: self.text("a", "chance", "lines of Crab meat") != " %")
        rules = (
            "tests every line",
            "gives the first",
            "picks a line, tests",
            "draws a card",
            "picks one line",
        )
        for at, rule in enumerate(rules):
            self.labelled("how Crab meat is rolled").click()
            self.choice(rule).click()
            self.saved(2 + at)
            self.until(rule, lambda: self.text("a", "chance", "lines of Crab meat") not in (" %", "0 %"))

    def test_a_name_is_edited_in_place(self) -> None:
        self.open("source/silt-crab")
        self.labelled("name of the source").click()
        self.press("Sand crab", Keys.ENTER)
        self.saved(2)
        self.assertIn("Sand crab", self.find('[aria-label="shelf"]').text)

    def test_rolls_show_what_fell_and_how(self) -> None:
        self.open("source/lantern-eel")
        self.press("r")
        tray = lambda: self.find('[aria-label="tray"]').text  # noqa: E731
        self.until("one kill", lambda: "1 kill" in tray() and "How kill 1" in tray())
        ActionChains(self.browser).key_down(Keys.SHIFT).send_keys("r").key_up(Keys.SHIFT).perform()
        self.until("a hundred more", lambda: "101 kills" in tray())
        self.assertIn("Flotsam", tray())
        self.press("]")
        self.until("begun again", lambda: "Nothing rolled yet" in tray())


class Items(BrowserTest):
    def test_items_and_tiers_in_their_grids(self) -> None:
        self.open("items/catalogue")
        self.cell("eelskin", "value", "items").click()
        self.press("4.5", Keys.ENTER)
        self.saved(2)
        self.cell("flotsam", "name", "tiers").click()
        self.press("Jetsam", Keys.ENTER)
        self.saved(3)
        self.until("renamed in the catalogue", lambda: self.text("eelskin", "tier", "items") == "Jetsam")
        self.cell("eelskin", "tier", "items").click()
        self.press("curio", Keys.ENTER)
        self.saved(4)
        self.assertEqual(self.text("eelskin", "tier", "items"), "Curio")

    def test_an_item_in_use_asks_before_it_goes(self) -> None:
        self.open("items/catalogue")
        self.cell("eelskin", "name", "items").click()
        self.press(Keys.DELETE)
        question = self.find("[role=alertdialog]")
        self.assertIn("Eel catch", question.text)
        self.button("Leave it as it is").click()
        self.saved(1)
        self.cell("eelskin", "name", "items").click()
        self.press(Keys.DELETE)
        self.button("Remove it and what needs it").click()
        self.saved(2)
        self.assertEqual(self.all('[aria-label="items"] [data-row="eelskin"]'), [])
        self.find("body").send_keys(Keys.CONTROL, "z")
        self.until("back", lambda: self.all('[aria-label="items"] [data-row="eelskin"]'))


class Looking(BrowserTest):
    """The catalogue is searched and seen in another order, and nothing is edited by it."""

    def setUp(self) -> None:
        super().setUp()
        self.open("items/catalogue")

    def seen(self) -> list[str]:
        return [one.get_attribute("data-row") or "" for one in self.all("[aria-label=items] [data-row]")]

    def test_words_a_tier_and_a_tag(self) -> None:
        items = {one["id"]: one for one in self.whole()["items"]}
        self.labelled("find items").send_keys("lamp")
        fits = {name for name, one in items.items() if "lamp" in f"{one['name']} {one['tags']}".lower()}
        self.until("those", lambda: set(self.seen()) == fits)
        self.labelled("find items").send_keys(Keys.ESCAPE)
        tier = self.whole()["tiers"][4]
        self.choose("of which tier", tier["name"])
        self.until(
            "its items", lambda: set(self.seen()) == {n for n in items if items[n]["tier"] == tier["id"]}
        )
        self.button("all, as they stand").click()
        self.until("all", lambda: self.seen()[:5] == [*items][:5])
        self.assertEqual(self.whole()["revision"], 1)

    def test_rows_are_edited_where_they_are_seen(self) -> None:
        items = {one["id"]: one for one in self.whole()["items"]}
        self.labelled("see them by value").click()
        self.labelled("see them by value").click()
        values = [items[name]["value"] for name in self.until("drawn", self.seen)]
        self.assertEqual(values, sorted(values, reverse=True))
        second = self.seen()[1]
        self.cell(second, "value", "items").click()
        self.press("0.5", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.seen()[1], second)  # it does not run from the hand
        after = {one["id"]: one["value"] for one in self.whole()["items"]}
        self.assertEqual([*after], [*items])
        self.assertEqual(after, {**{name: one["value"] for name, one in items.items()}, second: 0.5})
        self.cell(second, "value", "items").click()
        self.chord(Keys.ALT, Keys.ARROW_DOWN)
        self.until("why not", lambda: "where all are seen" in self.find("[data-sonner-toast]").text)


class Finding(BrowserTest):
    def test_find_or_do(self) -> None:
        self.open("source/silt-crab")
        self.chord(Keys.CONTROL, "k")
        self.find("[cmdk-input]")
        self.press("guild pa", Keys.ENTER)
        self.until("the sheet", lambda: "Guild parcel" in self.find("main").text)
        self.assertIn("/source/guild-parcel", self.browser.current_url)
        self.browser.back()
        self.until("the way back", lambda: "Silt crab" in self.find("main").text)

    def test_findings_lead_to_their_place(self) -> None:
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.choice("Findings").click()
        found = self.find("[role=dialog]")
        self.until("the list", lambda: "look like percentages" in found.text)
        next(
            one for one in found.find_elements(By.TAG_NAME, "button") if one.text == "Trench heirlooms"
        ).click()
        self.until("the table", lambda: "/table/trench-heirlooms" in self.browser.current_url)

    def test_the_shelf_filters(self) -> None:
        self.open("source/silt-crab")
        self.labelled("Filter the shelf").send_keys("pearl")
        shelf = self.find('[aria-label="shelf"]')
        self.until("only pearls", lambda: "Rust lobster" not in shelf.text)
        names = [e.text for e in shelf.find_elements(By.CSS_SELECTOR, ".name")]
        self.assertIn("Blind pearl shelf", names)
        self.assertIn("Pearl bed", names)


if __name__ == "__main__":
    unittest.main()
