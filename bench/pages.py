"""(p) Several real pages on one game, edits from all at once for a minute: do all end alike?

Each page types weights into lines of one table. A page that another overtook asks; it keeps its own.
"""

from __future__ import annotations

import random
import threading
import time
from collections import Counter

import httpx
from selenium.common.exceptions import WebDriverException
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.by import By

from golddice.server.settings import DEMO
from tests.browser.driver import start_browser
from tests.support import running_server

SECONDS = 60.0
LINES = "abcdefgh"
_CELL = "[aria-label='lines of Eel catch'] [data-row='%s'] [data-column=entry]"


def main() -> None:
    for pages in (2, 5):
        with running_server() as (address, _), httpx.Client(base_url=address, timeout=60) as client:
            _told(pages, address, client)


def _told(pages: int, address: str, client: httpx.Client) -> None:
    game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
    browsers = [start_browser() for _ in range(pages)]
    counts: Counter[str] = Counter()
    try:
        for browser in browsers:
            browser.get(f"{address}/g/{game}/source/lantern-eel")
        time.sleep(4)
        hands = [
            threading.Thread(target=_typing, args=(browser, seed, counts))
            for seed, browser in enumerate(browsers)
        ]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
        _settled(browsers, counts)
        server = client.get(f"/api/games/{game}").json()
        table = next(one for one in server["tables"] if one["id"] == "eel-catch")
        wanted = {line["id"]: f"{line['weight']:g}" for line in table["lines"]}
        ends = [{line: _shown(browser, line) for line in LINES} for browser in browsers]
        alike = sum(end == {line: wanted[line] for line in LINES} for end in ends)
        print(
            f"{pages} pages, {SECONDS:.0f} s: {counts['typed']} weights typed, "
            f"revision {server['revision']}, "
            f"{counts['asked']} times asked, {alike} of {pages} pages end as the server has it"
        )
    finally:
        for browser in browsers:
            browser.quit()


def _typing(browser: Chrome, seed: int, counts: Counter[str]) -> None:
    luck, end = random.Random(seed), time.monotonic() + SECONDS
    while time.monotonic() < end:
        try:
            _answered(browser, counts)
            browser.find_element(By.CSS_SELECTOR, _CELL % luck.choice(LINES)).click()
            ActionChains(browser).send_keys(str(luck.randint(1, 99)), Keys.ENTER).perform()
            counts["typed"] += 1
        except WebDriverException:
            counts["missed"] += 1  # a question came up between
        time.sleep(luck.uniform(0.1, 0.6))


def _answered(browser: Chrome, counts: Counter[str]) -> None:
    for button in browser.find_elements(By.CSS_SELECTOR, "[role=alertdialog] button"):
        if button.text == "Keep mine":
            button.click()
            counts["asked"] += 1


def _settled(browsers: list[Chrome], counts: Counter[str]) -> None:
    """Until no page asks or saves any more."""
    end = time.monotonic() + 30
    while time.monotonic() < end:
        for browser in browsers:
            _answered(browser, counts)
        heads = [
            browser.find_element(By.CSS_SELECTOR, "header [role=status]").text.split("\n")[0]
            for browser in browsers
        ]
        if len(set(heads)) == 1 and heads[0].startswith("All saved"):
            return
        time.sleep(0.5)


def _shown(browser: Chrome, line: str) -> str:
    label = browser.find_element(By.CSS_SELECTOR, _CELL % line).get_attribute("aria-label") or ""
    return label.split(": ", 1)[1].replace("\u202f", "")


if __name__ == "__main__":
    main()
