"""Places, families and stalls: the reference cases, and settings-out written once more, spot by spot."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
import unittest
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np

from golddice.core.errors import GameError
from golddice.core.game.reading import plain_game, read_game
from golddice.core.game.views import View
from golddice.core.odds.places.lying import Lying
from golddice.core.odds.places.setting_out import _played, set_out, setting
from golddice.core.odds.stall_draws import counted_draws
from golddice.core.odds.stalls import Sale
from golddice.core.sheets.place_report import place_report
from golddice.core.sheets.report import odds
from golddice.core.sheets.stall_report import stall_report
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.places.shares import order_of, units_of
from golddice.core.terms.places.spots import place_of
from tests.games import ROOT, game_data, pick

FOLDER = Path(__file__).parent / "reference" / "places"


def read(name: str) -> Any:
    return json.loads((FOLDER / name).read_text(encoding="utf-8"))


class Reference(unittest.TestCase):
    def test_every_case(self) -> None:
        self.asked = 0
        for path in sorted(FOLDER.glob("*.expected.json")):
            case = read(path.name)
            game = read_game(read(case["game"]))
            for query in case["queries"]:
                with self.subTest(path.name, **{key: query[key] for key in query if key != "expect"}):
                    self.agree(self.answer(game, query), query["expect"])
        self.assertGreater(self.asked, 3_000)

    def answer(self, game: Any, query: dict[str, Any]) -> dict[str, Any]:
        depth, flags = query.get("depth"), query.get("flags", [])
        if "place" in query:
            return place_report(game, query["place"], depth=depth, flags=flags, every=query.get("every"))
        if "stall" in query:
            return stall_report(game, query["stall"], query["at"], query.get("count", 1))
        kind = "source" if "source" in query else "table"
        return odds(game, View(kind, query[kind]), depth=depth, flags=flags, events=query.get("events"))

    def agree(self, got: Any, wanted: Any, path: str = "") -> None:
        if isinstance(wanted, dict):
            for key, value in wanted.items():
                self.agree(got[key], value, f"{path}.{key}")
        elif isinstance(wanted, float | int):
            self.asked += 1
            room = 1e-9 * abs(wanted) if wanted else 1e-12
            self.assertLessEqual(abs(got - wanted), room, f"{path}: {got} for {wanted}")
        else:
            self.assertEqual(got, wanted, path)

    def test_unsound_games_are_refused_with_every_place(self) -> None:
        for case in read("invalid/expected.json"):
            with self.subTest(case["game"]), self.assertRaises(GameError) as caught:
                read_game(read(f"invalid/{case['game']}"))
            text = str(caught.exception)
            for place in [*case.get("paths", []), *case.get("names", [])]:
                self.assertIn(place, text, case["game"])
            for places in case.get("any_of", []):
                self.assertTrue(any(place in text for place in places), (places, text))

    def test_writing_then_reading_gives_the_same_game(self) -> None:
        for path in sorted(FOLDER.glob("*.golddice.json")):
            game = read_game(read(path.name))
            with self.subTest(path.name):
                self.assertEqual(read_game(plain_game(game)), game)

    def test_what_kin_take_is_not_written(self) -> None:
        plain = plain_game(read_game(read("family.golddice.json")))["sources"]
        self.assertEqual(plain[3], {"id": "twin-rat", "name": "Twin rat", "like": "mill-rat"})
        self.assertEqual(plain[1]["drops"][0], {"id": "a", "chance": 1.0})


def random_place(luck: random.Random) -> dict[str, Any]:
    tags = ["glass", "dry", "food"]
    data = game_data(
        [pick(*((luck.choice([1, 2, 5.5]), name) for name in ("sand", "claw", "lens", "crown")))]
    )
    for item in data["items"]:
        item["tags"] = luck.sample(tags, luck.randint(0, 2))
    columns, rows = 5, 3
    cells = luck.sample([(x, y) for x in range(columns) for y in range(rows)], luck.randint(3, 9))
    cover = {"id": "c", "tags": [luck.choice(tags)]}
    cover["rows"] = ["".join(luck.choice(".#") for _ in range(columns)) for _ in range(rows)]
    data["places"] = [
        {
            "id": "p",
            "name": "P",
            "size": [columns, rows],
            "covers": [cover],
            "stock": "bits",
            "way": "shared-out",
            "filled": luck.choice([0.5, 0.8, {"count": luck.randint(1, 10)}]),
            "least": luck.choice([[], [{"line": "c", "count": 2}]]),
            "spots": [
                {"id": f"s{at}", "x": x, "y": y, "kinds": luck.sample(tags, luck.randint(0, 2))}
                for at, (x, y) in enumerate(cells)
            ],
        }
    ]
    return data


class SettingOut(unittest.TestCase):
    def lying(self, luck: random.Random) -> Lying:
        game = read_game(random_place(luck))
        return Lying(Conditions(game, [1]), place_of(game, "p"))

    def test_random_places_against_settings_out_spot_by_spot(self) -> None:
        luck, scores = random.Random(3), []
        for _ in range(25):
            lying = self.lying(luck)
            out = set_out(lying)
            self.assertEqual(out.method, "exact")
            units, runs = units_of(lying), 3_000
            counts, placed = np.zeros(out.spots.shape), np.zeros((runs, len(units)))
            for run in range(runs):
                free = set(range(len(lying.place.spots)))
                for line in order_of(lying):
                    for _ in range(units[line]):
                        able = [spot for spot in sorted(free) if lying.allowed[spot, line]]
                        if not able:
                            break
                        spot = luck.choice(able)
                        free.remove(spot)
                        counts[spot, line] += 1
                        placed[run, line] += 1
            spread = np.sqrt(np.maximum(out.spots * (1 - out.spots), 1e-12) / runs)
            scores += ((counts / runs - out.spots) / spread)[out.spots > 0].tolist()
            self.assertEqual(float((counts / runs)[out.spots == 0].sum()), 0.0)
            whole = (placed >= np.array(units)).mean(axis=0)
            np.testing.assert_allclose(whole, out.all_placed, atol=0.05)
            self.assertTrue((out.placed <= out.wanted + 1e-9).all())
            self.assertLessEqual(out.placed.sum(), out.most.sum() + 1e-9)
        self.assertLess(float(np.mean(np.square(scores))), 1.4)

    def test_what_is_played_agrees_with_what_is_followed(self) -> None:
        luck = random.Random(9)
        for _ in range(20):
            lying = self.lying(luck)
            exact, played = set_out(lying), _played(lying, units_of(lying))
            np.testing.assert_allclose(played.spots, exact.spots, atol=0.05)
            np.testing.assert_allclose(played.none, exact.none, atol=0.05)

    def test_numbers_are_the_same_in_every_setting_out(self) -> None:
        data = random_place(random.Random(4))
        data["places"][0] |= {"covers": [], "filled": 1.0, "least": []}
        for spot in data["places"][0]["spots"]:
            spot["kinds"] = []
        game = read_game(data)
        lying = Lying(Conditions(game, [1]), place_of(game, "p"))
        units = units_of(lying)
        for seed in range(1_000):
            found = setting(lying, seed)
            self.assertEqual([found.count(line) for line in range(len(units))], units)

    def test_the_curve_over_how_often_one_comes(self) -> None:
        luck = random.Random(6)
        for way in ("shared-out", "each-rolls"):
            data = random_place(luck)
            more = {"way": way, "least": [], "filled": 0.5, "refill_seconds": 300, "lasts_seconds": 700}
            data["places"][0] |= more
            game = read_game(data)
            values = {item.id: item.value for item in game.items}
            curve = place_report(game, "p", every=300)["visit"]["curve"]
            self.assertEqual(curve[0]["every"], 75)
            self.assertGreaterEqual(curve[-1]["every"], 4_800)
            for point in curve:
                told = place_report(game, "p", every=point["every"])["visit"]
                worth = sum(values[name] * mean for name, mean in told["mean"].items())
                self.assertAlmostEqual(point["per_visit"], worth, 9)
                self.assertAlmostEqual(point["per_hour"], worth * 3600 / point["every"], 9)
                self.assertAlmostEqual(point["unseen_share"], told["unseen_share"], 12)
            # Who comes seldom misses more, and an hour brings less.
            self.assertGreater(curve[-1]["unseen_share"], curve[2]["unseen_share"])
            self.assertLess(curve[-1]["per_hour"], curve[3]["per_hour"])

    def test_a_large_place_is_told_all_the_same(self) -> None:
        luck = random.Random(5)
        tags = [f"t{at}" for at in range(12)]
        data = game_data([pick((1, "sand"))])
        data["tables"][0]["lines"] = []
        for at in range(30):
            name = f"i{at}"
            data["items"].append({"id": name, "name": name, "tier": "silt", "tags": luck.sample(tags, 3)})
            line = {"id": f"l{at}", "weight": luck.choice([1, 2, 3]), "yields": [{"item": name}]}
            data["tables"][0]["lines"].append(line)
        spots = [{"id": f"s{at}", "x": at % 20, "y": at // 20, "kinds": [tags[at % 12]]} for at in range(200)]
        place = {"id": "p", "name": "P", "size": [20, 10], "stock": "bits", "filled": 0.9, "spots": spots}
        found = place_report(read_game({**data, "places": [place]}), "p")
        self.assertEqual(found["method"], "simulated")
        self.assertIn("placed_error", found["lines"]["l0"])


class Stalls(unittest.TestCase):
    def test_the_two_short_programs_come_to_the_same_goods(self) -> None:
        folder = ROOT / "docs" / "stalls"
        programs = ([sys.executable, str(folder / "stall.py")], ["node", str(folder / "stall.mjs")])
        for case in json.loads((folder / "vectors.json").read_text()):
            with tempfile.TemporaryDirectory() as room:
                path = Path(room) / "stall.json"
                path.write_text(json.dumps(case["stall"]))
                for program in programs:
                    asked = [*program, str(path), case["at"], str(case["count"])]
                    done = subprocess.run(asked, capture_output=True, text=True, check=True)
                    self.assertEqual(json.loads(done.stdout), case["goods"], program[0])

    def test_shares_against_a_count(self) -> None:
        data = game_data([pick((1, "sand"), (2, "claw"), (5, "lens"), (0.5, "crown"))])
        for way, slots in (("draw", 2), ("deal", 3)):
            stall = {"id": "s", "name": "S", "stock": "bits", "slots": slots, "seed": 5, "way": way}
            sale = Sale(
                read_game({**data, "stalls": [stall]}), read_game({**data, "stalls": [stall]}).stalls[0]
            )
            periods = 4_000
            for name, share in sale.shares.items():
                seen = sum(name in sale.on_sale(period) for period in range(periods)) / periods
                self.assertAlmostEqual(seen, share, delta=0.03)

    def test_many_periods_at_once_are_those_one_by_one(self) -> None:
        """To the last good; also where fixed slots find nothing left that fits."""
        dice = random.Random(5)
        for _ in range(12):
            items = ["sand", "claw", "lens", "crown", "sand", "lens"]
            table = pick(*[(dice.choice([0.1, 1.0, 2.5, 7.0]), name) for name in items], name="goods")
            slots = dice.randint(1, 5)
            tiers = ["silt", "pearl"]
            fixed = [{"slot": at, "tier": dice.choice(tiers)} for at in range(1, dice.randint(1, slots) + 1)]
            stall = {"id": "stall", "name": "Stall", "stock": "goods", "slots": slots, "fixed": fixed}
            made = read_game(game_data([table], stalls=[stall | {"seed": dice.randrange(2**53)}]))
            sale = Sale(made, made.stalls[0])
            names = [name for name, _ in sale.goods]
            fits = [np.array([name in sale._fitting[one] for name in names]) for one in made.stalls[0].fixed]
            weights_here = np.array([weight for _, weight in sale.goods])
            counts = counted_draws(made.stalls[0].seed, 300, weights_here, slots, fits)
            told = Counter(good for period in range(300) for good in sale.on_sale(period))
            self.assertEqual(counts.tolist(), [told[name] for name in names])

    def test_every_good_is_on_sale_once_a_round(self) -> None:
        data = game_data([pick((1, "sand"), (2, "claw"), (5, "lens"), (0.5, "crown"))])
        data["stalls"] = [{"id": "s", "name": "S", "stock": "bits", "slots": 3, "way": "deal"}]
        game = read_game(data)
        sale = Sale(game, game.stalls[0])
        for number in range(200):
            periods = [sale.on_sale(2 * number), sale.on_sale(2 * number + 1)]
            self.assertEqual(set(periods[0]) | set(periods[1]), {"a", "b", "c", "d"})
            self.assertTrue(all(len(set(one)) == 3 for one in periods))

    def test_before_it_begins_and_before_1970(self) -> None:
        data = game_data([pick((1, "sand"))])
        data["stalls"] = [{"id": "s", "name": "S", "stock": "bits", "starts_at": -86_400}]
        game = read_game(data)
        told = stall_report(game, "s", "1969-12-30T23:59:59Z", 3)["periods"]
        self.assertEqual([one["k"] for one in told], [-1, 0, 1])
        self.assertEqual([one["goods"] for one in told], [[], ["a"], ["a"]])
        self.assertEqual(told[1]["from"], "1969-12-31T00:00:00Z")
        zoned = stall_report(game, "s", "2031-03-30T03:30:00+02:00", 1)["periods"]
        self.assertEqual(zoned, stall_report(game, "s", "2031-03-30T01:30:00Z", 1)["periods"])
