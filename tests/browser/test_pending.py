"""What stands on a sheet while its answers are not there: never an empty answer, nor another thing's."""

from __future__ import annotations

import time
import unittest

from tests.browser.editing import EditingTest

# Questions are answered so late, or not at all; edits and the game itself as ever.
_HELD = """
const fetched = window.fetch
window.held = %d
window.fetch = async (...asked) => {
  const path = String(asked[0]?.url ?? asked[0])
  const isQuestion = !/(changes|presence|stream|events)$/.test(path) && asked[1]?.method === 'POST'
  if (!isQuestion) return fetched(...asked)
  if (window.held < 0) throw new TypeError('out of reach')
  await new Promise((done, left) => {
    setTimeout(done, window.held)
    asked[1].signal?.addEventListener('abort', () => left(asked[1].signal.reason))
  })
  return fetched(...asked)
}
"""
SHEETS = {
    "source/silt-crab": "what it gives",
    "depth/silt-crab": None,
    "kit/all": "what is worn",
    "set/drowned-choir": "when it is complete",
    "route/long-descent": "what it brings",
    "place/drowned-market": "what lies here",
    "stall/lamp-stall": "what is on sale",
    "meets/here": "what is met",
    "item/beacon-lens": "where it comes from",
    "targets/all": "where they stand",
    "target/%(target)s": "where it stands",
}
EMPTY = (
    "Nothing for it comes here",
    "Nothing falls here",
    "never falls here",
    "once it is done",
    "will be read here",
    "no answer",
)


class Pending(EditingTest):
    def hold(self, milliseconds: int) -> None:
        """From the next page on, and on the one that is open."""
        added = self.browser.execute_cdp_cmd(
            "Page.addScriptToEvaluateOnNewDocument", {"source": _HELD % milliseconds}
        )
        self.addCleanup(self.browser.execute_cdp_cmd, "Page.removeScriptToEvaluateOnNewDocument", added)

    def held(self, milliseconds: int) -> None:
        self.browser.execute_script(f"window.held = {milliseconds}")

    def read(self) -> str:
        return " ".join(one.text for one in self.all("main, aside"))

    def test_no_sheet_draws_an_empty_answer(self) -> None:
        self.hold(60_000)
        target = self.whole()["targets"][0]["id"]
        for path, what in ((path % {"target": target}, what) for path, what in SHEETS.items()):
            with self.subTest(sheet=path):
                self.browser.get(f"{self.address}/g/{self.game}/{path}")
                self.until("its sheet", lambda: self.all("main") and not self.all("main [data-coming]"))
                if what is not None:
                    self.until(what, lambda what=what: f"Working out {what}" in self.read(), 10)
                    self.until("a way to stop", lambda: "seconds stop" in self.read().replace("\n", " "), 6)
                for empty in EMPTY:
                    self.assertNotIn(empty, self.read())

    def test_a_question_is_stopped_and_asked_again(self) -> None:
        self.hold(60_000)
        self.open("route/long-descent")
        self.until("stop", lambda: self.button("stop")).click()
        self.until("stopped", lambda: "Stopped." in self.read())
        self.held(0)
        self.button("Work out what it brings").click()
        self.until("its answer", lambda: "What is expected here" in self.read())

    def test_numbers_of_another_sheet_are_not_called_exact(self) -> None:
        self.hold(0)
        self.open("source/lantern-eel")
        self.until("a sentence", lambda: self.all('[data-testid="sentence"]'))
        self.held(-1)
        self.browser.execute_script("document.querySelector('[data-id=\"source/silt-crab\"]')?.click()")
        self.browser.execute_script(
            "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))",
            f"/g/{self.game}/source/silt-crab",
        )
        self.until("the other sheet", lambda: self.find("main h1").text == "Silt crab")
        self.until("out of reach", lambda: "cannot be reached" in self.find("[aria-label=sentence]").text)
        self.assertFalse(self.all('[data-testid="sentence"]'))
        time.sleep(3)  # it is asked for again and again
        self.held(0)
        self.until("the answer", lambda: "exact" in self.find("[aria-label=sentence]").text, 10)


if __name__ == "__main__":
    unittest.main()
