"""Targets in the browser: made, typed, marked on the plumb line, and moved by edits elsewhere."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import BrowserTest


class TargetTest(BrowserTest):
    def target(self, name: str) -> dict[str, Any]:
        targets = self.client.get(f"/api/games/{self.game}").json()["targets"]
        found: dict[str, Any] = next(one for one in targets if one["id"] == name)
        return found

    def stands(self) -> str:
        return self.find("[data-testid=standing]").text.replace("\u202f", " ")

    def missed(self) -> list[int]:
        """The depths at which the plumb line has a notch."""
        return [int(one.get_attribute("data-missed") or 0) for one in self.all("[data-missed]")]

    def retype(self, label: str, text: str) -> None:
        self.labelled(label).click()
        self.press(text, Keys.ENTER)


class Standing(TargetTest):
    def test_where_it_is_missed_is_on_the_plumb_line_and_in_words(self) -> None:
        self.open("target/angler-wonder")
        self.until(
            "its standing", lambda: "holds at 7 of 9 fathoms, furthest off at 22: 193" in self.stands()
        )
        self.until("notches", lambda: self.missed() == [22, 23])

    def test_the_numbers_by_depth_are_those_of_the_server(self) -> None:
        answer = self.client.post(f"/api/games/{self.game}/targets", json={"ids": ["angler-wonder"]}).json()
        wanted = {
            str(depth): f"{figure:.0f}"
            for depth, figure in zip(
                answer["targets"][0]["depths"], answer["targets"][0]["figures"], strict=True
            )
        }
        self.open("target/angler-wonder")
        self.stands()
        rows = [row.text.split() for row in self.all("[aria-label='figure by depth'] tr")]
        shown = {row[0]: row[1] for row in rows if len(row) > 1 and row[1] != "·"}
        self.assertTrue(shown)
        self.assertEqual(shown, {depth: wanted[depth] for depth in shown})

    def test_all_side_by_side(self) -> None:
        self.open("targets/all")
        self.until("10 of 16", lambda: "10 of 16" in self.find("[data-testid='targets met']").text)
        heads = self.all("[aria-label='targets by depth'] th button")
        self.assertEqual(len(heads), 16)
        self.until("a notch for every depth missed by any", lambda: {2, 3, 15, 16, 22} <= set(self.missed()))
        next(one for one in heads if "Eels pay" in one.text).click()
        self.until("its sheet", lambda: "/target/eel-pays" in self.browser.current_url)

    def test_the_shelf_tells_by_shape(self) -> None:
        self.open("source/lantern-eel")
        heads = self.all("nav button[aria-expanded]")
        next(one for one in heads if one.text.startswith("Targets")).click()
        marks = "//nav//button[contains(., 'Eels pay')]//*[@aria-label='missed']"
        self.until("a cross", lambda: self.browser.find_elements(By.XPATH, marks))
        marks = "//nav//button[contains(., 'A token a crab')]//*[@aria-label='met']"
        self.until("a tick", lambda: self.browser.find_elements(By.XPATH, marks))

    def test_those_that_are_touched_stand_in_the_reading(self) -> None:
        self.open("source/lantern-eel")
        self.find("[data-testid='target eel-pays']")
        touched = [one.get_attribute("data-testid") for one in self.all("[data-testid^='target ']")]
        mine = ("eel-heirlooms", "eel-wonders", "eel-pays", "dive-pays")
        self.assertEqual(touched, [f"target {one}" for one in mine])
        # a table within is touched too, and so is what only reaches it
        self.open("table/trench-heirlooms")
        self.find("[data-testid='target angler-wonder']")
        self.find("[data-testid='target eel-pays']")
        self.assertFalse(self.all("[data-testid='target crab-brass']"))


class Edits(TargetTest):
    def test_an_edit_elsewhere_moves_it_and_the_notches(self) -> None:
        """At 15 fathoms an eel is worth 17.5; a lens worth six times as much mends what was missed."""
        self.open("source/lantern-eel")
        self.until("notches", lambda: self.missed() == [15, 16])
        body = self.find("[data-testid='target eel-pays']")
        self.until("its figure", lambda: body.text == "17.5")
        self.type_into("f", "entry", "20")
        self.saved(2)
        self.until("no notch", lambda: self.missed() == [])
        self.until("a new figure", lambda: float(self.find("[data-testid='target eel-pays']").text) > 20)
        self.chord(Keys.CONTROL, "z")
        self.until("notches again", lambda: self.missed() == [15, 16])

    def test_a_draft_moves_it_before_it_is_saved(self) -> None:
        self.open("source/lantern-eel")
        self.until("its figure", lambda: self.find("[data-testid='target eel-pays']").text == "17.5")
        self.cell("f", "entry").click()
        self.press("2", "0", "0")
        self.until("a draft's figure", lambda: float(self.find("[data-testid='target eel-pays']").text) > 20)
        self.press(Keys.ESCAPE)
        self.until("as it was", lambda: self.find("[data-testid='target eel-pays']").text == "17.5")
        self.assertEqual(self.client.get(f"/api/games/{self.game}").json()["revision"], 1)

    def test_what_is_wanted_is_typed_in_many_ways(self) -> None:
        cases = {
            "25": ("at-least", 25, 0),
            "≤ 30": ("at-most", 30, 0),
            ">= 18": ("at-least", 18, 0),
            "20 ± 4": ("at-least", 20, 4),
            "20 +- 10 %": ("at-least", 20, 2),
            "16-24": ("at-least", 20, 4),
        }
        self.open("source/lantern-eel")
        self.find("[data-testid='target eel-pays']")
        for at, (text, wanted) in enumerate(cases.items()):
            self.retype("wanted, Eels pay in the dark", text)
            self.saved(at + 2)
            found = self.target("eel-pays")
            self.assertEqual((found["side"], found["wanted"], found["tolerance"]), wanted, text)

    def test_percent_is_typed_as_it_is_told(self) -> None:
        self.open("target/mostly-flotsam")
        self.retype("wanted, The crab", "97.5 ± 0.5")
        self.saved(2)
        found = self.target("mostly-flotsam")
        self.assertAlmostEqual(found["wanted"], 0.975)
        self.assertAlmostEqual(found["tolerance"], 0.005)
        self.until("told again", lambda: "97.5 ± 0.5 %" in self.labelled("wanted, The crab").text)

    def test_what_cannot_be_read_says_how_it_is_written(self) -> None:
        self.open("target/eel-pays")
        self.retype("wanted, Eels pay", "lots")
        self.until("the complaint", lambda: "40 ± 4" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.retype("wanted, Eels pay", "24-16")
        self.until("the complaint", lambda: "swap them" in self.find("[role=alert]").text)
        self.assertEqual(self.target("eel-pays")["wanted"], 20)

    def test_the_words_of_the_sentence_are_choices(self) -> None:
        self.open("target/eel-pays")
        self.stands()
        self.choose("figure", "kills for one of")
        self.saved(2)
        found = self.target("eel-pays")
        self.assertEqual((found["figure"], found["tier"], found["wanted"]), ("one-in", "wonder", 0))
        self.choose("item or tier", "Beacon lens")
        self.saved(3)
        self.retype("wanted, Eels pay", "50 ± 20")
        self.saved(4)
        self.choose("which side", "about")
        self.saved(5)
        self.retype("fathoms that it asks about", "15-16")
        self.saved(6)
        found = self.target("eel-pays")
        self.assertEqual((found["item"], found["tier"], found["depths"]), ("beacon-lens", None, [15, 16]))
        odds = self.client.post(
            f"/api/games/{self.game}/odds",
            json={"view": {"kind": "source", "id": "lantern-eel"}, "depth": 15},
        ).json()["sheet"]["items"]["beacon-lens"]["one_in"]
        held = "all 2" if 30 <= odds <= 70 else "of 2"
        self.until("its standing", lambda: held in self.stands())
        self.choose("source or table", "Eel catch")
        self.saved(7)
        self.assertEqual(self.target("eel-pays")["table"], "eel-catch")

    def test_every_figure_that_can_be_chosen_can_be_saved(self) -> None:
        """The page's list of figures, and what each is of, are the model's."""
        self.open("target/eel-pays")
        self.stands()
        figures = [
            one.get_attribute("value") for one in Select(self.find("select[aria-label='figure']")).options
        ]
        self.assertEqual(len(figures), 21)
        for at, figure in enumerate(one for one in figures if one != "value"):
            self.choose_value("figure", str(figure))
            self.saved(at + 2)
            self.assertEqual(self.target("eel-pays")["figure"], figure)

    def test_after_so_many_of_a_tag_in_order_and_of_a_route(self) -> None:
        self.open("target/eel-pays")
        self.stands()
        self.choose_value("figure", "none")
        self.saved(2)
        self.retype("after how many events", "30")
        self.saved(3)
        self.choose("item or tier", "anything of “glass”")
        self.saved(4)
        found = self.target("eel-pays")
        self.assertEqual((found["events"], found["tag"], found["tier"]), (30, "glass", None))
        self.choose("which side", "never rising")
        self.saved(5)
        self.assertEqual(self.all("[aria-label='wanted, Eels pay in the dark']"), [])
        self.until("out of order from some depth on", lambda: "holds at 6 of 16" in self.stands())
        self.choose("source or table", "First dive")
        self.saved(6)
        found = self.target("eel-pays")
        self.assertEqual((found["route"], found["figure"], found["side"]), ("first-dive", "mean", "near"))
        self.until("at its end", lambda: "its end" in self.stands())

    def test_a_broken_promise_says_how(self) -> None:
        body = self.target("crate-promise") | {"tier": "curio"}
        entry = {"kind": "target", "id": "crate-promise", "body": body}
        change = {"base": 1, "label": "curios at least", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()
        self.open("target/crate-promise")
        self.until("how", lambda: self.all("[aria-label='what breaks it']"))
        self.assertIn("Bell crate fittings", self.find("[aria-label='what breaks it']").text)
        self.button("Find numbers").click()
        told = "which no number above 0 changes"
        self.until("left out", lambda: told in self.find("[aria-label='find numbers']").text)

    def test_what_it_was_about_may_be_gone(self) -> None:
        removal = {"base": 1, "kind": "source", "id": "hush-angler"}
        self.client.post(f"/api/games/{self.game}/removals", json=removal).raise_for_status()
        self.open("target/angler-wonder")
        self.until("told", lambda: "that it was about is gone" in self.stands())
        self.choose("source or table", "Lantern Eel")
        self.saved(3)
        found = self.target("angler-wonder")
        self.assertEqual((found["source"], found["tier"], found["gone"]), ("lantern-eel", "wonder", None))
        self.until("told again", lambda: "holds at" in self.stands())

    def test_flags_and_the_long_run(self) -> None:
        self.open("target/eel-pays")
        self.stands()
        self.find("[aria-label='flags of its players'] button").click()
        self.saved(2)
        self.choose("fresh or long run", "the long run")
        self.saved(3)
        found = self.target("eel-pays")
        self.assertEqual((found["flags"], found["long_run"]), (["has-tongs"], True))

    def test_notes_are_kept_when_they_are_left(self) -> None:
        self.open("target/angler-wonder")
        place = self.find("textarea").rect
        self.stands()
        self.assertEqual(self.find("textarea").rect, place, "it moves when the figures come")
        self.find("textarea").click()
        self.press("Ask again after the playtest.")
        self.labelled("name of the target").click()
        self.saved(2)
        self.assertEqual(self.target("angler-wonder")["notes"], "Ask again after the playtest.")


class Making(TargetTest):
    def test_as_it_stands_from_the_reading(self) -> None:
        self.open("source/lantern-eel")
        self.button("make it a target").click()
        self.saved(2)
        made = self.client.get(f"/api/games/{self.game}").json()["targets"][-1]
        self.assertEqual((made["figure"], made["source"]), ("one-in", "lantern-eel"))
        self.assertEqual(made["depths"], [15, 15])
        row = self.find(f"[data-testid='target {made['id']}']")
        self.until("its figure", lambda: row.text != "·")
        stands = float(row.text.replace("\u202f", ""))
        self.assertLessEqual(abs(stands - made["wanted"]), made["tolerance"])

    def made(self) -> dict[str, Any]:
        found: dict[str, Any] = self.whole()["targets"][-1]
        return found

    def hold(self, selector: str, revision: int) -> dict[str, Any]:
        """Press a figure; the target that it becomes, which must hold as it stands."""
        self.until("a figure", lambda: self.all(f"{selector} .held"))
        # A word of the one before may lie over it.
        self.browser.execute_script("arguments[0].click()", self.all(f"{selector} .held")[0])
        self.saved(revision)
        made = self.made()
        answer = self.client.post(f"/api/games/{self.game}/targets", json={"ids": [made["id"]]}).json()
        self.assertTrue(answer["targets"][0]["is_met"], made)
        return made

    def test_any_figure_can_be_held(self) -> None:
        self.open("source/lantern-eel")
        self.assertEqual(self.hold("[aria-label=sentence]", 2)["figure"], "one-in")
        spread = self.hold("[aria-label=spread]", 3)
        self.assertEqual((spread["figure"], spread["spread"]), ("spread", "p95/p5"))
        swing = self.hold("[aria-label='where the swing comes from']", 4)
        self.assertEqual((swing["figure"], swing["depths"]), ("swing-of", [15, 15]))
        self.open("route/first-dive")
        route = self.hold("[aria-label=sentence]", 5)
        self.assertEqual((route["figure"], route["route"]), ("value", "first-dive"))
        tier = self.hold("[aria-label='tiers so far'] tbody", 6)
        self.assertEqual((tier["figure"], tier["route"]), ("mean", "first-dive"))

    def test_a_figure_along_the_depths_is_held_where_it_stands(self) -> None:
        self.open("source/lantern-eel")
        self.button("all fathoms").click()
        made = self.hold("[aria-label='figures by depth'] tbody tr:nth-child(12)", 2)
        self.assertEqual((made["figure"], made["item"] is not None), ("mean", True))
        self.assertEqual(made["depths"][0], made["depths"][1])

    def test_where_the_source_is_not_met_it_is_about_where_it_is(self) -> None:
        self.open("source/silt-crab")
        self.button("make it a target").click()
        self.saved(2)
        made = self.client.get(f"/api/games/{self.game}").json()["targets"][-1]
        self.assertIsNone(made["depths"])

    def test_from_the_shelf_renamed_copied_and_deleted(self) -> None:
        self.open("source/silt-crab")
        self.labelled("new in Targets").click()
        self.saved(2)
        self.until("its sheet", lambda: "/target/worth-of-silt-crab" in self.browser.current_url)
        self.find("input[aria-label='name of the target']")
        self.press("Crab worth", Keys.ENTER)
        self.saved(3)
        self.assertEqual(self.target("worth-of-silt-crab")["name"], "Crab worth")
        heads = self.all("nav button[aria-expanded]")
        next(one for one in heads if one.text.startswith("Targets")).click()
        for entry, revision in (("Duplicate", 4), ("Delete", 5)):
            menu = self.find("[aria-label='what to do with Crab worth']")
            self.browser.execute_script("arguments[0].parentElement.style.display = 'block'", menu)
            menu.click()
            self.choice(entry).click()
            self.saved(revision)
        ids = [one["id"] for one in self.client.get(f"/api/games/{self.game}").json()["targets"]]
        self.assertIn("crab-worth-copy", ids)
        self.assertNotIn("worth-of-silt-crab", ids)

    def test_a_game_without_any_says_what_they_are_for(self) -> None:
        game = self.client.post("/api/games", json={"name": "Empty"}).json()["id"]
        self.browser.get(f"{self.address}/g/{game}/targets/all")
        self.until("the empty state", lambda: "What should a rate be?" in self.find("main").text)

    def test_it_is_found_by_name(self) -> None:
        self.open("source/silt-crab")
        self.chord(Keys.CONTROL, "k")
        self.find("[cmdk-input]")
        self.press("vent", Keys.NULL)
        self.button_in_list("Nobody waits long").click()
        self.until("its sheet", lambda: "/target/vent-sure" in self.browser.current_url)

    def button_in_list(self, text: str) -> Any:
        path = f"//*[@cmdk-item][contains(., '{text}')]"
        return self.until(text, lambda: self.browser.find_element(By.XPATH, path))


class Odd(TargetTest):
    def setUp(self) -> None:
        super().setUp()
        # It asks about depths at which the angler is not met.
        body = self.target("angler-wonder") | {"depths": [1, 5]}
        entry = {"kind": "target", "id": "angler-wonder", "body": body}
        change = {"base": 1, "label": "elsewhere", "entries": [entry]}
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()

    def test_the_list_of_findings_leads_to_it(self) -> None:
        self.open("source/silt-crab")
        self.labelled("game").click()
        self.choice("Findings").click()
        path = "//*[@role='dialog']//button[contains(., 'A Wonder from the angler')]"
        self.until("its line", lambda: self.browser.find_element(By.XPATH, path)).click()
        self.until("its sheet", lambda: "/target/angler-wonder" in self.browser.current_url)

    def test_it_says_so_and_is_mended_by_one_click(self) -> None:
        self.open("target/angler-wonder")
        self.until("the note", lambda: "asks about no fathom" in self.find("[aria-label=findings]").text)
        self.until("its standing", lambda: "met nowhere" in self.stands())
        self.button("ask wherever it is met").click()
        self.saved(3)
        self.assertIsNone(self.target("angler-wonder")["depths"])
        self.until("its standing", lambda: "holds at 7 of 9" in self.stands())


class Dragging(TargetTest):
    def test_a_curve_point_that_is_dragged_moves_the_notches(self) -> None:
        """Trench pull is what brings eels their heirlooms; pulled down, more depths are missed."""
        self.open("source/lantern-eel")
        self.until("notches", lambda: self.missed() == [15, 16])
        self.open("curve/trench-pull")
        self.until("notches", lambda: self.missed() == [15, 16])
        last = self.find("circle[aria-label^='point at 14:']")
        drag = ActionChains(self.browser).click_and_hold(last)
        drag.move_by_offset(-20, 0).move_by_offset(-20, 0).perform()
        self.until("more notches while it is held", lambda: len(self.missed()) > 2)
        ActionChains(self.browser).release().perform()
        self.saved(2)
        self.assertGreater(len(self.missed()), 2)


class KindFacts(BrowserTest):
    def retype(self, label: str, text: str) -> None:
        self.labelled(label).click()
        self.press(text, Keys.ENTER)

    def test_charges_bound_the_hour(self) -> None:
        self.open("source/cullet-bed")
        self.until("39.1 an hour", lambda: "39.1 an hour" in self.find("header + *, main header").text)
        self.retype("charges", "any")
        self.saved(2)
        self.until("300 an hour", lambda: "300 an hour" in self.find("main header").text)
        self.assertIsNone(self.source("cullet-bed")["charges"])
        self.retype("charges", "two")
        self.until("the complaint", lambda: "whole number" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.retype("respawn seconds", "60")
        self.saved(3)
        self.assertEqual(self.source("cullet-bed")["respawn_seconds"], 60)

    def test_a_parcels_price(self) -> None:
        self.open("source/guild-parcel")
        self.retype("price", "175")
        self.saved(2)
        self.assertEqual(self.source("guild-parcel")["price"], {"item": "brass-token", "amount": 175})
        self.retype("price", "2 Eelskin")
        self.until("the complaint", lambda: "is no money" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.retype("price", "3 Whales")
        self.until("the complaint", lambda: "no item" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.retype("price", "nothing")
        self.saved(3)
        self.assertIsNone(self.source("guild-parcel")["price"])

    def test_a_containers_cells(self) -> None:
        self.open("source/kiln-chest")
        self.retype("cells", "5 x 2")
        self.saved(2)
        self.assertEqual(self.source("kiln-chest")["cells"], [5, 2])
        self.retype("cells", "many")
        self.until("the complaint", lambda: "4 × 3" in self.find("[role=alert]").text)
        self.press(Keys.ESCAPE)
        self.retype("cells", "anything")
        self.saved(3)
        self.assertIsNone(self.source("kiln-chest")["cells"])


if __name__ == "__main__":
    unittest.main()
