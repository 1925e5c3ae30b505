"""What is kept, on screen: containers, parcels, bag and purse, kit, sets and properties."""

from __future__ import annotations

import math
from typing import Any

from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest


class KeptTest(BrowserTest):
    def entity(self, key: str, name: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()[key] if one["id"] == name)
        return found

    def words(self, selector: str) -> str:
        return self.find(selector).text


class Sources(KeptTest):
    def test_a_container_says_what_fits_and_shows_another_opening(self) -> None:
        self.open("source/kiln-chest")
        fits = "[aria-label='what fits']"
        self.until("a share", lambda: "% of openings" in self.words(fits))
        self.assertIn("Opening 1", self.words(fits))
        before = self.words(fits)
        self.browser.execute_script("arguments[0].focus()", self.find(f"{fits} button[title^=another]"))
        self.press("r")
        self.until("the next opening", lambda: "Opening 2" in self.words(fits))
        self.labelled("cells: 3 × 2. Change").click()
        self.press("6 x 6", Keys.ENTER)
        self.until("all fits", lambda: "Everything fits in all of" in self.words(fits))
        self.assertNotEqual(self.words(fits), before)
        self.assertEqual(self.entity("sources", "kiln-chest")["cells"], [6, 6])

    def test_a_share_that_fits_is_held_as_a_target(self) -> None:
        self.open("source/kiln-chest")
        self.until("a share", lambda: "% of openings" in self.words("[aria-label='what fits']"))
        self.find("[aria-label='what fits'] button.held").click()
        self.saved(2)
        made = self.whole()["targets"][-1]
        self.assertEqual((made["figure"], made["source"]), ("fits", "kiln-chest"))

    def test_what_a_parcel_costs(self) -> None:
        self.open("source/guild-parcel")
        costs = "[aria-label='what it costs']"
        self.until("what comes back", lambda: "of its price comes back" in self.words(costs))
        self.labelled("costs by item").click()
        rows = self.find(costs).find_elements(By.CSS_SELECTOR, "tbody tr")
        self.assertGreater(len(rows), 8)
        asked = {"source": "guild-parcel", "depth": 15, "flags": []}
        told = self.client.post(f"/api/games/{self.game}/price", json=asked).json()
        cheapest = min(told["items"].values(), key=lambda one: one["mean"] or math.inf)
        self.assertIn(f"{cheapest['mean']:.1f}", rows[0].text.replace("\u202f", ""))

    def test_ground_is_a_sentence(self) -> None:
        self.open("source/silt-crab")
        self.button("all is picked up").click()
        self.find("[role=menuitem]").click()
        self.saved(2)
        self.assertEqual(self.entity("sources", "silt-crab")["missed"], 0.1)
        self.labelled("chance to be out of reach: 10 %. Change").click()
        self.press("1 in 4", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.entity("sources", "silt-crab")["missed"], 0.25)


class Routes(KeptTest):
    def test_bag_and_purse_and_what_is_sold(self) -> None:
        self.open("route/long-descent")
        kept = "[aria-label='what is kept']"
        self.until("where the bag is full", lambda: "the bag is full by stop" in self.words(kept))
        self.labelled("cells of the bag: 8 × 5. Change").click()
        self.press("30 x 30", Keys.ENTER)
        self.until("it holds all", lambda: "left behind" not in self.words(kept).split("cells in use")[0])
        self.assertEqual(self.entity("routes", "long-descent")["bag"], [30, 30])
        self.labelled("Brass token in the purse: 60. Change").click()
        self.press("7", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.entity("routes", "long-descent")["purse"], {"brass-token": 7})
        self.labelled("leg 7, share of their worth: 40 %. Change").click()
        self.press("1 in 2", Keys.ENTER)
        self.saved(4)
        leg = self.entity("routes", "long-descent")["legs"][6]
        self.assertEqual(leg["sells"], {"item": "brass-token", "share": 0.5})

    def test_a_trial_tells_of_bag_kit_and_sets_and_a_player_of_what_was_refused(self) -> None:
        url = f"/api/games/{self.game}/trials"
        asked = {"route": "long-descent", "players": 400, "seed": 5}
        trial = self.client.post(url, json=asked).json()["id"]
        self.open(f"trial/{trial}")
        self.until("the report", lambda: bool(self.all("[aria-label='kit and sets']")))
        self.assertIn("The drowned choir", self.words("[aria-label='kit and sets']"))
        self.assertIn("the bag is full by stop", self.words("[aria-label='what is kept']"))
        steps: set[str] = set()
        for first in (100, 200):
            replay = self.client.get(f"{url}/{trial}/players/0?first={first}&count=100").json()
            steps |= {step["kind"] for event in replay["events"] for step in event["steps"]}
        self.assertGreaterEqual(steps, {"left", "paid", "refused"})


class Kit(KeptTest):
    def test_a_score_changes_what_is_worn(self) -> None:
        self.open("kit/all")
        self.choose("of whom", "Silt crab")
        hand = "[aria-label='slot hand']"
        self.until("exact kit", lambda: "exact" in self.words(hand))
        before = self.words(f"{hand} p")
        self.labelled("score of bite: 1. Change").click()
        self.press("3", Keys.ENTER)
        self.until("other scores", lambda: self.words(f"{hand} p") != before)
        self.assertEqual(self.whole()["settings"]["scores"]["bite"], 3.0)


class Sets(KeptTest):
    def test_a_set_is_made_and_read(self) -> None:
        self.open("set/glazier-s-sample")
        self.until("completion", lambda: "have it complete" in self.words("main"))
        self.choose("of whom", "Cullet bed")
        self.until("at the source", lambda: "harvests of" in self.words("main"))
        self.until("exactly", lambda: "exact" in self.words("main"))
        self.button("+ a piece").click()
        self.press("Whale", Keys.ENTER)
        self.assertIn("there is no item", self.words("[role=alert]"))
        self.press(Keys.ESCAPE)
        self.button("+ a piece").click()
        self.press("Soda ash", Keys.ENTER)
        self.saved(2)
        pieces = [piece["item"] for piece in self.entity("sets", "glazier-s-sample")["items"]]
        self.assertEqual(pieces[-1], "soda-ash")
        self.button("+ Breath").click()
        self.saved(3)
        effects = self.entity("sets", "glazier-s-sample")["effects"]
        self.assertEqual(effects, [{"property": "breath", "amount": 10.0}])

    def test_a_property_with_what_adds_to_it(self) -> None:
        self.open("property/breath")
        self.until("how it stands", lambda: "It comes to" in self.words("main"))
        self.labelled("most of Breath: 160. Change").click()
        self.press("90", Keys.ENTER)
        self.until("cut off", lambda: "at its most" in self.words("main"))
        self.button("+ an item").click()
        self.press("Lamp oil", Keys.ENTER)
        self.saved(3)
        oil = self.entity("items", "lamp-oil")
        self.assertEqual(oil["effects"], [{"property": "breath", "amount": 5.0, "units": 1}])
        # 60, with cork 20, shackles -18, tubes 20, float 20, oil 5, and the choir's 40.
        built = self.find("svg[aria-label*='with everything 147, held at 90']")
        self.assertTrue(built.is_displayed())

    def test_an_item_says_what_owning_it_does(self) -> None:
        self.open("item/cork-float")
        self.until("what it does", lambda: "+4" in self.words("[aria-label='what it does']"))
        self.labelled("what Cork float adds: 4. Change").click()
        self.press("7", Keys.ENTER)
        self.saved(2)
        effects = self.entity("items", "cork-float")["effects"]
        self.assertEqual(effects, [{"property": "breath", "amount": 7.0, "units": 5}])
        self.labelled("Cork float adds nothing").click()
        self.saved(3)
        self.button("+ Breath").click()
        self.saved(4)
        effects = self.entity("items", "cork-float")["effects"]
        self.assertEqual(effects, [{"property": "breath", "amount": 5.0, "units": 1}])
