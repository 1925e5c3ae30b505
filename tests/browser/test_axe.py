"""Every sheet as a tool for accessibility sees it: no violation at either width."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from tests.browser.driver import BrowserTest, sized
from tests.browser.test_reach import SHEETS

_AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
_ASK = "axe.run({resultTypes: ['violations']}).then((found) => arguments[0](found.violations))"


class Axe(BrowserTest):
    def violations(self) -> list[str]:
        self.browser.execute_script(_AXE.read_text(encoding="utf-8"))
        self.browser.set_script_timeout(60)
        found: list[dict[str, Any]] = self.browser.execute_async_script(_ASK)
        return [
            f"{one['id']}: {one['help']} ({len(one['nodes'])}), first {one['nodes'][0]['html'][:160]}"
            for one in found
        ]

    def test_no_sheet_has_a_violation(self) -> None:
        self.addCleanup(sized, self.browser)
        for width in (1280, 1024):
            sized(self.browser, width)
            for sheet in SHEETS:
                with self.subTest(sheet=sheet, width=width):
                    self.open(sheet)
                    self.assertEqual(self.violations(), [])

    def test_nor_has_a_proposal(self) -> None:
        self.addCleanup(sized, self.browser)
        self.open("target/eel-pays")
        self.button("Find numbers").click()
        strip = "[aria-label='find numbers']"
        self.until("a proposal", lambda: "Met, with" in self.find(strip).text, 30)
        for width in (1280, 1024):
            sized(self.browser, width)
            with self.subTest(width=width):
                self.assertEqual(self.violations(), [])


if __name__ == "__main__":
    unittest.main()
