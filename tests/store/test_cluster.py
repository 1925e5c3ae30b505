"""Our own PostgreSQL: killed, it comes back, and no half change is left."""

from __future__ import annotations

import os
import signal
import stat
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from golddice.core.game.editing import Entry
from golddice.store.cluster import Cluster
from golddice.store.database import Database
from golddice.store.errors import Unavailable
from golddice.store.games import Games
from tests.games import demo


class Killed(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="golddice-cluster-")
        self.addCleanup(folder.cleanup)
        Path(folder.name).chmod(0o755)
        self.folder = Path(folder.name)
        self.cluster = Cluster(self.folder)
        self.addCleanup(self.cluster.stop)
        self.cluster.start(watch=True)
        self.database = Database(self.cluster.url)
        self.addCleanup(self.database.close)
        self.database.migrate()

    def test_the_password_is_ours_alone(self) -> None:
        mode = stat.S_IMODE((self.folder / "postgres-password").stat().st_mode)
        self.assertEqual(mode, 0o600)

    def test_a_kill_in_the_middle_of_a_change_changes_nothing_and_passes(self) -> None:
        games = Games(self.database)
        game_id = games.create(demo()).id
        body = games.load(game_id).entities.bodies["table"]["eel-catch"]
        entry = Entry("table", "eel-catch", {**body, "nothing": 77})
        with self.assertRaises(Unavailable), self.database.transaction() as session:
            session.connection()
            process = self.cluster.process_id()
            assert process is not None
            os.kill(process, signal.SIGQUIT)
            time.sleep(0.3)
            games.change(game_id, 1, [entry], "too late")
        self.assertEqual(self.retried(games, game_id, entry), 2)
        self.assertEqual(
            Games(self.database).load(game_id).entities.bodies["table"]["eel-catch"]["nothing"], 77
        )

    def retried(self, games: Games, game_id: str, entry: Entry) -> int:
        """As the page does it: the same change again, until the database is back."""
        for _ in range(100):
            try:
                return games.change(game_id, 1, [entry], "again").revision
            except Unavailable:
                time.sleep(0.2)
        self.fail("the database did not come back")


class BeingMade(unittest.TestCase):
    def test_killed_while_it_is_made_it_is_made_the_next_time(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="golddice-made-")))
        folder.chmod(0o755)
        begin = (
            f"import pathlib, golddice.store.cluster as c; c.Cluster(pathlib.Path({str(folder)!r})).start()"
        )
        for after in ("postgres-in-the-making-*", "postgres-in-the-making-*/data/PG_VERSION"):
            with subprocess.Popen([sys.executable, "-c", begin], start_new_session=True) as process:
                end = time.monotonic() + 60
                while not list(folder.glob(after)) and time.monotonic() < end:
                    time.sleep(0.005)
                os.killpg(process.pid, signal.SIGKILL)
            self.assertFalse((folder / "postgres").exists(), "it was whole already")
        cluster = Cluster(folder)
        self.addCleanup(cluster.stop)
        cluster.start()
        Database(cluster.url).migrate()
        self.assertEqual(list(folder.glob("postgres-in-the-making-*")), [])


if __name__ == "__main__":
    unittest.main()
