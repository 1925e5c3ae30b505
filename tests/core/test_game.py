"""Reading games, quantities, curves and edits."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from golddice.core.errors import GameError, UnknownThing
from golddice.core.game.curves import multiplier
from golddice.core.game.editing import EditError, Entities, Entry, new_id, removal
from golddice.core.game.models import Curve
from golddice.core.game.quantity import parse_quantity
from golddice.core.game.reading import plain_game, read_game
from golddice.core.terms.stops import band_at, bands_at
from tests.games import demo, game, game_data, pick


def problems(data: object) -> str:
    try:
        read_game(data)
    except GameError as error:
        return str(error)
    return ""


class Quantities(unittest.TestCase):
    def test_people_write_four_forms(self) -> None:
        for text in ("3", "1-3", "1000-2000/100", "2d6+1", "3d8-2"):
            self.assertEqual(str(parse_quantity(text)), text)

    def test_spaces_and_dashes_do_not_matter(self) -> None:
        self.assertEqual(str(parse_quantity(" 1 – 3 ")), "1-3")

    def test_unsound_quantities_say_why(self) -> None:
        cases = {
            "4-2": "swap",
            "1-4/2": "does not lead",
            "1-5/0": "at least 1",
            "1d6-3": "negative",
            "0d6": "dice",
            "many": "written",
        }
        for text, reason in cases.items():
            with self.subTest(text), self.assertRaisesRegex(ValueError, reason):
                parse_quantity(text)

    @given(st.integers(0, 10_000), st.integers(1, 50), st.integers(0, 50))
    def test_what_is_written_is_read_back(self, low: int, step: int, steps: int) -> None:
        text = f"{low}-{low + step * steps}/{step}"
        again = parse_quantity(str(parse_quantity(text)))
        self.assertEqual((again.least, again.most), (low, low + step * steps))

    def test_a_file_does_not_take_what_people_type(self) -> None:
        data = game_data([pick((1, "sand"))])
        data["tables"][0]["rolls"] = "1-3"
        self.assertIn("tables[0].rolls", problems(data))


class Reading(unittest.TestCase):
    def test_ids_are_unique(self) -> None:
        data = game_data([pick((1, "sand")), pick((1, "claw"))])
        self.assertIn("tables[1].id", problems(data))

    def test_what_a_rule_does_not_have_is_refused(self) -> None:
        table = pick((1, "sand"))
        table["lines"][0]["chance"] = 0.5
        self.assertIn("tables[0].lines[0].chance", problems(game_data([table])))

    def test_numbers_must_be_finite(self) -> None:
        for value in (float("nan"), float("inf"), -1):
            with self.subTest(value):
                text = problems(game_data([pick((value, "sand"))]))
                self.assertIn("tables[0].lines[0].weight", text)

    def test_a_character_that_cannot_be_kept_is_told_by_its_place(self) -> None:
        for path, more in (
            ("name", {"name": "Tide\x00pool"}),
            ("tables[0].notes", {"tables": [{**pick((1, "sand")), "notes": "\x00"}]}),
        ):
            with self.assertRaises(GameError) as caught:
                read_game({**game_data([pick((1, "sand"))]), **more})
            problem = caught.exception.problems[0]
            self.assertEqual(problem.path, path)
            self.assertIn("NUL", problem.message)

    def test_a_yield_names_one_thing(self) -> None:
        table = pick((1, "sand"))
        table["lines"][0]["yields"] = [{"item": "sand", "table": "bits"}]
        self.assertIn("tables[0].lines[0].yields[0]", problems(game_data([table])))

    def test_targets_are_refused_until_they_exist(self) -> None:
        self.assertIn("targets", problems({**game_data([]), "targets": [{"id": "a"}]}))

    def test_a_guard_on_a_deck_is_refused(self) -> None:
        line = {"id": "a", "copies": 2, "guard": {"after": 3, "rise": 1}}
        deck = {"id": "d", "name": "D", "rule": "deck", "lines": [line]}
        self.assertIn("tables[0].lines[0].guard", problems(game_data([deck])))

    def test_bands_do_not_leave_the_game(self) -> None:
        bands = [
            {"id": "a", "name": "A", "from": 1, "to": 6},
            {"id": "b", "name": "B", "from": 6, "to": 12},
        ]
        text = problems({**game_data([]), "depth": {"from": 1, "to": 10, "bands": bands}})
        self.assertIn("depth.bands[1]", text)
        self.assertIn("outside", text)

    def test_where_bands_overlap_the_first_counts(self) -> None:
        """At every depth by itself and at all of them at once, whatever their order."""
        spans = [(6, 8), (1, 6), (3, 12), (2, 4)]
        bands = [
            {"id": f"b{at}", "name": "B", "from": low, "to": high} for at, (low, high) in enumerate(spans)
        ]
        made = game([], depth={"from": 1, "to": 14, "bands": bands})
        depths = np.arange(1, 15)
        wanted = [1, 1, 1, 1, 1, 0, 0, 0, 2, 2, 2, 2, -1, -1]
        np.testing.assert_array_equal(bands_at(made, depths), wanted)
        for depth, at in zip(depths.tolist(), wanted, strict=True):
            band = band_at(made, depth)
            self.assertEqual(band.id if band else None, f"b{at}" if at >= 0 else None)

    def test_nonsense_is_refused_not_crashed_on(self) -> None:
        for data in (None, [], {}, {"format": "golddice-game", "version": 1, "tables": 3}, "x"):
            self.assertNotEqual(problems(data), "")


class Curves(unittest.TestCase):
    def test_shapes_at_and_between_points(self) -> None:
        depths = np.array([1, 2, 3, 4, 9])
        points = [(2, 1.0), (4, 3.0), (6, 3.0)]
        line = multiplier(Curve(id="a", name="A", shape="line", points=points), depths)
        step = multiplier(Curve(id="a", name="A", shape="step", points=points), depths)
        np.testing.assert_allclose(line, [1, 1, 2, 3, 3])
        np.testing.assert_allclose(step, [1, 1, 1, 3, 3])

    def test_ease_never_overshoots(self) -> None:
        curve = Curve(id="a", name="A", shape="ease", points=[(1, 0.0), (5, 2.0), (9, 2.0)])
        values = multiplier(curve, np.arange(1, 10))
        self.assertTrue(np.all(np.diff(values) >= 0))
        self.assertLessEqual(values.max(), 2.0)


class Edits(unittest.TestCase):
    def setUp(self) -> None:
        self.entities = Entities.of(demo())

    def test_taken_apart_and_put_together_is_the_same(self) -> None:
        self.assertEqual(read_game(self.entities.data()), demo())
        self.assertEqual(plain_game(self.entities.game()), plain_game(demo()))

    def test_an_edit_takes_typed_quantities(self) -> None:
        body = dict(self.entities.bodies["table"]["eel-catch"])
        edited = self.entities.edited([Entry("table", "eel-catch", {**body, "rolls": "2d4"})])
        self.assertEqual(edited.bodies["table"]["eel-catch"]["rolls"], {"dice": "2d4"})

    def test_what_is_put_back_and_what_is_copied_is_the_very_part(self) -> None:
        """So what was worked out of it is found again."""
        was = self.entities.parsed["table"]["eel-catch"]
        body = self.entities.bodies["table"]["eel-catch"]
        edited = self.entities.edited([Entry("table", "eel-catch", {**body, "nothing": 3})])
        back = edited.edited([Entry("table", "eel-catch", body)])
        copied = Entities.of(read_game(plain_game(self.entities.game())))
        self.assertIsNot(edited.parsed["table"]["eel-catch"], was)
        self.assertIs(back.parsed["table"]["eel-catch"], was)
        self.assertIs(copied.parsed["table"]["eel-catch"], was)

    def test_a_refused_edit_changes_nothing(self) -> None:
        before = self.entities.data()
        with self.assertRaises(EditError) as caught:
            self.entities.edited([Entry("table", "eel-catch", None), Entry("item", "eelskin", {"name": ""})])
        self.assertEqual({place.id for place in caught.exception.places}, {"eelskin"})
        self.assertEqual(self.entities.data(), before)

    def test_a_dangling_reference_names_the_place(self) -> None:
        with self.assertRaises(EditError) as caught:
            self.entities.edited([Entry("item", "eelskin", None)])
        place = caught.exception.places[0]
        self.assertEqual((place.kind, place.id), ("table", "eel-catch"))
        self.assertEqual(place.path, "lines[0].yields[0].item")

    def test_a_loop_is_refused(self) -> None:
        body = dict(self.entities.bodies["table"]["cabinet-of-curios"])
        line = {"id": "z", "weight": 1, "yields": [{"table": "drowned-silver"}]}
        with self.assertRaisesRegex(EditError, "loop"):
            lines = [*body["lines"], line]
            self.entities.edited([Entry("table", "cabinet-of-curios", {**body, "lines": lines})])

    def test_removal_takes_what_needs_it_along(self) -> None:
        for kind, name in (
            ("item", "eelskin"),
            ("item", "brass-token"),
            ("table", "cabinet-of-curios"),
            ("table", "shelf-life"),
            ("curve", "deepens"),
            ("source", "silt-crab"),
        ):
            with self.subTest(kind=kind, name=name):
                edited = self.entities.edited(removal(self.entities, kind, name))
                self.assertNotIn(name, edited.bodies[kind])
                read_game(edited.data())

    def test_curves_that_were_private_to_what_is_removed_go_with_it(self) -> None:
        """Of a table, of the line that goes with an item; not those of others, nor shared ones."""
        curve = {"shape": "line", "points": [[1, 1]]}
        names = {"of-table": True, "of-line": True, "of-both": True, "shared": False, "of-crab": True}
        made = [
            Entry("curve", name, {**curve, "id": name, "name": name, "private": private})
            for name, private in names.items()
        ]
        catch, silver = (
            dict(self.entities.bodies["table"][name]) for name in ("eel-catch", "drowned-silver")
        )
        first, second, *rest = catch["lines"]
        lines = [{**first, "curve": "of-line"}, {**second, "curve": "shared"}, *rest]
        crab = dict(self.entities.bodies["source"]["silt-crab"])
        crab["drops"] = [*crab["drops"][:-1], {**crab["drops"][-1], "curve": "of-crab"}]
        both = {"min": 1, "max": 1, "curve": "of-both"}
        edits = [
            *made,
            Entry(
                "table", "eel-catch", {**catch, "lines": lines, "nothing_curve": "of-table", "rolls": both}
            ),
            Entry("table", "drowned-silver", {**silver, "rolls": both}),
            Entry("source", "silt-crab", crab),
        ]
        entities = self.entities.edited(edits)
        kept = lambda *what: set(names) & set(entities.edited(removal(entities, *what)).bodies["curve"])  # noqa: E731
        self.assertEqual(kept("table", "eel-catch"), {"of-both", "shared", "of-crab"})
        self.assertEqual(kept("item", "eelskin"), set(names) - {"of-line"})
        self.assertEqual(kept("source", "silt-crab"), set(names) - {"of-crab"})
        self.assertEqual(kept("curve", "of-table"), set(names) - {"of-table"})

    def test_a_tier_with_items_stays(self) -> None:
        with self.assertRaises(EditError):
            self.entities.edited(removal(self.entities, "tier", "wonder"))

    def test_removal_of_nothing_is_refused(self) -> None:
        with self.assertRaises(UnknownThing):
            removal(self.entities, "item", "no-such")

    def test_moving_before_another(self) -> None:
        body = self.entities.bodies["tier"]["wonder"]
        edited = self.entities.edited([Entry("tier", "wonder", body, before="salvage")])
        self.assertEqual(list(edited.bodies["tier"])[:3], ["flotsam", "wonder", "salvage"])

    def test_ids_come_from_names(self) -> None:
        self.assertEqual(new_id("Élan’s  locker!", {"elans-locker"}), "elans-locker-2")

    def test_an_id_of_a_long_name_is_one_that_a_file_may_hold(self) -> None:
        for letters in range(56, 64):  # it may be cut behind a word
            name = new_id(letters * "a" + " eel", set())
            self.entities.edited([Entry("flag", name, {"id": name, "name": "Long"})])


if __name__ == "__main__":
    unittest.main()
