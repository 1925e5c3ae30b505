"""A page that is open while the server, or the database, really dies under it."""

from __future__ import annotations

import os
import signal
import subprocess
import tempfile
import unittest
from contextlib import AbstractContextManager
from pathlib import Path

import httpx

from tests.browser.driver import PageTest, sized, the_browser
from tests.games import DEMO
from tests.support import free_port, served


class Outage(PageTest):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="golddice-outage-")))
        self.folder.chmod(0o755)
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.browser = the_browser()
        sized(self.browser)
        self.addCleanup(self.browser.get, "about:blank")

    def test_edits_outlive_a_server_that_is_killed(self) -> None:
        with self.serving() as (process, client):
            self.opened(client)
            self.killed_under_two_edits(process)
        with self.serving() as (process, client):
            self.until("saved after all", lambda: "revision 3" in self.status(), 30)
            self.both_are_there(client)
            process.send_signal(signal.SIGTERM)
            process.wait(30)

    def test_edits_outlive_a_page_that_is_left_while_the_server_is_away(self) -> None:
        with self.serving() as (process, client):
            self.opened(client)
            self.killed_under_two_edits(process)
            self.browser.get("about:blank")
        with self.serving() as (process, client):
            self.assertEqual(client.get(f"/api/games/{self.game}").json()["revision"], 1)
            self.open("source/lantern-eel")
            self.until("saved after all", lambda: "revision 3" in self.status(), 30)
            self.both_are_there(client)
            process.send_signal(signal.SIGTERM)
            process.wait(30)

    def test_edits_outlive_a_database_that_is_killed(self) -> None:
        with self.serving() as (process, client):
            self.opened(client)
            pid_file = self.folder / "postgres" / "data" / "postmaster.pid"
            os.kill(int(pid_file.read_text().split()[0]), signal.SIGKILL)
            self.type_into("g", "entry", "9")
            self.until("saved after all", lambda: "revision 2" in self.status(), 40)
            self.assertEqual(client.get(f"/api/games/{self.game}").json()["revision"], 2)
            process.send_signal(signal.SIGTERM)
            process.wait(30)

    def serving(self) -> AbstractContextManager[tuple[subprocess.Popen[bytes], httpx.Client]]:
        return served(self.folder, port=self.port, demo=False)

    def opened(self, client: httpx.Client) -> None:
        self.game = client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")

    def killed_under_two_edits(self, process: subprocess.Popen[bytes]) -> None:
        process.kill()
        process.wait()
        self.type_into("g", "entry", "9")
        self.until("it says so", lambda: "1 edit kept here" in self.status())
        self.type_into("f", "entry", "8")
        self.until("both are kept", lambda: "2 edits kept here" in self.status())

    def both_are_there(self, client: httpx.Client) -> None:
        tables = client.get(f"/api/games/{self.game}").json()["tables"]
        lines = next(table for table in tables if table["id"] == "eel-catch")["lines"]
        weights = {line["id"]: line["weight"] for line in lines}
        self.assertEqual((weights["f"], weights["g"]), (8, 9))

    def status(self) -> str:
        return self.find("header [role=status]").text


if __name__ == "__main__":
    unittest.main()
