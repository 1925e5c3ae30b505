"""The whole game on one sheet, as one comes to it, and where its figures lead."""

from __future__ import annotations

import unittest

from selenium.webdriver import Keys

from tests.browser.editing import EditingTest


class Overview(EditingTest):
    def test_a_game_opens_on_it_and_its_name_leads_there(self) -> None:
        self.browser.get(f"{self.address}/g/{self.game}")
        self.until("every item", lambda: len(self.rows("[aria-label='every item']")) == 60, 20)
        self.assertIn("10 of 16 targets are met", self.find("[aria-label=health]").text)
        self.assertIn("Brass token", self.find("[aria-label=money]").text)
        self.until("collection", lambda: "20 of 60" in self.find("[aria-label=collection]").text, 20)
        self.open("source/silt-crab")
        self.find("header button[title^='overview']").click()
        self.until("back", lambda: self.find("main h1").text == "Saltglass Deep")

    def test_figures_lead_to_where_they_are_made(self) -> None:
        self.open("overview/all")
        self.until("every item", lambda: len(self.rows("[aria-label='every item']")) == 60, 20)
        self.button("Curios worth stalking for").click()
        self.until("the target", lambda: self.find("main h1").text == "Curios worth stalking for")
        self.open("overview/all")
        plot = self.until("the depths", lambda: self.find("[role=slider][aria-label^='an hour at each']"))
        self.browser.execute_script("arguments[0].focus()", plot)
        self.press(Keys.HOME)
        self.assertIn("fathom 1: worth", plot.get_attribute("aria-valuetext") or "")
        self.press(Keys.ENTER)
        self.until("what is met there", lambda: self.find("main h1").text == "What is met at fathom 1")

    def test_a_new_game_says_what_comes_first(self) -> None:
        made = self.client.post("/api/games", json={"name": "Bare"}).json()["id"]
        self.browser.get(f"{self.address}/g/{made}")
        self.until("a way to begin", lambda: "Most begin in this order" in self.find("main").text)


if __name__ == "__main__":
    unittest.main()
