"""Events rolled from thresholds: as often as the odds say, and step by step the same in another language."""

from __future__ import annotations

import json
import math
import random
import re
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

from golddice.core.exchange.odds_page import odds_page
from golddice.core.exchange.rolling import Roller, dice_of
from golddice.core.exchange.thresholds import thresholds
from golddice.core.exchange.vectors import vectors
from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from golddice.core.trial.trial import Trial, local_executor, run_trial
from tests.core.test_exchange import reference_games
from tests.games import DEMO, ROOT, demo, each, game_data, pick

PLAYERS, EVENTS = 300, 25


def everything() -> dict[str, Any]:
    """Every rule with what a player carries: limits, guards, a deck, distinct picks, retries."""
    guard = {"after": 1, "rise": 0.5, "sure_at": 6}
    tables = [
        pick((3, "sand"), (1, "claw"), (0.2, "lens"), nothing=2, rolls={"min": 2, "max": 3}, distinct=True),
        each((0.3, "sand"), (0.05, "crown"), name="parts"),
        {**each((0.2, "claw"), (0.5, "sand"), name="order"), "rule": "first"},
        {"id": "cards", "name": "Cards", "rule": "deck", "rolls": {"min": 1, "max": 2}, "lines": []},
        {"id": "again", "name": "Again", "rule": "retry", "tries": 3, "lines": []},
    ]
    tables[0]["lines"][2]["guard"] = guard
    tables[0]["lines"][1]["limit"] = 4
    tables[1]["lines"][1] |= {"guard": {"after": 2, "rise": 0.1, "sure_at": 9}, "limit": 2}
    tables[2]["lines"][0] |= {"guard": {"after": 0, "rise": 0.2}, "needs": ["tongs"]}
    tables[3]["lines"] = [
        {"id": "a", "copies": 2, "yields": [{"item": "sand", "quantity": {"dice": "2d3-1"}}]},
        {"id": "b", "copies": 1, "limit": 3, "yields": [{"item": "lens"}]},
        {"id": "c", "copies": 3},
    ]
    tables[4]["lines"] = [
        {"id": "a", "weight": 2, "chance": 0.2, "yields": [{"pool": {"tiers": ["pearl"]}}]},
        {"id": "b", "weight": 1, "chance": 0.7, "guard": {"sure_at": 4}, "yields": [{"table": "order"}]},
    ]
    data = game_data(tables)
    names = ("bits", "parts", "order", "cards", "again")
    data["sources"][0]["drops"] = [
        {"id": f"d{at}", "table": name, "chance": 0.8, "times": {"min": 1, "max": 2}}
        for at, name in enumerate(names)
    ]
    data["sources"][0]["drops"][1] |= {"chance": 0.1, "guard": {"rise": 0.3, "sure_at": 5}}
    data["sources"][0]["drops"][0]["times"] = {"min": 1, "max": 3, "curve": "more"}
    data["curves"] = [{"id": "more", "name": "More", "points": [[1, 1.0], [10, 1.7]]}]
    return {**data, "flags": [{"id": "tongs", "name": "Tongs"}]}


class Rolled(unittest.TestCase):
    def test_what_a_player_comes_to_agrees_with_trials(self) -> None:
        game, luck = read_game(everything()), random.Random(4)
        document = thresholds(game)
        for depth, flags in ((1, ()), (7, ("tongs",))):
            with local_executor(2) as executor:
                wanted = run_trial(
                    game, Trial(View("source", "crab"), depth, 20_000, EVENTS, 5, flags), executor
                )
            sums: dict[str, list[int]] = {name: [] for name in wanted["items"]}
            for _ in range(PLAYERS):
                roller = Roller(document, depth, set(flags), lambda: luck.getrandbits(64))
                bag = dict.fromkeys(sums, 0)
                for _ in range(EVENTS):
                    for item, many in roller.event("crab")[1].items():
                        bag[item] += many
                for item, many in bag.items():
                    sums[item].append(many)
            for item, many in sums.items():
                told = wanted["items"][item]
                error = told["sd"] / math.sqrt(PLAYERS)
                z = (sum(many) / PLAYERS - told["mean"]) / max(error, 1e-12)
                self.assertLess(abs(z), 4.5, (depth, item, sum(many) / PLAYERS, told["mean"]))

    def test_dice(self) -> None:
        for text, wanted in (("d6", (1, 6, 0)), ("3d4+2", (3, 4, 2)), ("2d3-1", (2, 3, -1))):
            self.assertEqual(dice_of(text), wanted)


class Vectors(unittest.TestCase):
    def replayed(self, game: Game) -> str:
        """By the program in docs/, which has the two documents alone."""
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder) / name for name in ("thresholds.json", "vectors.json")]
            for path, made in zip(paths, (thresholds(game), vectors(game)), strict=True):
                path.write_text(json.dumps(made), encoding="utf-8")
            done = subprocess.run(
                ["node", str(ROOT / "docs" / "thresholds" / "roll.mjs"), *map(str, paths)],
                capture_output=True,
                text=True,
                check=False,
                timeout=60,
            )
        self.assertEqual(done.returncode, 0, done.stdout[-2_000:] + done.stderr[-2_000:])
        return done.stdout.splitlines()[-1]

    def test_javascript_comes_to_the_same(self) -> None:
        self.assertRegex(self.replayed(demo()), r"^\d{4} events, 0 other than wanted$")
        self.assertRegex(self.replayed(read_game(everything())), r"^\d+ events, 0 other than wanted$")

    def test_of_the_games_of_reference(self) -> None:
        replayed = 0
        for name, data in reference_games():
            game = read_game(data)
            if game.sources and len(game.tables) < 40:
                with self.subTest(name):
                    self.replayed(game)
                replayed += 1
            if replayed == 12:
                return

    def test_a_wrong_draw_is_noticed(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            made = vectors(read_game(everything()))
            for event in made["vectors"][0]["events"]:
                event["got"]["crown"] = 77
            paths = [Path(folder) / name for name in ("thresholds.json", "vectors.json")]
            paths[0].write_text(json.dumps(thresholds(read_game(everything()))), encoding="utf-8")
            paths[1].write_text(json.dumps(made), encoding="utf-8")
            program = str(ROOT / "docs" / "thresholds" / "roll.mjs")
            done = subprocess.run(["node", program, *map(str, paths)], capture_output=True, check=False)
        self.assertEqual(done.returncode, 1)

    def test_a_seed_says_all(self) -> None:
        game = read_game(everything())
        self.assertEqual(vectors(game), vectors(game))
        self.assertNotEqual(vectors(game), vectors(game, seed=2))
        for draw in vectors(game)["vectors"][0]["events"][0]["draws"]:
            self.assertEqual(math.floor(draw["d"] * 2**32), draw["u"])


class OddsPage(unittest.TestCase):
    def test_every_chance_is_the_games(self) -> None:
        page, game = odds_page(demo(), changed="1 April 2031"), demo()
        self.assertNotIn("<script", page)
        self.assertNotRegex(page, r"(?:src|href)=")
        self.assertIn("Last changed: 1 April 2031", page)
        names = {item.id: item.name for item in game.items}
        parcels = [source for source in game.sources if source.kind == "parcel"]
        parts = page.split("<h2>")[1:]
        checked = 0
        for source, part in zip(parcels, parts, strict=False):
            self.assertTrue(part.startswith(source.name))
            chunk = re.findall(r"<table><caption>.*?</table>", part)[0]
            heads = [int(one.partition("–")[0]) for one in re.findall(r"<th class=n>([\d–]+)", chunk)]
            for row in re.findall(r"<tr><td>(.*?)</tr>", chunk):
                name, *cells = re.split(r"<td class=n>", row)
                for depth, cell in zip(heads, cells, strict=True):
                    told = odds(game, View("source", source.id), depth=depth)["items"]
                    item = next(one for one, called in names.items() if called == name.replace("&#x27;", "'"))
                    wanted = told.get(item, {"p_any": 0.0})["p_any"]
                    figure = 0.0 if cell == "–" else float(cell.removesuffix(" %")) / 100
                    self.assertAlmostEqual(figure, wanted, delta=6e-5)
                    checked += 1
                if checked > 60:
                    break
        self.assertGreater(checked, 30)

    def test_guards_limits_and_names_that_are_markup(self) -> None:
        data = everything()
        data["sources"][0] |= {"kind": "parcel", "name": "<b>Crate & Co</b>"}
        page = odds_page(read_game(data))
        self.assertIn("&lt;b&gt;Crate &amp; Co&lt;/b&gt;", page)
        for words in (
            "Chances of a new player’s next purchase",
            "Lens: at the latest at the 6th try without.",
            "Crown: at most twice for each player.",
            "Cards is a deck",
        ):
            self.assertIn(words, page)

    def test_no_chance_is_told_as_none_or_all(self) -> None:
        data = game_data([each((1e-7, "crown"), (0.9999999, "sand"), (1, "claw"))])
        data["sources"][0]["kind"] = "parcel"
        page = odds_page(read_game(data))
        self.assertIn("0.00001 %", page)
        self.assertIn("99.99999 %", page)
        self.assertIn("100 %", page)

    def test_nothing_is_sold(self) -> None:
        self.assertIn("Nothing is sold", odds_page(read_game(game_data([pick((1, "sand"))]))))

    def test_the_demo_is_small_enough_to_be_printed(self) -> None:
        self.assertLess(len(odds_page(demo())), 100_000)
        self.assertGreater(len(DEMO.read_bytes()), 0)
