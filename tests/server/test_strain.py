"""The server under strain: long questions, askers who go, half requests, a database that is killed."""

from __future__ import annotations

import http.client
import socket
import threading
import time
import unittest
from typing import Any
from unittest.mock import patch

import httpx

from golddice.core.stopping import go_on
from golddice.server import connections, security
from golddice.server.routes import odds as odds_routes
from golddice.store.errors import Unavailable
from golddice.store.line import Line
from tests.server.of_demo import DemoTest
from tests.support import running_server

EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}


class LongQuestions(DemoTest):
    def test_whoever_has_gone_is_not_worked_for(self) -> None:
        held, stopped = threading.Event(), threading.Event()

        def endless(*_: Any, **__: Any) -> Any:
            held.set()
            end = time.monotonic() + 90
            try:
                while time.monotonic() < end:
                    go_on()
                    time.sleep(0.01)
            finally:
                if time.monotonic() < end:
                    stopped.set()

        with patch.object(odds_routes, "profile", endless):
            with self.assertRaises(httpx.TimeoutException):
                self.client.post(f"{self.url}/profile", json=EEL, timeout=0.5)
            self.assertTrue(held.is_set())
            self.assertTrue(stopped.wait(5), "it went on")


class Edits(DemoTest):
    def test_the_same_token_is_answered_as_the_first_time(self) -> None:
        body = self.body("table", "eel-catch") | {"nothing": 21}
        entry = {"kind": "table", "id": "eel-catch", "body": body}
        asked = {"base": 1, "label": "edit", "entries": [entry], "token": "0123-abcd-4567"}
        first, again = self.post("changes", **asked), self.post("changes", **asked)
        self.assertEqual(first, again)
        self.assertEqual(self.client.get(self.url).json()["revision"], 2)

    def test_a_base_of_minus_one(self) -> None:
        entry = {"kind": "table", "id": "new", "body": None}
        self.post("changes", 422, base=-1, label="edit", entries=[entry])

    def test_a_refusal_does_not_quote_whole_values(self) -> None:
        body = self.body("table", "eel-catch") | {"notes": "x" * 5_000_000}
        entry = {"kind": "table", "id": "eel-catch", "body": body}
        answer = self.client.post(
            f"{self.url}/changes", json={"base": 1, "label": "edit", "entries": [entry]}
        )
        self.assertEqual(answer.status_code, 422)
        self.assertLess(len(answer.content), 5_000)

    def test_importing_does_not_hold_up_other_requests(self) -> None:
        """A large file is read and written beside the event loop."""
        data = self.client.get(f"{self.url}/file").json()
        line = data["tables"][0]["lines"][0]
        data["tables"][0]["lines"] = [{**line, "id": f"l{at}"} for at in range(20_000)]
        sent = threading.Thread(target=lambda: self.client.post("/api/games/import", json=data))
        begun = time.monotonic()
        sent.start()
        slowest = 0.0
        with httpx.Client(base_url=str(self.client.base_url)) as other:
            while sent.is_alive():
                start = time.monotonic()
                other.get("/api/health")
                slowest = max(slowest, time.monotonic() - start)
                time.sleep(0.01)
        # Against the import itself, so that a busy machine changes nothing.
        self.assertLess(slowest, (time.monotonic() - begun) / 2)


class Trialled(DemoTest):
    def test_one_of_a_deleted_game_does_not_run_on(self) -> None:
        asked = {**EEL, "players": 1_000_000, "events": 5_000, "seed": 1, "knowingly": True}
        trial = self.post("trials", 201, **asked)["id"]
        self.assertEqual(self.client.delete(self.url).status_code, 204)
        self.client.post(f"{self.url}/restore")
        self.ended(trial, "cancelled")

    def test_what_came_of_one_is_kept_when_the_database_is_back(self) -> None:
        """Two attempts to write it down fail."""
        finish, failed = Line.finish, []

        def failing(line: Line, trial: str, owner: str, status: str, **fields: Any) -> None:
            if len(failed) < 2:
                failed.append(trial)
                raise Unavailable
            finish(line, trial, owner, status, **fields)

        with patch.object(Line, "finish", failing):
            trial = self.post("trials", 201, **EEL, players=10, events=10, seed=1)["id"]
            self.ended(trial, "done")
        self.assertEqual(len(failed), 2)

    def ended(self, trial: str, status: str) -> None:
        end = time.monotonic() + 90
        while time.monotonic() < end:
            found = self.client.get(f"{self.url}/trials/{trial}").json()["status"]
            if found == status:
                return
            time.sleep(0.05)
        self.fail(f"still {found}")

    def test_a_player_of_an_earlier_simulator_is_not_replayed(self) -> None:
        told = self.post("rolls", 422, **EEL, seed=1, kernel=1)
        self.assertIn("version 1 of the simulator", told["detail"])

    def test_news_of_a_game_that_is_not_there(self) -> None:
        self.assertEqual(self.client.get("/api/games/no-such/events").status_code, 404)


class Raw(unittest.TestCase):
    """By plain sockets, since a client library would not do such things."""

    def ask(self, host: str, path: str = "/api/games", method: str = "GET") -> bytes:
        with socket.create_connection(self.place) as raw:
            raw.sendall(f"{method} {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n".encode())
            return b"".join(iter(lambda: raw.recv(65536), b""))

    def setUp(self) -> None:
        address, _ = self.enterContext(running_server(pages=False))
        self.place = ("127.0.0.1", int(address.rsplit(":", 1)[1]))

    def test_only_this_machines_names(self) -> None:
        for host in ("127.0.0.1", "localhost:8420", "[::1]:8420"):
            self.assertIn(b" 200 ", self.ask(host)[:20], host)
        for host in ("127.0.0.1:8455.evil", "evil:80", "localhost.evil", "", "127.0.0.1:8455:1"):
            self.assertIn(b" 421 ", self.ask(host)[:20], host)

    def test_refusals_have_the_headers_too(self) -> None:
        for answer in (self.ask("evil"), self.ask("localhost", "/api/nowhere")):
            self.assertIn(b"content-security-policy", answer.lower())
        allowed = self.ask("localhost", "/api/games/x/undo")
        self.assertIn(b" 405 ", allowed[:20])
        self.assertIn(b"allow: post", allowed.lower())

    def test_a_half_request_is_closed(self) -> None:
        with patch.object(connections, "HEAD_PATIENCE", 0.3), socket.create_connection(self.place) as raw:
            raw.sendall(b"GET /api/games HTTP/1.1\r\nHo")
            raw.settimeout(5)
            self.assertEqual(raw.recv(100), b"")

    def test_a_connection_that_was_idle_takes_another_request(self) -> None:
        """For longer than usual clients keep one: a request on it would be lost as it is closed."""
        asker = http.client.HTTPConnection(*self.place)
        self.addCleanup(asker.close)
        for idle in (0, 7):
            time.sleep(idle)
            asker.request("GET", "/api/health")
            with asker.getresponse() as answer:
                answer.read()
                self.assertEqual(answer.status, 200, f"after {idle} s")

    def test_a_half_body_is_answered(self) -> None:
        head = b"POST /api/games HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100\r\n\r\n{"
        with patch.object(security, "BODY_PATIENCE", 0.3), socket.create_connection(self.place) as raw:
            raw.sendall(head)
            raw.settimeout(5)
            self.assertRegex(raw.recv(100), rb" 40[08] ")


if __name__ == "__main__":
    unittest.main()
