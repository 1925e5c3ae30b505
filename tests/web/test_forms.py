"""Forms and plans of the page: a draft is read into what it changes, or into what stands in the way."""

from __future__ import annotations

import json
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.errors import GameError
from golddice.core.game.models import Guard
from golddice.core.game.reading import plain_game, read_game
from golddice.core.odds.event.rules import roll_chances
from golddice.core.terms.conditions import Conditions
from tests.games import demo, game, pick
from tests.web.page import PageTest

LIMITS, LINES, PLACES, ORDER = (
    "sheets/table/limits.ts",
    "sheets/table/lines.ts",
    "sheets/place/edits.ts",
    "game/order.ts",
)
BLANK = {"limit": "", "after": "", "rise": "", "sure": "", "depths": "", "needs": [], "unless": []}
SCALE = [1, 30]


class OfForms(PageTest):
    MODULES = (LIMITS, LINES, PLACES, ORDER)


class Limits(OfForms):
    def read(self, is_line: bool = True, **draft: Any) -> Any:
        return self.page.call(LIMITS, "readLimits", {**BLANK, **draft}, BLANK, SCALE, is_line)

    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 200), st.integers(0, 400).map(lambda n: n / 1000), st.none() | st.integers(1, 500))
    def test_a_guard_comes_back_as_it_is(self, after: int, rise: float, sure_at: int | None) -> None:
        if not rise and sure_at is None:
            return
        wanted = Guard(after=after, rise=rise, sure_at=sure_at)
        part = {"guard": wanted.model_dump(), "depths": None, "needs": [], "unless": []}
        draft = self.page.call(LIMITS, "limitsDraft", part)
        self.assertEqual(Guard.model_validate(self.read(**draft)["guard"]), wanted)

    def test_what_was_not_touched_is_not_said(self) -> None:
        part = {
            "guard": {"after": 3, "rise": 0.02, "sure_at": 9},
            "limit": 2,
            "depths": [4, 9],
            "needs": ["a"],
            "unless": [],
        }
        opened = self.page.call(LIMITS, "limitsDraft", part)

        def read(**more: Any) -> Any:
            return self.page.call(LIMITS, "readLimits", {**opened, **more}, opened, SCALE, True)

        self.assertEqual(read(), {})
        self.assertEqual(read(limit=""), {"limit": None})
        self.assertEqual(read(needs=[]), {"needs": []})
        self.assertEqual(read(rise="", sure="", after=""), {"guard": None})

    def test_limits_in_words(self) -> None:
        for text, wanted in (
            ("once", 1),
            ("Twice", 2),
            ("three times", 3),
            ("7", 7),
            ("4 times", 4),
            ("12×", 12),
        ):
            self.assertEqual(self.read(limit=text), {"limit": wanted}, text)
        self.assertEqual(self.read(limit=" "), {"limit": None})
        for text in ("0", "-1", "1.5"):
            self.assertEqual(self.read(limit=text), "a limit is a whole number from 1 on", text)
        self.assertEqual(self.read(limit="often"), "how many times at most: 3, or once")

    def test_after_alone_asks_what_then(self) -> None:
        self.assertIn("after 20 misses?", self.read(after="20"))
        self.assertEqual(self.read(after="20", rise="2 %")["guard"]["rise"], 0.02)
        self.assertEqual(self.read(sure="90")["guard"], {"after": 0, "rise": 0, "sure_at": 90})
        self.assertIn("not a number", self.read(sure="soon"))

    def test_depths_of_a_drop(self) -> None:
        self.assertEqual(self.read(False, depths="4-9"), {"depths": [4, 9]})
        self.assertEqual(self.read(False, depths="9-4"), "9 is deeper than 4; swap them")
        self.assertEqual(self.read(False, depths="0-4"), "depths go from 1 to 30")
        self.assertEqual(self.read(True, depths="4-9"), {})  # a line has a column for them


class Boundaries(OfForms):
    @settings(max_examples=30, deadline=None)
    @given(
        st.lists(st.sampled_from([0.5, 1.0, 3.0, 8.0, 40.0]), min_size=2, max_size=5),
        st.sampled_from([0.0, 2.0, 30.0]),
        st.floats(0.05, 0.95),
        st.data(),
    )
    def test_a_boundary_moves_chance_between_its_neighbours_alone(
        self, weights: list[float], nothing: float, part: float, data: st.DataObject
    ) -> None:
        made = game([pick(*((weight, "sand") for weight in weights), nothing=nothing)])
        chances, blank = (found[..., 0] for found in roll_chances(made.tables[0], Conditions(made, [1])))
        lines = {line.id: {"chance": float(p)} for line, p in zip(made.tables[0].lines, chances, strict=True)}
        names = [*lines, *(["·nothing"] if nothing else [])]
        at = data.draw(st.integers(0, len(names) - 2))
        left, right = names[at], names[at + 1]
        table = plain_game(made)["tables"][0]
        odds = {"lines": lines, "nothing": float(blank)}
        by = part * (odds["nothing"] if right == "·nothing" else lines[right]["chance"])
        body = self.page.call(LINES, "withBoundary", table, odds, left, right, by)
        after = read_game(plain_game(made) | {"tables": [body]})
        now, now_blank = (found[..., 0] for found in roll_chances(after.tables[0], Conditions(after, [1])))
        for n, line in enumerate(after.tables[0].lines):
            moved = by if line.id == left else -by if line.id == right else 0.0
            self.assertAlmostEqual(float(now[n]), float(chances[n]) + moved, delta=2e-4)  # four figures
        self.assertAlmostEqual(float(now_blank), float(blank) - by * (right == "·nothing"), delta=2e-4)

    def test_dragged_to_the_end_the_neighbour_has_nothing_left(self) -> None:
        table = {"rule": "pick", "nothing": 0, "lines": [{"id": "a", "weight": 5}, {"id": "b", "weight": 3}]}
        odds = {"nothing": 0, "lines": {"a": {"chance": 0.625}, "b": {"chance": 0.375}}}
        found = self.page.call(LINES, "withBoundary", table, odds, "a", "b", 0.4)
        self.assertEqual([line["weight"] for line in found["lines"]], [8.2, 0])


class Plans(OfForms):
    """Covers and spots of a place."""

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 9), st.integers(1, 9), st.data())
    def test_cells_and_rows_are_the_same(self, columns: int, rows: int, data: st.DataObject) -> None:
        text = [
            "".join(data.draw(st.lists(st.sampled_from("#."), min_size=columns, max_size=columns)))
            for _ in range(rows)
        ]
        place = {"size": [columns, rows], "spots": [], "covers": [{"id": "c", "rows": text}]}
        same = self.page.call(PLACES, "resized", place, [columns, rows])
        self.assertEqual(same["covers"][0]["rows"], text)
        wider = self.page.call(PLACES, "resized", place, [columns + 2, rows])
        self.assertEqual(wider["covers"][0]["rows"], [row + ".." for row in text])
        back = self.page.call(PLACES, "resized", wider, [max(1, columns - 1), rows])
        self.assertEqual(back["covers"][0]["rows"], [row[: max(1, columns - 1)] for row in text])

    def test_spots_are_put_and_taken(self) -> None:
        place: dict[str, Any] = {"size": [4, 3], "spots": [], "covers": []}
        put = self.page.call(PLACES, "toggledSpots", place, [[0, 0], [1, 0], [0, 0]], True)
        self.assertEqual([(one["x"], one["y"]) for one in put["spots"]], [(0, 0), (1, 0)])
        self.assertEqual(len({one["id"] for one in put["spots"]}), 2)
        more = self.page.call(PLACES, "toggledSpots", put, [[1, 0], [3, 2]], True)
        self.assertEqual(more["spots"][:2], put["spots"])
        gone = self.page.call(PLACES, "toggledSpots", more, [[0, 0], [2, 2]], False)
        self.assertEqual([(one["x"], one["y"]) for one in gone["spots"]], [(1, 0), (3, 2)])
        smaller = self.page.call(PLACES, "resized", gone, [2, 2])
        self.assertEqual([(one["x"], one["y"]) for one in smaller["spots"]], [(1, 0)])


class InOrder(OfForms):
    """What can be put in order without a question is sound after it."""

    bands = st.lists(st.tuples(st.integers(-3, 40), st.integers(0, 15)), min_size=1, max_size=5)

    @settings(max_examples=30, deadline=None)
    @given(bands)
    def test_bands_stay_inside(self, spans: list[tuple[int, int]]) -> None:
        bands = [{"name": f"b{n}", "from": low, "to": low + size} for n, (low, size) in enumerate(spans)]
        found = self.page.call(ORDER, "bandsWithin", bands, 1, 30)
        asked = [{depth for depth in range(low, low + size + 1) if 1 <= depth <= 30} for low, size in spans]
        held = [set(range(band["from"], band["to"] + 1)) for band in found]
        self.assertEqual(held, [depths for depths in asked if depths])
        self.assertEqual(self.page.call(ORDER, "bandsWithin", found, 1, 30), found)

    def test_a_file_in_disorder_is_refused_and_read_after_it(self) -> None:
        data = plain_game(demo())
        data["curves"][0]["points"] = [[14, 0.9], *data["curves"][0]["points"][::-1]]
        data["depth"]["bands"] = data["depth"]["bands"][::-1]
        data["depth"]["bands"][0]["to"] = 99
        with self.assertRaises(GameError):
            read_game(data)
        text = self.page.call(ORDER, "fileInOrder", json.dumps(data))
        game = read_game(json.loads(text))
        self.assertTrue(Conditions(game, [1]).sources.keys() >= {"lantern-eel"})
        self.assertIsNone(self.page.call(ORDER, "fileInOrder", text))

    def test_what_is_no_file_is_left(self) -> None:
        for text in ("", "{", "[]", "null", '{"curves": 3}'):
            self.assertIsNone(self.page.call(ORDER, "fileInOrder", text), text)


if __name__ == "__main__":
    unittest.main()
