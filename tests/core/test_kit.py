"""Kit: scores, what is worn, upgrades; the reference cases, and what units do that are drawn one by one."""

from __future__ import annotations

import json
import math
import unittest
from fractions import Fraction
from itertools import combinations
from math import factorial, prod
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entities, removal
from golddice.core.game.models import Game
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.event.waits import events_to_first
from golddice.core.odds.kit.scores import Score
from golddice.core.odds.kit.slots import Slot
from golddice.core.sheets.report import odds
from golddice.core.sheets.route_report import route_odds
from golddice.core.terms.conditions import Conditions
from tests.games import each, game, pick
from tests.oracle import Oracle

FOLDER = Path(__file__).parent / "reference" / "kit"
CRAB = View("source", "crab")
NAMES = ("mean", "p05", "p50", "p95", "upgrades")


def read(name: str) -> Any:
    return json.loads((FOLDER / name).read_text(encoding="utf-8"))


def dressed(made: Game, **stats: dict[str, list[float]]) -> Game:
    """With stats for some items, all in one slot."""
    data = plain_game(made)
    for item in data["items"]:
        if item["id"] in stats:
            ranges = stats[item["id"]].items()
            item |= {"slot": "claw", "stats": {name: {"min": a, "max": b} for name, (a, b) in ranges}}
    return read_game(data)


class Reference(unittest.TestCase):
    def near(self, got: float, wanted: float, where: str) -> None:
        self.assertLessEqual(abs(got - wanted), max(1e-7 * abs(wanted), 1e-9), f"{where}: {got} for {wanted}")

    def test_sources(self) -> None:
        asked = 0
        for name in ("kit-two-items", "kit-steps"):
            made = read_game(read(f"{name}.golddice.json"))
            for query in read(f"{name}.expected.json")["queries"]:
                view = View("source", query["source"])
                told = odds(made, view, depth=query["depth"], events=query.get("events"))["slots"]
                for slot, wanted in query["expect"]["slots"].items():
                    for key, figure in wanted.get("after", {}).items():
                        self.near(told[slot]["after"][key], figure, f"{name} {slot} {key}")
                        asked += 1
                    firsts = {key: one for key, one in wanted.items() if key != "after"}
                    self.assertEqual({key: told[slot][key] for key in firsts}, firsts)
        self.assertGreater(asked, 60)

    def test_routes(self) -> None:
        made = read_game(read("kit-over-stops.golddice.json"))
        for query in read("kit-over-stops.expected.json")["queries"]:
            told = route_odds(made, query["route"], kit=True)["stops"]
            for at, (stop, wanted) in enumerate(zip(told, query["expect"]["stops"], strict=True)):
                for slot, figures in wanted["slots"].items():
                    for key, figure in figures.items():
                        self.near(stop["slots"][slot][key], figure, f"stop {at} {slot} {key}")


class Sets(unittest.TestCase):
    def test_reference(self) -> None:
        made, asked = read_game(read("sets.golddice.json")), 0
        for query in read("sets.expected.json")["queries"]:
            view = View("source", query["source"])
            told = odds(made, view, depth=query["depth"], events=query.get("events"))["sets"]
            for name, wanted in query["expect"]["sets"].items():
                for key, figure in wanted.items():
                    asked += 1
                    if key != "complete_after" or figure == 0:
                        self.assertEqual(told[name][key], figure, f"{name} {key}")
                    else:
                        self.assertLessEqual(abs(told[name][key] / figure - 1), 1e-9, f"{name} {key}")
        self.assertGreater(asked, 60)

    def with_set(self, made: Game, *pieces: str, **more: Any) -> Game:
        one = {"id": "set", "name": "Set", "items": [{"item": name, **more} for name in pieces]}
        return read_game(plain_game(made) | {"sets": [one]})

    def test_against_every_way_that_events_can_go(self) -> None:
        tables = [
            [each((0.4, "claw 2"), (0.2, "lens"), (0.1, "crown"))],
            [pick((2, "claw"), (1, "lens"), (1, "crown"), distinct=True, rolls={"min": 1, "max": 2})],
            [pick((1, "@inner"), (1, "crown"), nothing=2), each((0.5, "claw"), (0.5, "lens"), name="inner")],
        ]
        for made in tables:
            asked = self.with_set(game(made), "claw", "lens", "crown")
            worlds = Oracle(asked, 1).events("crab", 3).items()
            wanted = sum(p for (_, bag), p in worlds if all(bag[1:]))
            told = odds(asked, CRAB, events=3)["sets"]["set"]
            self.assertAlmostEqual(told["complete_after"], wanted, places=11)

    def test_a_piece_that_goes_leaves_the_set(self) -> None:
        entities = Entities.of(self.with_set(game([pick((1, "claw"), (1, "lens"))]), "claw", "lens"))
        [left] = entities.edited(removal(entities, "item", "claw")).game().sets
        self.assertEqual([piece.item for piece in left.items], ["lens"])

    def test_what_is_not_worked_out_is_left_out(self) -> None:
        made = game([pick((1, "claw"), (1, "lens"))])
        self.assertEqual(odds(self.with_set(made, "claw", count=2), CRAB)["sets"], {})
        self.assertEqual(odds(self.with_set(made), CRAB)["sets"], {})
        sure = odds(self.with_set(game([each((1, "claw"))]), "claw"), CRAB, events=1)["sets"]["set"]
        self.assertEqual(sure, {"first_50": 1, "first_90": 1, "first_99": 1, "complete_after": 1.0})


class Scores(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(0.05, 20), max_size=5), st.floats(-10, 10), st.floats(0, 1))
    def test_a_sum_of_uniforms(self, widths: list[float], low: float, share: float) -> None:
        """Against drawn sums."""
        score = Score(low, np.array(widths))
        at = low + share * (score.high - low)
        draw = np.random.default_rng(3)
        sums = low + draw.random((20_000, len(widths))) @ np.array(widths)
        seen = float((sums <= at).mean())
        self.assertLess(abs(float(score.at_most(np.array([at]))[0]) - seen), 0.02)
        self.assertEqual(score.at_most(np.array([low - 1e-9, score.high])).tolist(), [0.0, 1.0])

    def test_a_stat_that_does_not_vary_is_a_step(self) -> None:
        score = Score(3.0, np.zeros(0))
        here = np.array([3.0])
        self.assertEqual((score.at_most(here)[0], score.more_than(here)[0]), (1.0, 0.0))
        self.assertEqual(score.more_than(here, below=True)[0], 1.0)

    @settings(max_examples=80, deadline=None)
    @given(st.lists(st.integers(-3, 4), min_size=1, max_size=6), st.floats(0, 1))
    def test_widths_that_differ_by_powers_of_ten(self, powers: list[int], share: float) -> None:
        """Against the sum with alternating signs in whole fractions."""
        widths = [10.0**power * (1 + at / 8) for at, power in enumerate(powers)]
        at = share * sum(widths)
        wanted = float(exactly(widths, at))
        score = Score(0.0, np.array(widths))
        self.assertAlmostEqual(float(score.at_most(np.array([at]))[0]), wanted, delta=1e-13)
        self.assertAlmostEqual(float(score.more_than(np.array([at]))[0]), 1 - wanted, delta=1e-13)

    def test_widths_that_took_all_digits_away(self) -> None:
        for widths in ([200, 50, 0.3, 0.05, 0.1, 0.02], [10_000, 500, 20, 3, 0.1, 0.1]):
            score, at = Score(0.0, np.array(widths, dtype=float)), np.linspace(0, sum(widths), 301)
            found = score.at_most(at)
            self.assertTrue(bool((np.diff(found) >= 0).all()))
            for x, value in zip(at[::60].tolist(), found[::60].tolist(), strict=True):
                self.assertAlmostEqual(value, float(exactly(widths, x)), delta=1e-13)

    def test_what_is_hardly_ever_beaten_keeps_its_digits(self) -> None:
        score = Score(0.0, np.array([1.0, 2.0, 4.0]))
        for short in (1e-3, 1e-9):
            found = float(score.more_than(np.array([7 - short]))[0])
            self.assertAlmostEqual(found / (short**3 / 48), 1.0, delta=1e-6)


def exactly(widths: list[float], at: float) -> Fraction:
    """Chance of a sum of uniforms to be at most so much (Feller, vol. 2, I.9), without rounding."""
    total, x = Fraction(0), Fraction(at)
    for count in range(len(widths) + 1):
        for some in combinations(map(Fraction, widths), count):
            total += (-1) ** count * max(x - sum(some), Fraction(0)) ** len(widths)
    return total / factorial(len(widths)) / prod(map(Fraction, widths))


class Rare(unittest.TestCase):
    """Once in a very long time: waits, upgrades and what is worn have all their digits."""

    def made(self, chance: float) -> Game:
        return dressed(game([each((chance, "claw"), (chance, "lens"))]), claw={"bite": [1, 3]})

    def test_the_wait_for_a_first_upgrade(self) -> None:
        told = odds(self.made(1e-9), CRAB)["slots"]["claw"]
        self.assertEqual(told["first_50"], events_to_first(1e-9, 0.5))
        self.assertEqual(told["first_50"], 693147181)

    def test_a_set_of_one(self) -> None:
        one = {"id": "set", "name": "Set", "items": [{"item": "claw"}]}
        made = read_game(plain_game(self.made(1e-9)) | {"sets": [one]})
        self.assertEqual(odds(made, CRAB)["sets"]["set"]["first_50"], 693147181)

    def test_worn_and_upgrades(self) -> None:
        for events in (1, 10, 10**6):
            worn, upgrades = Slot(Conditions(self.made(1e-12), [1]), CRAB, "claw").after(events)
            self.assertAlmostEqual(upgrades / (events * 1e-12), 1.0, delta=1e-6)
            self.assertAlmostEqual(worn.mean / (2 * events * 1e-12), 1.0, delta=1e-6)

    def test_upgrades_one_by_one_are_all_of_them(self) -> None:
        made = dressed(
            game([each((0.3, "claw"), (0.2, "lens"))]), claw={"bite": [1, 3]}, lens={"bite": [2, 2]}
        )
        slot = Slot(Conditions(made, [1]), CRAB, "claw")
        every = [slot.upgrade_at(event) for event in range(1, 41)]
        self.assertAlmostEqual(sum(every), slot.after(40)[1], delta=1e-12)


class Worn(unittest.TestCase):
    def played(self, made: Game, events: int, players: int) -> tuple[np.ndarray, np.ndarray]:
        """Bags of the oracle's event drawn with its chances, their units scored one by one."""
        worlds = Oracle(made, 1).events("crab", 1)
        bags, chances = [bag for _, bag in worlds], np.array(list(worlds.values()))
        draw = np.random.default_rng(7)
        worn, ups = np.zeros(players), np.zeros(players)
        ranges = [[(one.min, one.max) for one in item.stats.values()] for item in made.items]
        for player in range(players):
            for at in draw.choice(len(bags), size=events, p=chances / chances.sum()):
                best = worn[player]
                for item, many in enumerate(bags[at]):
                    if made.items[item].slot is not None:
                        for _ in range(many):
                            best = max(best, sum(draw.uniform(low, high) for low, high in ranges[item]))
                ups[player] += best > worn[player]
                worn[player] = best
        return worn, ups

    def agrees(self, made: Game) -> None:
        found, upgrades = Slot(Conditions(made, [1]), CRAB, "claw").after(6)
        worn, ups = self.played(made, 6, 2_000)
        room = 4.5 / np.sqrt(worn.size)
        self.assertLess(abs(found.mean - worn.mean()), room * worn.std() + 1e-9)
        self.assertLess(abs(upgrades - ups.mean()), room * ups.std() + 1e-9)
        for q, figure in ((0.05, found.p05), (0.5, found.p50), (0.95, found.p95)):
            self.assertGreaterEqual((worn <= figure + 1e-9).mean(), q - 0.03)
            self.assertLessEqual((worn < figure - 1e-9).mean(), q + 0.03)

    def test_against_units_that_are_drawn(self) -> None:
        stats = {
            "claw": {"bite": [1, 3]},
            "lens": {"bite": [2, 2]},
            "crown": {"bite": [-1, 4], "reach": [0, 2]},
        }
        tables = [
            [each((0.4, "claw 2"), (0.2, "lens"), (0.1, "crown"))],
            [pick((2, "claw"), (1, "lens"), (1, "crown"), distinct=True, rolls={"min": 1, "max": 2})],
            [pick((1, "@inner"), (1, "crown"), nothing=2), each((0.5, "claw"), (0.5, "lens"), name="inner")],
        ]
        for made in tables:
            with self.subTest(rule=made[0]["rule"]):
                self.agrees(dressed(game(made), **stats))

    def test_weights_and_what_is_never_above_nothing(self) -> None:
        made = dressed(game([each((0.5, "claw"))]), claw={"bite": [1, 3]})
        data = plain_game(made)
        heavy = read_game(data | {"scores": {"bite": 2.0}})
        plain, twice = (Slot(Conditions(one, [1]), CRAB, "claw").after(5)[0] for one in (made, heavy))
        self.assertAlmostEqual(twice.mean, 2 * plain.mean)
        less = read_game(data | {"scores": {"bite": -1.0}})
        worn, upgrades = Slot(Conditions(less, [1]), CRAB, "claw").after(5)
        self.assertEqual((worn.mean, worn.p95, upgrades), (0.0, 0.0, 0.0))

    def test_very_many_events(self) -> None:
        """Upgrades of a score without steps: the harmonic numbers, as H(0)^k dies out."""
        made = dressed(game([each((1, "claw"))]), claw={"bite": [1, 3]})
        worn, upgrades = Slot(Conditions(made, [1]), CRAB, "claw").after(5_000_000)
        self.assertAlmostEqual(upgrades, float(np.log(5e6) + np.euler_gamma), places=6)
        self.assertAlmostEqual(worn.mean, 3.0, places=5)

    def test_one_uniform_score_by_closed_forms(self) -> None:
        """Of N scores from 10 to 20, each with a chance: the best is as far below 20 as it should be."""
        for chance in (1.0, 0.5, 0.01, 1e-6):
            made = dressed(game([each((chance, "claw"))]), claw={"bite": [10, 20]})
            for events in (1, 2, 100, 1_000, 10_000, 10**6, 10**9):
                with self.subTest(chance=chance, events=events):
                    worn, _ = Slot(Conditions(made, [1]), CRAB, "claw").after(events)
                    none = math.exp(events * math.log1p(-chance)) if chance < 1 else 0.0
                    short = 10 * none + 10 * (1 - none * (1 - chance)) / (chance * (events + 1))
                    self.assertAlmostEqual((20 - worn.mean) / short, 1.0, delta=1e-6)
                    self.assertAlmostEqual(worn.mean, 20 - short, delta=1e-9)
                    q95 = 20 + 10 * math.expm1(math.log(0.95) / events) / chance
                    self.assertAlmostEqual(worn.p95, q95 if q95 > 10 else 0.0, delta=1e-9)

    def test_several_items_of_several_stats_by_plain_sums(self) -> None:
        stats = {
            "claw": {"bite": [10, 20], "reach": [0, 1], "grip": [0, 0.01]},
            "lens": {"bite": [15, 40]},
            "crown": {"bite": [12, 21], "reach": [3, 3]},
        }
        made = dressed(game([each((1, "claw"), (0.001, "lens"), (0.3, "crown"))]), **stats)
        scores = np.linspace(0, 40, 4_000_001)
        log_none = np.log1p(-0.001 * (1 - np.clip((scores - 15) / 25, 0, 1)))
        log_none += np.log1p(-0.3 * (1 - np.clip((scores - 15) / 9, 0, 1)))
        with np.errstate(divide="ignore"):
            log_none += np.log(Score(10.0, np.array([10, 1, 0.01])).at_most(scores))
        for events in (1, 20, 1_000, 50_000):
            with self.subTest(events=events):
                at_most = np.exp(events * log_none)
                worn, _ = Slot(Conditions(made, [1]), CRAB, "claw").after(events)
                mean = float(np.trapezoid(1 - at_most, scores))
                self.assertAlmostEqual(worn.mean, mean, delta=2e-5)
                for q, figure in ((0.05, worn.p05), (0.5, worn.p50), (0.95, worn.p95)):
                    self.assertAlmostEqual(figure, float(scores[np.argmax(at_most >= q)]), delta=2e-5)

    def test_a_long_route_is_as_many_events(self) -> None:
        made = dressed(
            game([each((1, "claw"), (0.1, "lens"))]),
            claw={"bite": [1, 5]},
            lens={"bite": [1, 5], "reach": [0, 1]},
        )
        data = plain_game(made)
        leg = {"id": "a", "from": 1, "to": 10, "source": "crab", "times": {"min": 200, "max": 200}}
        made = read_game(data | {"routes": [{"id": "way", "name": "Way", "legs": [leg]}]})
        told = route_odds(made, "way", kit=True)["stops"][-1]["slots"]["claw"]
        worn, _ = Slot(Conditions(made, [1]), CRAB, "claw").after(2_000)
        for name in ("mean", "p05", "p50", "p95"):
            self.assertAlmostEqual(told[name], getattr(worn, name), delta=1e-9)

    def test_widths_that_differ_by_powers_of_ten(self) -> None:
        stats = {"claw": {"bite": [0, 1e-6], "reach": [0, 1e6], "grip": [0, 1]}}
        made = dressed(game([each((1, "claw"))]), **stats)
        worn, _ = Slot(Conditions(made, [1]), CRAB, "claw").after(1)
        self.assertAlmostEqual(worn.mean / 500_000.5000005, 1.0, delta=1e-9)

    def test_it_is_told_where_nothing_is_carried(self) -> None:
        table = each((0.5, "claw"))
        made = dressed(game([table]), claw={"bite": [1, 3]})
        self.assertEqual(set(odds(made, CRAB)["slots"]["claw"]), {"first_50", "first_90", "first_99"})
        table["lines"][0]["limit"] = 1
        self.assertNotIn("slots", odds(dressed(game([table]), claw={"bite": [1, 3]}), CRAB))
        self.assertNotIn("slots", odds(game([each((0.5, "claw"))]), CRAB))


if __name__ == "__main__":
    unittest.main()
