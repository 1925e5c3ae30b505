"""Depth in the browser: curves, bands, depth sheets, what is met; numbers against hand calculations."""

from __future__ import annotations

import time
import unittest
from typing import Any

from scipy.interpolate import PchipInterpolator
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest


class Depth(BrowserTest):
    def curve(self, name: str) -> list[list[float]]:
        curves = self.whole()["curves"]
        points: list[list[float]] = next(one for one in curves if one["id"] == name)["points"]
        return points

    def bands(self) -> list[dict[str, Any]]:
        bands: list[dict[str, Any]] = self.whole()["settings"]["depth"]["bands"]
        return bands

    def shown_depth(self) -> str | None:
        return self.find("[role=slider][aria-label=fathom]").get_attribute("aria-valuenow")

    def go_to(self, depth: int) -> None:
        self.find("aside button[aria-label^='fathom']").click()
        field = self.find("aside input[aria-label='fathom']")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(str(depth), Keys.ENTER)
        self.until(
            "the depth",
            lambda: self.shown_depth() == str(depth),
        )

    def point(self, depth: int) -> WebElement:
        return self.find(f"circle[aria-label^='point at {depth}:']")

    def test_a_point_is_dragged_and_every_number_follows(self) -> None:
        self.open("source/lantern-eel")
        self.go_to(14)
        self.open("curve/trench-pull")
        # The drop's chance at 14 is 4 % x 1: the point at 14 says x1.
        main = self.find("main")
        self.until("the factor", lambda: "×1.00 here" in main.text)
        box = self.find("svg[aria-label^='curve Trench']").rect
        handle = self.point(14)
        ActionChains(self.browser).click_and_hold(handle).move_by_offset(20, 0).move_by_offset(
            20, 0
        ).perform()
        # The axis ends on 4 (the largest point is x3), and is 360 wide with 14 on either side.
        wanted = 1 + 40 / (box["width"] - 28) * 4
        self.until("the draft", lambda: f"×{wanted:.2f} here" in main.text)
        self.assertIsNotNone(self.find("polyline[stroke-dasharray='4 3']"))
        self.assertEqual(self.curve("trench-pull")[3], [14, 1])
        ActionChains(self.browser).release().perform()
        self.saved(2)
        self.assertAlmostEqual(self.curve("trench-pull")[3][1], wanted, delta=0.01)
        self.open("source/lantern-eel")
        sheet = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14, "flags": [], "draft": []}
        odds = self.client.post(f"/api/games/{self.game}/odds", json=sheet).json()["sheet"]["drops"]
        chance = next(one["chance"] for one in odds.values() if one["multiplier"] != 1)
        self.assertAlmostEqual(chance, 0.04 * wanted, delta=0.0005)

    def one_in(self) -> float:
        """What the reading's sentence says: one in so many."""
        text = self.find("[data-testid=sentence]").text.replace("\u202f", "")
        return float(text.split("one in ")[1].split(" ")[0])

    def test_after_many_quick_drafts_the_numbers_are_those_of_the_last(self) -> None:
        """Questions are asked ahead while a point is dragged: none of their answers may stay behind."""
        self.open("source/lantern-eel")
        self.go_to(15)
        self.open("curve/trench-pull")
        before = self.one_in()
        drag = ActionChains(self.browser, duration=15).click_and_hold(self.point(14))
        for by in [9, -4, 7, -12, 15, 3, -8, 6, 11, -5, 13, -2] * 2:
            drag = drag.move_by_offset(by, 0)
        drag.perform()
        self.until("a draft's numbers", lambda: self.one_in() != before)
        ActionChains(self.browser).release().perform()
        self.saved(2)
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 15, "flags": [], "draft": []}
        wait = self.client.post(f"/api/games/{self.game}/odds", json=looked).json()["wait"]
        self.until("what was saved", lambda: abs(self.one_in() / wait["one_in"] - 1) < 0.005)
        self.chord(Keys.CONTROL, "z")
        self.until("as it was", lambda: self.one_in() == before)

    def test_a_draft_that_is_taken_back_leaves_nothing_behind(self) -> None:
        self.open("source/lantern-eel")
        self.cell("g", "entry").click()
        self.until("its line", lambda: "Beacon lens" in self.find("[data-testid=sentence]").text)
        before = self.find("[data-testid=sentence]").text
        for text in ("9", "99", "5", "77"):
            self.cell("g", "entry").click()
            self.press(*text)
            self.press(Keys.ESCAPE)
        self.until("as it was", lambda: self.find("[data-testid=sentence]").text == before)
        time.sleep(0.5)  # whatever was still on its way has come
        self.assertEqual(self.find("[data-testid=sentence]").text, before)
        self.assertEqual(self.whole()["revision"], 1)

    def test_the_drawn_curve_is_the_servers(self) -> None:
        """Between the points too, where it is smooth: the one figure that the page works out itself."""
        self.open("source/lantern-eel")
        self.open("curve/trench-pull")
        looked = {"view": {"kind": "source", "id": "lantern-eel"}, "flags": [], "draft": []}
        for depth in (7, 12, 18, 25, 30):
            self.go_to(depth)
            odds = self.client.post(f"/api/games/{self.game}/odds", json={**looked, "depth": depth}).json()
            drops = odds["sheet"]["drops"].values()
            wanted = next(one["multiplier"] for one in drops if one["multiplier"] != 1)
            text = self.find("main header").text
            shown = float(text.split("×", 1)[1].split(" ")[0])
            self.assertAlmostEqual(shown, wanted, delta=0.0051 * max(1, wanted), msg=f"at {depth}")

    def test_a_point_is_keyed_typed_added_and_taken_out(self) -> None:
        self.open("curve/trench-pull")
        self.point(14).send_keys(Keys.ARROW_DOWN)
        self.saved(2)
        self.assertEqual(self.curve("trench-pull")[3][0], 15)
        self.labelled("multiplier of point 4").click()
        self.press("2.5", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.curve("trench-pull")[3], [15, 2.5])
        self.labelled("take out point 4").click()
        self.saved(4)
        self.assertEqual([d for d, _ in self.curve("trench-pull")], [1, 4, 10, 21, 28])
        plot = self.find("svg[aria-label^='curve Trench']")
        ActionChains(self.browser).move_to_element_with_offset(plot, 80, 0).double_click().perform()
        self.saved(5)
        self.assertEqual(len(self.curve("trench-pull")), 6)

    def test_a_point_is_added_where_one_looks(self) -> None:
        self.open("curve/trench-pull")
        self.go_to(12)
        before = self.curve("trench-pull")
        self.button("+ a point at 12").click()
        self.saved(2)
        after = self.curve("trench-pull")
        self.assertEqual([one for one in after if one not in before], [[12, after[3][1]]])
        self.assertTrue(before[2][1] < after[3][1] < before[3][1])
        self.until("no second", lambda: not self.button("+ a point at 12").is_enabled())

    def test_points_go_out_to_a_spreadsheet_and_come_in(self) -> None:
        self.open("curve/trench-pull")
        before = self.curve("trench-pull")
        script = """
            const [kind, text] = arguments, data = new DataTransfer()
            data.setData('text/plain', text)
            const how = {clipboardData: data, bubbles: true, cancelable: true}
            document.querySelector('[aria-label^="points of the curve"]').dispatchEvent(
              new ClipboardEvent(kind, how))
            return data.getData('text/plain')
        """
        self.find('[aria-label^="points of the curve"]')
        rows = self.browser.execute_script(script, "copy", "")
        self.assertEqual([[float(cell) for cell in row.split("\t")] for row in rows.split("\n")], before)
        for wrong, why in (("3\t1\n3\t2", "twice"), ("40\t1", "1 to 30"), ("deep\t1", "two columns")):
            self.browser.execute_script(script, "paste", wrong)
            self.until(why, lambda why=why: why in self.find("main [role=alert]").text)  # type: ignore[misc]
        self.assertEqual(self.curve("trench-pull"), before)
        self.browser.execute_script(script, "paste", "20\t2.5\r\n5\t0.5\r\n")
        self.saved(2)
        self.assertEqual(self.curve("trench-pull"), [[5, 0.5], [20, 2.5]])

    def test_what_no_curve_can_have_is_said_beside_it(self) -> None:
        self.open("curve/trench-pull")
        self.labelled("depth of point 2").click()
        self.press("10", Keys.ENTER)
        self.assertIn("a point at 10 already", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.labelled("depth of point 2").click()
        self.press("99", Keys.ENTER)
        self.assertIn("from 1 to 30", self.find("[role=alert]").text)

    def test_a_curve_in_words(self) -> None:
        self.open("curve/trench-pull")
        for words, points in (
            ("from 0.2 at 1 to 3 at 30", [[1, 0.2], [30, 3]]),
            ("only from 12 on", [[1, 0], [12, 1]]),
            ("peaks at 18", [[1, 0.1], [18, 1], [30, 0.1]]),
        ):
            field = self.labelled("the curve in words")
            field.send_keys(words, Keys.ENTER)
            self.until(words, lambda wanted=points: self.curve("trench-pull") == wanted)  # type: ignore[misc]
        self.labelled("the curve in words").send_keys("doubles every 5", Keys.ENTER)
        self.until("doubling", lambda: self.curve("trench-pull")[2] == [11, 4])
        self.labelled("the curve in words").send_keys("goes somewhere", Keys.ENTER)
        self.assertIn("like one of the list", self.find("main [role=alert]").text)

    def test_a_curve_in_use_asks_before_it_goes(self) -> None:
        self.open("curve/trench-pull")
        self.find("nav button[aria-expanded]")
        next(one for one in self.all("nav button[aria-expanded]") if "Depth" in one.text).click()
        self.delete_from_shelf("Trench pull")
        self.until("the question", lambda: "Trench pull is in use" in self.find("[role=alertdialog]").text)
        told = self.find("[role=alertdialog]").text
        for source, drop in self.pulled("trench-pull"):
            names = {one["id"]: one["name"] for one in self.whole()["sources"] + self.whole()["tables"]}
            drops = next(one["drops"] for one in self.whole()["sources"] if one["id"] == source)
            table = next(one["table"] for one in drops if one["id"] == drop)
            self.assertIn(f"source {names[source]}: {names[table]}", told)
        self.button("Leave it as it is").click()
        self.saved(1)
        self.assertIn("/curve/trench-pull", self.browser.current_url)

    def test_a_leap_is_what_the_game_says_it_is(self) -> None:
        self.open("source/kiln-chest")
        self.until("the finding", lambda: "Wonder leaps" in self.find("main").text)
        self.type_scale("most times as much", "1")
        self.assertIn("above 1", self.find("[role=alert]").text)
        self.saved(1)
        self.type_scale("most times as much", "6")
        self.saved(2)
        self.assertEqual(self.whole()["settings"]["depth"]["leap"], 6)
        self.until("none told", lambda: "Wonder leaps" not in self.find("main").text)

    def type_scale(self, label: str, text: str) -> None:
        """Into the form of how deep the game goes, and save."""
        if not self.all(f'[aria-label="{label}"]'):
            self.labelled("how deep the game goes").click()
        field = self.labelled(label)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
        self.button("Save").click()

    def test_another_curve_is_put_where_a_removed_one_was(self) -> None:
        self.open("curve/trench-pull")
        drops = self.pulled("trench-pull")
        self.assertGreater(len(drops), 1)
        next(one for one in self.all("nav button[aria-expanded]") if "Depth" in one.text).click()
        self.delete_from_shelf("Trench pull")
        self.choose("scaled by instead", "Tapers off")
        self.button("Put it there instead").click()
        self.saved(2)
        self.assertLessEqual(set(drops), set(self.pulled("tapers")))
        self.assertEqual(self.pulled("trench-pull"), [])
        self.assertNotIn("trench-pull", [one["id"] for one in self.whole()["curves"]])
        self.until("another sheet", lambda: "/curve/" not in self.browser.current_url)
        self.find('[aria-label^="Undo"]').click()
        self.saved(3)
        self.assertEqual(self.pulled("trench-pull"), drops)

    def pulled(self, curve: str) -> list[tuple[str, str]]:
        """The drops that a curve scales, where it is said: what is like another has it from there."""
        sources = [source for source in self.whole()["sources"] if source["like"] is None]
        return [(s["id"], drop["id"]) for s in sources for drop in s["drops"] if drop["curve"] == curve]

    def delete_from_shelf(self, name: str) -> None:
        menu = self.find(f"[aria-label='what to do with {name}']")
        self.browser.execute_script("arguments[0].parentElement.style.display = 'block'", menu)
        menu.click()
        self.choice("Delete").click()

    def test_a_bands_border_is_keyed_and_dragged(self) -> None:
        self.open("source/lantern-eel")
        edge = self.find("[aria-label='border above Kelp Stair']")
        edge.send_keys(Keys.ARROW_DOWN)
        self.saved(2)
        bands = self.bands()
        self.assertEqual((bands[0]["to"], bands[1]["from"]), (7, 8))
        edge = self.find("[aria-label='border above Wreck Row']")
        ActionChains(self.browser).click_and_hold(edge).move_by_offset(0, 20).move_by_offset(
            0, 22
        ).release().perform()
        self.saved(3)
        bands = self.bands()
        self.assertEqual((bands[1]["to"], bands[2]["from"]), (14, 15))

    def test_a_band_is_renamed_split_and_merged(self) -> None:
        self.open("source/lantern-eel")
        self.go_to(16)
        self.find("[aria-label='band Wreck Row']").click()
        self.button("Split at 16").click()
        self.saved(2)
        names = [band["name"] for band in self.bands()]
        self.assertEqual(names[2:4], ["Wreck Row", "Wreck Row, lower"])
        self.find("[aria-label='band Wreck Row']").click()
        self.button("Merge with the next").click()
        self.saved(3)
        bands = self.bands()
        self.assertEqual([(band["from"], band["to"]) for band in bands][2], (13, 20))

    def test_a_game_made_shallower_cuts_its_bands_when_told_to(self) -> None:
        self.open("source/lantern-eel")
        self.go_to(28)
        before = self.bands()
        self.labelled("how deep the game goes").click()
        last = self.labelled("last depth")
        last.send_keys(Keys.CONTROL, "a")
        last.send_keys("20")
        self.button("Save").click()
        self.until("who is in the way", lambda: "The Hush" in self.find("[role=alert]").text)
        game = self.whole()
        gone = [
            sum(1 for one in every if one["depths"] and one["depths"][0] > 20)
            for every in (game["sources"], [line for table in game["tables"] for line in table["lines"]])
        ]
        self.assertIn(f"{gone[0]} source", self.find("[role=alert]").text)
        self.assertIn(f"{gone[1]} lines beyond 1 to 20 stay as they are", self.find("[role=alert]").text)
        self.assertEqual(self.bands(), before)
        self.button("Cut the bands to fit").click()
        self.saved(2)
        self.assertEqual(self.bands()[-1]["to"], 20)
        self.assertNotIn("The Hush", [band["name"] for band in self.bands()])
        self.until("a depth that is there", lambda: self.shown_depth() == "20")
        self.assertEqual(
            [self.whole()[kind] for kind in ("tables", "sources")], [game["tables"], game["sources"]]
        )
        self.find('[aria-label^="Undo"]').click()
        self.saved(3)
        self.assertEqual(self.bands(), before)

    def test_the_profile_is_of_what_falls_or_of_its_worth(self) -> None:
        """One switch for the plumb line and the sheet along all depths; the widths are the shares."""
        self.open("source/lantern-eel")
        asked = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 1}
        profile = self.client.post(f"/api/games/{self.game}/profile", json=asked).json()
        tiers = [tier["id"] for tier in self.whole()["tiers"]]

        def are(shares: str) -> bool:
            """Whether the silhouette is as wide as these shares at the deepest fathom, of each tier."""
            deepest = [self.all(f"aside rect[data-tier={tier}]")[-1] for tier in tiers]
            widths = [float(rect.get_attribute("width") or 0) for rect in deepest]
            wanted = [26 * share for share in profile[shares][-1]]
            return max(abs(a - b) for a, b in zip(widths, wanted, strict=True)) < 0.01

        self.until("what falls", lambda: are("falls"))
        self.find("aside button[aria-label^='tier shares of what falls']").click()
        self.until("its worth", lambda: are("worth"))
        self.button("all fathoms").click()
        shown = Select(self.find("select[aria-label='tier shares of what']"))
        self.assertEqual(shown.first_selected_option.text, "it is worth")
        shown.select_by_visible_text("falls")
        self.until("what falls again", lambda: are("falls"))

    def test_a_source_says_where_it_is_not_met_and_leads_to_the_nearest(self) -> None:
        self.open("source/silt-crab")  # at 1 to 6, and the depth in view is deeper
        self.until("said", lambda: "Silt crab is not met at fathom 15" in self.find("main").text)
        nearest = self.source("silt-crab")["depths"][1]
        self.button(f"Go to fathom {nearest}").click()
        self.until("nothing to say", lambda: "is not met at" not in self.find("main").text)

    def test_the_depth_sheet_says_what_the_odds_say_at_each_depth(self) -> None:
        self.open("source/cullet-bed")
        self.button("all fathoms").click()
        table = self.find("[aria-label='figures by depth']")
        self.until("thirty rows", lambda: len(table.find_elements(By.CSS_SELECTOR, "tbody tr")) == 30)
        names = [one.text.replace("\n", " ") for one in table.find_elements(By.CSS_SELECTOR, "thead button")]
        asked = {"view": {"kind": "source", "id": "cullet-bed"}, "flags": [], "draft": []}
        items = {item["name"]: item["id"] for item in self.whole()["items"]}
        for depth in (1, 12, 20):
            sheet = self.client.post(f"/api/games/{self.game}/odds", json={**asked, "depth": depth}).json()[
                "sheet"
            ]
            row = table.find_elements(By.CSS_SELECTOR, "tbody tr")[depth - 1]
            cells = [cell.text for cell in row.find_elements(By.TAG_NAME, "td")]
            self.assertEqual(cells[0], str(depth))
            for name, shown in zip(names, cells[1:], strict=False):
                mean = 100 * sheet["items"][items[name]]["mean"]
                got = 0.0 if shown == "·" else float(shown.replace("\u202f", ""))
                self.assertAlmostEqual(got, mean, delta=0.006 * max(mean, 0.01), msg=f"{name} at {depth}")
        table.find_elements(By.CSS_SELECTOR, "thead button")[0].click()
        self.until("a line", lambda: self.find("svg[aria-label='per 100 by depth'] polyline"))

    def test_an_items_ways_lead_to_their_sources(self) -> None:
        self.open("item/beacon-lens")
        ways = self.find("[aria-label='ways to it']")
        self.until("ways", lambda: len(ways.find_elements(By.TAG_NAME, "button")) > 5)
        self.until("its first", lambda: "First at fathom" in self.find("main").text)
        self.assertIn("reach", self.find("[aria-label=stats]").text)
        ways.find_elements(By.TAG_NAME, "button")[0].click()
        self.until("a source", lambda: "/source/" in self.browser.current_url)

    def test_stats_are_edited_and_told_at_depth(self) -> None:
        self.open("item/beacon-lens")
        self.labelled("range of reach").click()
        self.press("10 to 20", Keys.ENTER)
        self.saved(2)
        self.labelled("name of a new stat").send_keys("heft", Keys.ENTER)
        self.saved(3)
        item = next(one for one in self.whole()["items"] if one["id"] == "beacon-lens")
        self.assertEqual((item["stats"]["reach"]["min"], item["stats"]["reach"]["max"]), (10, 20))
        # A curio's stats are 1.7 times what is entered; the new one has no curve.
        self.until("1.7 to 3.4", lambda: "1.70 to 3.40" in self.find("[aria-label=stats]").text)
        self.labelled("take out heft").click()
        self.saved(4)

    def test_a_stat_is_drawn_over_all_depths_beside_its_rivals(self) -> None:
        self.open("item/beacon-lens")
        self.go_to(15)
        self.find("button[title^='reach: draw it']").click()
        self.find("svg[aria-label='reach by depth'] polygon")
        view = self.client.post(f"/api/games/{self.game}/items/beacon-lens", json={}).json()
        factor = float(PchipInterpolator(*zip(*self.curve("swells"), strict=True))(15))
        row = self.rows("[aria-label='reach by depth']")[14]
        low, high = (float(end) for end in row[1].split("–"))
        self.assertAlmostEqual(low, 4 * 1.7 * factor, delta=0.01)
        self.assertAlmostEqual(high, 9 * 1.7 * factor, delta=0.1)
        self.assertEqual(len(row) - 2, len([one for one in view["rivals"] if one["stat"] == "reach"]))
        # 5.2 to 11.7 of a Salvage one against 6.8 to 15.3, whatever the depth.
        both = 11.7 - 6.8
        upset = 100 * both / (11.7 - 5.2) * both / (15.3 - 6.8) / 2
        self.assertIn(
            f"loses to its like in Salvage\n{upset:.1f}\u202f%", self.find("[aria-label=stats]").text
        )
        self.find("button[title^='reach: draw it']").click()
        self.until("gone", lambda: not self.all("svg[aria-label='reach by depth']"))

    def test_a_stat_has_a_curve_of_its_own(self) -> None:
        self.open("item/beacon-lens")
        self.labelled("curve of reach").click()
        self.choice("A curve of its own").click()
        self.saved(2)
        self.until("its sheet", lambda: "/curve/" in self.browser.current_url)
        item = next(one for one in self.whole()["items"] if one["id"] == "beacon-lens")
        own = item["stats"]["reach"]["curve"]
        self.assertTrue(next(one for one in self.whole()["curves"] if one["id"] == own)["private"])
        self.open("item/beacon-lens")
        self.labelled("curve of reach").click()
        self.choice("No curve").click()
        self.saved(3)
        self.assertNotIn(own, [one["id"] for one in self.whole()["curves"]])

    def test_what_is_met_follows_its_sentence(self) -> None:
        self.open("meets/here")
        self.go_to(5)
        met = self.find("[aria-label='what is met']")
        self.until("crabs", lambda: "Silt crab" in met.text)
        # Six encounters on average, three in seven of them crabs.
        row = met.find_elements(By.CSS_SELECTOR, "tbody tr")[0]
        self.assertEqual(row.find_elements(By.CSS_SELECTOR, "td.num")[0].text, f"{6 * 3 / 7:.2f}")
        kinds = {source["id"]: source["kind"] for source in self.whole()["sources"]}
        found = self.client.post(f"/api/games/{self.game}/meets", json={"depth": 5}).json()
        kills = sum(count for name, count in found["sources"].items() if kinds[name] == "enemy")
        whole = met.find_element(By.XPATH, ".//tr[contains(., 'kills in all')]")
        visit, hour = (float(cell.text) for cell in whole.find_elements(By.CSS_SELECTOR, "td.num"))
        self.assertAlmostEqual(visit, kills, delta=0.006 * kills)
        self.assertAlmostEqual(hour, kills * found["per_hour"], delta=0.006 * hour)
        self.labelled("encounters a visit").click()
        self.press("14", Keys.ENTER)
        self.until("fourteen", lambda: self.find("[aria-label='what is met'] tbody td.num").text == "6.00")
        self.labelled("spawn points").click()
        self.press("1", Keys.ENTER)
        self.until("one point", lambda: "different ones" in self.find("[aria-label=repeats]").text)


if __name__ == "__main__":
    unittest.main()
