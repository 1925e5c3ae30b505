"""Plays the trials that wait in line, one at a time on all cores.

Several may play for one line, in one server or in several: each plays what it has leased. What a unit brings
is kept as it finishes, so a trial goes on from there, whoever played it before.
"""

from __future__ import annotations

import logging
import threading
import time
import uuid
from collections.abc import Callable
from concurrent.futures import Executor
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from golddice.core.errors import GoldDiceError
from golddice.core.stopping import Cancelled, Stop
from golddice.core.trial.bytes_of import packed, unpacked
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.playing import Bags
from golddice.core.trial.summary import MOST_FAN_PLAYERS, Summary
from golddice.core.trial.trial import plan_of, precision_of, report, reported
from golddice.server.broadcast import News
from golddice.server.trial_plans import game_of, trial_of
from golddice.store.errors import StoreError, Unavailable
from golddice.store.games import Games
from golddice.store.line import LeaseLost, Line
from golddice.store.rows import TrialRow
from golddice.store.trials import Trials

_BEAT = 0.4  # seconds between signs of life, each of which tells how far the trial is
_REPORT_EVERY = 0.7
_LOOK_EVERY = 0.7  # seconds between looks at the line, for what others put into it
_TRY_AGAIN = 1.0
_log = logging.getLogger("golddice")
Found = TypeVar("Found")


@dataclass
class Running:
    """How far a trial is. `partial` : what is told of what has been played."""

    wanted: int
    stop: Stop = field(default_factory=Stop)
    began: float = 0.0
    from_kept: int = 0
    events: int = 0
    players: int = 0
    precision: float | None = None
    partial: dict[str, Any] | None = None

    def progress(self) -> dict[str, Any]:
        """Players, events a second, seconds left, and how well the mean is known."""
        took = time.perf_counter() - self.began if self.began else 0.0
        share = self.players / self.wanted if self.wanted else 0.0
        own = (self.players - self.from_kept) / self.wanted if self.wanted else 0.0
        left = took * (1 - share) / own if own > 0 else None
        speed = self.events * own / share / took if took > 0 and share > 0 else None
        return {
            "players": self.players,
            "events_a_second": speed,
            "seconds_left": left,
            "precision": self.precision,
        }


class Runner:
    """A thread that takes from the line as long as it is not closed. `server` is who leases: a word of its
    own for each server on the database."""

    def __init__(
        self, games: Games, trials: Trials, line: Line, news: News, workers: Executor, server: str
    ) -> None:
        self._games, self._trials, self._line = games, trials, line
        self._news, self._workers = news, workers
        self._owner = f"{server}/{uuid.uuid4().hex[:8]}"
        self._running: tuple[TrialRow, Running] | None = None
        self._wake = threading.Event()
        self._closing = threading.Event()
        self._threads = [
            threading.Thread(target=work, name=name, daemon=True)
            for name, work in (("trials", self._work), ("heartbeat", self._beat))
        ]
        for thread in self._threads:
            thread.start()

    def wake(self) -> None:
        """Look at the line now: something was put into it, or cancelled."""
        self._wake.set()

    def close(self) -> None:
        """What runs is handed back to the line with what is kept of it."""
        self._closing.set()
        self._wake.set()
        if self._running is not None:
            self._running[1].stop.set()
        for thread in self._threads:
            thread.join(timeout=10)
        self._workers.shutdown(cancel_futures=True)
        with suppress(StoreError):  # else the lease ends by itself
            self._line.release(self._owner)

    # --- the line ----------------------------------------------------------------------------------------

    def _work(self) -> None:
        while not self._closing.is_set():
            try:
                row = self._line.claim(self._owner)
            except StoreError:
                row = None
            if row is None:
                self._wake.wait(_LOOK_EVERY)
                self._wake.clear()
                continue
            self._running = row, Running(row.spec["players"])
            try:
                self._run(*self._running)
            except StoreError:
                _log.exception("trial %s could not be stored", row.id)
            finally:
                self._running = None

    def _beat(self) -> None:
        """Signs of life for whatever runs; where its lease is lost it is stopped."""
        told: tuple[str, int] | None = None
        while not self._closing.wait(_BEAT):
            current = self._running
            if current is None:
                continue
            row, running = current
            partial, running.partial = running.partial, None
            try:
                if not self._line.renew(row.id, self._owner, running.progress(), partial):
                    running.stop.set()
                elif told != (told := (row.id, running.players)):
                    self._tell(row, "running", running.players)
            except StoreError:
                continue  # once the database is there again it is told

    # --- one trial ---------------------------------------------------------------------------------------

    def _run(self, row: TrialRow, running: Running) -> None:
        try:
            outcome = self._outcome(row, running)
            if outcome is not None:
                self._kept(lambda: self._line.finish(row.id, self._owner, **outcome))
                self._tell(row, outcome["status"], outcome.get("done", 0))
        except LeaseLost:
            pass  # whoever took it from us has told so

    def _outcome(self, row: TrialRow, running: Running) -> dict[str, Any] | None:
        """What came of it; None of one that goes on elsewhere or later, or was cancelled. Raises
        LeaseLost."""
        start = time.perf_counter()
        try:
            summary, result = self._played(row, running)
        except (Cancelled, LeaseLost):
            return None
        except GoldDiceError as error:
            if self._closing.is_set() and isinstance(error, StoreError):
                return None
            return {"status": "failed", "error": str(error)}
        except Exception:
            if self._closing.is_set():
                return None
            _log.exception("trial %s failed", row.id)
            return {"status": "failed", "error": "something went wrong here"}
        seconds = round(time.perf_counter() - start, 3)
        return {"status": "done", "result": result, "done": summary.players, "seconds": seconds}

    def _played(self, row: TrialRow, running: Running) -> tuple[Summary, dict[str, Any]]:
        asked = trial_of(row.spec)
        plan = plan_of(self._kept(lambda: game_of(self._games, row)), asked)
        program = plan.program_digest()
        if row.kernel != KERNEL_VERSION or (row.program is not None and row.program != program):
            raise NoLongerTheSame(row.kernel)
        self._kept(lambda: self._line.begun(row.id, self._owner, program))
        self._tell(row, "running", 0)
        there = self._kept(lambda: self._trials.kept(row.id))
        units = KeptUnits(self._trials, row.id, there, self._kept)
        running.began = reported_at = time.perf_counter()

        def on_unit(number: int, bags: Bags, summary: Summary) -> None:
            nonlocal reported_at
            if number not in there:
                players = int(bags.value.size)
                if summary.players - players >= MOST_FAN_PLAYERS:
                    bags = replace(bags, fan=bags.fan[:, :0])  # paths of so many more are not looked at
                data = packed(bags)
                self._kept(lambda: self._line.keep_unit(row.id, self._owner, number, players, data))
            else:
                running.from_kept = summary.players
            running.players, running.events = summary.players, summary.events_total
            if time.perf_counter() - reported_at >= _REPORT_EVERY:
                running.precision = precision_of(plan, summary)
                running.partial = report(plan, summary)
                reported_at = time.perf_counter()

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

    def _tell(self, row: TrialRow, status: str, done: int) -> None:
        self._news.tell(row.game, {"type": "trial", "id": row.id, "status": status, "done": done})


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
