"""Several pages on one game at once: nothing that was acknowledged is lost, and what was refused was said."""

from __future__ import annotations

import random
import threading
import time
import unittest
from typing import Any, ClassVar

import httpx

from golddice.server.progress import Progress
from tests.games import DEMO
from tests.support import running_server

SECONDS = 4.0
OWN = ("lamp-oil", "cork-float", "iron-shackle", "weather-tube", "blown-float")
SHARED = "beacon-lens"


class Page(threading.Thread):
    """Edits its own item and one that all edit, on what it last saw; seen anew after each refusal."""

    def __init__(self, address: str, game: str, number: int) -> None:
        super().__init__()
        self.client, self.url = httpx.Client(base_url=address, timeout=90), f"/api/games/{game}"
        self.own, self.luck, self.name = OWN[number], random.Random(number), f"page-number-{number}"
        self.kept: dict[str, float] = {}
        self.refused = self.made = 0
        self.problems: list[str] = []

    def run(self) -> None:
        seen, end = self.look(), time.monotonic() + SECONDS
        while time.monotonic() < end:
            name = self.luck.choice((self.own, self.own, SHARED))
            value = float(self.luck.randint(1, 10**6))
            body = {**seen["items"][name], "value": value}
            asked = {
                "base": seen["revision"],
                "label": f"value of {name}",
                "page": self.name,
                "token": f"{self.name}-{self.made + self.refused}",
                "entries": [{"kind": "item", "id": name, "body": body}],
            }
            answer = self.client.post(f"{self.url}/changes", json=asked)
            if answer.status_code == 200:
                self.made += 1
                self.kept[name] = value
                # Its own edit is what it knows of; another's it hears of when it is refused.
                seen["revision"], seen["items"][name] = answer.json()["revision"], body
                if self.luck.random() < 0.2:
                    seen = self.look()
            elif answer.status_code == 409:
                self.refused += 1
                seen = self.look()
            else:
                self.problems.append(answer.text)

    def look(self) -> dict[str, Any]:
        whole = self.client.get(self.url).json()
        return {"revision": whole["revision"], "items": {item["id"]: item for item in whole["items"]}}


class Together(unittest.TestCase):
    address: ClassVar[str]

    @classmethod
    def setUpClass(cls) -> None:
        cls.address, _ = cls.enterClassContext(running_server(module=cls.__module__))

    def test_two_and_five_pages_edit_at_once(self) -> None:
        for count in (2, 5):
            with httpx.Client(base_url=self.address, timeout=90) as client, self.subTest(pages=count):
                game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
                pages = [Page(self.address, game, number) for number in range(count)]
                before = pages[0].look()["items"][SHARED]["value"]
                for page in pages:
                    page.start()
                for page in pages:
                    page.join()
                self.assertEqual([page.problems for page in pages], [[]] * count)
                end = [page.look() for page in pages]
                for other in end[1:]:
                    self.assertEqual(other, end[0])
                # Every acknowledged edit is a revision; what only one page edits is as it was last kept.
                made = sum(page.made for page in pages)
                self.assertEqual(end[0]["revision"], 1 + made)
                for page in pages:
                    self.assertGreater(page.made, 0)
                    if page.own in page.kept:
                        self.assertEqual(end[0]["items"][page.own]["value"], page.kept[page.own])
                # What all edit is as one of them kept it last; where nobody came to it, as it was.
                last = {page.kept[SHARED] for page in pages if SHARED in page.kept} or {before}
                self.assertIn(end[0]["items"][SHARED]["value"], last)
                labels = client.get(f"/api/games/{game}/history", params={"limit": 500}).json()
                self.assertEqual(len(labels), min(500, 1 + made))


class Told(unittest.TestCase):
    def test_progress_is_told_now_and_then_and_only_to_who_asked(self) -> None:
        heard: list[Any] = []

        class Ear:
            def tell(self, game: str, message: dict[str, Any]) -> None:
                heard.append((game, message))

        said = Progress(Ear(), "g", "log", "mine")  # type: ignore[arg-type]
        for rows in range(1_000):
            said({"rows": float(rows)})
        self.assertEqual(heard[0], ("g", {"type": "log", "token": "mine", "rows": 0.0}))
        self.assertLess(len(heard), 10)
        silent = Progress(Ear(), "g", "log", None)  # type: ignore[arg-type]
        before = len(heard)
        silent({"rows": 5.0})
        self.assertEqual(len(heard), before)
