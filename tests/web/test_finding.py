"""Finding by name among thousands: the page's own module, asked without a browser."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from tests.web.page import PageTest

FINDING = "app/finding.ts"


class Finding(PageTest):
    MODULES: ClassVar = (FINDING,)

    def names(self, names: list[str], text: str, most: int = 9) -> dict[str, Any]:
        found = self.page.call(FINDING, "matching", [{"name": name} for name in names], text, most)
        return {**found, "found": [one["name"] for one in found["found"]]}

    def test_the_best_stands_first(self) -> None:
        names = ["Old eel", "A reel of rope", "Eel catch", "Elder mirror lamp", "Crab"]
        found = self.names(names, "eel")
        self.assertEqual(found["found"], ["Eel catch", "Old eel", "A reel of rope"])
        self.assertEqual((found["more"], found["best"]), (0, 0))

    def test_words_in_any_order_and_letters_with_gaps(self) -> None:
        self.assertEqual(self.names(["Lantern Eel", "Lantern"], "eel lan")["found"], ["Lantern Eel"])
        self.assertEqual(self.names(["Guild parcel", "Guild"], "gdpcl")["found"], ["Guild parcel"])
        self.assertEqual(self.names(["Guild parcel"], "gx")["found"], [])

    def test_what_has_several_names_is_found_by_each(self) -> None:
        doings = [
            {"name": "Run a trial", "also": ["new trial", "simulate"]},
            {"name": "Trial 4"},
            {"name": "New set", "also": ["new bonus"]},
        ]

        def found(text: str) -> list[str]:
            return [one["name"] for one in self.page.call(FINDING, "matching", doings, text, 9)["found"]]

        self.assertEqual(found("simul"), ["Run a trial"])
        self.assertEqual(found("bonus"), ["New set"])
        self.assertEqual(found("trial"), ["Trial 4", "Run a trial"])
        self.assertEqual(found("new trial"), ["Run a trial"])
        self.assertEqual(found("mulat"), [])

    def test_accents_and_case_do_not_matter(self) -> None:
        self.assertEqual(self.names(["Écume"], "ecU")["found"], ["Écume"])

    def test_no_more_than_asked_and_how_many_more(self) -> None:
        names = [f"Shell {at}" for at in range(40)]
        self.assertEqual(self.names(names, "shell", 12)["more"], 28)
        self.assertEqual(self.names(names, "  ", 12)["found"], names[:12])


if __name__ == "__main__":
    unittest.main()
