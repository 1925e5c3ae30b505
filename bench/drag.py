"""(e) A curve's point is dragged in a real browser while a source with a guard is in sight: how often
the numbers on screen follow. 15 times a second are wanted.

The rival is the frame rate of the page itself, which a drag without any numbers would reach.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from selenium.webdriver import Chrome

from golddice.server.settings import DEMO
from tests.browser.driver import start_browser
from tests.support import served

SECONDS = 4
# A source, a curve that matters to it, and the depth of the point that is dragged.
DRAGGED = (
    ("silt-crab", "wanes", 14),
    ("lantern-eel", "trench-pull", 14),
    ("pane-mimic", "swells", 16),
    ("guild-parcel", "swells", 16),
)

# Moves a point to and fro once a frame; counts frames and how often the reading is written anew.
_DRAG = """
const [seconds, depth, done] = arguments;
const point = () => document.querySelector(`circle[aria-label^="point at ${depth}:"]`);
const box = point().getBoundingClientRect();
const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
const send = (type, by) => point().dispatchEvent(new PointerEvent(type, {
  bubbles: true, cancelable: true, pointerId: 1, pointerType: 'mouse', isPrimary: true, button: 0,
  buttons: type === 'pointerup' ? 0 : 1, clientX: x + by, clientY: y }));
const read = () => ['sentence', 'where the swing comes from']
  .map((label) => document.querySelector(`section[aria-label="${label}"]`)?.textContent).join();
let changes = 0, frames = 0, last = read();
send('pointerdown', 0);
const start = performance.now();
const step = () => {
  frames += 1;
  const now = performance.now() - start;
  send('pointermove', 40 + 30 * Math.sin(now / 400));
  const text = read();
  if (text !== last) { changes += 1; last = text; }
  if (now < 1000 * seconds) requestAnimationFrame(step);
  else { send('pointerup', 40); done([changes / seconds, frames / seconds]); }
};
requestAnimationFrame(step);
"""


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        with served(Path(folder)) as (_, client):
            game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
            browser = start_browser()
            try:
                for source, curve, depth in DRAGGED:
                    page = f"{client.base_url}/g/{game}"
                    rates = [_rate(browser, page, source, curve, depth) for _ in range(3)]
                    updates, frames = (statistics.median(column) for column in zip(*rates, strict=True))
                    print(f"{source:14} {updates:5.1f} updates a second, {frames:5.1f} frames")
            finally:
                browser.quit()


def _rate(browser: Chrome, page: str, source: str, curve: str, depth: int) -> tuple[float, float]:
    """(updates, frames) a second. The curve's sheet shows what was looked at before."""
    for path in (f"source/{source}", f"curve/{curve}"):
        browser.get(f"{page}/{path}")
        time.sleep(1.5)
    browser.set_script_timeout(10 * SECONDS)
    updates, frames = browser.execute_async_script(_DRAG, SECONDS, depth)
    return updates, frames


if __name__ == "__main__":
    main()
