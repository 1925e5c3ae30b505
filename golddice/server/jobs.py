"""Trials as jobs: one at a time on all cores, games in turns, in the order asked within a game.

What a unit brings is kept as it finishes: a trial whose server was killed goes on from there at the
next start.
"""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict, deque
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from golddice.core.errors import GoldDiceError
from golddice.core.game.models import Game
from golddice.core.stopping import Cancelled, Stop
from golddice.core.trial.bytes_of import packed, unpacked
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.playing import Bags
from golddice.core.trial.summary import MOST_FAN_PLAYERS, Summary
from golddice.core.trial.trial import AnyTrial, plan_of, precision_of, report, reported
from golddice.server.broadcast import Broadcast
from golddice.store.errors import StoreError, Unavailable
from golddice.store.trials import Trials

MOST_IN_LINE = 200
_TELL_EVERY = 0.1
_REPORT_EVERY = 0.7
_TRY_AGAIN = 1.0
_log = logging.getLogger("golddice")
Found = TypeVar("Found")


class LineFull(GoldDiceError):
    """So many trials wait that no other is taken."""

    def __str__(self) -> str:
        return f"{MOST_IN_LINE} trials wait for their turn already; come again in a minute"


@dataclass
class Running:
    """How far a trial is. `partial` : what is told of what has been played."""

    stop: Stop = field(default_factory=Stop)
    began: float = 0.0
    from_kept: int = 0
    events: int = 0
    players: int = 0
    wanted: int = 0
    precision: float | None = None
    partial: dict[str, Any] | None = None

    @property
    def pace(self) -> dict[str, float | None]:
        """Events a second, seconds left, and how well the mean is known."""
        took = time.perf_counter() - self.began
        share = self.players / self.wanted if self.wanted else 0.0
        own = (self.players - self.from_kept) / self.wanted if self.wanted else 0.0
        left = took * (1 - share) / own if own > 0 else None
        speed = self.events * own / share / took if took > 0 and share > 0 else None
        return {"events_a_second": speed, "seconds_left": left, "precision": self.precision}


@dataclass(frozen=True)
class Job:
    """A trial to be played: `game` is asked for when its turn comes."""

    game_id: str
    trial_id: str
    game: Callable[[], Game]
    trial: AnyTrial
    kernel: int | None
    program: str | None


class Jobs:
    """Runs trials in the background; tells how far they are."""

    def __init__(self, trials: Trials, broadcast: Broadcast, workers: Executor) -> None:
        self._trials, self._broadcast, self._workers = trials, broadcast, workers
        self._running: dict[str, Running] = {}
        self._line: OrderedDict[str, deque[Job]] = OrderedDict()
        self._changed = threading.Condition()
        self._closing = threading.Event()
        self._runner = threading.Thread(target=self._work, name="trials", daemon=True)
        self._runner.start()

    def check_room(self) -> None:
        """Raises LineFull."""
        with self._changed:
            if sum(map(len, self._line.values())) >= MOST_IN_LINE:
                raise LineFull

    def start(self, job: Job) -> None:
        with self._changed:
            self._running[job.trial_id] = Running(wanted=job.trial.players)
            self._line.setdefault(job.game_id, deque()).append(job)
            self._changed.notify()

    def running(self, trial_id: str) -> Running | None:
        return self._running.get(trial_id)

    def cancel(self, trial_id: str) -> None:
        found = self._running.get(trial_id)
        if found is not None:
            found.stop.set()

    def cancel_of(self, game_id: str) -> None:
        """All that wait or run of a game."""
        for _, trial in self._trials.under_way(game_id):
            self.cancel(trial)

    def close(self) -> None:
        """What runs or waits goes on at the next start."""
        self._closing.set()
        for found in list(self._running.values()):
            found.stop.set()
        with self._changed:
            self._changed.notify()
        self._runner.join(timeout=10)
        self._workers.shutdown(cancel_futures=True)

    def _work(self) -> None:
        while (job := self._next()) is not None:
            try:
                self._run(job)
            except StoreError:
                _log.exception("trial %s could not be stored", job.trial_id)
            finally:
                self._running.pop(job.trial_id, None)

    def _next(self) -> Job | None:
        """The first in line of the game whose turn it is; that game then goes to the end."""
        with self._changed:
            while not self._closing.is_set():
                if self._line:
                    game_id, jobs = self._line.popitem(last=False)
                    job = jobs.popleft()
                    if jobs:
                        self._line[game_id] = jobs
                    return job
                self._changed.wait()
        return None

    def _run(self, job: Job) -> None:
        outcome = self._outcome(job, self._running[job.trial_id])
        if outcome is not None:
            self._kept(lambda: self._trials.update(job.trial_id, **outcome))
            self._tell(job, outcome["status"], outcome.get("done", 0))

    def _outcome(self, job: Job, running: Running) -> dict[str, Any] | None:
        """What came of it; None of one that goes on at the next start."""
        start = time.perf_counter()
        try:
            if running.stop.is_set():
                raise Cancelled("the trial was cancelled before it began")
            summary, result = self._played(job, running)
        except Cancelled as error:
            if self._closing.is_set():
                return None
            return {"status": "cancelled", "error": str(error)}
        except GoldDiceError as error:
            if self._closing.is_set() and isinstance(error, StoreError):
                return None
            return {"status": "failed", "error": str(error)}
        except Exception:
            if self._closing.is_set():
                return None
            _log.exception("trial %s failed", job.trial_id)
            return {"status": "failed", "error": "something went wrong here"}
        seconds = round(time.perf_counter() - start, 3)
        return {"status": "done", "result": result, "done": summary.players, "seconds": seconds}

    def _played(self, job: Job, running: Running) -> tuple[Summary, dict[str, Any]]:
        plan = plan_of(self._kept(job.game), job.trial)
        program = plan.program_digest()
        if job.kernel != KERNEL_VERSION or (job.program is not None and job.program != program):
            raise NoLongerTheSame(job.kernel)
        self._kept(lambda: self._trials.update(job.trial_id, status="running", program=program))
        self._tell(job, "running", 0)
        there = self._kept(lambda: self._trials.kept(job.trial_id))
        units = KeptUnits(self._trials, job.trial_id, there, self._kept)
        running.began = time.perf_counter()
        told = [0.0, time.perf_counter()]  # when the news and the report were last told

        def on_unit(number: int, bags: Bags, summary: Summary) -> None:
            if number not in there:
                players = int(bags.value.size)
                if summary.players - players >= MOST_FAN_PLAYERS:
                    bags = replace(bags, fan=bags.fan[:, :0])  # paths of so many more are not looked at
                data = packed(bags)
                self._kept(lambda: self._trials.keep_unit(job.trial_id, number, players, data))
            else:
                running.from_kept = summary.players
            running.players, running.events = summary.players, summary.events_total
            now = time.perf_counter()
            if now - told[0] >= _TELL_EVERY:
                told[0] = now
                self._tell(job, "running", summary.players)
            if now - told[1] >= _REPORT_EVERY:
                told[1] = now
                running.precision = precision_of(plan, summary)
                running.partial = report(plan, summary)

        return reported(plan, self._workers, on_unit, running.stop, units)

    def _kept(self, write: Callable[[], Found]) -> Found:
        """Write it down, if need be when the database is there again: what came of a trial is not lost
        with a connection."""
        while True:
            try:
                return write()
            except Unavailable:
                if self._closing.wait(_TRY_AGAIN):
                    raise

    def _tell(self, job: Job, status: str, done: int) -> None:
        message = {"type": "trial", "id": job.trial_id, "status": status, "done": done}
        self._broadcast.tell(job.game_id, message)


class NoLongerTheSame(GoldDiceError):
    """A trial that was begun by another kernel, or of a game that is compiled otherwise now."""

    def __str__(self) -> str:
        return "it was begun by another version of the event kernel, which played otherwise; run it again"


class KeptUnits:
    """The units of a trial that are in the store, read when they are asked for."""

    def __init__(
        self,
        trials: Trials,
        trial_id: str,
        numbers: set[int],
        kept: Callable[[Callable[[], bytes | None]], bytes | None],
    ) -> None:
        self._trials, self._id, self._numbers, self._kept = trials, trial_id, numbers, kept

    def get(self, number: int) -> Bags | None:
        if number not in self._numbers:
            return None
        data = self._kept(lambda: self._trials.unit(self._id, number))
        return None if data is None else unpacked(data)
