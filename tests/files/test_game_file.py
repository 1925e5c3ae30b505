"""The game file: read strictly, written so that the same comes back."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from golddice.core.errors import GameError
from golddice.files.game_file import LARGEST, game_text, read_game_bytes, read_game_file
from tests.games import DEMO, demo


class GameFile(unittest.TestCase):
    def refused(self, content: bytes) -> str:
        with self.assertRaises(GameError) as caught:
            read_game_bytes(content)
        return str(caught.exception)

    def test_the_demo_game_is_written_as_it_is_read(self) -> None:
        self.assertEqual(game_text(demo()), DEMO.read_text(encoding="utf-8"))
        self.assertEqual(read_game_bytes(game_text(demo()).encode()), demo())

    def test_a_byte_order_mark_does_not_matter(self) -> None:
        self.assertEqual(read_game_bytes(b"\xef\xbb\xbf" + DEMO.read_bytes()), demo())

    def test_what_is_not_json_is_told_by_line_and_column(self) -> None:
        self.assertIn("line 2, column 3", self.refused(b'{"format":\n  nonsense}'))

    def test_what_is_not_utf8_is_told(self) -> None:
        self.assertIn("UTF-8", self.refused(b"\xff\xfe\x00"))

    def test_a_key_that_stands_twice_is_told(self) -> None:
        self.assertIn("stands twice", self.refused(b'{"name": "A", "name": "B"}'))

    def test_a_file_too_large_is_refused_before_it_is_read(self) -> None:
        self.assertIn("20 MB", self.refused(b" " * (LARGEST + 1)))

    def test_bottomless_nesting_is_refused(self) -> None:
        self.assertIn("nested", self.refused(b"[" * 200_000))

    def test_another_version_is_told_first(self) -> None:
        data = json.loads(DEMO.read_text(encoding="utf-8"))
        self.assertEqual(
            self.refused(json.dumps({**data, "version": 2}).encode()), "version: must be 1, got 2"
        )

    def test_a_missing_file_is_told(self) -> None:
        with self.assertRaisesRegex(GameError, "No such file"):
            read_game_file(Path("no-such.golddice.json"))


if __name__ == "__main__":
    unittest.main()
