"""Trials as jobs: one at a time, in the order asked, each on all cores."""

from __future__ import annotations

import logging
import threading
import time
from concurrent.futures import Executor, ThreadPoolExecutor
from typing import Any

from golddice.core.errors import GoldDiceError
from golddice.core.game.models import Game
from golddice.core.stopping import Cancelled, Stop
from golddice.core.trial.trial import Trial, local_executor, run_trial
from golddice.server.broadcast import Broadcast
from golddice.store.errors import StoreError, Unavailable
from golddice.store.trials import Trials

_TELL_EVERY = 0.1
_TRY_AGAIN = 1.0
_log = logging.getLogger("golddice")


class Jobs:
    """Runs trials in the background; tells how far they are."""

    def __init__(self, trials: Trials, broadcast: Broadcast) -> None:
        self._trials, self._broadcast = trials, broadcast
        self._queue = ThreadPoolExecutor(1, thread_name_prefix="trials")
        self._workers: Executor = local_executor()
        self._stops: dict[str, Stop] = {}
        self._closing = threading.Event()

    def start(self, game_id: str, trial_id: str, game: Game, trial: Trial) -> None:
        self._stops[trial_id] = Stop()
        self._queue.submit(self._run, game_id, trial_id, game, trial)

    def cancel(self, trial_id: str) -> None:
        stop = self._stops.get(trial_id)
        if stop is not None:
            stop.set()

    def cancel_of(self, game_id: str) -> None:
        """All that wait or run of a game."""
        for trial in self._trials.under_way(game_id):
            self.cancel(trial)

    def close(self) -> None:
        self._closing.set()
        for stop in list(self._stops.values()):
            stop.set()
        self._queue.shutdown(cancel_futures=True)
        self._workers.shutdown(cancel_futures=True)

    def _run(self, game_id: str, trial_id: str, game: Game, trial: Trial) -> None:
        try:
            self._end(game_id, trial_id, **self._outcome(game_id, trial_id, game, trial))
        except StoreError:
            _log.exception("trial %s could not be stored", trial_id)
        finally:
            self._stops.pop(trial_id, None)

    def _outcome(self, game_id: str, trial_id: str, game: Game, trial: Trial) -> dict[str, Any]:
        stop, told = self._stops[trial_id], 0.0
        start = time.perf_counter()

        def progress(players: int) -> None:
            nonlocal told
            if time.perf_counter() - told >= _TELL_EVERY:
                told = time.perf_counter()
                self._tell(game_id, trial_id, "running", players)

        try:
            if stop.is_set():
                raise Cancelled("the trial was cancelled before it began")
            self._kept(trial_id, status="running")
            self._tell(game_id, trial_id, "running", 0)
            result = run_trial(game, trial, self._workers, on_progress=progress, stop=stop)
        except Cancelled as error:
            if self._closing.is_set():
                return {"status": "stopped", "error": "the server was stopped meanwhile; run it again"}
            return {"status": "cancelled", "error": str(error)}
        except GoldDiceError as error:
            return {"status": "failed", "error": str(error)}
        except Exception:
            _log.exception("trial %s failed", trial_id)
            return {"status": "failed", "error": "something went wrong here"}
        seconds = round(time.perf_counter() - start, 3)
        return {"status": "done", "result": result, "done": trial.players, "seconds": seconds}

    def _end(self, game_id: str, trial_id: str, **fields: Any) -> None:
        self._kept(trial_id, **fields)
        self._tell(game_id, trial_id, fields["status"], fields.get("done", 0))

    def _kept(self, trial_id: str, **fields: Any) -> None:
        """Write it down, if need be when the database is there again: what came of a trial is not lost
        with a connection. When the server ends first, the next start tells what was left."""
        while True:
            try:
                self._trials.update(trial_id, **fields)
                return
            except Unavailable:
                if self._closing.wait(_TRY_AGAIN):
                    raise

    def _tell(self, game_id: str, trial_id: str, status: str, done: int) -> None:
        message = {"type": "trial", "id": trial_id, "status": status, "done": done}
        self._broadcast.tell(game_id, message)
