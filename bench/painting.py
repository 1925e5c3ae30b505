"""(i) A cover painted by hand on a plan of 100 x 60 cells with five covers and 300 spots, in a real browser:
how long a frame takes while the hand moves three cells a frame; beside it the demo's plan of 24 x 14.
"""

from __future__ import annotations

import json
import random
import statistics
import time
from typing import Any

import httpx
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from golddice.server.settings import DEMO
from tests.browser.driver import start_browser
from tests.support import running_server

_STROKE = """
const [columns, rows, done] = arguments
const plan = document.querySelector('[role=application]')
const box = plan.getBoundingClientRect()
const send = (kind, x, y) => plan.dispatchEvent(new PointerEvent(kind, {
  bubbles: true, button: 0, pointerId: 1,
  clientX: box.left + (x + 0.5) * box.width / columns, clientY: box.top + (y + 0.5) * box.height / rows}))
plan.setPointerCapture = () => undefined
const times = []
let at = 0, last = performance.now()
send('pointerdown', 0, 0)
const step = (now) => {
  times.push(now - last); last = now
  for (let n = 0; n < 3; n += 1) {
    at += 1
    send('pointermove', at % columns, (2 * Math.floor(at / columns)) % rows)
  }
  if (times.length < 180) requestAnimationFrame(step)
  else { send('pointerup', 0, 0); done(times.slice(2)) }
}
requestAnimationFrame(step)
"""


def large(data: dict[str, Any]) -> dict[str, Any]:
    """The demo's market on a larger plan."""
    luck, place = random.Random(3), data["places"][0]
    columns, rows = 100, 60
    cells = luck.sample([(x, y) for x in range(columns) for y in range(rows)], 300)
    kinds = [spot.get("kinds", []) for spot in place["spots"]]
    place["size"] = [columns, rows]
    place["spots"] = [
        {"id": f"s{at}", "x": x, "y": y, "kinds": luck.choice(kinds)} for at, (x, y) in enumerate(cells)
    ]
    covers = place["covers"]
    place["covers"] = [
        {
            **covers[at % len(covers)],
            "id": f"c{at}",
            "name": f"Cover {at}",
            "rows": _rows(luck, columns, rows),
        }
        for at in range(5)
    ]
    return data


def _rows(luck: random.Random, columns: int, rows: int) -> list[str]:
    return ["".join(luck.choice("..#") for _ in range(columns)) for _ in range(rows)]


def main() -> None:
    demo = json.loads(DEMO.read_bytes())
    with running_server() as (address, _), httpx.Client(base_url=address, timeout=300) as client:
        browser = start_browser()
        try:
            browser.set_script_timeout(60)
            for name, data in (("24 x 14", demo), ("100 x 60", large(json.loads(DEMO.read_bytes())))):
                game = client.post("/api/games/import", content=json.dumps(data)).json()["id"]
                browser.get(f"{address}/g/{game}/place/{data['places'][0]['id']}")
                time.sleep(4)
                _painted(name, browser, data["places"][0])
        finally:
            browser.quit()


def _painted(name: str, browser: Chrome, place: dict[str, Any]) -> None:
    cover = place["covers"][0]["name"]
    next(one for one in browser.find_elements(By.CSS_SELECTOR, "button") if one.text == cover).click()
    frames = sorted(browser.execute_async_script(_STROKE, *place["size"]))
    slowest = frames[int(0.95 * len(frames))]
    print(
        f"{name:10} a frame takes {statistics.median(frames):.1f} ms, one in twenty over {slowest:.1f} ms, "
        f"{1000 * len(frames) / sum(frames):.0f} a second",
        flush=True,
    )


if __name__ == "__main__":
    main()
