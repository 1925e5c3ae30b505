"""What the store must not get wrong: a commit that fails, someone in the middle, yesterday's data."""

from __future__ import annotations

import threading
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest.mock import patch

from sqlalchemy.exc import OperationalError
from sqlmodel import Session

from golddice.core.game import upgrades
from golddice.core.game.editing import EditError, Entry
from golddice.core.game.reading import plain_game, read_game
from golddice.store import games as games_module
from golddice.store.errors import FromLater, NotFound, NothingToUndo, Unavailable, Uncertain
from golddice.store.games import Games, Steps
from golddice.store.trials import Trials
from tests.games import demo, game_data, pick
from tests.support import database, empty_database

DUMP = Path(__file__).parent / "dumps" / "0001.sql"


class Firm(unittest.TestCase):
    def setUp(self) -> None:
        self.games = Games(database())
        made = read_game(game_data([pick((1, "sand"), (2, "lens"))]))
        self.id = self.games.create(made).id

    def sand(self, value: float, token: str | None = None, base: int | None = None) -> int:
        body = {**self.games.load(self.id).entities.bodies["item"]["sand"], "value": value}
        base = base or self.games.load(self.id).revision
        return self.games.change(
            self.id, base, [Entry("item", "sand", body)], f"sand {value:g}", token
        ).revision

    def value(self, games: Games | None = None) -> float:
        loaded = (games or Games(database())).load(self.id)
        return float(loaded.entities.bodies["item"]["sand"].get("value", 0))

    @contextmanager
    def commits(self, then: Any) -> Iterator[None]:
        """The next commit of a session does this instead."""
        with patch.object(Session, "commit", then):
            yield


class Commits(Firm):
    def test_a_commit_that_fails_leaves_nothing_in_memory(self) -> None:
        def failing(_: Session) -> None:
            raise OperationalError("commit", {}, Exception("gone"))

        with self.commits(failing), self.assertRaises(Uncertain):
            self.sand(7)
        self.assertEqual((self.games.load(self.id).revision, self.value(self.games)), (1, 1.0))
        self.assertEqual(self.sand(8), 2)
        self.assertEqual(self.value(), 8.0)

    def test_sent_again_under_its_id_it_is_kept_once(self) -> None:
        """The answer was lost after the database had it: the second is answered like the first."""
        commit = Session.commit

        def lost(session: Session) -> None:
            commit(session)
            raise OperationalError("commit", {}, Exception("gone"))

        with self.commits(lost), self.assertRaises(Uncertain):
            self.sand(7, "the-first-edit")
        self.assertEqual(self.value(), 7.0)
        again = self.sand(7, "the-first-edit", base=1)
        self.assertEqual((again, self.games.load(self.id).revision), (2, 2))
        self.assertEqual(self.games.steps(self.id), Steps("sand 7", None))
        first = self.games.undo(self.id, "undo-once-only")
        self.assertEqual(vars(self.games.undo(self.id, "undo-once-only")), vars(first))
        self.assertEqual(self.value(), 1.0)

    def test_the_same_id_in_two_games_is_two_changes(self) -> None:
        other = self.games.duplicate(self.id).id
        self.sand(7, "the-same-id")
        body = {**self.games.load(other).entities.bodies["item"]["sand"], "value": 9}
        self.games.change(other, 1, [Entry("item", "sand", body)], "there", "the-same-id")
        self.assertEqual((self.value(), self.games.load(other).revision), (7.0, 2))


class MadeOnce(Firm):
    """Whatever is made is made once under its id, whoever sends it again, and however many at once."""

    def test_games_and_copies(self) -> None:
        made = read_game(game_data([pick((1, "sand"))]))
        first = self.games.create(made, token="one-game-once")
        self.assertEqual(self.games.create(made, token="one-game-once").id, first.id)
        copy = self.games.duplicate(self.id, "one-copy-once")
        self.assertEqual(self.games.duplicate(self.id, "one-copy-once").id, copy.id)
        self.assertNotIn(copy.id, (first.id, self.id))

    def test_an_answer_that_was_lost(self) -> None:
        commit = Session.commit

        def lost(session: Session) -> None:
            commit(session)
            raise OperationalError("commit", {}, Exception("gone"))

        before = len(self.games.every())
        with self.commits(lost), self.assertRaises(Uncertain):
            self.games.duplicate(self.id, "lost-but-made")
        self.games.duplicate(self.id, "lost-but-made")
        self.assertEqual(len(self.games.every()), before + 1)

    def test_many_at_once(self) -> None:
        found: set[str] = set()
        made = read_game(game_data([pick((1, "sand"))]))
        send = lambda: found.add(Games(database()).create(made, token="many-at-once").id)  # noqa: E731
        threads = [threading.Thread(target=send) for _ in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(found), 1)

    def test_a_first_that_failed_does_not_stand_in_the_way(self) -> None:
        def failing(_: Session) -> None:
            raise OperationalError("commit", {}, Exception("gone"))

        with self.commits(failing), self.assertRaises(Uncertain):
            self.games.duplicate(self.id, "failed-at-first")
        self.assertEqual(self.games.duplicate(self.id, "failed-at-first").copied_from, self.id)

    def test_put_away_and_brought_back_twice_is_once(self) -> None:
        self.games.delete(self.id)
        self.games.delete(self.id)
        self.games.restore(self.id)
        self.assertEqual(self.games.restore(self.id).deleted_at, None)

    def test_nothing_changed_is_said_of_writing_alone(self) -> None:
        """Reading may come after something was kept."""
        gone = OperationalError("select", {}, Exception("gone"))
        with self.assertRaises(Unavailable) as reading, database().snapshot():
            raise gone
        with self.assertRaises(Unavailable) as writing, database().transaction():
            raise gone
        self.assertNotIn("nothing was changed", str(reading.exception))
        self.assertIn("nothing was changed", str(writing.exception))


class InTheMiddle(Firm):
    def test_a_game_is_loaded_as_of_one_moment(self) -> None:
        """A change between reading the revision and the bodies is not half in what is loaded."""
        reader, stored, edits = Games(database()), games_module._stored, [7]

        def disturbed(session: Session, row: Any) -> Any:
            if edits:
                self.sand(edits.pop())
            return stored(session, row)

        self.games.load(self.id)
        with patch.object(games_module, "_stored", disturbed):
            loaded = reader.load(self.id)
        told = (loaded.revision, loaded.entities.bodies["item"]["sand"]["value"])
        self.assertIn(told, [(1, 1.0), (2, 7.0)])
        self.assertEqual(self.value(reader), 7.0)

    def test_many_trials_at_once_have_numbers_of_their_own(self) -> None:
        trials = Trials(database())
        threads = [threading.Thread(target=trials.add, args=(self.id, 1, "", {}, 2)) for _ in range(32)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        numbers = [row.number for row in trials.of_game(self.id)]
        self.assertEqual(sorted(numbers), list(range(1, 33)))

    def test_a_trial_of_a_game_that_is_gone(self) -> None:
        self.games.delete(self.id)
        with self.assertRaises(NotFound):
            Trials(database()).add(self.id, 1, "", {}, 2)


class Refused(Firm):
    def test_an_entity_named_twice(self) -> None:
        body = self.games.load(self.id).entities.bodies["item"]["sand"]
        twice = [Entry("item", "sand", {**body, "value": value}) for value in (5, 6)]
        with self.assertRaisesRegex(EditError, "twice"):
            self.games.change(self.id, 1, twice, "twice")

    def test_settings_under_another_id(self) -> None:
        body = {**self.games.load(self.id).entities.bodies["settings"]["game"], "name": "Other"}
        with self.assertRaisesRegex(EditError, "settings"):
            self.games.change(self.id, 1, [Entry("settings", "other", body)], "renamed")
        self.assertNotIn("Other", [row.name for row in self.games.every()])

    def test_a_base_that_never_was(self) -> None:
        body = self.games.load(self.id).entities.bodies["item"]["sand"]
        for base in (-1, 0, 2):
            with self.assertRaises(NotFound):
                self.games.change(self.id, base, [Entry("item", "new", body | {"id": "new"})], "late")


class History(Firm):
    def test_undo_reaches_back_to_the_first_edit_without_the_log(self) -> None:
        """Three hundred edits; what undo would take is known without reading any of them."""
        for value in range(1, 301):
            self.sand(value)
        with patch.object(games_module, "log_of", side_effect=AssertionError("the log was read")):
            self.assertEqual(self.games.steps(self.id), Steps("sand 300", None))
            for _ in range(300):
                self.games.undo(self.id)
            with self.assertRaises(NothingToUndo):
                self.games.undo(self.id)
            self.assertEqual(self.games.steps(self.id), Steps(None, "sand 1"))
            self.games.redo(self.id)
        self.assertEqual(self.value(), 1.0)


class Memory(Firm):
    def test_games_at_revisions_are_kept_within_a_bound(self) -> None:
        with patch.object(games_module, "_CACHED", 200_000):
            games = Games(database())
            for value in range(1, 30):
                self.sand(value)
                games.load(self.id)
            self.assertLessEqual(games._cache.currsize, 200_000)
            self.assertGreater(len(games._cache), 1)

    def test_a_game_larger_than_that_is_read_once(self) -> None:
        with patch.object(games_module, "_CACHED", 10):
            games = Games(database())
            games.load(self.id)
            with patch.object(games_module, "_stored", side_effect=AssertionError("read again")):
                games.load(self.id)


class Yesterday(unittest.TestCase):
    """A database as an earlier version left it opens, and goes on."""

    def setUp(self) -> None:
        self.database = empty_database()
        with self.database.engine.begin() as there:
            driver: Any = there.connection.driver_connection
            driver.execute(DUMP.read_text(encoding="utf-8"))
        self.database.migrate()
        self.games = Games(self.database)
        self.id = self.games.every()[0].id

    def test_it_opens_and_undo_leads_back_to_its_beginning(self) -> None:
        self.assertEqual(self.games.steps(self.id), Steps("removed other", None))
        labels = []
        while self.games.steps(self.id).undo:
            labels.append(self.games.undo(self.id).label)
        self.assertEqual(labels, ["removed other", "value 5"])
        made = read_game(game_data([pick((1, "sand"), (2, "lens")), pick((1, "claw"), name="other")]))
        self.assertEqual(plain_game(self.games.load(self.id).entities.game()), plain_game(made))
        self.games.redo(self.id)
        self.assertEqual(self.games.load(self.id).entities.bodies["item"]["sand"]["value"], 5)

    def test_its_trials_are_told_by_which_simulator_they_were_played(self) -> None:
        self.assertEqual({row.kernel for row in Trials(self.database).of_game(self.id)}, {1})

    def test_bodies_of_an_older_shape_are_taken_a_step_on(self) -> None:
        """As if from today on an item's value were kept in hundredths."""

        def in_hundredths(kind: str, body: dict[str, Any]) -> dict[str, Any]:
            return body | {"value": 100 * body.get("value", 0)} if kind == "item" else body

        with patch.object(upgrades, "STEPS", [in_hundredths]):
            games = Games(self.database)
            sand = games.load(self.id).entities.bodies["item"]["sand"]
            self.assertEqual(sand["value"], 500)
            games.change(self.id, 11, [Entry("item", "sand", {**sand, "value": 700})], "dearer")
            again = Games(self.database).load(self.id).entities.bodies["item"]
            self.assertEqual((again["sand"]["value"], again["claw"]["value"]), (700, 300))
            self.assertEqual(Games(self.database).load(self.id, 11).entities.bodies["item"]["sand"], sand)
            games.undo(self.id)
            self.assertEqual(games.load(self.id).entities.bodies["item"]["sand"], sand)
        with self.assertRaises(FromLater):
            Games(self.database).load(self.id)


class Parsed(unittest.TestCase):
    def test_the_demo_as_it_is_kept_is_in_todays_shape(self) -> None:
        self.assertEqual(upgrades.upgraded("item", {"a": 1}, upgrades.current_shape()), {"a": 1})
        self.assertTrue(demo().items)


del Firm  # the base has no tests of its own


if __name__ == "__main__":
    unittest.main()
