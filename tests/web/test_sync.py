"""What a page knows while edits go to and fro, in every order that a network can bring about.

The server here is the real store's rules in a few lines: revisions, a conflict where a thing has moved
since, a change that is answered once. Pages are the page's own module.
"""

from __future__ import annotations

import unittest
from collections.abc import Iterator
from dataclasses import dataclass
from random import Random
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import Page

MODULES = ("game/sync/state.ts", "game/sync/merge.ts")
Body = dict[str, Any]


def game_with(tables: dict[str, Body]) -> Body:
    lists = ("curves", "tiers", "flags", "items", "tables", "sources", "targets")
    return {
        "id": "g",
        "settings": {"name": "G"},
        **{key: [] for key in lists},
        "tables": list(tables.values()),
    }


def table(name: str, **weights: int) -> Body:
    lines = [{"id": line, "weight": weight} for line, weight in weights.items()]
    return {"id": name, "name": name, "lines": lines}


class Server:
    """One game with tables, changed by whole bodies."""

    def __init__(self, *tables: Body) -> None:
        self.revision = 1
        self.bodies: dict[str, Body | None] = {one["id"]: one for one in tables}
        self.moved: dict[str, int] = {}
        self.answered: dict[str, Body] = {}
        self.undone: list[tuple[str, Body | None]] = []
        self.history: dict[int, Body] = {1: dict(self.bodies)}
        self.contents: dict[str, Body] = {}

    def game(self) -> Body:
        there = {name: body for name, body in self.bodies.items() if body is not None}
        return {**game_with(there), "revision": self.revision, "steps": {"undo": None, "redo": None}}

    def change(self, effect: Body) -> Body:
        """What it answers to a change: the event that the page takes it for."""
        change = effect["change"]
        token, doing = change["token"], change["doing"]
        if token not in self.answered:
            if doing["what"] == "redo":
                return {"type": "refused", "token": token, "why": "there is nothing to do again"}
            if doing["what"] == "undo":
                if not self.undone:
                    return {"type": "refused", "token": token, "why": "there is nothing to undo"}
                entries = [{"kind": "table", "id": name, "body": body} for name, body in [self.undone.pop()]]
            else:
                entries = effect["entries"]
                if any(self.moved.get(one["id"], 1) > effect["base"] for one in entries):
                    return {"type": "behind", "token": token, "revision": self.revision}
                if any(_is_bad(one["body"]) for one in entries):
                    return {"type": "refused", "token": token, "why": "a weight is too small"}
                self.undone = [(one["id"], self.bodies.get(one["id"])) for one in entries]
            self.revision += 1
            for one in entries:
                self.bodies[one["id"]] = one["body"]
                self.moved[one["id"]] = self.revision
            self.history[self.revision] = dict(self.bodies)
            told = [{"kind": one["kind"], "id": one["id"], "body": one["body"]} for one in entries]
            steps = {"undo": change["label"], "redo": None}
            applied = {"revision": self.revision, "label": change["label"], "entries": told, "steps": steps}
            self.answered[token] = applied
        return {"type": "acknowledged", "token": token, "applied": self.answered[token]}


def _is_bad(body: Body | None) -> bool:
    return body is not None and any(line["weight"] < 0 for line in body["lines"])


def weights(body: Body) -> dict[str, int]:
    return {line["id"]: line["weight"] for line in body["lines"]}


class Client:
    """A page, and what is on its way from it and to it."""

    def __init__(self, page: Page, name: str, server: Server, kept: list[Body] | None = None) -> None:
        self.page, self.name, self.server = page, name, server
        self.pending: list[Body] = []
        self.told: dict[str, str | None] = {}
        self.asked: set[str] = set()
        self.count = self.revision = 0
        self._take(page.sync(name, open=server.game(), kept=kept or []))

    def event(self, event: Body) -> None:
        self._take(self.page.sync(self.name, event=event))

    def _take(self, state: Body) -> None:
        """At every moment what counts as saved is the server's game at that revision, which never falls."""
        assert state["revision"] >= self.revision, "an older revision took the place of a newer one"
        self.state, self.revision = state, state["revision"]
        there = {name: body for name, body in self.server.history[self.revision].items() if body is not None}
        assert state["saved"]["table"] == there, "saved is not what the server has"
        for word, tables in (("content", state["saved"]["table"]), ("shownContent", state["shown"]["table"])):
            known = self.server.contents.setdefault(state[word], tables)
            assert known == tables, "one word for two contents: an old answer would stand for a new one"
        if state["clash"]:
            self.asked.add(state["clash"]["token"])
        for effect in state["effects"]:
            if effect["do"] == "tell":
                if effect["isDone"] or effect["failure"]:
                    self.told[effect["token"]] = effect["failure"]
            else:
                self.pending.append(effect)

    def make(self, doing: Body, label: str = "edit") -> str:
        self.count += 1
        token = f"{self.name}-{self.count:06}"
        self.event({"type": "made", "change": {"token": token, "label": label, "doing": doing}})
        return token

    def weigh(self, name: str, line: str, weight: int, seen: Body | None = None) -> str:
        """Type a weight; `seen` is the table as it was when the edit was thought of."""
        now = seen or self.shown(name)
        lines = [{**one, "weight": weight} if one["id"] == line else one for one in now["lines"]]
        edit = {"kind": "table", "id": name, "body": {**now, "lines": lines}, "seen": now}
        return self.make({"what": "edit", "edits": [edit]}, f"{line} {weight}")

    def shown(self, name: str) -> Body:
        found: Body = self.state["shown"]["table"][name]
        return found

    def deliver(self, fate: str = "comes") -> None:
        """What is on its way first comes to the server, or not; and its answer back, or not."""
        effect = self.pending.pop(0)
        if effect["do"] == "wait":
            return self.event({"type": "tried again"})
        if effect["do"] == "load":
            failed = {"type": "not loaded"}
            return self.event(failed if fate == "lost" else {"type": "loaded", "game": self.server.game()})
        if fate == "lost":
            return self.event({"type": "unreachable"})
        answer = self.server.change(effect)
        return self.event({"type": "unreachable"} if fate == "answer lost" else answer)

    def hear(self) -> None:
        self.event({"type": "heard", "revision": self.server.revision})

    def quiet(self) -> None:
        """Until nothing is on its way any more; what is asked is answered with mine."""
        for _ in range(200):
            if self.state["clash"]:
                self.event({"type": "chosen", "side": "mine"})
            elif self.pending:
                self.deliver()
            elif self.state["heard"] < self.server.revision:
                self.hear()
            else:
                return
        raise AssertionError("it never comes to rest")


class SyncTest(unittest.TestCase):
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(*MODULES))

    def setUp(self) -> None:
        self.server = Server(table("t", a=1, b=2), table("u", a=5))
        self.one = Client(self.page, "one", self.server)
        self.two = Client(self.page, "two", self.server)


class Content(SyncTest):
    def test_an_edit_is_the_same_content_before_and_after_it_is_saved(self) -> None:
        """What was asked of it while it was on its way is not asked again once it is there."""
        self.one.weigh("t", "a", 7)
        self.one.weigh("u", "a", 6)
        shown = {self.one.state["shownContent"]}
        while self.one.pending:
            self.one.deliver()
            shown.add(self.one.state["shownContent"])
        self.assertEqual(len(shown), 1)
        self.assertEqual(self.one.state["content"], self.one.state["shownContent"])

    def test_other_edits_and_undo_are_another_content(self) -> None:
        seen = {self.one.state["shownContent"]}
        for name, line, weight in (("t", "a", 7), ("t", "a", 8), ("t", "b", 8), ("u", "a", 7)):
            self.one.weigh(name, line, weight)
            seen.add(self.one.state["shownContent"])
            self.one.quiet()
        self.one.make({"what": "undo"})
        self.one.quiet()
        seen.add(self.one.state["shownContent"])
        self.assertEqual(len(seen), 6)


class InOrder(SyncTest):
    def test_an_edit_is_shown_at_once_and_saved(self) -> None:
        self.one.weigh("t", "a", 7)
        self.assertEqual(weights(self.one.shown("t")), {"a": 7, "b": 2})
        self.one.quiet()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 7, "b": 2})
        self.assertEqual(self.one.state["queue"], [])

    def test_an_answer_thought_of_before_another_edit_takes_nothing_back(self) -> None:
        """10 % typed into one line's answer, and before that comes back a weight into another line."""
        seen = self.one.shown("t")
        self.one.weigh("t", "b", 9)
        self.one.weigh("t", "a", 4, seen=seen)
        self.one.quiet()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 4, "b": 9})

    def test_an_answer_lost_after_it_was_done_is_no_conflict_with_oneself(self) -> None:
        token = self.one.weigh("t", "a", 7)
        self.one.weigh("t", "a", 8)
        self.one.deliver("answer lost")
        self.assertTrue(self.one.state["away"])
        self.one.quiet()
        self.assertEqual((self.server.revision, self.one.state["revision"]), (3, 3))
        self.assertIsNone(self.one.told[token])
        self.assertEqual(weights(self.one.state["saved"]["table"]["t"]), {"a": 8, "b": 2})

    def test_a_refused_edit_is_taken_back_and_what_was_made_after_it_stays(self) -> None:
        bad = self.one.weigh("t", "a", -5)
        good = self.one.weigh("t", "b", 6)
        again = self.one.weigh("t", "a", 3)
        self.one.quiet()
        self.assertEqual(self.one.told, {bad: "a weight is too small", good: None, again: None})
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 3, "b": 6})

    def test_undo_while_an_edit_is_on_its_way_takes_back_that_edit(self) -> None:
        self.one.weigh("t", "a", 7)
        self.one.make({"what": "undo"})
        self.one.weigh("t", "b", 9)
        self.one.quiet()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 1, "b": 9})
        self.assertEqual(weights(self.one.shown("t")), {"a": 1, "b": 9})

    def test_an_undo_that_leaves_all_in_its_place_does_not_fetch_the_game(self) -> None:
        for in_order in (True, False):
            self.one.weigh("t", "a", 7)
            self.one.quiet()
            token = self.one.make({"what": "undo"})
            effect = self.one.pending.pop(0)
            answer = self.server.change(effect)
            self.assertEqual(effect["change"]["token"], token)
            answer["applied"]["in_order"] = in_order
            self.one.event(answer)
            loads = [one for one in self.one.pending if one["do"] == "load"]
            self.assertEqual(len(loads), 0 if in_order else 1)
            self.assertEqual(weights(self.one.shown("t")), {"a": 1, "b": 2})
            self.one.quiet()

    def test_what_is_typed_after_undo_stands_though_undo_touched_the_same(self) -> None:
        self.one.weigh("t", "a", 7)
        self.one.make({"what": "undo"})
        self.one.weigh("t", "a", 8)
        while self.one.pending:
            self.assertIsNone(self.one.state["clash"])
            self.one.deliver()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 8, "b": 2})

    def test_a_form_that_others_overtook_asks_and_overwrites_nothing(self) -> None:
        """What they did was heard of, but the form was opened before."""
        seen = self.one.shown("t")
        self.two.weigh("t", "a", 7)
        self.two.quiet()
        self.one.quiet()
        self.assertEqual(weights(self.one.shown("t")), {"a": 7, "b": 2})
        self.one.weigh("t", "a", 4, seen=seen)
        self.assertEqual(self.one.state["clash"]["things"][0]["places"], ["lines[a].weight"])
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 7, "b": 2})

    def test_a_form_that_others_and_an_edit_of_ours_overtook_asks_too(self) -> None:
        seen = self.one.shown("t")
        self.two.weigh("t", "a", 7)
        self.two.quiet()
        self.one.quiet()
        self.one.weigh("t", "b", 9)
        self.one.weigh("t", "a", 4, seen=seen)
        while self.one.pending:
            self.one.deliver()
        self.assertEqual(self.one.state["clash"]["things"][0]["places"], ["lines[a].weight"])
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 7, "b": 9})

    def test_an_older_answer_that_comes_late_changes_nothing(self) -> None:
        early = self.server.game()
        self.two.weigh("t", "a", 7)
        self.two.quiet()
        self.one.quiet()
        self.assertEqual(self.one.state["revision"], 2)
        self.one.event({"type": "loaded", "game": early})
        self.assertEqual(self.one.state["revision"], 2)
        self.assertEqual(weights(self.one.shown("t")), {"a": 7, "b": 2})

    def test_what_another_changed_beside_mine_stays(self) -> None:
        self.two.weigh("t", "b", 9)
        self.two.quiet()
        self.one.weigh("t", "a", 7)
        self.one.quiet()
        self.two.quiet()
        for body in (self.server.bodies["t"] or {}, self.one.shown("t"), self.two.shown("t")):
            self.assertEqual(weights(body), {"a": 7, "b": 9})

    def test_where_both_changed_the_same_it_is_asked(self) -> None:
        self.two.weigh("t", "a", 9)
        self.two.quiet()
        self.one.weigh("t", "a", 7)
        self.one.weigh("u", "a", 6)
        while not self.one.state["clash"]:
            self.one.deliver()
        (thing,) = self.one.state["clash"]["things"]
        self.assertEqual((thing["id"], thing["places"]), ("t", ["lines[a].weight"]))
        self.one.event({"type": "chosen", "side": "theirs"})
        self.one.quiet()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 9, "b": 2})
        self.assertEqual(weights(self.server.bodies["u"] or {}), {"a": 6})

    def test_all_that_clash_are_told(self) -> None:
        for name in ("t", "u"):
            self.two.weigh(name, "a", 9)
        self.two.quiet()
        edits = []
        for name in ("t", "u"):
            seen = self.one.shown(name)
            edits.append({"kind": "table", "id": name, "body": table(name, a=7), "seen": seen})
        self.one.make({"what": "edit", "edits": edits})
        while not self.one.state["clash"]:
            self.one.deliver()
        self.assertEqual([one["id"] for one in self.one.state["clash"]["things"]], ["t", "u"])

    def test_what_was_kept_by_the_browser_goes_on(self) -> None:
        self.one.weigh("t", "a", 7)
        self.one.weigh("t", "b", 8)
        kept = self.one.state["queue"]
        self.one.deliver("answer lost")
        self.two.weigh("u", "a", 6)
        self.two.quiet()
        again = Client(self.page, "again", self.server, kept)
        again.quiet()
        self.assertEqual(weights(self.server.bodies["t"] or {}), {"a": 7, "b": 8})
        self.assertEqual(weights(self.server.bodies["u"] or {}), {"a": 6})
        self.assertEqual(self.server.revision, 4)


Doing = st.one_of(
    st.tuples(st.just("weigh"), st.sampled_from("tu"), st.sampled_from("ab"), st.integers(-1, 9)),
    st.tuples(st.just("undo")),
    st.tuples(st.just("hear")),
    st.tuples(st.just("deliver"), st.sampled_from(["comes", "comes", "comes", "lost", "answer lost"])),
)
Steps = st.lists(st.tuples(st.sampled_from(["one", "two"]), Doing), max_size=40)


class InAnyOrder(SyncTest):
    @settings(max_examples=150, deadline=None)
    @given(Steps)
    def test_everybody_ends_with_the_same_and_no_edit_goes_without_a_word(
        self, steps: list[tuple[str, tuple[Any, ...]]]
    ) -> None:
        server = Server(table("t", a=1, b=2), table("u", a=5, b=5))
        clients = {name: Client(self.page, name, server) for name in ("one", "two")}
        made: dict[str, list[str]] = {"one": [], "two": []}
        for name, (what, *how) in steps:
            client = clients[name]
            if what == "weigh":
                made[name].append(client.weigh(*how))
            elif what == "undo":
                made[name].append(client.make({"what": "undo"}))
            elif what == "hear":
                client.hear()
            elif client.state["clash"]:
                client.event({"type": "chosen", "side": "theirs"})
            elif client.pending:
                client.deliver(*how)
        for _ in range(4):
            for client in clients.values():
                client.quiet()
        for name, client in clients.items():
            self.assertEqual(client.state["revision"], server.revision)
            self.assertEqual(client.state["queue"], [])
            for table_name, body in server.bodies.items():
                self.assertEqual(client.state["saved"]["table"][table_name], body)
                self.assertEqual(client.shown(table_name), body)
            self.assertEqual(set(client.told), set(made[name]))


# Often what comes to something: of steps that are drawn evenly most are of no consequence.
HANDS = ["begin", "end", "end", "add", "redo", "choose", "hear", *["deliver"] * 4]


def some_steps(seed: int) -> list[tuple[Any, ...]]:
    """What two pages do, one of three times with undo."""
    rng, undo = Random(seed), ["undo"] if seed % 3 == 0 else []
    how = {
        "end": lambda: (rng.choice("tu"), rng.choice("ab")),
        "add": lambda: (rng.choice("tu"),),
        "choose": lambda: (rng.choice(["mine", "theirs"]),),
        "deliver": lambda: (rng.choice(["comes", "comes", "comes", "lost", "answer lost"]),),
    }
    kinds = (rng.choice([*HANDS, *undo]) for _ in range(40))
    return [(rng.randrange(2), kind, *how.get(kind, tuple)()) for kind in kinds]


@dataclass
class Entered:
    """A weight that nobody else types; `seen` is what stood there when its gesture began."""

    page: Client
    token: str
    line: tuple[str, str]
    seen: int | None


class Hands:
    """Two pages whose edits are of the game as it was when a gesture began, which may be long ago."""

    def __init__(self, page: Page) -> None:
        self.server = Server(table("t", a=1, b=2), table("u", a=5, b=5))
        self.pages = [Client(page, name, self.server) for name in ("one", "two")]
        self.began: list[dict[str, Body] | None] = [None, None]
        self.entered: dict[int, Entered] = {}

    def step(self, which: int, what: str, *how: Any) -> None:
        page = self.pages[which]
        if what == "begin":
            self.began[which] = {name: page.shown(name) for name in "tu"}
        elif what == "end":
            self.end(which, *how)
        elif what == "add":
            self.add(which, *how)
        elif what in ("undo", "redo"):
            page.make({"what": what}, what)
        elif what == "choose" and page.state["clash"]:
            page.event({"type": "chosen", "side": how[0]})
        elif what == "hear":
            page.hear()
        elif what == "deliver" and page.pending:
            page.deliver(*how)

    def end(self, which: int, name: str, line: str) -> None:
        page, weight = self.pages[which], 100 + len(self.entered)
        seen = (self.began[which] or {}).get(name) or page.shown(name)
        self.began[which] = None
        token = page.weigh(name, line, weight, seen=seen)
        self.entered[weight] = Entered(page, token, (name, line), weights(seen).get(line))

    def add(self, which: int, name: str) -> None:
        """A new line, under the first letter that is free on this page."""
        page, weight = self.pages[which], 100 + len(self.entered)
        seen = (self.began[which] or {}).get(name) or page.shown(name)
        self.began[which] = None
        free = next(letter for letter in "cdefghijklmnopqrstuvwxyz" if letter not in weights(seen))
        body = {**seen, "lines": [*seen["lines"], {"id": free, "weight": weight}]}
        edit = {"kind": "table", "id": name, "body": body, "seen": seen}
        token = page.make({"what": "edit", "edits": [edit]}, f"{free} {weight}")
        self.entered[weight] = Entered(page, token, (name, free), None)

    def replaced(self) -> Iterator[tuple[int, int]]:
        """Entered weights that a later revision has another entered one in place of."""
        for revision in range(2, self.server.revision + 1):
            before, after = self.server.history[revision - 1], self.server.history[revision]
            for name in "tu":
                was, now = weights(before[name] or {}), weights(after[name] or {})
                for line in was.keys() & now.keys():
                    if was[line] != now[line] and {was[line], now[line]} <= self.entered.keys():
                        yield was[line], now[line]


class Gestures(SyncTest):
    @settings(max_examples=300, deadline=None)
    @given(st.integers(0, 2**32))
    def test_nothing_of_anybodys_is_replaced_unseen_and_unasked(self, seed: int) -> None:
        hands, steps = Hands(self.page), some_steps(seed)
        for which, what, *how in steps:
            hands.step(which, what, *how)
        for _ in range(4):
            for page in hands.pages:
                page.quiet()
        for page in hands.pages:
            self.assertEqual(page.state["saved"]["table"], hands.server.bodies)
            self.assertEqual({name: page.shown(name) for name in "tu"}, hands.server.bodies)
        taken_back = any(what == "undo" for _, what, *_ in steps)
        for was, now in hands.replaced():
            old, new = hands.entered[was], hands.entered[now]
            seen = new.seen == was or old.page is new.page or new.token in new.page.asked
            self.assertTrue(seen or taken_back, f"{was} was replaced by {now}, unseen")
        if not taken_back:
            self.all_is_somewhere(hands)

    def all_is_somewhere(self, hands: Hands) -> None:
        """What was entered came to the server, or was asked about, or told as refused."""
        came = {
            weight
            for bodies in hands.server.history.values()
            for body in bodies.values()
            for weight in weights(body or {}).values()
        }
        for weight, one in hands.entered.items():
            told = one.token in one.page.asked or one.page.told.get(one.token) is not None
            self.assertTrue(weight in came or told, f"{weight} is nowhere")


class Merging(SyncTest):
    def merged(self, before: Any, mine: Any, theirs: Any, side: str = "mine") -> tuple[Any, list[str]]:
        found = self.page.call("game/sync/merge.ts", "merged", before, mine, theirs, side)
        return found["body"], found["clashes"]

    def test_fields_and_lines(self) -> None:
        before = {"name": "T", "lines": [{"id": "a", "w": 1}, {"id": "b", "w": 2}]}
        mine = {"name": "Mine", "lines": [{"id": "a", "w": 1}, {"id": "b", "w": 2}, {"id": "c", "w": 3}]}
        theirs = {"name": "T", "lines": [{"id": "d", "w": 4}, {"id": "a", "w": 9}], "notes": "why"}
        lines = [{"id": "d", "w": 4}, {"id": "a", "w": 9}, {"id": "c", "w": 3}]
        self.assertEqual(
            self.merged(before, mine, theirs), ({"name": "Mine", "lines": lines, "notes": "why"}, [])
        )

    def test_one_moves_lines_while_the_other_changes_them(self) -> None:
        before = [{"id": one, "w": 1} for one in "abc"]
        mine = [before[2], before[0], before[1]]
        theirs = [before[0], {"id": "b", "w": 5}, before[2]]
        self.assertEqual(self.merged(before, mine, theirs), ([mine[0], mine[1], theirs[1]], []))

    def test_removed_here_and_changed_there(self) -> None:
        before = {"lines": [{"id": "a", "w": 1}]}
        theirs = {"lines": [{"id": "a", "w": 2}]}
        self.assertEqual(self.merged(before, {"lines": []}, theirs), ({"lines": []}, ["lines[a]"]))
        self.assertEqual(self.merged(before, {"lines": []}, theirs, "theirs"), (theirs, ["lines[a]"]))

    def test_what_both_made_anew_under_one_id_is_two(self) -> None:
        before = [{"id": "a", "w": 1}]
        mine, theirs = ([*before, {"id": "b", "w": weight}] for weight in (5, 6))
        body, clashes = self.merged(before, mine, theirs)
        self.assertEqual(sorted(one["w"] for one in body), [1, 5, 6])
        self.assertEqual((len({one["id"] for one in body}), clashes), (3, []))
        self.assertEqual(self.merged(before, mine, mine), (mine, []))

    def test_a_list_without_ids_is_one_value(self) -> None:
        self.assertEqual(self.merged({"p": [1, 2]}, {"p": [1, 3]}, {"p": [0, 2]})[1], ["p"])

    @settings(max_examples=100, deadline=None)
    @given(
        *[st.dictionaries(st.sampled_from("abcd"), st.integers(0, 3), max_size=4) for _ in range(3)],
        st.sampled_from(["mine", "theirs"]),
    )
    def test_each_thing_is_somebodys(
        self, before: dict[str, int], mine: dict[str, int], theirs: dict[str, int], side: str
    ) -> None:
        body, clashes = self.merged(before, mine, theirs, side)
        for key in "abcd":
            was, own, other, now = (one.get(key) for one in (before, mine, theirs, body))
            if own in (was, other):
                self.assertEqual(now, other)
            elif other == was:
                self.assertEqual(now, own)
            else:
                self.assertEqual(now, own if side == "mine" else other)
                self.assertIn(key, clashes)


if __name__ == "__main__":
    unittest.main()
