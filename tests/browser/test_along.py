"""Tables over depth: of a source, beside another, by band, in other orders; of an item and of a tier."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from typing import Any

from selenium.webdriver import Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest

BY_SOURCE = "[aria-label='figures by source and depth']"
BESIDE = "[aria-label='side by side']"
FIGURES = "[aria-label='figures by depth']"


def number(text: str) -> float:
    """A figure as it is shown, `·` for none."""
    return 0.0 if text == "·" else float(text.replace("\u202f", "").replace("×", ""))


class TableTest(BrowserTest):
    def heads(self, table: str) -> list[str]:
        return [one.text.replace("\n", " ") for one in self.all(f"{table} thead button[aria-pressed]")]


class DepthSheets(TableTest):
    def setUp(self) -> None:
        super().setUp()
        self.items = {item["name"]: item["id"] for item in self.whole()["items"]}

    def depths(self, kind: str, name: str, **more: Any) -> dict[str, Any]:
        asked = {"view": {"kind": kind, "id": name}, "depth": 1, **more}
        found: dict[str, Any] = self.client.post(f"/api/games/{self.game}/depths", json=asked).json()
        return found

    def along(self, source: str) -> None:
        self.open(f"source/{source}")
        self.button("all fathoms").click()
        self.find(FIGURES)

    def test_two_sources_at_the_same_depth(self) -> None:
        self.along("kiln-chest")
        self.choose("compare with", "Drowned cabinet")
        here, there = self.depths("source", "kiln-chest"), self.depths("source", "drowned-cabinet")
        self.until("rows", lambda: len(self.rows(BESIDE)) > 5)
        row = here["depths"].index(15)
        for name, a, b, times, *_ in self.rows(BESIDE)[:-2]:
            item = self.items[name]
            means = [side["items"].get(item, {"mean": [0.0] * 30})["mean"][row] for side in (here, there)]
            for shown, mean in zip((a, b), means, strict=True):
                self.assertAlmostEqual(number(shown), 100 * mean, delta=0.6 * max(mean, 1e-3), msg=name)
            if min(means) > 0:
                self.assertAlmostEqual(number(times), means[1] / means[0], delta=0.006 * number(times))
            else:
                self.assertIn(times, ("not there", "only there"))
        self.assertEqual(len(self.all("svg[aria-label^='tier shares of what falls']")), 2)

    def test_one_source_at_two_depths_sorted_by_how_much_more(self) -> None:
        self.along("lantern-eel")
        self.choose("compare with", "another fathom")
        self.labelled("the other fathom").click()
        self.press("25", Keys.ENTER)
        self.find(f"{BESIDE} thead").find_elements(By.TAG_NAME, "button")[3].click()
        times = [number(line[3]) for line in self.rows(BESIDE)[:-2] if line[3].startswith("×")]
        self.assertEqual(times, sorted(times, reverse=True))
        here = self.depths("source", "lantern-eel")
        name, a, b = next(line for line in self.rows(BESIDE)[:-2] if line[0] == "Lamp oil")[:3]
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
        lines = self.rows(FIGURES)
        self.assertEqual([line[0] for line in lines], [band["name"] for band in sheet["bands"]])
        first = self.find(f"{FIGURES} thead").find_element(By.TAG_NAME, "button")
        means = sheet["items"][self.items[first.text.replace("\n", " ")]]["mean"]
        met = range(max(1, sheet["met"][0]), 7)
        wanted = 100 * sum(means[depth - 1] for depth in met) / len(met)
        self.assertAlmostEqual(number(lines[0][1]), wanted, delta=0.006 * wanted)

    def test_items_in_other_orders(self) -> None:
        self.along("lantern-eel")
        names = lambda: [  # noqa: E731
            one.text.replace("\n", " ") for one in self.all(f"{FIGURES} thead button")
        ]
        self.choose("order of the items", "by name")
        self.until("by name", lambda: names() == sorted(names(), key=str.lower) and names())
        self.choose("order of the items", "by tier, highest first")
        self.until("the wonder first", lambda: names()[0] == "The Unbroken Lamp")

    def test_the_plumb_line_shows_what_a_visit_brings(self) -> None:
        asked = self.client.post(f"/api/games/{self.game}/meets/profile", json={"flags": [], "draft": []})
        falls = asked.json()["falls"]
        self.open("meets/here")
        shown = self.until("the profile", lambda: self.all("aside[aria-label=fathom] svg rect[data-tier]"))
        self.assertEqual(len(shown), sum(share > 0 for row in falls for share in row))

    def test_how_far_each_item_swings(self) -> None:
        """Told by the server only where it is asked for."""
        self.along("lantern-eel")
        self.choose("figure", "cv")
        sheet = self.depths("source", "lantern-eel", swings=True)
        self.assertIsNone(self.depths("source", "lantern-eel")["items"]["lamp-oil"]["cv"])
        names = self.heads(FIGURES)
        self.until("no more of the other figure", lambda: self.rows(FIGURES)[14][1] != "·")
        for depth in (9, 15, 30):
            shown = dict(zip(names, self.rows(FIGURES)[depth - 1][1:], strict=False))
            for name in names:
                cv = sheet["items"][self.items[name]]["cv"][depth - 1]
                if cv is None:
                    self.assertEqual(shown[name], "·", name)
                else:
                    self.assertAlmostEqual(number(shown[name]), cv, delta=0.006 * cv, msg=name)

    def test_the_table_is_copied_whole_whatever_there_is_room_for(self) -> None:
        self.browser.set_window_size(1280, 420)
        self.addCleanup(self.browser.set_window_size, 1280, 800)
        self.along("cullet-bed")
        lines = [line.split("\t") for line in self.copied(self.button("copy the table")).split("\n")]
        self.assertEqual((lines[0][0], lines[0][-2:]), ("depth", ["brass", "cv"]))
        self.assertEqual([line[0] for line in lines[1:]], [str(depth) for depth in range(1, 31)])
        sheet = self.depths("source", "cullet-bed")
        for name, copied in zip(lines[0][1:-2], lines[12][1:-2], strict=True):
            self.assertAlmostEqual(float(copied), 100 * sheet["items"][self.items[name]]["mean"][11])
        self.assertAlmostEqual(float(lines[12][-2]), sheet["value_mean"][11])


class BySource(TableTest):
    """The sheets of an item and of a tier."""

    def setUp(self) -> None:
        super().setUp()
        self.names = {source["id"]: source["name"] for source in self.whole()["sources"]}

    def view(self, path: str, **more: Any) -> dict[str, Any]:
        found: dict[str, Any] = self.client.post(f"/api/games/{self.game}/{path}", json=more).json()
        return found

    def test_any_figure_by_source_and_depth(self) -> None:
        self.open("item/beacon-lens")
        found = self.view("items/beacon-lens", swings=True)
        self.until("all depths", lambda: len(self.rows(BY_SOURCE)) == 30)
        figures = {
            "one in": lambda one, row: 1 / one["p_any"][row],
            "per 100": lambda one, row: 100 * one["mean"][row],
            "chance, %": lambda one, row: 100 * one["p_any"][row],
            "worth an event": lambda one, row: 60 * one["mean"][row],
            "per hour": lambda one, row: one["per_hour"] * one["mean"][row],
            "cv": lambda one, row: one["cv"][row],
        }
        for figure, wanted in figures.items():
            with self.subTest(figure):
                self.choose("figure", figure)
                shown = self.until("as asked", lambda f=wanted: self.as_wanted(found, f))
                self.assertGreater(shown, 60)

    def as_wanted(self, found: dict[str, Any], wanted: Callable[[dict[str, Any], int], float]) -> int:
        """How many cells show what is wanted; 0 where one does not."""
        names, rows = self.heads(BY_SOURCE), self.rows(BY_SOURCE)
        compared = 0
        for one in found["sources"]:
            at = names.index(self.names[one["id"]])
            for row, cells in enumerate(rows):
                if one["mean"][row] == 0:
                    if cells[1 + at] != "·":
                        return 0
                elif abs(number(cells[1 + at]) / wanted(one, row) - 1) > 0.006:
                    return 0
                else:
                    compared += 1
        return compared

    def test_by_band_and_in_another_order(self) -> None:
        self.open("item/beacon-lens")
        self.button("by fathom").click()
        self.choose("figure", "per 100")
        bands = self.view("items/beacon-lens")["bands"]
        self.until("bands", lambda: [row[0] for row in self.rows(BY_SOURCE)] == [b["name"] for b in bands])
        at = self.heads(BY_SOURCE).index("Lantern Eel")
        for band, cells in zip(bands, self.rows(BY_SOURCE), strict=True):
            mean = 100 * band["sources"]["lantern-eel"]["mean"]
            self.assertAlmostEqual(number(cells[1 + at]), mean, delta=0.006 * mean)
        self.choose("order of the sources", "by name")
        self.until("by name", lambda: self.heads(BY_SOURCE) == sorted(self.heads(BY_SOURCE)))

    def test_lines_are_named_and_drawn_linear_or_logarithmic(self) -> None:
        self.open("item/beacon-lens")
        for name in ("Lantern Eel", "Guild parcel"):
            self.find(f"{BY_SOURCE} [title^='{name}']").click()
        plot = "svg[aria-label='one in by depth']"
        lines = lambda: [line.get_attribute("points") for line in self.all(f"{plot} polyline")]  # noqa: E731
        linear = self.until("two lines", lambda: len(lines()) == 2 and lines())
        self.assertEqual({one.text for one in self.all(f"{plot} text")}, {"Lantern Eel", "Guild parcel"})
        self.button("linear lines").click()
        self.until("others", lambda: lines() != linear)

    def test_it_is_copied_for_a_spreadsheet(self) -> None:
        self.open("item/beacon-lens")
        self.until("all depths", lambda: len(self.rows(BY_SOURCE)) == 30)
        lines = [line.split("\t") for line in self.copied(self.button("copy the table")).split("\n")]
        self.assertEqual(len(lines), 31)
        found = {self.names[one["id"]]: one for one in self.view("items/beacon-lens")["sources"]}
        for name, copied in zip(lines[0][1:], lines[20][1:], strict=True):
            chance = found[name]["p_any"][19]
            self.assertEqual(copied, "") if chance == 0 else self.assertAlmostEqual(float(copied), 1 / chance)

    def test_a_source_opens_from_its_sign(self) -> None:
        self.open("item/beacon-lens")
        self.labelled("open Kiln chest").click()
        self.until("its sheet", lambda: "/source/kiln-chest" in self.browser.current_url)

    def test_a_tier_leads_to_its_items_and_back(self) -> None:
        self.open("item/beacon-lens")
        self.button("Curio").click()
        heads = f"{BY_SOURCE} thead"
        self.until("its sheet", lambda: "/tier/" in self.browser.current_url)
        self.until("its sources", lambda: "Lantern Eel" in self.find(heads).text.replace("\n", " "))
        options = [one.text for one in Select(self.find("select[aria-label=figure]")).options]
        self.assertNotIn("worth an event", options)  # its items are not worth the same
        self.until("its first", lambda: "First at fathom" in self.find("main").text)
        items = self.find("[aria-label='its items']")
        self.assertIn("Beacon lens", items.text)
        items.find_element(By.TAG_NAME, "button").click()
        self.until("an item", lambda: "/item/" in self.browser.current_url)


if __name__ == "__main__":
    unittest.main()
