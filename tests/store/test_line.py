"""The line of trials: every transition, at random, by several servers at once, and with leases that end."""

from __future__ import annotations

import threading
import unittest
import unittest.mock
from typing import Any

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from golddice.core.game.reading import read_game
from golddice.store import trials as trials_module
from golddice.store.errors import NotFound
from golddice.store.games import Games
from golddice.store.line import LeaseLost, Line
from golddice.store.rows import TrialRow
from golddice.store.trials import LineFull, Trials
from tests.games import game_data, pick
from tests.support import database

SERVERS = ("one/a", "one/b", "two/a")


class LineTest(unittest.TestCase):
    def setUp(self) -> None:
        self.trials, self.line, self.games = Trials(database()), Line(database()), Games(database())
        with database().transaction() as session:
            session.connection().exec_driver_sql("delete from trial")
        self.game = self.made()

    def made(self) -> str:
        return self.games.create(read_game(game_data([pick((1, "sand"))]))).id

    def add(self, game: str | None = None, token: str | None = None) -> str:
        return self.trials.add(game or self.game, 1, "", {"players": 5}, 2, token=token).id

    def status(self, trial: str) -> str:
        return self.trials.get(self.game, trial).status


class Transitions(LineTest):
    def test_one_that_waits_is_cancelled_at_once_and_takes_no_room(self) -> None:
        first, second = self.add(), self.add()
        self.line.cancel(self.game, first)
        self.assertEqual(self.status(first), "cancelled")
        claimed = self.line.claim("one/a")
        assert claimed is not None
        self.assertEqual(claimed.id, second)
        self.assertIsNone(self.line.claim("one/a"))

    def test_so_many_may_wait_and_those_that_were_cancelled_do_not_count(self) -> None:
        with unittest.mock.patch.object(trials_module, "MOST_IN_LINE", 3):
            three = [self.add() for _ in range(3)]
            with self.assertRaises(LineFull):
                self.add()
            self.line.cancel(self.game, three[0])
            self.add()

    def test_put_away_and_brought_back_it_stays_cancelled(self) -> None:
        trial = self.add()
        self.line.put_away(self.game, trial)
        self.assertIsNone(self.line.claim("one/a"))
        self.assertEqual(self.line.bring_back(self.game, trial).status, "cancelled")
        self.assertIsNone(self.line.claim("one/a"))
        for again in (self.line.bring_back, self.line.put_away, self.line.put_away):
            again(self.game, trial)

    def test_one_that_is_cancelled_while_it_is_played_keeps_nothing_more(self) -> None:
        trial = self.add()
        self.line.claim("one/a")
        self.line.keep_unit(trial, "one/a", 0, 5, b"x")
        self.line.cancel(self.game, trial)
        self.assertFalse(self.line.renew(trial, "one/a"))
        for late in (
            lambda: self.line.keep_unit(trial, "one/a", 1, 5, b"x"),
            lambda: self.line.finish(trial, "one/a", "done"),
            lambda: self.line.begun(trial, "one/a", "p"),
        ):
            with self.assertRaises(LeaseLost):
                late()
        self.assertEqual((self.status(trial), self.trials.kept(trial)), ("cancelled", {0}))

    def test_a_lease_that_ends_is_taken_over_and_the_first_writes_no_more(self) -> None:
        trial = self.add()
        self.line.claim("one/a", lease=0.0)
        taken = self.line.claim("two/a")
        assert taken is not None
        self.assertEqual(taken.id, trial)
        with self.assertRaises(LeaseLost):
            self.line.keep_unit(trial, "one/a", 0, 5, b"x")
        self.line.finish(trial, "two/a", "done", done=5)
        self.assertEqual(self.status(trial), "done")

    def test_what_a_server_left_goes_on_first_when_it_is_back(self) -> None:
        left, later = self.add(), self.add()
        self.line.claim("one/a")
        self.assertEqual(self.line.release("one/%"), 1)
        self.assertEqual(self.line.release("two/%"), 0)
        claimed = [self.line.claim("one/b"), self.line.claim("one/b")]
        self.assertEqual([one.id for one in claimed if one], [left, later])

    def test_games_take_turns(self) -> None:
        other = self.made()
        mine, theirs = [self.add() for _ in range(3)], self.add(other)
        order = []
        for _ in range(4):
            found = self.line.claim("one/a")
            assert found is not None
            order.append(found.id)
        self.assertEqual(order, [mine[0], theirs, mine[1], mine[2]])

    def test_many_that_claim_at_once_get_each_one_once(self) -> None:
        waiting = {self.add() for _ in range(12)}
        claimed: list[TrialRow] = []

        def claim(owner: str) -> None:
            while (found := self.line.claim(owner)) is not None:
                claimed.append(found)

        threads = [threading.Thread(target=claim, args=(f"s{at}/a",)) for at in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        # A claim that finds its row taken may come back with nothing, so some may be left for the next look.
        claim("last/a")
        self.assertEqual(sorted(one.id for one in claimed), sorted(waiting))

    def test_sent_again_under_its_id_it_is_one_trial(self) -> None:
        first = self.add(token="the-first-trial")
        self.assertEqual(self.add(token="the-first-trial"), first)
        self.assertNotEqual(self.add(token="another-trial"), first)
        self.assertEqual(len(self.trials.of_game(self.game)), 2)

    def test_of_a_game_that_is_put_away_nothing_is_played(self) -> None:
        self.add()
        self.games.delete(self.game)
        self.assertIsNone(self.line.claim("one/a"))
        with self.assertRaises(NotFound):
            self.line.put_away(self.game, "no-such")


class Machine(RuleBasedStateMachine):
    """Servers, people and clocks do what they like; what is known of each trial is told by a plain model."""

    def __init__(self) -> None:
        super().__init__()
        self.test = LineTest()
        self.test.setUp()
        self.line, self.game = self.test.line, self.test.game
        self.known: dict[str, dict[str, Any]] = {}

    def pick(self, data: st.DataObject) -> str:
        return str(data.draw(st.sampled_from(sorted(self.known))))

    @rule()
    def add(self) -> None:
        self.known[self.test.add()] = {"status": "waiting", "away": False, "owner": None, "units": 0}

    @rule(owner=st.sampled_from(SERVERS), ends=st.booleans())
    def claim(self, owner: str, ends: bool) -> None:
        free = {
            name
            for name, one in self.known.items()
            if not one["away"]
            and (one["status"] == "waiting" or (one["status"] == "running" and one.get("ended")))
        }
        found = self.line.claim(owner, lease=0.0 if ends else 60.0)
        if not free:
            assert found is None
            return
        assert found is not None and found.id in free
        self.known[found.id] |= {"status": "running", "owner": owner, "ended": ends}

    @precondition(lambda self: self.known)
    @rule(data=st.data(), owner=st.sampled_from(SERVERS), what=st.sampled_from(("unit", "done", "renew")))
    def write(self, data: st.DataObject, owner: str, what: str) -> None:
        name = self.pick(data)
        one = self.known[name]
        mine = one["status"] == "running" and one["owner"] == owner and not one["away"]
        try:
            if what == "renew":
                assert self.line.renew(name, owner, {"players": 1}) == mine
                one["ended"] = one.get("ended") and not mine
                return
            if what == "unit":
                self.line.keep_unit(name, owner, one["units"], 1, b"x")
                one["units"] += 1
            else:
                self.line.finish(name, owner, "done")
                one |= {"status": "done", "owner": None}
        except LeaseLost:
            assert not mine
        else:
            assert mine

    @precondition(lambda self: self.known)
    @rule(data=st.data(), what=st.sampled_from(("cancel", "away", "back")))
    def people(self, data: st.DataObject, what: str) -> None:
        name = self.pick(data)
        one = self.known[name]
        if what == "cancel":
            self.line.cancel(self.game, name)
        elif what == "away":
            self.line.put_away(self.game, name)
            one["away"] = True
        else:
            self.line.bring_back(self.game, name)
            one["away"] = False
        if what != "back" and one["status"] in ("waiting", "running"):
            one |= {"status": "cancelled", "owner": None}

    @rule(server=st.sampled_from(("one", "two")))
    def killed_and_back(self, server: str) -> None:
        self.line.release(f"{server}/%")
        for one in self.known.values():
            if one["status"] == "running" and str(one["owner"]).startswith(f"{server}/"):
                one |= {"status": "waiting", "owner": None}

    @invariant()
    def as_it_is_known(self) -> None:
        with database().snapshot() as session:
            for name, one in self.known.items():
                row = session.get(TrialRow, name)
                assert row is not None
                found = (row.status, row.owner, row.deleted_at is not None)
                assert found == (one["status"], one["owner"], one["away"]), (found, one)
        for name, one in self.known.items():
            assert len(self.test.trials.kept(name)) == one["units"]


class AtRandom(Machine.TestCase):  # type: ignore[misc, name-defined]
    settings = settings(max_examples=12, stateful_step_count=25, deadline=None)


if __name__ == "__main__":
    unittest.main()
