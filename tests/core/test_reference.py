"""Exact answers worked out independently, in exact fractions, for small games."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from typing import Any

from golddice.core.errors import GameError
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds

FOLDER = Path(__file__).parent / "reference"


def read(name: str) -> Any:
    return json.loads((FOLDER / name).read_text(encoding="utf-8"))


class ReferenceOdds(unittest.TestCase):
    def test_every_game_gives_the_expected_numbers(self) -> None:
        asked = 0
        for path in sorted(FOLDER.glob("*.expected.json")):
            name = path.name.removesuffix(".expected.json")
            game = read_game(read(f"{name}.golddice.json"))
            for query in read(path.name)["queries"]:
                with self.subTest(name, **{k: query[k] for k in query if k != "expect"}):
                    self.agree(self.answer(game, query), query["expect"], query.get("ties", []))
                asked += 1
        self.assertEqual(asked, 202)

    def answer(self, game: Any, query: dict[str, Any]) -> dict[str, Any]:
        kind = "source" if "source" in query else "table"
        return odds(
            game,
            View(kind, query[kind]),
            depth=query.get("depth"),
            flags=query.get("flags", []),
            events=query.get("events"),
        )

    def agree(self, got: Any, wanted: Any, ties: list[str], path: str = "") -> None:
        if isinstance(wanted, dict):
            for key, value in wanted.items():
                self.assertIn(key, got, path)
                self.agree(got[key], value, ties, f"{path}.{key}".lstrip("."))
        elif wanted is None or isinstance(wanted, str):
            self.assertEqual(got, wanted, path)
        else:
            self.assertIsNotNone(got, path)
            self.assertLessEqual(abs(got - wanted), self.room(path, wanted, ties), f"{path}: {got}")

    @staticmethod
    def room(path: str, wanted: float, ties: list[str]) -> float:
        """1e-9 of the number; where 0 is expected 1e-12, and more for a standard deviation."""
        if path in ties:
            return 1.0
        if wanted != 0:
            return 1e-9 * abs(wanted)
        return 1e-4 if path.endswith(("sd", "cv")) else 1e-12


class ReferenceGames(unittest.TestCase):
    def test_writing_then_reading_gives_the_same_game(self) -> None:
        for path in sorted(FOLDER.glob("*.golddice.json")):
            with self.subTest(path.name):
                game = read_game(read(path.name))
                self.assertEqual(read_game(plain_game(game)), game)

    def test_unsound_games_are_refused_with_every_place(self) -> None:
        for case in read("invalid/expected.json"):
            with self.subTest(case["game"]):
                with self.assertRaises(GameError) as caught:
                    read_game(read(f"invalid/{case['game']}"))
                text = str(caught.exception)
                for place in case.get("paths", []):
                    self.assertIn(place, text)
                for places in case.get("any_of", []):
                    self.assertTrue(any(place in text for place in places), text)
                for name in case.get("names", []):
                    self.assertIn(name, text)


if __name__ == "__main__":
    unittest.main()
