"""Families edited: what is its own stays, what is not follows; an elder that goes leaves its kin standing."""

from __future__ import annotations

import random
import unittest
from typing import Any

from golddice.core.game.editing import EditError, Entities, Entry, removal
from golddice.core.game.reading import plain_game, read_game, whole
from golddice.core.tuning.numbers import numbers_of, with_values
from tests.games import game_data, pick


def family() -> Entities:
    data = game_data([pick((1, "sand")), pick((1, "lens"), name="other")])
    data["sources"][0] |= {"tags": ["beast"], "notes": "Old."}
    data["sources"][0]["drops"].append({"id": "b", "table": "other", "chance": 0.5})
    data["sources"] += [
        {"id": "young", "name": "Young", "like": "crab", "seconds": 9, "drops": [{"id": "b", "chance": 0.2}]},
        {"id": "child", "name": "Child", "like": "young", "without": ["a"]},
    ]
    return Entities.of(read_game(data))


def body(entities: Entities, name: str) -> dict[str, Any]:
    return whole(entities.parsed["source"][name])


class Families(unittest.TestCase):
    def test_kin_follow_an_edit_of_the_elder(self) -> None:
        elder = body(family(), "crab")
        elder["drops"][1] |= {"chance": 0.9, "table": "bits"}
        elder["kind"] = "node"
        game = family().edited([Entry("source", "crab", elder)]).game()
        _, young, child = game.sources
        self.assertEqual((young.kind, young.drops[1].table, young.drops[1].chance), ("node", "bits", 0.2))
        self.assertEqual([drop.id for drop in child.drops], ["b"])
        self.assertEqual((child.drops[0].table, child.drops[0].chance, child.seconds), ("bits", 0.2, 9.0))

    def test_an_edit_of_all_of_it_states_what_is_other_than_its_elders(self) -> None:
        before = family()
        young = body(before, "young")
        young["notes"] = "Mine."
        young["drops"][0]["times"] = "2-3"
        after = before.edited([Entry("source", "young", young)])
        kept = after.bodies["source"]["young"]
        self.assertEqual(kept["notes"], "Mine.")
        self.assertEqual(kept["drops"][0], {"id": "a", "times": {"min": 2, "max": 3}})
        self.assertNotIn("tags", kept)
        self.assertEqual(after.parsed["source"]["child"].notes, "Mine.")

    def test_an_elder_that_is_refused_is_told_though_others_rest_on_it(self) -> None:
        with self.assertRaises(EditError) as raised:
            family().edited([Entry("source", "young", {"like": "crab", "name": "Young", "seconds": -1})])
        self.assertEqual(
            (raised.exception.places[0].id, raised.exception.places[0].path), ("young", "seconds")
        )

    def test_a_key_is_given_back(self) -> None:
        before = family()
        young = body(before, "young")
        young["seconds"] = 6.0
        young["stated"] = [key for key in young["stated"] if key != "seconds"]
        after = before.edited([Entry("source", "young", young)])
        self.assertNotIn("seconds", after.bodies["source"]["young"])
        stays = body(before, "young") | {"seconds": 6.0}
        kept = before.edited([Entry("source", "young", stays)]).bodies["source"]["young"]
        self.assertEqual(kept["seconds"], 6.0)

    def test_a_drop_that_is_taken_out_is_left_out(self) -> None:
        before = family()
        young = body(before, "young")
        del young["drops"][0]
        with self.assertRaisesRegex(EditError, "source child without"):
            before.edited([Entry("source", "young", young)])
        child = {"name": "Child", "like": "young"}
        after = before.edited([Entry("source", "young", young), Entry("source", "child", child)])
        self.assertEqual(after.bodies["source"]["young"]["without"], ["a"])
        self.assertEqual([drop.id for drop in after.parsed["source"]["child"].drops], ["b"])

    def test_an_elder_that_goes_leaves_its_kin_with_what_they_took(self) -> None:
        before = family()
        after = before.edited(removal(before, "source", "crab"))
        young, child = after.game().sources
        self.assertEqual((young.like, young.tags, young.notes), (None, ["beast"], "Old."))
        self.assertEqual([drop.table for drop in young.drops], ["bits", "other"])
        self.assertEqual((child.like, [drop.id for drop in child.drops]), ("young", ["b"]))
        self.assertEqual(read_game(plain_game(after.game())), after.game())

    def test_a_table_that_goes_takes_what_kin_say_of_its_drops(self) -> None:
        before = family()
        after = before.edited(removal(before, "table", "other"))
        self.assertEqual([len(source.drops) for source in after.game().sources], [1, 1, 0])

    def test_loops_and_strangers_are_refused(self) -> None:
        before = family()
        for entry, words in (
            (Entry("source", "crab", body(before, "crab") | {"like": "child"}), "closes a loop"),
            (Entry("source", "young", {"name": "Young", "like": "whale"}), "no source “whale”"),
            (Entry("source", "young", {"name": "Y", "like": "crab", "without": ["z"]}), "is “z”"),
        ):
            with self.subTest(words), self.assertRaisesRegex(EditError, words):
                before.edited([entry])

    def test_what_is_taken_is_no_number_of_its_own_and_follows(self) -> None:
        game = family().game()
        mine = {number.where for number in numbers_of(game) if number.id == "young"}
        self.assertEqual(mine, {"young/b/chance"})
        number = next(one for one in numbers_of(game) if one.where == "crab/b/chance")
        moved = with_values(game, {number: 0.7})
        self.assertEqual([source.drops[-1].chance for source in moved.sources], [0.7, 0.2, 0.2])


class Followed(unittest.TestCase):
    def test_after_any_edit_of_a_family_each_is_as_if_all_were_resolved_anew(self) -> None:
        luck, edits = random.Random(7), 0
        for _ in range(12):
            data = game_data([pick((1, "sand")), pick((1, "claw"), name="other")])
            for at in range(1, 9):
                like = luck.choice([source["id"] for source in data["sources"]])
                kin = {"id": f"s{at}", "name": f"S{at}", "like": like}
                if luck.random() < 0.5:
                    kin["seconds"] = luck.randint(1, 9)
                if luck.random() < 0.3:
                    kin["drops"] = [{"id": f"d{at}", "table": "other", "chance": 0.5}]
                data["sources"].append(kin)
            entities = Entities.of(read_game(data))
            for _ in range(12):
                name = luck.choice(list(entities.bodies["source"]))
                body = {**entities.bodies["source"][name], "seconds": float(luck.randint(1, 99))}
                if luck.random() < 0.3:
                    body["drops"] = [{**drop, "chance": 0.25} for drop in body.get("drops", [])]
                if "like" in body and luck.random() < 0.3:
                    body["like"] = luck.choice(list(entities.bodies["source"]))
                try:
                    entities = entities.edited([Entry("source", name, body)])
                except EditError:
                    continue  # a loop
                edits += 1
                anew = Entities.of(read_game(plain_game(entities.game())))
                self.assertEqual(anew.bodies["source"], entities.bodies["source"])
                self.assertEqual(anew.game(), entities.game())
                for name, facts in anew.facts["source"].items():
                    self.assertCountEqual(facts.mentions, entities.facts["source"][name].mentions)
        self.assertGreater(edits, 30)

    def test_an_edit_shares_what_it_does_not_touch(self) -> None:
        before = family()
        first = before.game()
        after = before.edited([Entry("source", "young", {**before.bodies["source"]["young"], "seconds": 3})])
        second = after.game()
        self.assertIs(first.tables, second.tables)
        self.assertEqual([source.seconds for source in first.sources], [6.0, 9.0, 9.0])
        self.assertEqual([source.seconds for source in second.sources], [6.0, 3.0, 3.0])
        plain = after.edited([Entry("source", "old", {"name": "Old", "like": "crab"})])
        self.assertIs(plain.parsed["source"]["old"].drops, plain.parsed["source"]["crab"].drops)
        table = {**after.bodies["table"]["bits"], "name": "Crumbs"}
        third = after.edited([Entry("table", "bits", table)]).game()
        self.assertIs(second.sources, third.sources)
        self.assertEqual((second.tables[0].name, third.tables[0].name), ("Bits", "Crumbs"))
