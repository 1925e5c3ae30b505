"""What tests of routes begin with: a server, and a fresh copy of the demo game on it."""

from __future__ import annotations

import unittest
from typing import Any

import httpx

from tests.games import DEMO
from tests.support import running_server


class DemoTest(unittest.TestCase):
    client: httpx.Client
    url: str

    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(pages=False))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=120))

    def setUp(self) -> None:
        game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()
        self.url = f"/api/games/{game['id']}"

    def post(self, path: str, status: int = 200, **body: Any) -> dict[str, Any]:
        answer = self.client.post(f"{self.url}/{path}", json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        found: dict[str, Any] = answer.json()
        return found

    def body(self, kind: str, name: str) -> dict[str, Any]:
        parts = self.client.get(self.url).json()[f"{kind}s"]
        found: dict[str, Any] = next(part for part in parts if part["id"] == name)
        return found
