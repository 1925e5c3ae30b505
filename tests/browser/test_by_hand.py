"""What is dragged, and the numbers that follow: against calculations from the game's file alone."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from scipy.interpolate import PchipInterpolator
from selenium.webdriver import ActionChains, Keys

from tests.browser.driver import BrowserTest

DEPTH = "[role=slider][aria-label=fathom]"


class ByHand(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.read()

    def read(self) -> None:
        """The game as it is saved now."""
        self.now = self.whole()

    def one(self, kind: str, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.now[f"{kind}s"] if one["id"] == name)
        return found

    def factor(self, curve: str | None, depth: int) -> float:
        if curve is None:
            return 1.0
        body = self.one("curve", curve)
        at, values = zip(*body["points"], strict=True)
        within = min(max(depth, at[0]), at[-1])
        if body["shape"] == "ease" and len(at) > 2:
            return float(PchipInterpolator(at, values)(within))
        if body["shape"] == "step":
            return float(values[np.searchsorted(at, within, side="right") - 1])
        return float(np.interp(within, at, values))

    def weights(self, table: str, depth: int) -> dict[str, float]:
        """Of the open lines of a pick: as entered, times the line's curve and its one tier's."""
        found = {}
        for line in self.one("table", table)["lines"]:
            low, high = line["depths"] or (1, 30)
            if low <= depth <= high and not line["needs"]:
                tiers = {self.tier_of(one) for one in line["yields"]} - {None}
                tier = tiers.pop() if len(tiers) == 1 else None
                by_tier = self.factor(self.one("tier", tier)["curve"], depth) if tier else 1.0
                found[line["id"]] = line["weight"] * self.factor(line["curve"], depth) * by_tier
        return found

    def tier_of(self, given: dict[str, Any]) -> str | None:
        if given["item"]:
            return str(self.one("item", given["item"])["tier"])
        tiers = (given["pool"] or {"tiers": []})["tiers"]
        return tiers[0] if len(tiers) == 1 else None

    def chance(self, table: str, line: str, depth: int) -> float:
        weights = self.weights(table, depth)
        return weights.get(line, 0.0) / (sum(weights.values()) + self.one("table", table)["nothing"])

    def shows(self, depth: int) -> None:
        """Every chance in the sheet of the eel's catch is that of a depth, to the digits shown."""
        for line in self.one("table", "eel-catch")["lines"]:
            wanted = 100 * self.chance("eel-catch", line["id"], depth)
            what = f"{line['id']} at {depth}: {wanted:.4g} %"
            self.until(what, lambda name=line["id"], wanted=wanted: self.says(name, wanted))  # type: ignore[misc]

    def says(self, line: str, wanted: float) -> bool:
        shown = float(self.text(line, "chance").rstrip(" %") or -1)
        return abs(shown - wanted) <= 0.006 * max(wanted, 0.01)

    def drag_weight(self, to: int) -> None:
        """The weight on the plumb line, from where it hangs."""
        scale = self.find(DEPTH)
        step = scale.size["height"] / 30
        here = int(scale.get_attribute("aria-valuenow") or 0)
        from_middle = round((here - 0.5) * step - scale.size["height"] / 2)
        half, whole = round((to - here) * step / 2), round((to - here) * step)
        drag = ActionChains(self.browser).move_to_element_with_offset(scale, 0, from_middle).click_and_hold()
        drag.move_by_offset(0, half).move_by_offset(0, whole - half).release().perform()
        self.until(f"fathom {to}", lambda: self.find(DEPTH).get_attribute("aria-valuenow") == str(to))

    def test_the_weight_is_dragged_along_the_plumb_line(self) -> None:
        self.open("source/lantern-eel")
        for depth in (21, 6, 30):
            self.drag_weight(depth)
            self.shows(depth)

    def test_a_point_of_a_tiers_curve_is_dragged(self) -> None:
        """Every Curio of the eel's catch grows by what the point moves, and all others give way."""
        self.open("source/lantern-eel")
        self.drag_weight(16)
        self.open("curve/swells")
        box = self.find("svg[aria-label^='curve Curios']").rect
        point = self.find("circle[aria-label^='point at 16:']")
        ActionChains(self.browser).click_and_hold(point).move_by_offset(30, 0).move_by_offset(
            40, 0
        ).release().perform()
        self.saved(2)
        before = dict(self.one("curve", "swells")["points"])[16]
        self.read()
        after = dict(self.one("curve", "swells")["points"])[16]
        # The axis ends on 2, the next round number from x1.9; 14 px stay free on either side.
        self.assertAlmostEqual(after - before, 70 / (box["width"] - 28) * 2, delta=0.02)
        self.open("source/lantern-eel")
        self.shows(16)
        self.drag_weight(12)
        self.shows(12)

    def test_a_line_is_scaled_by_a_curve_said_in_words(self) -> None:
        self.open("curve/tapers")
        self.labelled("the curve in words").send_keys("from 0.2 at 1 to 3 at 30", Keys.ENTER)
        self.saved(2)
        table = self.table()
        lines = [{**line, "curve": "tapers"} if line["id"] == "b" else line for line in table["lines"]]
        entry = {"kind": "table", "id": "eel-catch", "body": {**table, "lines": lines}}
        change = {"base": 2, "label": "scaled", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.read()
        self.assertAlmostEqual(self.factor("tapers", 10), 0.2 + 2.8 * 9 / 29, places=3)
        self.open("source/lantern-eel")
        self.drag_weight(10)
        self.shows(10)

    def test_a_bands_border_is_moved_and_other_things_are_met(self) -> None:
        self.open("meets/here")
        self.drag_weight(13)
        main = self.find("main")
        self.until("the wreck", lambda: "Wreck Row" in main.text)
        self.is_met("wreck-row", 13)
        self.find("[aria-label='border above Wreck Row']").send_keys(Keys.ARROW_DOWN)
        self.saved(2)
        self.read()
        self.until("the stair", lambda: "Kelp Stair" in main.text)
        self.is_met("kelp-stair", 13)

    def is_met(self, band: str, depth: int) -> None:
        """Events of each source in a visit: encounters, times the chance of a line, times how many."""
        held = next(one for one in self.now["settings"]["depth"]["bands"] if one["id"] == band)
        often = held["encounters"]
        visits = (often["min"] + often["max"]) / 2 * self.factor(often["curve"], depth)
        for line in self.one("table", held["spawns"])["lines"]:
            (given,) = line["yields"]
            if given["source"] is None or line["id"] not in self.weights(held["spawns"], depth):
                continue
            many = (given["quantity"]["min"] + given["quantity"]["max"]) / 2
            wanted = visits * self.chance(held["spawns"], line["id"], depth) * many
            name = self.one("source", given["source"])["name"]
            self.until(f"{wanted:.4g} of {name}", lambda n=name, w=wanted: self.shown(n, w))

    def shown(self, name: str, wanted: float) -> bool:
        rows = self.rows("[aria-label='what is met']")
        found = [float(row[1].replace("\u202f", "")) for row in rows if row[0].startswith(name)]
        return any(abs(one - wanted) <= 0.006 * wanted for one in found)


if __name__ == "__main__":
    unittest.main()
