"""(h) The page with much in it, in a real browser: a catalogue of 5 000 items, a shelf of 500 tables and 200
sources, a sheet of 300 columns along 100 depths.

Each is told beside what the same page takes with the demo game, the sheet beside one of 30 columns.
"""

from __future__ import annotations

import json
import statistics
import time
from typing import Any

import httpx
from selenium.webdriver import Chrome

from bench.big import big_game
from golddice.core.game.reading import plain_game
from golddice.server.settings import DEMO
from tests.browser.driver import start_browser
from tests.support import running_server

# Calls back with the milliseconds from now (or from the navigation) until something is there and drawn. Made
# of its words here: the page itself forbids to make scripts of texts.
_UNTIL = """
const done = arguments[0]
const from = %(from)s;
%(do)s;
const look = () => {
  if (!(%(ready)s)) return requestAnimationFrame(look)
  requestAnimationFrame(() => setTimeout(() => done(performance.now() - from)))
}
requestAnimationFrame(look)
"""
_KEY = """
document.activeElement.dispatchEvent(
  new KeyboardEvent('keydown', {key: '%s', bubbles: true, cancelable: true}));
"""
# Puts a text into a field, as a hand would, and keeps what is counted as it was.
_TYPED = """
const field = document.querySelector("%s")
Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, '%s')
window.__count = %s
field.dispatchEvent(new Event('input', {bubbles: true}))
"""
SCROLLS = 4
FRAME = 1000 / 60  # milliseconds
_FRAMES = """
const done = arguments[arguments.length - 1]
const box = [...document.querySelectorAll('main *')].find((one) => one.scrollWidth > one.clientWidth + 400)
if (box) box.scrollLeft = 0
const times = []
let last = performance.now(), left = 90
const step = (now) => {
  times.push(now - last); last = now
  if (box) box.scrollLeft += 40
  if (left-- > 0) requestAnimationFrame(step); else done(times.slice(2))
}
requestAnimationFrame(step)
"""


def main() -> None:
    with running_server() as (address, _), httpx.Client(base_url=address, timeout=300) as client:
        browser = start_browser()
        try:
            browser.set_script_timeout(120)
            big = json.dumps(plain_game(big_game(catalogue=2.5)))
            for name, content, source in (("demo", DEMO.read_bytes(), "guild-parcel"), ("big", big, "s7")):
                game = client.post("/api/games/import", content=content).json()["id"]
                _measured(name, browser, f"{address}/g/{game}", source)
            for columns in (30, 300):
                game = client.post("/api/games/import", content=json.dumps(_wide(columns))).json()["id"]
                browser.get(f"{address}/g/{game}/source/wide")
                _until_there(browser, "main button")
                time.sleep(1)
                _scrolled(f"{columns}", browser)
        finally:
            browser.quit()


def _wide(items: int) -> dict[str, Any]:
    """A source of so many items, along 100 depths."""
    names = [f"i{at}" for at in range(items)]
    curve = {"id": "c", "name": "C", "points": [[1, 1.0], [60, 3.0], [100, 0.5]]}
    lines = [
        {"id": name, "weight": at % 17 + 1, "yields": [{"item": name}]} | ({"curve": "c"} if at % 3 else {})
        for at, name in enumerate(names)
    ]
    return {
        **{"format": "golddice-game", "version": 1, "name": "Wide", "depth": {"from": 1, "to": 100}},
        "curves": [curve],
        "tiers": [{"id": f"t{at}", "name": f"T{at}"} for at in range(5)],
        "items": [{"id": one, "name": one, "tier": f"t{at % 5}"} for at, one in enumerate(names)],
        "tables": [{"id": "t", "name": "T", "rule": "pick", "lines": lines}],
        "sources": [
            {"id": "wide", "name": "Wide", "kind": "enemy", "drops": [{"id": "a", "table": "t"}]},
        ],
    }


def _until_there(browser: Chrome, selector: str) -> None:
    while not browser.find_elements("css selector", selector):
        time.sleep(0.1)


def _measured(name: str, browser: Chrome, url: str, source: str) -> None:
    def until(ready: str, since: str = "") -> float:
        start = "0" if since == "navigation" else "performance.now()"
        script = _UNTIL % {"from": start, "do": "" if since == "navigation" else since, "ready": ready}
        return float(browser.execute_async_script(script))

    def told(what: str, taken: float) -> None:
        print(f"{name:6}{what:44}{taken:8.0f} ms", flush=True)

    browser.get(f"{url}/items/catalogue")
    told("catalogue: open", until("document.querySelector('[aria-label=items] [data-row]')", "navigation"))
    time.sleep(1)
    browser.find_elements("css selector", "[aria-label=items] [role=gridcell]")[2].click()
    moved = "document.activeElement !== window.__was"
    arrows = []
    for _ in range(10):
        browser.execute_script("window.__was = document.activeElement")
        arrows.append(until(moved, _KEY % "ArrowDown"))
    told("catalogue: an arrow key", statistics.median(arrows))
    told("catalogue: a typed digit", until("document.querySelector('[role=gridcell] input')", _KEY % "7"))
    count = "document.querySelectorAll('[aria-label=items] [data-row]').length"
    find = _TYPED % ("[aria-label='find items']", "row", count)
    told("catalogue: a letter of what is looked for", until(f"{count} !== window.__count", find))
    browser.get(f"{url}/source/{source}")
    until("document.querySelector('[aria-label=shelf]')")
    time.sleep(2)
    box = """dispatchEvent(new KeyboardEvent('keydown', {key: 'k', ctrlKey: true, bubbles: true}))"""
    told("find or do: open", until("document.querySelector('[cmdk-item]')", box))
    first = "document.querySelector('[cmdk-item]')?.textContent"
    letters = []
    for text in ("s", "su", "s 1", "s 12", "7"):
        # A letter is drawn before anything else is done: then it is there.
        letters.append(until("true", _TYPED % ("[cmdk-input]", text, first)))
    told("find or do: a letter", statistics.median(letters))
    browser.find_element("css selector", "[cmdk-input]").send_keys("\ue00c")  # Escape
    fold = "[...document.querySelectorAll('nav button')].find((one) => one.innerText.startsWith('Tables'))"
    shown = "document.querySelectorAll('nav [aria-current], nav .group').length > 20"
    told("shelf: unfold the tables", until(shown, f"{fold}.click()"))
    groups = "document.querySelectorAll('nav .group').length"
    typed = _TYPED % ("[aria-label='Filter the shelf']", "7", groups)
    told("shelf: filter", until(f"{groups} !== window.__count", typed))
    _scrolled(name, browser)


def _scrolled(name: str, browser: Chrome) -> None:
    every = "[...document.querySelectorAll('main button')]"
    along = f"{every}.find((one) => /^all (fathoms|depths)$/.test(one.innerText.trim()))"
    browser.execute_script(f"{along}.click()")
    _until_there(browser, "[aria-label='figures by depth'] thead th")
    _until_there(browser, "main:not([aria-busy=true])")
    time.sleep(1)
    frames: list[float] = []
    for _ in range(SCROLLS):
        frames += browser.execute_async_script(_FRAMES)
    frames.sort()
    slowest, late = frames[int(0.95 * len(frames))], sum(one > 1.5 * FRAME for one in frames)
    columns = len(browser.find_elements("css selector", "[aria-label='figures by depth'] thead th"))
    print(f"{name:6}along all depths, {columns} columns drawn, scrolled {SCROLLS} times:", end=" ")
    print(f"a frame takes {statistics.median(frames):.1f} ms, one in twenty over {slowest:.1f}", end=" ")
    print(f"ms, {late} of {len(frames)} late")


if __name__ == "__main__":
    main()
