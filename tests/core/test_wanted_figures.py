"""What else can be wanted: after so many events, of tags, in order, promised, at the end of a route. Held
against every way that events can go."""

from __future__ import annotations

import math
import unittest
from collections import defaultdict
from typing import Any

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.sheets.route_report import route_odds
from golddice.core.tuning import Standing, standings
from golddice.core.tuning.aims import Book, aims_of
from golddice.core.tuning.asking import Ask
from golddice.core.tuning.levers import levers
from golddice.core.tuning.proposal import propose
from tests.core.test_game import problems
from tests.games import each, game, game_data, pick
from tests.oracle import FRESH, Oracle, Player, TooMany
from tests.strategies import games

LIMITS = settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
EVENTS = 2
CRAB = {"id": "wish", "name": "Wish", "source": "crab", "wanted": 0.5}


def with_wish(made: Game, **wish: Any) -> Game:
    data = plain_game(made)
    return read_game(data | {"targets": [{key: v for key, v in (CRAB | wish).items() if v is not None}]})


def stands(made: Game, **wish: Any) -> Standing:
    return standings(with_wish(made, **wish))[0]


def totals(made: Game, depth: int, events: int) -> dict[float, float]:
    """Chances of each total value after so many events; None where there are too many ways."""
    oracle = Oracle(made, depth)
    found: dict[float, float] = defaultdict(float)
    try:
        for (_, bag), p in oracle.events("crab", events).items():
            found[oracle.worth(bag)] += p
    except TooMany:
        assume(False)
    return found


def row_of(found: Standing, depth: int) -> float:
    return found.figures[found.depths.index(depth)]


class AfterEvents(unittest.TestCase):
    def told(self, made: Game, **wish: Any) -> float:
        found = stands(made, events=EVENTS, depths=[4, 4], **wish)
        assume(found.untold is None)
        return row_of(found, 4)

    @LIMITS
    @given(games(state=True))
    def test_spread_is_that_of_every_way(self, made: Game) -> None:
        chances = totals(made, 4, EVENTS)
        mean = sum(p * v for v, p in chances.items())
        var = sum(p * (v - mean) ** 2 for v, p in chances.items())
        self.assertAlmostEqual(self.told(made, figure="spread", spread="sd"), math.sqrt(var), places=6)
        cv = self.told(made, figure="spread", spread="cv")
        if mean > 0:
            self.assertAlmostEqual(cv, math.sqrt(var) / mean, places=6)
        else:
            self.assertTrue(math.isnan(cv))

    @LIMITS
    @given(games(state=True), st.sampled_from([0, 1, 3, 40, 43, 600]))
    def test_less_than_so_much(self, made: Game, amount: float) -> None:
        chances = totals(made, 4, EVENTS)
        wanted = sum(p for v, p in chances.items() if v < amount)
        self.assertAlmostEqual(self.told(made, figure="less", less_than=amount), wanted, places=8)

    @LIMITS
    @given(games(state=True))
    def test_the_lucky_over_the_unlucky(self, made: Game) -> None:
        chances = sorted(totals(made, 4, EVENTS).items())
        sums = np.cumsum([p for _, p in chances])
        assume(not np.any(np.abs(sums[:, None] - [0.05, 0.95]) < 1e-8))  # no ties
        low, high = (chances[int(np.argmax(sums > q))][0] for q in (0.05, 0.95))
        found = self.told(made, figure="spread", spread="p95/p5")
        if low > 0:
            self.assertAlmostEqual(found, high / low, places=9)
        else:
            self.assertEqual(math.isinf(found), high > 0)

    @LIMITS
    @given(games(state=True), st.sampled_from([{"item": "crown"}, {"tier": "silt"}, {"tag": "glass"}]))
    def test_none_of_a_thing(self, made: Game, thing: dict[str, str]) -> None:
        oracle = Oracle(made, 4)
        mine = [
            thing in ({"item": item.id}, {"tier": item.tier}) or thing.get("tag") in item.tags
            for item in made.items
        ]
        try:
            worlds = oracle.events("crab", EVENTS).items()
        except TooMany:
            assume(False)
        none = sum(p for (_, bag), p in worlds if not any(n for n, yes in zip(bag, mine, strict=True) if yes))
        self.assertAlmostEqual(self.told(made, figure="none", **thing), none, places=9)


class Tags(unittest.TestCase):
    @LIMITS
    @given(games(state=True))
    def test_a_tag_is_what_has_it(self, made: Game) -> None:
        """The glass things are sand and a lens; chance and mean against every way of one event."""
        oracle = Oracle(made, 4)
        try:
            worlds = oracle.events("crab", 1).items()
        except TooMany:
            assume(False)
        chance = sum(p for (_, bag), p in worlds if bag[0] + bag[2])
        mean = sum(p * (bag[0] + bag[2]) for (_, bag), p in worlds)
        for figure, wanted in (("chance", chance), ("mean", mean)):
            found = stands(made, figure=figure, tag="glass")
            if found.untold is None:
                self.assertAlmostEqual(row_of(found, 4), wanted, places=9)

    def test_a_tier_beside_it_is_whole(self) -> None:
        """What a tag counts apart is still of its tier wherever the tier is asked for."""
        made = game([pick((1, "sand"), (1, "claw"), (2, "lens"))])
        data = plain_game(made)
        wishes = [
            CRAB | {"id": "glass", "figure": "share", "tag": "glass"},
            CRAB | {"id": "silt", "figure": "chance", "tier": "silt"},
            CRAB | {"id": "worth", "figure": "worth", "tag": "glass"},
        ]
        found = standings(read_game(data | {"targets": wishes}))
        self.assertEqual([round(one.figures[0], 12) for one in found[:2]], [0.75, 0.5])
        self.assertAlmostEqual(found[2].figures[0], 81 / 84)


class Promises(unittest.TestCase):
    """The least and the most that an event gives, against all players that events lead to."""

    def reached(self, made: Game, at: int, events: int) -> tuple[int, int]:
        """Fewest and most of an item in any event of players who had up to so many before."""
        oracle = Oracle(made, 4)
        players: set[Player] = {FRESH}
        found: list[int] = []
        for _ in range(events):
            after: set[Player] = set()
            for player in players:
                for new, bag in oracle.event(oracle.sources["crab"], {(player, oracle.empty): 1.0}):
                    found.append(bag[at])
                    after.add(new)
            players = after
            if len(players) > 60:
                raise TooMany
        return min(found), max(found)

    @LIMITS
    @given(games(state=True), st.sampled_from([0, 1, 3]))
    def test_no_event_breaks_what_is_told(self, made: Game, at: int) -> None:
        try:
            fewest, most = self.reached(made, at, 4)
        except TooMany:
            assume(False)
        item = made.items[at].id
        least = stands(made, figure="least", item=item, depths=[4, 4])
        greatest = stands(made, figure="most", item=item, depths=[4, 4])
        if least.untold is None:
            self.assertLessEqual(least.figures[0], fewest)
        if greatest.untold is None:
            self.assertGreaterEqual(greatest.figures[0], most)

    @LIMITS
    @given(games(), st.sampled_from([0, 1, 3]))
    def test_without_state_it_is_just_that(self, made: Game, at: int) -> None:
        try:
            fewest, most = self.reached(made, at, 1)
        except TooMany:
            assume(False)
        item = made.items[at].id
        self.assertEqual(stands(made, figure="least", item=item, depths=[4, 4]).figures, [fewest])
        self.assertEqual(stands(made, figure="most", item=item, depths=[4, 4]).figures, [most])

    def test_what_breaks_it_is_named(self) -> None:
        made = game([pick((1, "crown"), (3, "@bits2")), pick((1, "sand"), name="bits2", nothing=2)])
        found = stands(made, figure="least", tier="pearl", side="at-least", wanted=1)
        self.assertFalse(found.is_met)
        self.assertEqual([(step.id, step.part, step.how) for step in found.way][-1], ("bits", "b", "hits"))
        over = stands(made, figure="most", item="crown", side="at-most", wanted=0)
        self.assertEqual([(step.part, step.how) for step in over.way], [("a", "hits"), ("a", "hits")])
        self.assertEqual(over.plain()["way"][0]["kind"], "source")

    def test_below_a_tier(self) -> None:
        made = game([pick((1, "crown"), (3, "lens"))])
        self.assertTrue(stands(made, figure="below", tier="pearl", side="at-most", wanted=0).is_met)
        trash = game([pick((1, "crown"), (3, "sand 2"))])
        found = stands(trash, figure="below", tier="pearl", side="at-most", wanted=0)
        self.assertEqual((found.is_met, found.figures[0]), (False, 2.0))

    def test_a_guard_that_is_sure_within_an_event_is_not_decided(self) -> None:
        table = pick((1, "crown"), (9, "sand"), rolls={"min": 3, "max": 3})
        table["lines"][0]["guard"] = {"sure_at": 3}
        found = stands(game([table]), figure="least", item="crown", side="at-least", wanted=1)
        self.assertIn("guard", str(found.untold))

    def test_a_deck_may_be_nearly_drawn(self) -> None:
        """Of a crown among two cards, three draws give one at least and two at most."""
        lines = [
            {"id": "a", "copies": 1, "yields": [{"item": "crown"}]},
            {"id": "b", "copies": 1, "yields": []},
        ]
        deck = {"id": "deck", "name": "Deck", "rule": "deck", "rolls": {"min": 3, "max": 3}, "lines": lines}
        made = game([deck])
        self.assertEqual(stands(made, figure="least", item="crown").figures[0], 1.0)
        self.assertEqual(stands(made, figure="most", item="crown").figures[0], 2.0)

    def test_no_number_mends_it_and_that_is_said(self) -> None:
        made = with_wish(
            game([pick((1, "crown"), (3, "sand"))]), figure="least", item="crown", side="at-least", wanted=1
        )
        found = propose(made)
        self.assertEqual((found.status, found.values), ("nearest", {}))
        self.assertIn("promise", found.untold["wish"])
        self.assertEqual(levers(made, made.targets[0], 1), [])


class Orders(unittest.TestCase):
    def made(self, *points: float) -> Game:
        curve = {"id": "deep", "name": "Deep", "points": [[1 + 3 * at, x] for at, x in enumerate(points)]}
        table = pick((1, "crown"), (9, "sand"))
        table["lines"][0]["curve"] = "deep"
        return game([table], curves=[curve])

    def test_it_is_missed_where_it_steps_the_wrong_way(self) -> None:
        made = self.made(1, 3, 2, 2)
        found = stands(made, figure="chance", item="crown", side="never-falls", wanted=0)
        self.assertEqual(found.holds, [True] * 4 + [False] * 3 + [True] * 3)
        rare = stands(made, figure="one-in", item="crown", side="never-rises", wanted=0)
        self.assertEqual(rare.holds, found.holds)

    def test_never_after_never_is_in_order(self) -> None:
        made = self.made(0, 0, 1, 1)
        found = stands(made, figure="one-in", item="crown", side="never-rises", wanted=0)
        self.assertTrue(found.is_met)

    def test_numbers_are_found_for_it(self) -> None:
        for wish in (
            {"figure": "chance", "item": "crown", "side": "never-falls"},
            {"figure": "wait", "item": "crown", "side": "never-rises"},
            {"figure": "value", "side": "never-falls"},
            {"figure": "share", "tier": "pearl", "side": "never-falls"},
        ):
            made = with_wish(self.made(1, 3, 2, 2.5), wanted=0, **{"item": None, **wish})
            found = propose(made, Ask(unlock=["deep"]))
            with self.subTest(**wish):
                self.assertEqual(found.status, "met")
                self.assertTrue(standings(found.game)[0].is_met)


class Swings(unittest.TestCase):
    def test_a_lines_part_of_the_variance(self) -> None:
        """Two lines each on their own: their variances stand to each other as their parts."""
        made = game([each((0.5, "claw"), (0.1, "lens"))])
        claw, lens = 9 * 0.25, 1600 * 0.09
        found = stands(made, figure="swing-of", swing_of={"table": "bits", "part": "b"})
        self.assertAlmostEqual(found.figures[0], lens / (claw + lens))
        drop = stands(made, figure="swing-of", swing_of={"part": "a"})
        self.assertAlmostEqual(drop.figures[0], 1.0)

    def test_a_line_that_is_gone_is_told(self) -> None:
        found = stands(
            game([each((0.5, "claw"))]), figure="swing-of", swing_of={"table": "bits", "part": "z"}
        )
        self.assertIn("no “z”", str(found.untold))


class Routes(unittest.TestCase):
    def made(self, **more: Any) -> Game:
        leg = {"id": "down", "from": 1, "to": 3, "source": "crab", "times": {"min": 2, "max": 2}}
        route = {"id": "dive", "name": "Dive", "legs": [leg]}
        return game([each((0.5, "claw"), (0.1, "lens"))], routes=[route], **more)

    def test_it_is_the_end_of_the_route(self) -> None:
        made = self.made()
        end = route_odds(made, "dive")["stops"][-1]
        wishes = {"value": end["value"]["mean"], "cv": end["value"]["sd"] / end["value"]["mean"]}
        for figure, wanted in wishes.items():
            found = stands(made, source=None, route="dive", figure=figure)
            self.assertEqual(found.depths, [3])
            self.assertAlmostEqual(found.figures[0], wanted)
        tagged = stands(made, source=None, route="dive", figure="mean", tag="glass")
        self.assertAlmostEqual(tagged.figures[0], 0.6)

    def test_numbers_are_found_for_it(self) -> None:
        made = with_wish(self.made(), source=None, route="dive", figure="value", wanted=60, tolerance=1)
        found = propose(made)
        self.assertEqual(found.status, "met")
        self.assertAlmostEqual(found.after[0].figures[0], 59, places=3)
        self.assertEqual(
            {one.number.where for one in levers(made, made.targets[0], 3)}, {"bits/a/chance", "bits/b/chance"}
        )

    def test_a_route_that_goes_nowhere_asks_nothing(self) -> None:
        found = stands(self.made(), source=None, route="dive", figure="value")
        self.assertTrue(found.depths)
        data = plain_game(self.made())
        data["routes"][0]["legs"] = []
        self.assertEqual(stands(read_game(data), source=None, route="dive", figure="value").depths, [])


class Tuned(unittest.TestCase):
    """Each kind of figure can be asked for."""

    def test_each_is_met_by_what_is_found(self) -> None:
        made = game([each((0.3, "claw"), (0.02, "lens"), (0.5, "sand 2"))])
        wishes: list[dict[str, Any]] = [
            {"figure": "none", "tag": "glass", "events": 5, "wanted": 0.01, "tolerance": 0.002},
            {"figure": "spread", "events": 30, "wanted": 0.9, "tolerance": 0.01},
            {"figure": "spread", "spread": "sd", "events": 30, "wanted": 40, "tolerance": 1},
            {"figure": "spread", "spread": "p95/p5", "events": 60, "side": "at-most", "wanted": 1.6},
            {"figure": "less", "events": 20, "less_than": 30, "side": "at-most", "wanted": 0.01},
            {
                "figure": "swing-of",
                "swing_of": {"table": "bits", "part": "b"},
                "side": "at-most",
                "wanted": 0.5,
            },
            {"figure": "chance", "tag": "glass", "wanted": 0.8},
        ]
        for wish in wishes:
            with self.subTest(**wish):
                asked = with_wish(made, **wish)
                found = propose(asked)
                self.assertEqual(found.status, "met")
                self.assertTrue(found.values)
                self.assertTrue(standings(found.game)[0].is_met)

    def test_noted_figures_are_those_of_the_odds(self) -> None:
        made = game([each((0.3, "claw"), (0.02, "lens"), (0.5, "sand 2"))])
        for wish in (
            {"figure": "none", "item": "lens", "events": 7},
            {"figure": "spread", "events": 7},
            {"figure": "spread", "spread": "sd", "events": 7},
            {"figure": "chance", "tag": "glass"},
        ):
            asked = with_wish(made, **wish)
            book, [aim] = Book(asked), aims_of(Book(asked), asked.targets[0])
            self.assertTrue(aim.is_noted)
            np.testing.assert_allclose(aim.read(book), aim._exactly(book, aim.where), rtol=1e-9)


class Refused(unittest.TestCase):
    def test_what_makes_no_sense(self) -> None:
        cases = [
            ({"figure": "share", "item": "crown"}, "of a tier or a tag"),
            ({"figure": "chance", "item": "crown", "tag": "glass"}, "of one item, of one tier or of one tag"),
            ({"figure": "below", "tag": "glass"}, "is of a tier"),
            ({"figure": "value", "swing_of": {"part": "a"}}, "swing_of"),
            ({"figure": "swing-of"}, "name it as swing_of"),
            ({"figure": "chance", "item": "crown", "route": "dive", "source": None}, "not told of a route"),
            ({"figure": "value", "route": "dive"}, "of one source, table, route, place or stall"),
            ({"figure": "value", "side": "never-falls"}, "wants an order and no number"),
            ({"figure": "spread", "events": 0}, "must be 1 or more"),
        ]
        routes = [{"id": "dive", "name": "Dive"}]
        for wish, message in cases:
            with self.subTest(message):
                asked = {key: value for key, value in (CRAB | wish).items() if value is not None}
                told = problems(game_data([pick((1, "crown"))], routes=routes, targets=[asked]))
                self.assertIn(message, told)

    def test_too_fine_values_are_not_told_as_exact(self) -> None:
        made = plain_game(game([each((0.5, "claw"), (0.5, "lens"))]))
        made["items"][1]["value"] = math.pi * 1e-9
        found = stands(read_game(made), figure="less", less_than=3, events=50)
        self.assertIn("too fine", str(found.untold))
        with self.assertRaises(TooLarge):
            book = Book(with_wish(read_game(made), figure="less", less_than=3, events=50))
            aims_of(book, book.game.targets[0])[0].read(book)
