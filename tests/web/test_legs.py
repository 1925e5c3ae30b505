"""Legs of a route on the page: its stops are those that the server plays, and edits keep the rest."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.reading import plain, plain_game, read_game
from golddice.core.terms.stops import stops_of
from tests.games import demo
from tests.web.page import PageTest

LEGS = "sheets/route/legs.ts"
ends = st.integers(1, 30)


def leg(name: str, start: int, end: int, **more: Any) -> dict[str, Any]:
    return {"id": name, "from": start, "to": end, **more}


class Legs(PageTest):
    MODULES = (LEGS,)

    def call(self, name: str, *args: Any) -> Any:
        return self.page.call(LEGS, name, *args)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.tuples(ends, ends), min_size=1, max_size=5))
    def test_stops_are_those_that_are_played(self, spans: list[tuple[int, int]]) -> None:
        legs = [leg(f"l{at}", start, end) for at, (start, end) in enumerate(spans)]
        data = plain_game(demo())
        data["routes"] = [{"id": "r", "name": "R", "legs": legs}]
        data["targets"] = []
        game = read_game(data)
        played = [(stop.leg.id, stop.depth) for stop in stops_of(game, game.routes[0])]
        shown = self.call("stopsOf", legs)
        self.assertEqual([(legs[one["leg"]]["id"], one["depth"]) for one in shown], played)
        self.assertEqual(sum(one["begins"] for one in shown), len(legs))
        self.assertEqual(sum(one["ends"] for one in shown), len(legs))

    def test_moved_up_and_down_and_no_further(self) -> None:
        legs = [leg(name, 1, 1) for name in "abc"]

        def names(at: int, by: int) -> str:
            return "".join(one["id"] for one in self.call("movedLeg", legs, at, by))

        self.assertEqual([names(0, 1), names(0, 2), names(2, -1)], ["bac", "bca", "acb"])
        self.assertEqual([names(0, -1), names(2, 1), names(1, 5)], ["abc"] * 3)

    def test_a_leg_of_one_depth_moves_as_a_whole(self) -> None:
        self.assertEqual(self.call("withEnd", leg("a", 4, 4), "to", 9), leg("a", 9, 9))
        self.assertEqual(self.call("withEnd", leg("a", 4, 8), "to", 9), leg("a", 4, 9))
        self.assertEqual(self.call("withEnd", leg("a", 4, 8), "from", 12), leg("a", 12, 8))

    def test_what_it_does_is_one_thing_and_how_often_stays(self) -> None:
        """Through every kind of doing and back: the server reads each, and a leg never does two things."""
        made = self.call("newLeg", [leg("a", 1, 1)], 7)
        self.assertEqual((made["id"], made["from"], made["to"]), ("b", 7, 7))
        often = {"min": 2, "max": 5, "step": 1, "dice": None, "curve": None}
        now = self.call("withOften", made, often)
        for doing in ("source/lantern-eel", "visits", "place/drowned-market", "visits", "nothing"):
            now = self.call("withDoing", now, doing)
            self.assertEqual(self.call("doingOf", now), doing)
            done = [one for one in ("source", "place", "visits") if now[one] is not None]
            self.assertEqual(done, [doing.split("/")[0]] if doing != "nothing" else [])
            if doing == "source/lantern-eel":
                self.assertEqual(now["times"], often)
        self.assertEqual(self.call("oftenOf", now)["max"], 1)

    def test_legs_of_the_demo_say_what_they_do(self) -> None:
        for route in demo().routes:
            for one in route.legs:
                told = plain(one) | {"times": one.times and plain(one.times)}
                doing = self.call("doingOf", {"place": None, "source": None, "visits": None, **told})
                wanted = f"source/{one.source}" if one.source else f"place/{one.place}" if one.place else None
                self.assertEqual(doing, wanted or ("visits" if one.visits is not None else "nothing"))


if __name__ == "__main__":
    unittest.main()
