"""Depth sheets beside each other, by band and in another order; pins, carried rows, private curves."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest

BESIDE = "[aria-label='side by side']"


def number(text: str) -> float:
    """A figure as it is shown, `·` for none."""
    return 0.0 if text == "·" else float(text.replace("\u202f", "").replace("×", ""))


class Shown(BrowserTest):
    def depths(self, kind: str, name: str) -> dict[str, Any]:
        asked = {"view": {"kind": kind, "id": name}, "depth": 1, "flags": [], "draft": []}
        found: dict[str, Any] = self.client.post(f"/api/games/{self.game}/depths", json=asked).json()
        return found

    def whole(self) -> dict[str, Any]:
        found: dict[str, Any] = self.client.get(f"/api/games/{self.game}").json()
        return found

    def table(self, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()["tables"] if one["id"] == name)
        return found

    def choose(self, label: str, text: str) -> None:
        Select(self.find(f"select[aria-label='{label}']")).select_by_visible_text(text)

    def rows(self, selector: str) -> list[list[str]]:
        """The cells of a table's body, as text."""

        def read() -> list[list[str]]:
            body = self.find(f"{selector} tbody")
            lines = body.find_elements(By.TAG_NAME, "tr")
            return [[cell.text for cell in line.find_elements(By.TAG_NAME, "td")] for line in lines]

        return self.until(f"rows of {selector}", read)


class DepthSheets(Shown):
    def setUp(self) -> None:
        super().setUp()
        self.items = {item["name"]: item["id"] for item in self.whole()["items"]}

    def along(self, source: str) -> None:
        self.open(f"source/{source}")
        self.button("all fathoms").click()
        self.find("[aria-label='figures by depth']")

    def test_two_sources_at_the_same_depth(self) -> None:
        self.along("kiln-chest")
        self.choose("compare with", "Drowned cabinet")
        here, there = self.depths("source", "kiln-chest"), self.depths("source", "drowned-cabinet")
        self.until("rows", lambda: len(self.rows(BESIDE)) > 5)
        row = here["depths"].index(15)
        for name, a, b, times, *_ in self.rows(BESIDE)[2:]:
            item = self.items[name]
            means = [side["items"].get(item, {"mean": [0.0] * 30})["mean"][row] for side in (here, there)]
            for shown, mean in zip((a, b), means, strict=True):
                self.assertAlmostEqual(number(shown), 100 * mean, delta=0.6 * max(mean, 1e-3), msg=name)
            if min(means) > 0:
                self.assertAlmostEqual(number(times), means[1] / means[0], delta=0.006 * number(times))
            else:
                self.assertIn(times, ("not there", "only there"))
        self.assertEqual(len(self.all("svg[aria-label='tier shares by depth']")), 2)

    def test_one_source_at_two_depths_sorted_by_how_much_more(self) -> None:
        self.along("lantern-eel")
        self.choose("compare with", "another fathom")
        self.labelled("the other fathom").click()
        self.press("25", Keys.ENTER)
        self.find(f"{BESIDE} thead").find_elements(By.TAG_NAME, "button")[3].click()
        times = [number(line[3]) for line in self.rows(BESIDE)[2:] if line[3].startswith("×")]
        self.assertEqual(times, sorted(times, reverse=True))
        here = self.depths("source", "lantern-eel")
        name, a, b = next(line for line in self.rows(BESIDE)[2:] if line[0] == "Lamp oil")[:3]
        for shown, depth in ((a, 15), (b, 25)):
            mean = here["items"][self.items[name]]["mean"][here["depths"].index(depth)]
            self.assertAlmostEqual(number(shown), 100 * mean, delta=0.005 * 100 * mean)

    def test_a_source_that_is_not_met_there_is_said_to_be_so(self) -> None:
        self.along("lantern-eel")
        self.choose("compare with", "Hush angler")
        head = self.until("the heads", lambda: self.find(f"{BESIDE} thead").text.replace("\n", " "))
        self.assertIn("not met at this fathom", head)

    def test_bands_are_averages_over_their_depths(self) -> None:
        self.along("cullet-bed")
        self.button("by fathom").click()
        sheet = self.depths("source", "cullet-bed")
        lines = self.rows("[aria-label='figures by depth']")
        self.assertEqual([line[0] for line in lines], [band["name"] for band in sheet["bands"]])
        first = self.find("[aria-label='figures by depth'] thead").find_element(By.TAG_NAME, "button")
        means = sheet["items"][self.items[first.text.replace("\n", " ")]]["mean"]
        met = range(max(1, sheet["met"][0]), 7)
        wanted = 100 * sum(means[depth - 1] for depth in met) / len(met)
        self.assertAlmostEqual(number(lines[0][1]), wanted, delta=0.006 * wanted)

    def test_items_in_other_orders(self) -> None:
        self.along("lantern-eel")
        names = lambda: [  # noqa: E731
            one.text.replace("\n", " ") for one in self.all("[aria-label='figures by depth'] thead button")
        ]
        self.choose("order of the items", "by name")
        self.until("by name", lambda: names() == sorted(names(), key=str.lower) and names())
        self.choose("order of the items", "by tier, highest first")
        self.until("the wonder first", lambda: names()[0] == "The Unbroken Lamp")

    def test_a_tier_leads_to_its_items_and_back(self) -> None:
        self.open("item/beacon-lens")
        self.button("Curio").click()
        heads = self.find("[aria-label='one in how many, by source and depth'] thead")
        self.until("its sources", lambda: "Lantern Eel" in heads.text.replace("\n", " "))
        self.assertIn("First at fathom", self.find("main").text)
        items = self.find("[aria-label='its items']")
        self.assertIn("Beacon lens", items.text)
        items.find_element(By.TAG_NAME, "button").click()
        self.until("an item", lambda: "/item/" in self.browser.current_url)

    def test_the_plumb_line_shows_what_a_visit_brings(self) -> None:
        asked = self.client.post(f"/api/games/{self.game}/meets/profile", json={"flags": [], "draft": []})
        falls = asked.json()["falls"]
        self.open("meets/here")
        shown = self.until("the profile", lambda: self.all("aside[aria-label=fathom] svg rect[data-tier]"))
        self.assertEqual(len(shown), sum(share > 0 for row in falls for share in row))


class Lines(Shown):
    def setUp(self) -> None:
        super().setUp()
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")

    def act(self, line: str, what: str) -> None:
        row = self.find(f'[aria-label="lines of Eel catch"] [data-row="{line}"]')
        ActionChains(self.browser).move_to_element(row).perform()
        row.find_element(By.CSS_SELECTOR, "[aria-label^='What to do with']").click()
        self.choice(what).click()

    def test_a_pinned_line_keeps_its_chance(self) -> None:
        before = self.text("b", "chance")
        self.act("b", "Pin its chance")
        self.saved(2)
        self.type_into("g", "chance", "20 %")
        self.saved(3)
        self.until("20 %", lambda: self.text("g", "chance") == "20.0 %")
        self.assertEqual(self.text("b", "chance"), before)
        lines = {line["id"]: line for line in self.table("eel-catch")["lines"]}
        self.assertTrue(lines["b"]["pinned"])
        self.type_into("g", "chance", "90 %")
        self.assertIn("the pinned lines keep theirs", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.act("b", "Let its chance give way")
        self.saved(4)

    def test_a_row_is_carried_by_the_mouse(self) -> None:
        before = [line["id"] for line in self.table("eel-catch")["lines"]]
        row = self.find('[aria-label="lines of Eel catch"] [data-row="b"]')
        ActionChains(self.browser).move_to_element(row).perform()
        grip = row.find_element(By.CSS_SELECTOR, "[aria-label^='carry']")
        ActionChains(self.browser).click_and_hold(grip).move_by_offset(0, 30).move_by_offset(
            0, 54
        ).release().perform()
        self.saved(2)
        order = [line["id"] for line in self.table("eel-catch")["lines"]]
        self.assertEqual(order, [before[0], *before[2:5], before[1], *before[5:]])
        self.find('[aria-label^="Undo"]').click()
        self.until("undone", lambda: [one["id"] for one in self.table("eel-catch")["lines"]] == before)

    def test_the_blank_the_rolls_and_the_times_are_scaled_with_depth(self) -> None:
        self.choose_curve("the blank weight", "Shallows wane")
        self.saved(2)
        self.choose_curve("the number of rolls", "Curios swell")
        self.saved(3)
        self.choose_curve("how many times", "Tapers off")
        self.saved(4)
        table = self.table("eel-catch")
        self.assertEqual((table["nothing_curve"], table["rolls"]["curve"]), ("wanes", "swells"))
        drop = next(one for one in self.whole()["sources"] if one["id"] == "lantern-eel")["drops"][0]
        self.assertEqual(drop["times"]["curve"], "tapers")

    def test_typing_a_quantity_keeps_its_curve(self) -> None:
        self.choose_curve("the number of rolls", "Curios swell")
        self.saved(2)
        self.labelled("rolls").click()
        self.press("2-5", Keys.ENTER)
        self.saved(3)
        rolls = self.table("eel-catch")["rolls"]
        self.assertEqual((rolls["min"], rolls["max"], rolls["curve"]), (2, 5, "swells"))

    def choose_curve(self, what: str, curve: str) -> None:
        self.labelled(f"curve of {what}").click()
        self.choice(curve).click()

    def test_a_curve_of_its_own_comes_and_goes_with_its_line(self) -> None:
        count = len(self.whole()["curves"])
        self.labelled("limits of Lamp oil").click()
        self.choose("scaled by", "a curve of its own")
        self.button("Save").click()
        self.saved(2)
        self.until("its sheet", lambda: "/curve/lamp-oil-its-own" in self.browser.current_url)
        made = next(one for one in self.whole()["curves"] if one["id"] == "lamp-oil-its-own")
        self.assertTrue(made["private"])
        self.assertEqual([value for _, value in made["points"]], [1, 1])
        self.open("source/lantern-eel")
        self.labelled("limits of Glass sand").click()
        options = [one.text for one in Select(self.find("select[aria-label='scaled by']")).options]
        self.assertNotIn("Lamp oil, its own", options)
        self.press(Keys.ESCAPE)
        self.labelled("limits of Lamp oil").click()
        self.choose("scaled by", "no curve")
        self.button("Save").click()
        self.saved(3)
        self.assertEqual(len(self.whole()["curves"]), count)
        self.find('[aria-label^="Undo"]').click()
        self.saved(4)
        self.assertEqual(len(self.whole()["curves"]), count + 1)

    def test_a_blank_weight_may_have_a_curve_of_its_own(self) -> None:
        self.choose_curve("the blank weight", "A curve of its own")
        self.saved(2)
        self.until("its sheet", lambda: "/curve/blank-of-eel-catch-its-own" in self.browser.current_url)
        self.assertEqual(self.table("eel-catch")["nothing_curve"], "blank-of-eel-catch-its-own")
        self.open("source/lantern-eel")
        self.choose_curve("the blank weight", "Shallows wane")
        self.saved(3)
        self.assertNotIn("blank-of-eel-catch-its-own", [one["id"] for one in self.whole()["curves"]])

    def test_each_quantity_of_a_bundle_may_have_a_curve_of_its_own(self) -> None:
        self.open("table/eel-catch")
        self.open_gives()
        self.button("+ item, table or source").click()
        self.labelled("what it gives 2").send_keys("Brass token")
        for number in (1, 2):
            self.choose(f"curve of quantity {number}", "× its own")
        self.button("Save").click()
        self.saved(2)
        given = self.table("eel-catch")["lines"][0]["yields"]
        owned = [one["quantity"]["curve"] for one in given]
        self.assertEqual(owned, ["how-many-of-eelskin-its-own", "how-many-of-eelskin-its-own-2"])
        curves = {one["id"]: one["private"] for one in self.whole()["curves"]}
        self.assertTrue(all(curves[name] for name in owned))
        self.open_gives()
        self.labelled("take out 2").click()  # its curve goes with it
        self.button("Save").click()
        self.saved(3)
        left = [one["id"] for one in self.whole()["curves"]]
        self.assertIn(owned[0], left)
        self.assertNotIn(owned[1], left)

    def open_gives(self) -> None:
        cell = self.cell("a", "gives", "lines of Eel catch")
        self.browser.execute_script("arguments[0].click()", self.find("[aria-label^='all that']", cell))


if __name__ == "__main__":
    unittest.main()
