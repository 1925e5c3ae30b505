"""The whole application as a process: started, stopped by a signal, nothing left behind."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path

from golddice.server.serving import CannotServe, alone_in, listening
from golddice.server.settings import Settings
from tests.support import free_port, served

MAKE = ["make", "--no-print-directory", "-C", str(Path(__file__).parents[2]), "start"]


class Serving(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="golddice-serving-")))
        self.folder.chmod(0o755)
        self.pid_file = self.folder / "postgres" / "data" / "postmaster.pid"

    def test_a_signal_to_make_or_the_keyboard_stops_all_of_it_and_the_work_is_there_again(self) -> None:
        first = self.run_until(lambda process: process.send_signal(signal.SIGTERM), MAKE)
        # Ctrl+C goes to everything in the terminal's foreground.
        second = self.run_until(lambda process: os.killpg(process.pid, signal.SIGINT), MAKE)
        self.assertEqual(first, second)

    def test_a_killed_server_leaves_nothing_that_the_next_start_trips_over(self) -> None:
        with served(self.folder) as (process, client):
            first = client.get("/api/games").json()[0]["id"]
            process.kill()
            process.wait()
        self.assertEqual(self.run_until(lambda process: process.send_signal(signal.SIGINT)), first)

    def test_a_second_server_on_the_same_folder_says_so_and_harms_nothing(self) -> None:
        with served(self.folder) as (process, client):
            with (
                self.assertRaisesRegex(CannotServe, "already"),
                alone_in(Settings(free_port(), self.folder, None)),
            ):
                self.fail("both were let in")
            self.assertEqual(client.get("/api/games").status_code, 200)
            process.send_signal(signal.SIGTERM)
            process.wait(60)
        with alone_in(Settings(free_port(), self.folder, None)):
            pass  # the first has gone

    def run_until(
        self, stop: Callable[[subprocess.Popen[bytes]], None], command: list[str] | None = None
    ) -> str:
        """Serve the demo, stop it, and see that PostgreSQL is gone; the game's id."""
        with served(self.folder, command=command) as (process, client):
            game = str(client.get("/api/games").json()[0]["id"])
            self.assertTrue(self.pid_file.exists())
            stop(process)
            process.wait(60)
        self.assertFalse(self.pid_file.exists(), "PostgreSQL was left running")
        return game


class Listening(unittest.TestCase):
    def test_no_answer_waits_for_its_first_half_to_be_acknowledged(self) -> None:
        with listening(0) as listener, socket.create_connection(listener.getsockname()):
            accepted, _ = listener.accept()
            with accepted:
                self.assertTrue(accepted.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY))

    def test_a_taken_port_is_told_with_what_to_do(self) -> None:
        with listening(0) as listener:
            port = listener.getsockname()[1]
            with self.assertRaisesRegex(CannotServe, f"port {port} is taken.*GOLDDICE_PORT={port + 1}"):
                self.enterContext(listening(port))


if __name__ == "__main__":
    unittest.main()
