"""The whole application as a process: started, stopped by a signal, nothing left behind."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import httpx


class Serving(unittest.TestCase):
    def test_a_signal_stops_all_of_it_and_the_work_is_there_again(self) -> None:
        with tempfile.TemporaryDirectory(prefix="golddice-serving-") as folder:
            Path(folder).chmod(0o755)
            first = self.run_until_signal(folder, signal.SIGTERM)
            second = self.run_until_signal(folder, signal.SIGINT)
        self.assertEqual(first, second)

    def run_until_signal(self, folder: str, number: signal.Signals) -> str:
        """Serve the demo, stop it, and see that PostgreSQL is gone; the game's id."""
        with socket.socket() as held:
            held.bind(("127.0.0.1", 0))
            port = held.getsockname()[1]
        environment = {**os.environ, "GOLDDICE_VAR": folder, "GOLDDICE_PORT": str(port)}
        command = [sys.executable, "-c", "from golddice.cli import main; main()", "serve", "--demo"]
        with subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL) as process:
            game = self.first_game(f"http://127.0.0.1:{port}")
            pid_file = Path(folder) / "postgres" / "data" / "postmaster.pid"
            self.assertTrue(pid_file.exists())
            process.send_signal(number)
            process.wait(20)
        self.assertFalse(pid_file.exists(), "PostgreSQL was left running")
        return game

    def first_game(self, address: str) -> str:
        for _ in range(200):
            try:
                return str(httpx.get(f"{address}/api/games").json()[0]["id"])
            except (httpx.HTTPError, IndexError):
                time.sleep(0.1)
        self.fail("it never answered")


if __name__ == "__main__":
    unittest.main()
