"""Pictures under the plans of places, over HTTP."""

from __future__ import annotations

import json
import struct
import unittest
import zlib
from typing import ClassVar

import httpx

from tests.games import DEMO
from tests.support import running_server


def png(wide: int = 2, high: int = 2, more: int = 0) -> bytes:
    """A grey picture; `more` bytes of a text that nobody shows."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = b"".join(b"\0" + b"\x80" * wide for _ in range(high))
    head = struct.pack(">IIBBBBB", wide, high, 8, 0, 0, 0, 0)
    text = chunk(b"tEXt", b"a\0" + b"x" * more) if more else b""
    whole = chunk(b"IHDR", head) + text + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + whole


class Pictures(unittest.TestCase):
    client: ClassVar[httpx.Client]

    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(module=cls.__module__))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=90))

    def setUp(self) -> None:
        self.game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
        self.url = f"/api/games/{self.game}/pictures"
        self.one = f"{self.url}/drowned-market"

    def test_laid_replaced_shown_and_taken_away(self) -> None:
        self.assertEqual(self.client.get(self.url).json(), {})
        first = self.client.put(self.one, content=png()).json()
        self.assertEqual(list(first), ["drowned-market"])
        shown = self.client.get(self.one)
        self.assertEqual((shown.content, shown.headers["content-type"]), (png(), "image/png"))
        second = self.client.put(self.one, content=png(3, 1)).json()
        self.assertNotEqual(first, second)
        self.assertEqual(self.client.get(self.one).content, png(3, 1))
        self.assertEqual(self.client.delete(self.one).status_code, 204)
        self.assertEqual(self.client.get(self.url).json(), {})
        self.assertEqual(self.client.get(self.one).status_code, 404)

    def test_other_pages_hear_of_it(self) -> None:
        with self.client.stream("GET", f"/api/games/{self.game}/events") as stream:
            lines = stream.iter_lines()
            next(lines)
            news = (json.loads(line[6:]) for line in lines if line.startswith("data: "))
            self.client.put(self.one, content=png())
            self.assertEqual(next(news), {"type": "pictures"})
            self.assertEqual(self.client.put(self.one, content=b"no picture").status_code, 422)
            self.client.delete(self.one)
            self.assertEqual(next(news), {"type": "pictures"})

    def test_it_is_no_part_of_the_file_nor_an_edit(self) -> None:
        before = self.client.get(f"/api/games/{self.game}/file").content
        self.client.put(self.one, content=png())
        self.assertEqual(self.client.get(f"/api/games/{self.game}/file").content, before)
        self.assertEqual(self.client.get(f"/api/games/{self.game}").json()["revision"], 1)

    def test_a_copy_of_the_game_has_it_too(self) -> None:
        self.client.put(self.one, content=png())
        copy = self.client.post(f"/api/games/{self.game}/duplicate").json()["id"]
        self.client.delete(self.one)
        self.assertEqual(self.client.get(f"/api/games/{copy}/pictures/drowned-market").content, png())

    def test_what_is_refused_leaves_what_was_there(self) -> None:
        self.client.put(self.one, content=png())
        for content, words in (
            (b"", "no PNG"),
            (b"GIF89a" + b"\0" * 100, "no PNG"),
            (png()[:20], "no PNG"),
            (png(more=4 * 2**20), "the limit is 4 MB"),
            (png(9_000, 1), "9000 × 1"),
        ):
            refused = self.client.put(self.one, content=content)
            self.assertEqual(refused.status_code, 422, words)
            self.assertIn(words, refused.json()["detail"])
        self.assertEqual(self.client.get(self.one).content, png())
        self.assertEqual(self.client.put(f"{self.url}/nowhere", content=png()).status_code, 404)
        self.assertEqual(self.client.get("/api/games/nobody/pictures").status_code, 404)
