"""What must hold of every screen at every width: names for all that can be used, contrast, nothing cut off,
the keyboard gets there."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.browser.driver import BrowserTest, sized

SHEETS = (
    "source/lantern-eel",
    "source/cullet-bed",
    "source/kiln-chest",
    "table/guild-pledge",
    "table/pocket-brass",
    "items/catalogue",
    "item/beacon-lens",
    "tier/wonder",
    "curve/trench-pull",
    "meets/here",
    "targets/all",
    "trial/new",
    "route/first-dive",
    "guide/trials",
    "flags/all",
    "place/drowned-market",
    "stall/lamp-stall",
    "kit/all",
    "set/drowned-choir",
    "property/breath",
    "exchange/all",
    "log/all",
    "history/all",
    "target/eel-pays",
)

# Everything that can be clicked or typed in, and has no name that a screen reader could say.
_NAMELESS = """
const used = document.querySelectorAll('button, input, select, textarea, [role=slider], [role=gridcell], a');
const name = (one) => (one.getAttribute('aria-label') || one.title || one.textContent || '').trim()
  || [...(one.labels || [])].map((label) => label.textContent.trim()).join(' ')
  || [...one.querySelectorAll('[aria-label], title')].map((mark) =>
      mark.getAttribute('aria-label') || mark.textContent).join(' ');
const seen = (one) => one.getClientRects().length > 0;
return [...used].filter((one) => seen(one) && !name(one)).map((one) => one.outerHTML.slice(0, 160));
"""

# Texts whose colour is too close to what is behind them: less than 4.5:1, as WCAG 2 works it out.
_FAINT = """
const canvas = document.createElement('canvas').getContext('2d', { willReadFrequently: true });
const known = new Map();
const drawn = (colour) => {
  canvas.clearRect(0, 0, 1, 1); canvas.fillStyle = colour; canvas.fillRect(0, 0, 1, 1);
  const [r, g, b, a] = canvas.getImageData(0, 0, 1, 1).data; return [r, g, b, a / 255];
};
const channels = (colour) => {
  if (!known.has(colour)) known.set(colour, drawn(colour));
  return [...known.get(colour)];
};
const over = (top, below) => top.slice(0, 3).map((c, n) => c * top[3] + below[n] * (1 - top[3])).concat(1);
const light = (c) => { const s = c / 255; return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4; };
const lightness = ([r, g, b]) => 0.2126 * light(r) + 0.7152 * light(g) + 0.0722 * light(b);
const behind = (one) => {
  const layers = [];
  for (let at = one; at; at = at.parentElement) layers.push(channels(getComputedStyle(at).backgroundColor));
  return layers.reverse().reduce((below, top) => over(top, below), [255, 255, 255, 1]);
};
const faded = (one) => {
  let all = 1;
  for (let at = one; at; at = at.parentElement) all *= Number(getComputedStyle(at).opacity);
  return all;
};
const found = [];
for (const one of document.querySelectorAll('body *')) {
  const text = [...one.childNodes].filter((n) => n.nodeType === 3).map((n) => n.textContent.trim()).join('');
  if (!text || !one.getClientRects().length) continue;
  if (one.closest('svg, option, :disabled, [aria-hidden=true]')) continue;
  if (!/[\\p{L}\\p{N}]/u.test(text)) continue;
  const below = behind(one), style = getComputedStyle(one);
  const ink = channels(style.color); ink[3] *= faded(one);
  const [a, b] = [lightness(over(ink, below)), lightness(below)];
  const contrast = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
  if (contrast < 4.5) found.push([text.slice(0, 40), Math.round(100 * contrast) / 100, style.color]);
}
return found;
"""

# Numbers and names that do not fit where they stand and are not said to be cut (by an ellipsis, a clamp).
_CUT = """
const found = [];
for (const one of document.querySelectorAll('main *, aside *, nav *, header *')) {
  const text = [...one.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim());
  if (!text || !one.getClientRects().length) continue;
  const style = getComputedStyle(one);
  const clips = style.overflowX !== 'visible' && style.textOverflow !== 'ellipsis' && !style.webkitLineClamp;
  if (clips && one.scrollWidth > one.clientWidth + 1 && !/auto|scroll/.test(style.overflowX))
    found.push(one.textContent.slice(0, 60));
}
for (const one of document.querySelectorAll('[role=gridcell]'))  // of one line, as its row is
  if (one.scrollHeight > one.clientHeight + 2) found.push(one.textContent.slice(0, 60));
return found;
"""

# What can be clicked, but not by a mouse: something else lies over its middle.
_COVERED = """
const found = [];
for (const one of document.querySelectorAll('button, input, select, textarea')) {
  const style = getComputedStyle(one), box = one.getBoundingClientRect();
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  if (!box.width || style.pointerEvents === 'none' || style.visibility === 'hidden' || one.disabled) continue;
  let hidden = x < 0 || y < 0 || x >= innerWidth || y >= innerHeight;  // or scrolled out of its holder
  for (let at = one.parentElement; at; at = at.parentElement) {
    const held = at.getBoundingClientRect();
    if (getComputedStyle(at).overflow !== 'visible' && (y < held.top + 1 || y > held.bottom - 1
        || x < held.left || x > held.right)) hidden = true;
  }
  const top = document.elementFromPoint(x, y);
  if (!top) continue;  // outside, by a fraction of a pixel
  if (!hidden && !one.contains(top) && !(one.labels && [...one.labels].some((label) => label.contains(top))))
    found.push([one.getAttribute('aria-label') || one.textContent.slice(0, 40), top?.outerHTML.slice(0, 80)]);
}
return found;
"""

# Words of a plot that run into each other.
_RUN_TOGETHER = """
const found = [];
for (const plot of document.querySelectorAll('svg')) {
  const texts = [...plot.querySelectorAll('text')].filter((one) => one.textContent.trim());
  const boxes = texts.map((one) => one.getBoundingClientRect());
  boxes.forEach((a, i) => boxes.slice(0, i).forEach((b, j) => {
    const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (wide > 1 && high > 3) found.push([texts[j].textContent, texts[i].textContent]);
  }));
}
return found;
"""

_AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
_ASK = """
const rules = { 'color-contrast': { enabled: arguments[0] } };
axe.run({ resultTypes: ['violations'], preload: false, rules })
  .then((found) => arguments[1](found.violations));
"""
_DRAWN = "requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(arguments[0], 60)))"
_PAST = "return document.documentElement.scrollWidth - window.innerWidth"


class EveryScreen(BrowserTest):
    def test_no_sheet_at_any_width_is_wrong_to_see_or_to_use(self) -> None:
        self.addCleanup(sized, self.browser)
        for path in SHEETS:
            sized(self.browser, 1280, 800)
            self.open(path)
            self.until("it has settled", lambda: len(self.find("main").text) > 20)
            if path.startswith(("source", "target", "curve")):
                self.find("[data-testid]")
            for width, height in ((1280, 800), (1024, 768), (1920, 1080)):
                sized(self.browser, width, height)
                self.browser.execute_async_script(_DRAWN)
                with self.subTest(sheet=path, width=width):
                    self.look()
                    if width < 1900:
                        self.assertEqual(self.violations(colours=width == 1280), [])
                    if width == 1280:  # names and colours are the same at all
                        self.assertEqual(self.browser.execute_script(_NAMELESS), [], "nameless")
                        self.assertEqual(self.browser.execute_script(_FAINT), [], "faint")

    def look(self) -> None:
        self.assertLessEqual(self.browser.execute_script(_PAST), 0, "wider than the window")
        for what, script in (("cut off", _CUT), ("covered", _COVERED), ("run together", _RUN_TOGETHER)):
            self.assertEqual(self.browser.execute_script(script), [], what)

    def violations(self, colours: bool = True) -> list[str]:
        """What a tool for accessibility says of the page."""
        if not self.browser.execute_script("return 'axe' in window"):
            self.browser.execute_script(_AXE.read_text(encoding="utf-8"))
        self.browser.set_script_timeout(60)
        found: list[dict[str, Any]] = self.browser.execute_async_script(_ASK, colours)
        return [
            f"{one['id']}: {one['help']} ({len(one['nodes'])}), first {one['nodes'][0]['html'][:160]}"
            for one in found
        ]

    def test_nor_has_a_proposal_a_violation(self) -> None:
        self.addCleanup(sized, self.browser)
        self.open("target/eel-pays")
        self.button("Find numbers").click()
        strip = "[aria-label='find numbers']"
        self.until("a proposal", lambda: "Met, with" in self.find(strip).text, 60)
        for width in (1280, 1024):
            sized(self.browser, width)
            with self.subTest(width=width):
                self.assertEqual(self.violations(), [])

    def spoilt(self, spoil: str, script: str) -> list[str]:
        self.browser.execute_script(spoil)
        found: list[str] = self.browser.execute_script(script)
        return found

    def test_what_is_wrong_is_found(self) -> None:
        """So that the test of every sheet is one that can fail."""
        self.open("source/kiln-chest")
        self.find("aside svg text")
        for spoil, script in (
            (
                "const one = document.createElement('button'); one.style.padding = '9px';"
                "document.querySelector('main').append(one)",
                _NAMELESS,
            ),
            (
                "document.querySelectorAll('aside svg text').forEach((one) => one.setAttribute('x', 60))",
                _RUN_TOGETHER,
            ),
            ("document.querySelector('main').style.opacity = 0.4", _FAINT),
        ):
            # Again where what is spoilt was drawn anew meanwhile.
            self.until(spoil, lambda spoil=spoil, script=script: self.spoilt(spoil, script))
        self.assertTrue(self.violations())
        self.open("target/eel-pays")
        self.browser.execute_script("document.querySelector('main header').style.zIndex = -1")
        self.assertTrue(self.browser.execute_script(_COVERED))

    def test_the_keyboard_gets_from_the_top_to_the_sheet_and_shows_where_it_is(self) -> None:
        self.open("source/lantern-eel")
        self.find("[data-testid=sentence]")
        reached, outlines = set(), []
        for _ in range(130):  # past every source on the shelf
            self.press(Keys.TAB)
            found = self.browser.execute_script(
                "const one = document.activeElement, style = getComputedStyle(one);"
                "return [one.closest('header') ? 'header' : one.closest('nav') ? 'nav' :"
                " one.closest('main') ? 'main' : one.closest('aside') ? 'aside' : '',"
                " style.outlineStyle !== 'none' || style.boxShadow !== 'none', one.outerHTML.slice(0, 120)]"
            )
            reached.add(found[0])
            if not found[1]:
                outlines.append(found[2])
        self.assertLessEqual({"nav", "main", "aside"}, reached)
        self.assertEqual([tag for tag in outlines if not tag.startswith("<body")], [])

    def test_the_first_stop_of_the_keyboard_leads_to_the_sheet(self) -> None:
        self.open("source/lantern-eel")
        self.find("[data-testid=sentence]")
        self.press(Keys.TAB)
        here = "return document.activeElement.textContent"
        self.assertEqual(self.browser.execute_script(here), "To the sheet")
        self.press(Keys.ENTER, Keys.TAB)
        inside = "return document.activeElement.closest('main') !== null"
        self.assertTrue(self.browser.execute_script(inside))

    def test_the_reading_folds_under_the_sheet_where_it_is_narrow(self) -> None:
        try:
            sized(self.browser, 1024, 768)
            self.open("source/lantern-eel")
            sentence = self.find("[data-testid=sentence]")
            main = self.find("main")
            self.assertGreaterEqual(sentence.rect["y"], main.rect["y"] + main.rect["height"] - 1)
            sized(self.browser, 1280, 800)
            self.until("beside", lambda: self.find("[data-testid=sentence]").rect["x"] > 900)
        finally:
            sized(self.browser, 1280, 800)

    def test_colour_is_never_the_only_sign(self) -> None:
        """Every tier mark has its pips and its tier's name; a target's stand has words."""
        self.open("items/catalogue")
        marks = self.until("marks", lambda: self.all("main span[title] svg"))
        for mark in marks[:40]:
            self.assertTrue(mark.find_elements(By.CSS_SELECTOR, "circle"))
        self.open("targets/all")
        stands = self.until("stands", lambda: self.all("thead svg[role=img]"))
        self.assertEqual(len(stands), 16)
        words = {one.get_attribute("aria-label") for one in stands}
        self.assertLessEqual(words, {"met", "missed", "not told yet"})


if __name__ == "__main__":
    unittest.main()
