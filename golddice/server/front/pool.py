"""Who works when: requests are handed to worker processes, one at a time each.

A process of its own is what lets a request be bounded: it can be ended whatever it is doing, its memory goes
with it, and what crashes in it takes nobody along. Who waits holds a place in a queue and nothing else.

Three rules keep light questions and edits from waiting for long ones:

- at most so many workers are given long work, fewer than there are workers;
- what takes longer than `ALONE` seconds counts as long; where nobody is free any more the youngest such
  question is put back among the long ones, and begun again when there is room;
- requests of one game go to the worker that knows it best, unless that is on long work: what it worked out
  before it has at hand.
"""

from __future__ import annotations

import asyncio
import hashlib
import logging
import os
from collections import Counter, OrderedDict, deque
from collections.abc import Awaitable, Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, Protocol

from golddice.server.front.frames import Frame
from golddice.server.front.kinds import Kind, Urgency
from golddice.server.problems import KIND, problem_body

ALONE = 0.25  # seconds after which a question counts as long
GRACE = 0.5  # seconds to stop by itself once it is told to; then its process is ended
BUSY = 5.0  # times as long as it may work a request may take, where others work too
KNOWN = 20  # games that a worker may hold something of
MOST_WAITING = 500
MOST_BYTES = 256 * 2**20  # of bodies that wait
KEPT = 900 * 2**20  # bytes; a worker that holds more afterwards is replaced
_REMEMBERED = 2_000
_AGAIN = 0.5
_CANCELLED = 409  # what a question answers that was told to stop
_log = logging.getLogger("golddice")

Headers = list[tuple[str, str]]


@dataclass(frozen=True)
class Answer:
    status: int
    headers: Headers
    body: bytes


class Process(Protocol):
    """A worker, seen from here."""

    def send(self, head: dict[str, Any], body: bytes = b"") -> None: ...

    async def next(self) -> Frame | None: ...

    def kill(self) -> None: ...

    def worked(self) -> float:
        """Seconds of a processor so far."""
        ...


Spawn = Callable[[], Awaitable[Process]]


@dataclass(eq=False)
class Ticket:
    """A request that waits or is worked on."""

    kind: Kind
    game: str
    head: dict[str, Any]
    body: bytes
    key: bytes
    done: asyncio.Future[Answer]
    urgency: Urgency
    why: str | None = None  # it was told to stop: "left", "late" or "put back"
    is_again: bool = False  # its first worker ended


@dataclass(eq=False)
class Worker:
    process: Process
    ticket: Ticket | None = None
    since: float = 0.0
    worked: float = 0.0  # seconds of a processor before it began
    known: Counter[str] = field(default_factory=Counter)  # games, by how much was asked of it about each
    ends: list[asyncio.TimerHandle] = field(default_factory=list)

    def forget_timers(self) -> None:
        while self.ends:
            self.ends.pop().cancel()


class Pool:
    """`size` workers of which `most_long` may be on long work."""

    def __init__(self, spawn: Spawn, size: int | None = None, most_long: int | None = None) -> None:
        cores = os.cpu_count() or 1
        self._spawn = spawn
        self._most_long = most_long or max(1, cores)
        self._size = size or self._most_long + 3
        self._workers: list[Worker] = []  # the one that was used last stands last
        self._coming = 0
        self._waiting: dict[Urgency, deque[Ticket]] = {one: deque() for one in Urgency}
        self._long: OrderedDict[bytes, None] = OrderedDict()  # requests that turned out to be long
        self._tasks: set[asyncio.Task[None]] = set()
        self._look: asyncio.TimerHandle | None = None
        self._closing = False

    async def start(self) -> None:
        """The first worker, which whoever comes first would wait for."""
        await self._hire()

    async def answer(self, kind: Kind, game: str, head: dict[str, Any], body: bytes = b"") -> Answer:
        """What a worker answers. Cancelled, the work ends within GRACE, unless it is an edit that is
        begun."""
        if self._closing:
            return refusal(503, "Stopping", "the server is being stopped")
        waiting = [one for queue in self._waiting.values() for one in queue]
        if len(waiting) >= MOST_WAITING or sum(len(one.body) for one in waiting) > MOST_BYTES:
            return refusal(503, "Busy", "so many questions wait that no other is taken; ask again", wait=5)
        key = hashlib.blake2b(f"{head.get('path')}{head.get('query')}".encode() + body).digest()
        urgency = Urgency.LONG if kind.urgency is Urgency.LIGHT and key in self._long else kind.urgency
        done: asyncio.Future[Answer] = asyncio.get_running_loop().create_future()
        ticket = Ticket(kind, game, head, body, key, done, urgency)
        self._waiting[urgency].append(ticket)
        self._dispatch()
        try:
            return await done
        except asyncio.CancelledError:
            self._leave(ticket)
            raise

    async def close(self, patience: float = 3.0) -> None:
        """Edits that are begun are let to end; all else is ended at once."""
        self._closing = True
        for queue in self._waiting.values():
            while queue:
                _tell(queue.popleft(), refusal(503, "Stopping", "the server is being stopped"))
        edits = [w.ticket.done for w in self._workers if w.ticket is not None and w.ticket.kind.is_write]
        if edits:
            await asyncio.wait(edits, timeout=patience)
        for worker in self._workers:
            worker.process.kill()
        for task in list(self._tasks):
            task.cancel()
        await asyncio.gather(*self._tasks, return_exceptions=True)

    # --- who gets what -----------------------------------------------------------------------------------

    def _dispatch(self) -> None:
        """Give those who wait to workers that are free, and look again when that may change by itself."""
        if self._closing:
            return
        now = asyncio.get_running_loop().time()
        self._keep_one_free(now)
        for ticket in list(self._in_order()):
            if ticket.urgency is Urgency.LONG and self._on_long_work(now) >= self._most_long:
                break
            if self._is_expected(ticket, now):
                continue
            worker = self._worker_for(ticket)
            if worker is None:
                if len(self._workers) + self._coming < self._size:
                    self._task(self._hire())
                break
            self._waiting[ticket.urgency].remove(ticket)
            self._give(worker, ticket, now)
        self._look_again(now)

    def _in_order(self) -> Iterator[Ticket]:
        for urgency in Urgency:
            yield from self._waiting[urgency]

    def _is_long(self, worker: Worker, now: float) -> bool:
        ticket = worker.ticket
        return ticket is not None and (ticket.urgency is Urgency.LONG or now - worker.since >= ALONE)

    def _on_long_work(self, now: float) -> int:
        return sum(self._is_long(one, now) for one in self._workers)

    def _is_expected(self, ticket: Ticket, now: float) -> bool:
        """Whether the worker that knows its game best will be free again in a moment."""
        best = max(self._workers, key=lambda one: one.known[ticket.game], default=None)
        if best is None or not best.known[ticket.game] or ticket.urgency is Urgency.LONG:
            return False
        return best.ticket is not None and not self._is_long(best, now)

    def _worker_for(self, ticket: Ticket) -> Worker | None:
        """Of those that are free the one that knows the game best; for what is long the one that others would
        miss least, and none yet where another can come instead of one that they would."""
        idle = [one for one in self._workers if one.ticket is None]
        if not idle:
            return None
        if ticket.urgency is Urgency.LONG:
            may_grow = len(self._workers) + self._coming < self._size
            least = min(idle, key=lambda one: one.known.total())
            return None if least.known.total() and may_grow else least
        known = max(idle, key=lambda one: one.known[ticket.game])
        return known if known.known[ticket.game] else min(idle, key=lambda one: one.known.total())

    def _give(self, worker: Worker, ticket: Ticket, now: float) -> None:
        worker.ticket, worker.since, worker.worked = ticket, now, worker.process.worked()
        if ticket.game and ticket.urgency is not Urgency.LONG:
            worker.known[ticket.game] += 1
            if len(worker.known) > KNOWN:  # it has forgotten the others by now
                del worker.known[next(iter(worker.known))]
        self._workers.remove(worker)
        self._workers.append(worker)
        self._end_after(worker, ticket.kind.seconds)
        worker.process.send({"ask": ticket.head, "memory": ticket.kind.memory}, ticket.body)

    def _end_after(self, worker: Worker, seconds: float) -> None:
        loop = asyncio.get_running_loop()
        worker.ends.append(loop.call_later(seconds, self._too_late, worker))

    def _too_late(self, worker: Worker) -> None:
        """What takes too long is what works too long: on a busy machine it may take its time."""
        assert worker.ticket is not None
        most = worker.ticket.kind.seconds
        left = most - (worker.process.worked() - worker.worked)
        waited = asyncio.get_running_loop().time() - worker.since
        if left > 0.02 * most and waited < BUSY * most:
            self._end_after(worker, left)
        else:
            self._stop(worker, "late")

    def _keep_one_free(self, now: float) -> None:
        """Put back the youngest of the questions that turned out to be long, where nobody is free for what
        comes next. While somebody is, they may go on."""
        if any(one.ticket is None for one in self._workers) or len(self._workers) < self._size:
            return
        if any(one.ticket is not None and one.ticket.why is not None for one in self._workers):
            return  # somebody is being stopped already
        for worker in sorted(self._workers, key=lambda one: -one.since):
            ticket = worker.ticket
            if ticket is None or ticket.urgency is Urgency.LONG or ticket.kind.is_write:
                continue
            if now - worker.since >= ALONE:
                self._remember(ticket.key)
                self._stop(worker, "put back")
                return

    def _remember(self, key: bytes) -> None:
        self._long[key] = None
        self._long.move_to_end(key)
        if len(self._long) > _REMEMBERED:
            self._long.popitem(last=False)

    def _look_again(self, now: float) -> None:
        """When the youngest that is not long yet becomes so."""
        if self._look is not None:
            self._look.cancel()
            self._look = None
        light = [
            one.since + ALONE - now
            for one in self._workers
            if one.ticket is not None and one.ticket.urgency is not Urgency.LONG and one.ticket.why is None
        ]
        if light:
            wait = max(min((one for one in light if one > 0), default=ALONE), 0.0) + 0.002
            self._look = asyncio.get_running_loop().call_later(wait, self._dispatch)

    # --- ends --------------------------------------------------------------------------------------------

    def _leave(self, ticket: Ticket) -> None:
        """Nobody waits for it any more."""
        if ticket in self._waiting[ticket.urgency]:
            self._waiting[ticket.urgency].remove(ticket)
            return
        for worker in self._workers:
            if worker.ticket is ticket and not ticket.kind.is_write:
                self._stop(worker, "left")

    def _stop(self, worker: Worker, why: str) -> None:
        """Tell it to stop; where it does not, end its process."""
        ticket = worker.ticket
        if ticket is None:
            return
        if ticket.why is None:
            worker.process.send({"stop": True})
            loop = asyncio.get_running_loop()
            worker.ends.append(loop.call_later(GRACE, worker.process.kill))
        if ticket.why is None or why == "left":
            ticket.why = why

    async def _hire(self) -> None:
        self._coming += 1
        try:
            process = await self._spawn()
        except OSError:
            _log.exception("no worker could be started")
            await asyncio.sleep(_AGAIN)
            return
        finally:
            self._coming -= 1
        worker = Worker(process)
        self._workers.append(worker)
        self._task(self._attend(worker))
        self._dispatch()

    async def _attend(self, worker: Worker) -> None:
        """Take a worker's answers until it ends."""
        while (frame := await worker.process.next()) is not None:
            head, body = frame
            self._answered(worker, Answer(head["status"], [tuple(one) for one in head["headers"]], body))
            if head["held"] > KEPT:
                break
            self._dispatch()
        worker.process.kill()
        self._workers.remove(worker)
        self._answered(worker, None)
        self._dispatch()

    def _answered(self, worker: Worker, answer: Answer | None) -> None:
        """None: its process ended, told to or not."""
        ticket, worker.ticket = worker.ticket, None
        worker.forget_timers()
        if ticket is None:
            return
        is_whole = answer is not None and answer.status != _CANCELLED  # it was done before it heard
        if ticket.why == "put back" and not is_whole:
            ticket.why, ticket.urgency = None, Urgency.LONG
            self._waiting[Urgency.LONG].append(ticket)
        elif ticket.why == "late" and not is_whole:
            _tell(ticket, _too_late(ticket.kind))
        elif answer is None and not (ticket.kind.is_write or ticket.is_again or ticket.why):
            ticket.is_again = True  # the process may have ended before it was asked
            self._waiting[ticket.urgency].appendleft(ticket)
        elif answer is None:
            _tell(ticket, _crashed(ticket.kind))
        else:
            _tell(ticket, answer)

    def _task(self, work: Any) -> None:
        task: asyncio.Task[None] = asyncio.get_running_loop().create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)


def _tell(ticket: Ticket, answer: Answer) -> None:
    if not ticket.done.done():
        ticket.done.set_result(answer)


def refusal(status: int, title: str, detail: str, wait: int | None = None) -> Answer:
    headers = [("content-type", KIND)]
    if wait is not None:
        headers.append(("retry-after", str(wait)))
    return Answer(status, headers, problem_body(status, title, detail))


_PERHAPS = "so it may or may not have been kept; sent again under the same id it is kept once"


def _too_late(kind: Kind) -> Answer:
    if kind.is_write:
        return refusal(503, "Uncertain", f"this took over {kind.seconds:.0f} s and was stopped, {_PERHAPS}")
    detail = f"this takes over {kind.seconds:.0f} s and was stopped; ask of fewer depths, events or lines"
    return refusal(422, "TooLarge", detail)


def _crashed(kind: Kind) -> Answer:
    if kind.is_write:
        return refusal(503, "Uncertain", f"the process that worked on this ended, {_PERHAPS}")
    return refusal(500, "Unexpected", "the process that worked on this ended before it had an answer")
