"""Who works when: workers that are told apart by what they do, and the real ones under strain."""

from __future__ import annotations

import asyncio
import signal
import threading
import time
import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any
from unittest.mock import patch

import httpx
import psutil

from golddice.server.front import pool as pool_module
from golddice.server.front.frames import Frame
from golddice.server.front.kinds import Kind, Urgency, kind_of
from golddice.server.front.pool import Answer, Pool
from tests.games import DEMO
from tests.support import fronted_server

EEL = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14}
LIGHT, LONG = Kind(Urgency.LIGHT), Kind(Urgency.LONG)
WRITE = Kind(Urgency.WRITE, is_write=True)


class Pretended:
    """A worker that does what the path says: so many milliseconds, `crash`, `deaf` (does not hear a stop)."""

    def __init__(self, log: list[str]) -> None:
        self.log, self.frames = log, asyncio.Queue[Frame | None]()
        self.work: asyncio.Task[None] | None = None
        self.is_deaf, self.is_busy = False, True

    def send(self, head: dict[str, Any], body: bytes = b"") -> None:
        if "stop" in head:
            if self.work is not None and not self.is_deaf:
                self.work.cancel()
            return
        self.work = asyncio.create_task(self._do(head["ask"]["path"]))

    async def _do(self, path: str) -> None:
        name, _, what = path.partition(":")
        self.log.append(f"begun {name}")
        self.is_deaf = what == "deaf"
        if what == "crash":
            self.kill()
            return
        status, held = 200, 0
        if what == "fat":
            held, what = pool_module.KEPT + 1, "1"
        try:
            await asyncio.sleep(60 if what == "deaf" else int(what) / 1000)
        except asyncio.CancelledError:
            status = 409
        self.log.append(f"ended {name} {status}")
        self.frames.put_nowait(({"status": status, "headers": [], "held": held}, name.encode()))

    async def next(self) -> Frame | None:
        return await self.frames.get()

    def worked(self) -> float:
        return time.monotonic() if self.is_busy else 0.0

    def kill(self) -> None:
        if self.work is not None:
            self.is_deaf = True
            self.work.cancel()
        self.log.append("killed")
        self.frames.put_nowait(None)


class Scheduled(unittest.IsolatedAsyncioTestCase):
    def setUp(self) -> None:
        self.log: list[str] = []
        for name, value in (("ALONE", 0.05), ("GRACE", 0.05)):
            self.enterContext(patch.object(pool_module, name, value))

    async def pool(self, size: int = 4, most_long: int = 2) -> Pool:
        async def spawn() -> Pretended:
            return Pretended(self.log)

        made = Pool(spawn, size, most_long)
        await made.start()
        self.addAsyncCleanup(made.close, 0.01)
        return made

    def ask(self, pool: Pool, path: str, kind: Kind = LIGHT, game: str = "") -> asyncio.Task[Answer]:
        head = {"path": path, "query": ""}
        return asyncio.create_task(pool.answer(kind, game, head))

    async def test_light_ones_do_not_wait_for_fifty_long_ones(self) -> None:
        pool = await self.pool()
        long = [self.ask(pool, f"long{at}:20000", LONG) for at in range(50)]
        await asyncio.sleep(0.02)
        for kind in (LIGHT, WRITE):
            start = time.monotonic()
            self.assertEqual((await self.ask(pool, "light:1", kind)).status, 200)
            self.assertLess(time.monotonic() - start, 5.0)
        self.assertEqual(sum(one.startswith("begun long") for one in self.log), 2)
        for one in long:
            one.cancel()

    async def test_a_question_that_turns_out_long_is_put_back_and_answered_when_there_is_room(self) -> None:
        pool = await self.pool(3)
        long = [self.ask(pool, f"long{at}:300", LONG) for at in range(2)]
        await asyncio.sleep(0.01)
        unknown = self.ask(pool, "unknown:150")
        self.assertEqual((await unknown).status, 200)
        self.assertEqual(self.log.count("begun unknown"), 2, self.log)
        self.assertIn("ended unknown 409", self.log)
        await asyncio.gather(*long)
        self.log.clear()
        second = self.ask(pool, "unknown:150")  # it is known now
        held = [self.ask(pool, f"other{at}:100", LONG) for at in range(2)]
        await asyncio.gather(second, *held)
        self.assertEqual(self.log.count("begun unknown"), 1, self.log)

    async def test_while_somebody_is_free_a_long_question_may_go_on(self) -> None:
        pool = await self.pool(4)
        long = [self.ask(pool, f"long{at}:300", LONG) for at in range(2)]
        await asyncio.sleep(0.01)
        self.assertEqual((await self.ask(pool, "unknown:150")).status, 200)
        self.assertEqual(self.log.count("begun unknown"), 1, self.log)
        await asyncio.gather(*long)

    async def test_an_edit_is_never_put_back_nor_given_up_when_its_asker_goes(self) -> None:
        pool = await self.pool()
        long = [self.ask(pool, f"long{at}:400", LONG) for at in range(2)]
        await asyncio.sleep(0.01)
        edit = self.ask(pool, "edit:150", WRITE)
        await asyncio.sleep(0.08)
        edit.cancel()
        await asyncio.gather(*long)
        self.assertIn("ended edit 200", self.log)

    async def test_whoever_leaves_is_worked_for_no_more_whether_it_hears_or_not(self) -> None:
        pool = await self.pool()
        for what, sign in (("5000", "ended left 409"), ("deaf", "killed")):
            left = self.ask(pool, f"left:{what}")
            await asyncio.sleep(0.02)
            left.cancel()
            await asyncio.sleep(0.12)
            self.assertIn(sign, self.log)
        self.assertEqual((await self.ask(pool, "next:1")).status, 200)

    async def test_what_takes_too_long_is_told_so(self) -> None:
        pool = await self.pool()
        short = Kind(Urgency.LIGHT, seconds=0.05)
        late = await self.ask(pool, "late:deaf", short)
        self.assertEqual(late.status, 422)
        self.assertIn(b"takes over", late.body)
        edit = await self.ask(pool, "late:deaf", Kind(Urgency.WRITE, seconds=0.05, is_write=True))
        self.assertEqual(edit.status, 503)
        self.assertIn(b"sent again under the same id it is kept once", edit.body)

    async def test_what_only_waits_for_a_processor_may_take_its_time(self) -> None:
        pool = await self.pool()
        pool._workers[0].process.is_busy = False  # type: ignore[attr-defined]
        short = Kind(Urgency.LIGHT, seconds=0.05)
        self.assertEqual((await self.ask(pool, "slow:120", short)).status, 200)
        self.assertEqual((await self.ask(pool, "slower:400", short)).status, 422)

    async def test_a_crash_takes_nobody_along(self) -> None:
        pool = await self.pool()
        beside = self.ask(pool, "beside:100")
        await asyncio.sleep(0.01)
        self.assertEqual((await self.ask(pool, "bad:crash")).status, 500)
        self.assertEqual(self.log.count("begun bad"), 2)  # the first may have ended by itself
        self.assertEqual((await self.ask(pool, "edit:crash", WRITE)).status, 503)
        self.assertEqual((await beside).status, 200)
        self.assertEqual((await self.ask(pool, "next:1")).status, 200)

    async def test_a_worker_that_holds_too_much_is_replaced_before_another_question_comes_to_it(self) -> None:
        pool = await self.pool(1, 1)
        asked = [self.ask(pool, "first:fat"), self.ask(pool, "second:1"), self.ask(pool, "third:1")]
        self.assertEqual([one.status for one in await asyncio.gather(*asked)], [200, 200, 200])
        self.assertEqual(self.log.count("killed"), 1)
        self.assertEqual(sum(one.startswith("begun") for one in self.log), 3, self.log)

    async def test_so_many_may_wait_and_no_more(self) -> None:
        pool = await self.pool(1, 1)
        with patch.object(pool_module, "MOST_WAITING", 3):
            asked = [self.ask(pool, f"one{at}:20") for at in range(6)]
            found = await asyncio.gather(*asked)
        self.assertEqual(sorted({one.status for one in found}), [200, 503])

    async def test_questions_of_one_game_go_to_one_worker(self) -> None:
        pool = await self.pool()
        await asyncio.gather(*(self.ask(pool, f"one{at}:10", game="a") for at in range(4)))
        self.assertEqual(
            [one for one in self.log if one.startswith("begun")], [f"begun one{at}" for at in range(4)]
        )
        self.assertEqual(len(pool._workers), 1)

    async def test_stopped_it_lets_edits_end_and_answers_whoever_waits(self) -> None:
        pool = await self.pool(2, 1)
        edit, long = self.ask(pool, "edit:60", WRITE), self.ask(pool, "long:5000", LONG)
        waits = self.ask(pool, "waits:10", LONG)
        await asyncio.sleep(0.03)
        await pool.close(1.0)
        self.assertEqual([one.status for one in (await edit, await waits)], [200, 503])
        long.cancel()


class Kinds(unittest.TestCase):
    def test_every_change_is_known_as_one(self) -> None:
        game = "/api/games/0123456789ab"
        edits = [
            ("POST", "/api/games"),
            ("POST", "/api/games/demo"),
            ("DELETE", game),
            *(("POST", f"{game}/{what}") for what in ("changes", "removals", "undo", "redo", "back")),
            *(("POST", f"{game}/{what}") for what in ("restore", "duplicate", "trials")),
            ("PUT", f"{game}/marks/3"),
            ("PUT", f"{game}/pictures/hall"),
            ("POST", f"{game}/trials/ab/cancel"),
            ("PATCH", f"{game}/trials/ab"),
        ]
        for method, path in edits:
            kind = kind_of(method, path, 10)
            self.assertTrue(kind.is_write and kind.urgency is Urgency.WRITE, path)
        for path in ("odds", "trials/estimate", "compare", "tune", "sheets", "rolls"):
            self.assertFalse(kind_of("POST", f"{game}/{path}", 10).is_write, path)
        self.assertFalse(kind_of("GET", game, 0).is_write)
        self.assertTrue(kind_of("POST", "/api/games/import", 10).is_write)


class Real(unittest.TestCase):
    """The processes themselves, on work that is really long."""

    client: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        cls.address = cls.enterClassContext(fronted_server())
        cls.client = cls.enterClassContext(httpx.Client(base_url=cls.address, timeout=120))
        game = cls.client.post("/api/games/import", content=DEMO.read_bytes()).json()
        cls.url = f"/api/games/{game['id']}"
        cls.client.post(f"{cls.url}/odds", json=EEL)

    def test_tuning_by_six_leaves_room_for_questions_and_edits_and_ends_with_them(self) -> None:
        with ThreadPoolExecutor(6) as many:
            asked = [many.submit(self._left, "tune", {}, 15.0) for _ in range(6)]
            time.sleep(0.5)
            took = [self._timed(self._light) for _ in range(8)] + [self._timed(self._edit) for _ in range(4)]
            health = [self._timed(lambda: self.client.get("/api/health")) for _ in range(4)]
            for one in asked:
                one.result()
        # Alone 0.05; a busy machine may take its time, but proposals take far longer.
        self.assertLess(max(took), 10.0)
        self.assertLess(max(health), 5.0)
        self._nobody_works_after(1.5)

    def test_a_process_that_is_killed_is_another_the_next_time(self) -> None:
        [source] = (
            one for one in psutil.Process().children() if "golddice.server.front.zygote" in one.cmdline()
        )
        for child in source.children():  # the workers, and who plays trials
            child.send_signal(signal.SIGKILL)
        end = time.monotonic() + 20
        while time.monotonic() < end:
            if self.client.post(f"{self.url}/odds", json=EEL).status_code == 200:
                return
        self.fail("nobody answers any more")

    def test_the_stream_tells_of_edits_and_of_who_is_there(self) -> None:
        heard: list[str] = []
        ready, done = threading.Event(), threading.Event()

        def listen() -> None:
            with httpx.stream("GET", f"{self.address}{self.url}/events", timeout=30) as stream:
                for line in stream.iter_lines():
                    heard.append(line)
                    ready.set()
                    if any("presence" in one for one in heard) and any("revision" in one for one in heard):
                        done.set()
                        return

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        self.assertTrue(ready.wait(10))
        self._edit()
        here = {"page": "page-0123456789", "who": "", "sheet": "", "cell": "", "at": "", "leaves": False}
        self.assertEqual(self.client.post(f"{self.url}/presence", json=here).status_code, 204)
        self.assertTrue(done.wait(10), heard)
        missing = self.client.get("/api/games/no-such/events")
        self.assertEqual(missing.status_code, 404)

    def test_what_is_allowed_is_told_where_something_else_was_tried(self) -> None:
        for path, allowed in (("odds", "POST"), ("undo", "POST"), ("history", "GET")):
            answer = self.client.put(f"{self.url}/{path}")
            self.assertEqual((answer.status_code, answer.headers["allow"]), (405, allowed), path)

    def test_an_answer_is_compressed_for_who_takes_it(self) -> None:
        answer = self.client.get(self.url)
        self.assertEqual(answer.headers["content-encoding"], "gzip")
        self.assertEqual(answer.json()["id"], self.url.rsplit("/", 1)[1])
        self.assertIn("content-security-policy", answer.headers)

    def test_a_trial_is_played_and_cancelled(self) -> None:
        asked = {**EEL, "flags": [], "seed": 7, "players": 1_000_000, "events": 2_000, "knowingly": True}
        trial = self.client.post(f"{self.url}/trials", json=asked).json()["id"]
        self._until(lambda: self._trial(trial)["status"] == "running" and self._trial(trial)["done"] > 0)
        self.assertEqual(self.client.post(f"{self.url}/trials/{trial}/cancel").status_code, 202)
        self.assertEqual(self._trial(trial)["status"], "cancelled")
        short = self.client.post(f"{self.url}/trials", json={**asked, "players": 50, "events": 5}).json()
        self._until(lambda: self._trial(short["id"])["status"] == "done")

    def _trial(self, name: str) -> dict[str, Any]:
        found: dict[str, Any] = self.client.get(f"{self.url}/trials/{name}").json()
        return found

    def _until(self, holds: Callable[[], bool], seconds: float = 30) -> None:
        end = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)

    def _timed(self, what: Callable[[], Any]) -> float:
        start = time.monotonic()
        what()
        return time.monotonic() - start

    def _light(self) -> None:
        answer = self.client.post(f"{self.url}/odds", json=EEL)
        self.assertEqual(answer.status_code, 200)

    def _edit(self) -> None:
        game = self.client.get(self.url).json()
        body = game["items"][0] | {"value": game["items"][0]["value"] + 1}
        entry = {"kind": "item", "id": body["id"], "body": body}
        change = {"base": game["revision"], "label": "edit", "entries": [entry]}
        self.assertEqual(self.client.post(f"{self.url}/changes", json=change).status_code, 200)

    def _left(self, path: str, body: dict[str, Any], after: float) -> None:
        """Asked, and left before there is an answer."""
        with suppress(httpx.TimeoutException):
            httpx.post(f"{self.address}{self.url}/{path}", json=body, timeout=after)

    def _nobody_works_after(self, seconds: float) -> None:
        time.sleep(seconds)
        before = self._busy()
        time.sleep(1.0)
        self.assertLess(self._busy() - before, 0.5, "somebody works for nobody")

    def _busy(self) -> float:
        total = 0.0
        for child in self._children():
            with suppress(psutil.NoSuchProcess):
                times = child.cpu_times()
                total += times.user + times.system
        return total

    def _children(self) -> list[psutil.Process]:
        return psutil.Process().children(recursive=True)


class TwoServers(unittest.TestCase):
    """On one database they share one line of trials, and what happens at one is news at the other."""

    def setUp(self) -> None:
        self.servers = []
        for name in ("first", "second"):
            address = self.enterContext(fronted_server(module="two servers", name=name))
            self.servers.append(self.enterContext(httpx.Client(base_url=address, timeout=60)))
        game = self.servers[0].post("/api/games/import", content=DEMO.read_bytes()).json()
        self.url = f"/api/games/{game['id']}"

    def run_one(self, server: int, players: int, events: int) -> str:
        asked = {**EEL, "seed": 7, "players": players, "events": events, "knowingly": True}
        return str(self.servers[server].post(f"{self.url}/trials", json=asked).json()["id"])

    def until(self, trial: str, *states: str) -> dict[str, Any]:
        end = time.monotonic() + 60
        while time.monotonic() < end:
            told: list[dict[str, Any]] = [
                one.get(f"{self.url}/trials/{trial}").json() for one in self.servers
            ]
            self.assertEqual(told[0]["result"] is None, told[0]["status"] != "done")
            if all(one["status"] in states for one in told):
                return told[0]
            time.sleep(0.05)
        self.fail(f"still {[one['status'] for one in told]}")

    def test_trials_are_played_once_by_whoever_is_free_and_cancelled_from_either(self) -> None:
        long = [self.run_one(0, 1_000_000, 5_000) for _ in range(2)]
        for trial in long:  # by one server each
            self.until(trial, "running")
        short = self.run_one(1, 100, 10)
        self.assertEqual(self.servers[1].get(f"{self.url}/trials/{short}").json()["status"], "waiting")
        for at, trial in enumerate(long):
            self.servers[at].post(f"{self.url}/trials/{trial}/cancel")
            self.until(trial, "cancelled")
        self.assertEqual(self.until(short, "done")["done"], 100)

    def test_an_edit_at_one_is_news_and_numbers_at_the_other(self) -> None:
        heard: list[str] = []
        ready = threading.Event()

        def listen() -> None:
            with self.servers[1].stream("GET", f"{self.url}/events", timeout=30) as stream:
                for line in stream.iter_lines():
                    ready.set()
                    if line.startswith("data:"):
                        heard.append(line)
                        return

        thread = threading.Thread(target=listen)
        thread.start()
        self.assertTrue(ready.wait(20))
        before = self.servers[1].post(f"{self.url}/odds", json=EEL).json()
        tables = self.servers[0].get(self.url).json()["tables"]
        body = next(one for one in tables if one["id"] == "eel-catch") | {"nothing": 77}
        entry = {"kind": "table", "id": "eel-catch", "body": body}
        change = {"base": 1, "label": "edit", "entries": [entry]}
        self.assertEqual(self.servers[0].post(f"{self.url}/changes", json=change).status_code, 200)
        thread.join(20)
        self.assertIn('"revision": 2', heard[0])
        after = self.servers[1].post(f"{self.url}/odds", json=EEL).json()
        self.assertEqual((before["revision"], after["revision"]), (1, 2))
        self.assertNotEqual(before["sheet"], after["sheet"])


if __name__ == "__main__":
    unittest.main()
