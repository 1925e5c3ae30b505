"""Routes laid out and changed by mouse and keyboard; players sent along them, replayed, set beside others."""

from __future__ import annotations

import time
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest

EEL = {
    "view": {"kind": "source", "id": "lantern-eel"},
    "depth": 15,
    "players": 2_000,
    "events": 50,
    "seed": 7,
}


class RunsTest(BrowserTest):
    def route(self, name: str = "first-dive") -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()["routes"] if one["id"] == name)
        return found

    def ran(self, **asked: Any) -> str:
        url = f"/api/games/{self.game}/trials"
        trial = str(self.client.post(url, json=asked).json()["id"])
        while self.client.get(f"{url}/{trial}").json()["status"] not in ("done", "failed"):
            time.sleep(0.05)
        return trial


class Routes(RunsTest):
    def setUp(self) -> None:
        super().setUp()
        self.open("route/first-dive")
        self.until("what is expected", lambda: self.sentence())

    def sentence(self) -> str:
        return self.find("[aria-label=sentence]").text

    def test_a_sentence_is_changed_where_it_stands(self) -> None:
        before = self.sentence()
        self.labelled("leg 2, how often").click()
        self.press("40", Keys.ENTER)
        self.saved(2)
        self.assertEqual(self.route()["legs"][1]["times"]["max"], 40)
        self.until("other numbers", lambda: self.sentence() != before)
        self.labelled("leg 1, to fathom").click()
        self.press("31", Keys.ENTER)
        self.assertIn("1 to 30", self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.choose("leg 2, what is done", "Kelp stalker")
        self.saved(3)
        self.assertEqual(self.route()["legs"][1]["source"], "kelp-stalker")
        self.assertEqual(self.route()["legs"][1]["times"]["max"], 40)

    def test_legs_are_moved_copied_and_taken_out_by_keys(self) -> None:
        order = lambda: "".join(leg["id"] for leg in self.route()["legs"])  # noqa: E731
        self.browser.execute_script("arguments[0].focus()", self.find("li[aria-label='leg 2']"))
        self.chord(Keys.ALT, Keys.ARROW_UP)
        self.saved(2)
        self.assertEqual(order(), "bacde")
        self.browser.execute_script("arguments[0].focus()", self.find("li[aria-label='leg 5']"))
        self.press(Keys.DELETE)
        self.saved(3)
        self.assertEqual(order(), "bacd")
        self.browser.execute_script("arguments[0].focus()", self.find("li[aria-label='leg 1']"))
        self.chord(Keys.CONTROL, "d")
        self.saved(4)
        self.assertEqual([leg["source"] for leg in self.route()["legs"][:2]], ["lantern-eel"] * 2)
        self.button("+ add a leg").click()
        self.saved(5)
        self.assertEqual(len(self.route()["legs"]), 6)

    def test_a_leg_is_carried_to_another_place(self) -> None:
        order = lambda: "".join(leg["id"] for leg in self.route()["legs"])  # noqa: E731
        carry = lambda: (  # noqa: E731
            ActionChains(self.browser, duration=60)
            .click_and_hold(self.find("li[aria-label='leg 1'] [title^='carry']"))
            .move_to_element(self.find("li[aria-label='leg 3'] [title^='carry']"))
            .move_by_offset(0, 24)
        )
        carry().perform()
        self.press(Keys.ESCAPE)
        ActionChains(self.browser).release().perform()
        self.assertEqual(order(), "abcde")
        carry().release().perform()
        self.saved(2)
        self.assertEqual(order(), "bcade")

    def test_a_bead_is_dragged_and_keyed(self) -> None:
        bead = self.find("[role=slider][aria-label='leg 2 begins at fathom']")
        self.browser.execute_script("arguments[0].focus()", bead)
        self.press(Keys.ARROW_DOWN)
        self.saved(2)
        self.assertEqual([self.route()["legs"][1][end] for end in ("from", "to")], [5, 5])
        bead = self.find("[role=slider][aria-label='leg 1 ends at fathom']")
        step = self.find("[role=slider][aria-orientation=vertical]").size["height"]
        self.assertGreater(step, 0)
        ActionChains(self.browser).drag_and_drop_by_offset(bead, 0, 42).perform()
        self.saved(3)
        self.assertEqual(self.route()["legs"][0]["to"], 5)

    def test_flags_are_gained(self) -> None:
        self.find("[aria-label='leg 2']").find_element(By.XPATH, ".//button[contains(., 'gains')]").click()
        group = self.find("[role=group][aria-label='leg 2 gains']")
        group.find_element(By.XPATH, ".//button[contains(., 'The lamp is lit')]").click()
        self.saved(2)
        self.assertEqual(self.route()["legs"][1]["gains"], ["has-tongs", "lamp-lit"])

    def test_what_is_had_after_a_stop(self) -> None:
        end = self.sentence()
        Select(self.labelled("after which stop")).select_by_index(0)
        self.until("after the first", lambda: self.sentence() != end)
        asked = {"route": "first-dive"}
        odds = self.client.post(f"/api/games/{self.game}/route", json=asked).json()["stops"][0]
        self.assertIn(f"{odds['value']['mean']:.4g}", self.sentence())

    def test_one_is_made_from_the_shelf_and_named_first(self) -> None:
        self.find("[aria-label='new in Routes']").click()
        self.until("its name is open", lambda: self.labelled("name of the route").tag_name == "input")
        self.press("Short dip", Keys.ENTER)
        self.until("named", lambda: any(one["name"] == "Short dip" for one in self.whole()["routes"]))

    def test_what_is_not_told_exactly_is_said(self) -> None:
        self.open("route/long-descent")
        self.until("why", lambda: "not told exactly" in self.find("[aria-label=reading]").text)


class Trials(RunsTest):
    def test_players_are_sent_along_a_route(self) -> None:
        self.open("route/first-dive")
        self.button("send players along it").click()
        players = self.labelled("how many divers")
        players.send_keys(Keys.CONTROL, "a")
        players.send_keys("1000")
        self.until("an estimate", lambda: "MB kept" in self.find("form").text)
        self.button("Run the trial").click()
        self.until("its report", lambda: self.all("[aria-label='by stop']"))
        rows = self.rows("[aria-label^='stops,']")
        self.assertEqual(len(rows), 10)
        self.assertIn("Half of divers end with", self.find("[aria-label='in words']").text)

    def test_the_unluckiest_is_replayed_step_by_step(self) -> None:
        trial = self.ran(route="first-dive", players=500, seed=7)
        self.open(f"trial/{trial}")
        self.until(
            "three", lambda: len(self.all("main + aside button, aside[aria-label=reading] button")) >= 3
        )
        self.all("aside[aria-label=reading] button")[2].click()
        panel = self.find("[aria-label=replay]")
        self.until("events", lambda: panel.find_elements(By.CSS_SELECTOR, "[aria-pressed=true]"))
        first = panel.find_element(By.CSS_SELECTOR, "[aria-pressed=true]").text
        self.button("one on").click()
        self.until(
            "the next", lambda: panel.find_element(By.CSS_SELECTOR, "[aria-pressed=true]").text != first
        )
        result = self.client.get(f"/api/games/{self.game}/trials/{trial}").json()["result"]
        self.assertIn(str(result["players"]["unluckiest"]["player"]), panel.text)

    def test_what_came_of_a_trial_is_held(self) -> None:
        """Of an eel what is after so many kills, of a route what is at its end."""
        trial = self.ran(**EEL, name="Eels")
        self.open(f"trial/{trial}")
        held = lambda words: self.until(  # noqa: E731
            "a figure", lambda: self.browser.find_element(By.XPATH, f"//main{words}")
        ).click()
        held("//section[@aria-label='in words']//button[contains(@class, 'held')]")
        self.saved(2)
        less = self.whole()["targets"][-1]
        self.assertEqual(
            (less["source"], less["figure"], less["spread"]), ("lantern-eel", "spread", "p95/p5")
        )
        self.assertEqual((less["events"], less["depths"]), (EEL["events"], [EEL["depth"]] * 2))
        held("//tr[contains(., 'Eelskin')]//button[contains(@class, 'held')]")
        self.saved(3)
        none = self.whole()["targets"][-1]
        self.assertEqual((none["figure"], none["item"], none["events"]), ("none", "eelskin", EEL["events"]))
        self.open(f"trial/{self.ran(route='first-dive', players=200, seed=7)}")
        held("//tr[contains(., 'Eelskin')]//button[contains(@class, 'held')]")
        self.saved(4)
        mean = self.whole()["targets"][-1]
        self.assertEqual((mean["route"], mean["figure"], mean["item"]), ("first-dive", "mean", "eelskin"))

    def test_run_again_on_today_s_game_and_set_beside(self) -> None:
        trial = self.ran(**EEL, name="Before")
        table = self.table()
        table["lines"][6]["weight"] *= 1.5
        entry = {"kind": "table", "id": "eel-catch", "body": table}
        change = {"base": self.whole()["revision"], "label": "more", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change)
        self.open(f"trial/{trial}")
        self.until("it says so", lambda: "the game is at 2" in self.find("main header").text)
        self.button("run again on today").click()
        beside = self.until("beside", lambda: self.find("[aria-label='beside another trial'] p + p"))
        self.assertIn("changed by more than noise", beside.text)
        row = next(row for row in self.rows("[aria-label^='differences,']") if row[0] == "Beacon lens")
        self.assertEqual(row[-1], "signal")
        self.assertGreater(float(row[2]), float(row[1]))

    def test_put_away_and_brought_back(self) -> None:
        trial = self.ran(**EEL, name="Gone soon")
        self.open(f"trial/{trial}")
        self.button("delete").click()
        self.button("Bring it back").click()
        self.until("back", lambda: "Gone soon" in self.find("main h1").text)

    def test_what_was_simulated_may_be_gone(self) -> None:
        trial = self.ran(route="first-dive", players=200, seed=7)
        gone = [("target", "dive-pays"), ("route", "first-dive")]
        entries = [{"kind": kind, "id": name, "body": None} for kind, name in gone]
        change = {"base": self.whole()["revision"], "label": "gone", "entries": entries}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.open(f"trial/{trial}")
        self.until("told", lambda: "first-dive, which is gone" in self.find("main header").text)
        self.assertTrue(self.rows("[aria-label^='items per player']"))
