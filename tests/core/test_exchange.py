"""What goes out for a game's code: bounds to the last number, played by code that has only the document."""

from __future__ import annotations

import json
import math
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.exchange.schemas import game_schema, thresholds_schema
from golddice.core.exchange.thresholds import WHOLE, bounds, chance_bound, thresholds
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.terms.conditions import Conditions
from tests.core.handed_over import drawn, static_sources
from tests.games import DEMO, demo, game_data, pick
from tests.strategies import games

REFERENCE = Path(__file__).parent / "reference"
EVENTS = 2_000


def reference_games() -> Iterator[tuple[str, dict[str, Any]]]:
    for path in sorted(REFERENCE.glob("**/*.golddice.json")):
        if path.parent.name != "invalid":
            yield path.name, json.loads(path.read_text(encoding="utf-8"))


class Bounds(unittest.TestCase):
    weights = st.lists(st.one_of(st.just(0.0), st.floats(1e-12, 1e9)), min_size=1, max_size=40)

    @given(weights, st.one_of(st.just(0.0), st.floats(1e-9, 1e9)))
    @settings(max_examples=300, deadline=None)
    def test_every_line_has_its_share_to_a_number_or_the_one_it_is_due(
        self, weights: list[float], nothing: float
    ) -> None:
        ends = bounds(weights, nothing)
        shares = [end - start for start, end in zip([0, *ends], ends, strict=False)]
        total = math.fsum([*weights, nothing])
        self.assertEqual([share > 0 for share in shares], [weight > 0 for weight in weights])
        if total > 0 and nothing == 0:
            self.assertEqual(ends[-1], WHOLE)
        tiny = sum(0 < WHOLE * weight / total < 1 for weight in [*weights, nothing]) if total else 0
        for share, weight in zip(shares, weights, strict=True):
            if total > 0:
                self.assertLess(abs(share - WHOLE * weight / total), 1.000001 + tiny)

    def test_ends_are_exact_and_nothing_between_is_an_end(self) -> None:
        self.assertEqual([chance_bound(0.0), chance_bound(1.0), chance_bound(0.5)], [0, WHOLE, WHOLE // 2])
        self.assertEqual([chance_bound(1e-300), chance_bound(1 - 1e-16)], [1, WHOLE - 1])
        self.assertEqual(bounds([1.0, 2.0, 1.0], 0.0), [WHOLE // 4, 3 * WHOLE // 4, WHOLE])
        self.assertEqual(bounds([0.0, 0.0], 0.0), [0, 0])

    @given(games())
    @settings(max_examples=40, deadline=None)
    def test_of_any_game_at_every_depth_and_flag(self, made: Game) -> None:
        """Each line's own number against the odds; spans cover every depth once, for each set of flags."""
        document = thresholds(made)
        jsonschema.validate(document, thresholds_schema())
        for table, out in zip(made.tables, document["tables"], strict=True):
            for flags in {tuple(span["flags"]) for span in out["spans"]}:
                covered = [s for s in out["spans"] if tuple(s["flags"]) == flags]
                reached = [depth for s in covered for depth in range(s["from"], s["to"] + 1)]
                self.assertEqual(reached, list(range(made.depth.from_, made.depth.to + 1)))
                for span in covered:
                    self.assert_span(made, table, span)

    def assert_span(self, made: Game, table: Any, span: dict[str, Any]) -> None:
        under = Conditions(made, [span["to"]], frozenset(span["flags"]))
        ends = [line["below"] for line in span["lines"]]
        names = [line.id for line in table.lines]
        if table.rule in ("pick", "retry"):
            weights = under.weights(table)[:, 0]
            total = weights.sum() + (under.nothing(table)[0] if table.rule == "pick" else 0.0)
            for line, start, end in zip(span["lines"], [0, *ends], ends, strict=False):
                if total > 0:
                    exact = weights[names.index(line["id"])] / total
                    self.assertLess(abs((end - start) / WHOLE - exact), 2 / WHOLE)
        elif table.rule in ("each", "first"):
            for line in span["lines"]:
                exact = under.chances(table)[names.index(line["id"]), 0]
                self.assertLess(abs(line["below"] / WHOLE - exact), 1 / WHOLE)


class Played(unittest.TestCase):
    """Code that knows nothing but the document draws what was authored."""

    def test_games_without_state(self) -> None:
        """Two thousand events each; ten million of the demo are rolled by `python -m bench thresholds`."""
        worst, compared = 0.0, 0
        for name, data in [*reference_games(), ("demo", json.loads(DEMO.read_text(encoding="utf-8")))]:
            made = read_game(data)
            document = thresholds(made)
            flags = frozenset(flag.id for flag in made.flags[:1])
            for source, low, high in static_sources(made, document):
                for depth in sorted({low, high}):
                    found = drawn(made, document, source, depth, flags=flags, events=EVENTS)
                    with self.subTest(name, source=source, depth=depth):
                        self.assertEqual([one for one in found if one.impossible], [])
                    scores = [abs(one.z) for one in found if one.z is not None]
                    worst, compared = max([worst, *scores]), compared + len(scores)
        self.assertGreater(compared, 220)
        self.assertLess(worst, 5.0)


class Document(unittest.TestCase):
    def test_alike_depths_share_a_span_and_a_stretch_is_a_part_of_all(self) -> None:
        data = game_data([pick((3, "sand"), (1, "claw"), nothing=4)])
        data["tables"][0]["lines"][1]["depths"] = [4, 6]
        made = read_game(data)
        spans = thresholds(made)["tables"][0]["spans"]
        ends = [(span["from"], span["to"], [line["below"] for line in span["lines"]]) for span in spans]
        whole = [round(WHOLE * 3 / 7)]
        self.assertEqual(
            ends, [(1, 3, whole), (4, 6, [WHOLE * 3 // 8, WHOLE // 2]), (7, made.depth.to, whole)]
        )
        part = thresholds(made, 5, 8)
        self.assertEqual(part["depths"], [5, 8])
        self.assertEqual([(s["from"], s["to"]) for s in part["tables"][0]["spans"]], [(5, 6), (7, 8)])

    def test_what_changes_in_play_is_data(self) -> None:
        data = game_data([pick((3, "sand"), (1, "claw"))])
        data["tables"][0]["lines"][1] |= {"limit": 2, "guard": {"after": 5, "rise": 0.1, "sure_at": 9}}
        table = thresholds(read_game(data))["tables"][0]
        line = table["spans"][0]["lines"][1]
        self.assertTrue(table["dynamic"])
        self.assertEqual((line["limit"], line["weight"]), (2, 1.0))
        self.assertEqual(line["guard"], {"after": 5, "rise": 0.1, "sure_at": 9})


class Schemas(unittest.TestCase):
    def test_every_sound_game_and_thresholds_are_of_their_schema(self) -> None:
        game_check = jsonschema.Draft202012Validator(game_schema())
        out_check = jsonschema.Draft202012Validator(thresholds_schema())
        for check in (game_check, out_check):
            check.check_schema(check.schema)
        for name, data in [*reference_games(), ("demo", json.loads(DEMO.read_text(encoding="utf-8")))]:
            with self.subTest(name):
                game_check.validate(data)
        out_check.validate(thresholds(demo()))

    def test_it_refuses_what_is_wrong_in_kind(self) -> None:
        check = jsonschema.Draft202012Validator(game_schema())
        sound = game_data([pick((1, "sand"))])
        check.validate(sound)
        wrong: list[tuple[list[Any], Any]] = [
            (["tables", 0, "rule"], "any"),
            (["tables", 0, "lines", 0, "weight"], -1),
            (["tables", 0, "lines", 0, "wieght"], 1),
            (["depth", "from"], "one"),
            (["sources", 0, "kind"], 7),
        ]
        for path, value in wrong:
            data = json.loads(json.dumps(sound))
            inner = data
            for key in path[:-1]:
                inner = inner[key]
            inner[path[-1]] = value
            with self.subTest(path), self.assertRaises(jsonschema.ValidationError):
                check.validate(data)
