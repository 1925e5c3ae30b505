"""Takes the pictures in docs/screenshots from the demo game: `make screenshots`."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import httpx
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.driver import start_browser
from tests.demo_files import SESSION
from tests.games import DEMO, ROOT
from tests.support import running_server

FOLDER = ROOT / "docs" / "screenshots"
GUIDE = ROOT / "docs" / "guide"


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with running_server() as (address, _), httpx.Client(base_url=address, timeout=60) as client:
        browser = start_browser()
        try:
            _take_all(browser, client, address)
        finally:
            browser.quit()


def _take_all(browser: Chrome, client: httpx.Client, address: str) -> None:
    game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
    trial = _trial(client, game)

    def open_sheet(path: str) -> None:
        browser.get(f"{address}/g/{game}/{path}")
        time.sleep(1.5)

    open_sheet("source/lantern-eel")
    _edit(browser)
    _save(browser, "source")
    for name, path in (
        ("items", "items/catalogue"),
        ("trial", f"trial/{trial}"),
        ("route", "route/long-descent"),
        ("set", "set/drowned-choir"),
        ("place", "place/drowned-market"),
        ("stall", "stall/lamp-stall"),
        ("item", "item/beacon-lens"),
        ("meets", "meets/here"),
        ("targets", "targets/all"),
        ("target", "target/eel-pays"),
    ):
        open_sheet(path)
        if name == "route":
            _wait_for(browser, "[aria-label='what is kept']", "cells in use")
            time.sleep(1)
        if name in ("place", "stall"):
            time.sleep(1.5)
        _save(browser, name)
    open_sheet("overview/all")
    _wait_for(browser, "[aria-label=collection]", "exact")
    time.sleep(1)
    _save(browser, "overview")
    open_sheet("log/all")
    chosen = browser.find_element(By.CSS_SELECTOR, "input[aria-label='log']")
    chosen.send_keys(str(SESSION))
    _wait_for(browser, "main", "2 faults")
    time.sleep(1)
    _save(browser, "log")
    open_sheet("kit/all")
    Select(browser.find_element(By.CSS_SELECTOR, "[aria-label='of whom']")).select_by_visible_text(
        "Silt crab"
    )
    _wait_for(browser, "main", "exact")
    time.sleep(1.5)
    _save(browser, "kit")
    open_sheet(f"trial/{_beside(client, game)}")
    _wait_for(browser, "main", "changed by more than noise")
    _save(browser, "beside-trial")
    open_sheet("source/hush-angler")
    _tune_a_boss(browser)
    open_sheet("source/lantern-eel")  # a curve shows its effect on what was looked at last
    open_sheet("curve/trench-pull")
    time.sleep(1.5)
    _save(browser, "curve")
    open_sheet("source/guild-parcel")
    _press(browser, "all fathoms")
    for column in (2, 6, 9):
        selector = "[aria-label='figures by depth'] thead button"
        browser.find_elements(By.CSS_SELECTOR, selector)[column].click()
    time.sleep(0.5)
    _save(browser, "depths")
    _history(client, game)
    open_sheet("history/all")
    for one in browser.find_elements(By.CSS_SELECTOR, "main input[type=checkbox]")[::3][:2]:
        one.click()
    _wait_for(browser, "[aria-label='two revisions']", "figures that moved")
    time.sleep(3)
    _save(browser, "history")


def _history(client: httpx.Client, game: str) -> None:
    """What somebody else did, and a mark."""
    for name, value in (("lamp-oil", 9), ("lamp-oil", 12), ("beacon-lens", 75)):
        now = client.get(f"/api/games/{game}").json()
        item = next(one for one in now["items"] if one["id"] == name)
        entry = {"kind": "item", "id": name, "body": {**item, "value": value}}
        asked = {"base": now["revision"], "label": f"value, {item['name']}", "entries": [entry]}
        client.post(f"/api/games/{game}/changes", json={**asked, "who": "Ada", "page": "ada-page-001"})
    client.put(f"/api/games/{game}/marks/1", json={"name": "before the rebalance"})


def _trial(client: httpx.Client, game: str) -> str:
    return _ran(client, game, name="The first hour", route="first-dive", players=10_000, seed=1_207)


def _tune_a_boss(browser: Chrome) -> None:
    """The pictures in the guide, and of them the one of the strip."""
    strip = "[aria-label='find numbers']"
    _press(browser, "find numbers")
    _wait_for(browser, strip, "They contradict each other")
    time.sleep(1)
    _save(browser, "contradiction", GUIDE)
    rare = "//*[@aria-label='contradiction']//p[contains(., 'rare')]//button"
    browser.find_element(By.XPATH, rare).click()
    _wait_for(browser, strip, "Or the fewest numbers")
    time.sleep(1.5)
    _save(browser, "tuning")
    _save(browser, "proposal", GUIDE)


def _beside(client: httpx.Client, game: str) -> str:
    """A trial with a tenth more lenses, beside one without."""
    view = {"kind": "source", "id": "lantern-eel"}
    asked = {"view": view, "depth": 15, "players": 10_000, "events": 500, "seed": 20_417}
    season = _ran(client, game, name="Eels, a season", **asked)
    tables = client.get(f"/api/games/{game}").json()["tables"]
    catch = next(table for table in tables if table["id"] == "eel-catch")
    catch["lines"][6]["weight"] *= 1.1
    draft = [{"kind": "table", "id": "eel-catch", "body": catch}]
    return _ran(client, game, name="Eels, a tenth more lenses", draft=draft, beside=season, **asked)


def _ran(client: httpx.Client, game: str, **asked: Any) -> str:
    trial = str(client.post(f"/api/games/{game}/trials", json=asked).json()["id"])
    while client.get(f"/api/games/{game}/trials/{trial}").json()["status"] != "done":
        time.sleep(0.2)
    return trial


def _edit(browser: Chrome) -> None:
    """An edited weight, so that before and after show; then a few rolls."""
    selector = '[aria-label="lines of Eel catch"] [data-row="g"] [data-column="entry"]'
    _wait_for(browser, "[aria-label=spread]", "Half above")
    browser.find_element(By.CSS_SELECTOR, selector).click()
    ActionChains(browser).send_keys("3.2", Keys.ENTER).perform()
    _wait_for(browser, "[aria-label=spread]", "Before the edit")
    browser.find_element(By.CSS_SELECTOR, selector).click()
    for button in ("Roll 100", "Roll once"):
        browser.find_element(By.XPATH, f"//button[contains(., '{button}')]").click()
        time.sleep(0.6)


def _wait_for(browser: Chrome, selector: str, words: str) -> None:
    while not any(words in one.text for one in browser.find_elements(By.CSS_SELECTOR, selector)):
        time.sleep(0.1)


def _press(browser: Chrome, words: str) -> None:
    browser.find_element(By.XPATH, f"//button[contains(., '{words}')]").click()
    time.sleep(1.2)


def _save(browser: Chrome, name: str, folder: Path = FOLDER) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    browser.save_screenshot(str(folder / f"{name}.png"))


if __name__ == "__main__":
    main()
