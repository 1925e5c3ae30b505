"""One edit after another: what is found again from before must be what would be worked out anew."""

from __future__ import annotations

import copy
import threading
import time
import unittest
from collections import OrderedDict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golddice.core.errors import GameError, TooLarge
from golddice.core.game.editing import EditError, Entities, Entry
from golddice.core.game.models import Game
from golddice.core.game.reading import full
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event import algebra
from golddice.core.odds.event import evaluator as evaluator_module
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.odds.event.outcome import Outcome
from golddice.core.results import RESULTS, Results, bytes_of
from golddice.core.sheets.sheet import SheetOdds
from golddice.core.stopping import Cancelled, Stop, stopped_by
from golddice.core.terms.conditions import Conditions
from tests.games import demo
from tests.strategies import chances, games, guards, quantities, weights

VIEWS = [
    View("source", "crab"),
    View("source", "egg"),
    View("table", "outer"),
    View("table", "middle"),
    View("table", "inner"),
]


@contextmanager
def nothing_kept() -> Iterator[None]:
    """Everything is worked out anew inside."""
    with patch.multiple(RESULTS, _found=OrderedDict(), _making={}, _bytes=0, _most=10**9):
        yield


def changed(draw: st.DrawFn, entities: Entities) -> Entry:
    """Some edit of a random game: of a table, a line, a drop, a curve or a tier's curve."""
    kind = draw(st.sampled_from(["table", "table", "table", "source", "curve", "tier"]))
    name = draw(st.sampled_from(sorted(entities.bodies[kind])))
    body = full(kind, copy.deepcopy(entities.bodies[kind][name]))
    if kind == "curve":
        body["points"] = [[1, draw(st.sampled_from([0.0, 0.5, 1.0]))], [7, draw(st.sampled_from([1.0, 2.0]))]]
    elif kind == "tier":
        body["curve"] = draw(st.sampled_from([None, "swell", "never"]))
    elif kind == "source":
        drop = draw(st.sampled_from(body["drops"]))
        drop["chance"] = draw(chances)
        drop["curve"] = draw(st.sampled_from([None, "swell"]))
    else:
        _edit_table(draw, body)
    return Entry(kind, name, body)


def _edit_table(draw: st.DrawFn, body: dict[str, Any]) -> None:
    what = draw(st.sampled_from(["rolls", "entry", "quantity", "guard", "out"]))
    lines = body["lines"]
    if what == "rolls" or not lines:
        body["rolls"] = draw(quantities())
        return
    line = draw(st.sampled_from(lines))
    if what == "out":
        lines.remove(line)
    elif what == "guard":
        line["guard"] = draw(st.one_of(st.none(), guards))
    elif what == "quantity" and line["yields"]:
        line["yields"][0]["quantity"] = draw(quantities())
    else:
        for key, values in (("weight", weights), ("chance", chances), ("copies", st.integers(0, 3))):
            if key in line:
                line[key] = draw(values)


@st.composite
def histories(draw: st.DrawFn) -> list[Game]:
    """A game and what it became, edit after edit."""
    entities = Entities.of(draw(games(state=draw(st.booleans()))))
    found = [entities.game()]
    for _ in range(draw(st.integers(1, 5))):
        try:
            entities = entities.edited([changed(draw, entities)])
        except EditError:
            continue  # a guard on a deck, say
        found.append(entities.game())
    return found


class FoundAgain(unittest.TestCase):
    @settings(max_examples=30, deadline=None, suppress_health_check=list(HealthCheck))
    @given(histories(), st.integers(1, 10), st.booleans(), st.sampled_from([(), ("key",)]))
    def test_edit_after_edit(
        self, history: list[Game], depth: int, detail: bool, flags: tuple[str, ...]
    ) -> None:
        for made in history:
            for view in VIEWS:
                self.same(made, depth, flags, detail, view)

    def same(self, made: Game, depth: int, flags: tuple[str, ...], detail: bool, view: View) -> None:
        """With what is kept, and with nothing kept."""

        def outcome() -> Outcome:
            return Prospect(Evaluator(Conditions(made, [depth], flags), detail), view).outcome

        try:
            got = outcome()
        except TooLarge:
            return
        with nothing_kept():
            wanted = outcome()
        what = str(view)
        np.testing.assert_array_equal(got.columns, wanted.columns, what)
        for name in ("hit", "mean", "var", "cov", "value_mean", "value_var"):
            np.testing.assert_allclose(
                getattr(got, name), getattr(wanted, name), rtol=1e-12, atol=1e-15, err_msg=f"{what}, {name}"
            )

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(histories(), st.integers(1, 10))
    def test_whole_sheets(self, history: list[Game], depth: int) -> None:
        """As the server asks: the same view over and over, its waits and long run too."""

        def asked(made: Game) -> Any:
            sheet = SheetOdds(made, View("source", "crab"), depth)
            return sheet.sheet(), sheet.wait({"kind": "item", "id": "lens"})

        for made in history:
            try:
                got = asked(made)
            except (TooLarge, GameError):
                continue
            with nothing_kept():
                self.close(got, asked(made))

    def close(self, got: Any, wanted: Any, path: str = "") -> None:
        """Plain data alike, numbers to 1e-9."""
        if isinstance(wanted, dict):
            self.assertEqual(got.keys(), wanted.keys(), path)
            for key in wanted:
                self.close(got[key], wanted[key], f"{path}.{key}")
        elif isinstance(wanted, list | tuple):
            self.assertEqual(len(got), len(wanted), path)
            for at, (a, b) in enumerate(zip(got, wanted, strict=True)):
                self.close(a, b, f"{path}[{at}]")
        elif isinstance(wanted, float) and isinstance(got, float):
            self.assertLess(abs(got - wanted), 1e-9 * max(1.0, abs(wanted)), path)
        else:
            self.assertEqual(got, wanted, path)

    def test_edits_of_the_demo_to_and_fro(self) -> None:
        """Every table of the demo has its rolls changed and changed back."""
        entities = Entities.of(demo())
        for name, body in list(entities.bodies["table"].items()):
            for rolls in ({"min": 2, "max": 3}, full("table", body)["rolls"]):
                entities = entities.edited([Entry("table", name, {**body, "rolls": rolls})])
                last = Evaluator(Conditions(entities.game(), [14]))
                for source in demo().sources:
                    last.source(source.id)
        anew = Evaluator(Conditions(demo(), [14]))
        for source in demo().sources:
            with self.subTest(source=source.id):
                got = last.source(source.id)
                with nothing_kept():
                    wanted = anew.source(source.id)
                np.testing.assert_array_equal(got.mean, wanted.mean)
                np.testing.assert_array_equal(got.cov, wanted.cov)

    def test_what_is_kept_is_bounded_in_bytes(self) -> None:
        """A long drag leaves a draft's results behind with every step: the oldest go."""
        entities, small = Entities.of(demo()), Results(300_000)
        body = entities.bodies["table"]["eel-catch"]
        with patch.object(evaluator_module, "RESULTS", small), patch.object(algebra, "RESULTS", small):
            for turn in range(120):
                draft = entities.edited([Entry("table", "eel-catch", {**body, "nothing": 1 + turn})]).game()
                Evaluator(Conditions(draft, [14])).source("lantern-eel")
                self.assertLessEqual(small.bytes, 300_000)
        self.assertGreater(small.bytes, 100_000)

    def test_many_threads_ask_at_once(self) -> None:
        """Of two revisions in turns: nobody is answered for the other one."""
        entities = Entities.of(demo())
        body = entities.bodies["table"]["eel-catch"]
        other = entities.edited([Entry("table", "eel-catch", {**body, "nothing": 90})]).game()

        def value(made: Game) -> float:
            return float(Evaluator(Conditions(made, [14])).source("lantern-eel").value_mean[0])

        with nothing_kept():
            wanted = [value(demo()), value(other)]
        self.assertNotEqual(*wanted)
        with ThreadPoolExecutor(8) as pool:
            found = list(pool.map(lambda at: value((demo(), other)[at % 2]), range(80)))
        self.assertEqual(found, wanted * 40)


class Place(unittest.TestCase):
    """The one place for results."""

    def test_tables_of_drafts_that_are_gone_are_let_go(self) -> None:
        """Hundreds of edits of one table: what is kept of drafts stays within its bytes, models too."""
        results = Results(200_000)
        for number in range(200):
            results.get(("weights", number), lambda: np.zeros(1), holds=10_000)
        self.assertLessEqual(results.bytes, 200_000)
        self.assertIsNone(results.peek(("weights", 0)))
        self.assertIsNotNone(results.peek(("weights", 199)))

    def test_all_arrays_count_wherever_they_are(self) -> None:
        outcome = Evaluator(Conditions(demo(), [14])).source("lantern-eel")
        arrays = [one for one in vars(outcome).values() if isinstance(one, np.ndarray)]
        self.assertGreaterEqual(bytes_of(({"a": [outcome]},)), sum(one.nbytes for one in arrays))

    def test_it_is_worked_out_once_however_many_ask(self) -> None:
        results, made = Results(10**6), []

        def slowly() -> int:
            made.append(threading.get_ident())
            time.sleep(0.1)
            return 7

        with ThreadPoolExecutor(6) as pool:
            told = [one.result() for one in [pool.submit(results.get, "key", slowly) for _ in range(6)]]
        self.assertEqual((told, len(made)), ([7] * 6, 1))

    def test_who_waits_goes_on_where_the_other_is_cancelled(self) -> None:
        results, begun = Results(10**6), threading.Event()

        def cancelled() -> int:
            begun.set()
            time.sleep(0.1)
            raise Cancelled

        with ThreadPoolExecutor(2) as pool:
            first = pool.submit(results.get, "key", cancelled)
            begun.wait()
            self.assertEqual(results.get("key", lambda: 5), 5)
            self.assertRaises(Cancelled, first.result)
        self.assertEqual(results.peek("key"), 5)

    def test_who_waits_can_be_cancelled(self) -> None:
        results, begun, stop, free = Results(10**6), threading.Event(), Stop(), threading.Event()

        def held_up() -> int:
            begun.set()
            free.wait(10)
            return 5

        with ThreadPoolExecutor(1) as pool:
            first = pool.submit(results.get, "key", held_up)
            begun.wait()
            stop.set()
            with stopped_by(stop), self.assertRaises(Cancelled):
                results.get("key", lambda: 6)
            free.set()
            self.assertEqual(first.result(), 5)

    def test_that_something_is_too_large_is_kept_too(self) -> None:
        results, asked = Results(10**6), []

        def large() -> int:
            asked.append(1)
            raise TooLarge("far too large")

        for _ in range(3):
            with self.assertRaisesRegex(TooLarge, "far too large"):
                results.get("key", large)
        self.assertEqual(len(asked), 1)


if __name__ == "__main__":
    unittest.main()
