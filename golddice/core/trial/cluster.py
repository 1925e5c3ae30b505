"""Units of trials played by the workers of a Dask cluster.

Nothing is laid down on the cluster that could be lost with a worker: a unit names its program by its digest;
a worker that does not have it says so and is sent it. So whatever dies, a unit is played again somewhere, and
what it brings is the same.
"""

from __future__ import annotations

import hashlib
import logging
import pickle
import socket
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cache
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from golddice.core.errors import GoldDiceError
from golddice.core.trial.bytes_of import packed, unpacked
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.plans import play_unit
from golddice.core.trial.playing import Unit
from golddice.core.trial.route import RouteUnit

AnyUnit = Unit | RouteUnit
PATIENCE = 10  # seconds to reach a scheduler
RETURNS = 120.0  # seconds in which one that went away may come back
WITHOUT_WORKERS = 30.0  # seconds that a cluster may have none while units wait
_LOOK = 1.0
_KEPT_PROGRAMS = 4


class NoCluster(GoldDiceError):
    """There is no cluster to be had; the message says why and what to do."""


class OtherVersion(GoldDiceError):
    """A worker would play otherwise."""


class _Unknown(Exception):
    """A worker does not have the program of a unit."""


def cluster_executor(address: str) -> Executor:
    """The workers of the Dask scheduler at an address like `tcp://host:8786`. Raises NoCluster."""
    return _Cluster(address, _connected(address))


def _connected(address: str) -> Any:
    try:
        from distributed import Client
    except ImportError:
        raise NoCluster("Dask is not installed: pip install 'golddice[cluster]'") from None
    # What goes wrong is told in our words; the library would tell the same in forty lines.
    for name in list(logging.root.manager.loggerDict):
        if name.split(".")[0] == "distributed":
            logging.getLogger(name).setLevel(logging.CRITICAL)
    _reached(address)
    try:
        return Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError, RuntimeError) as error:
        raise NoCluster(f"no Dask scheduler answers at {address} ({error})") from None


def _reached(address: str) -> None:
    """What the library would find out too, but leave behind a client that tells of it for a long time. Raises
    NoCluster."""
    import dask

    parts = urlsplit(address)
    if parts.scheme == "tls" and not dask.config.get("distributed.comm.tls.ca-file", None):
        wanted = "DASK_DISTRIBUTED__COMM__TLS__CA_FILE, ...__CLIENT__CERT and ...__CLIENT__KEY"
        raise NoCluster(f"{address} asks for certificates; say where they are: {wanted}")
    try:
        socket.create_connection((parts.hostname or "", parts.port or 8786), PATIENCE).close()
    except (OSError, ValueError) as error:
        raise NoCluster(f"no Dask scheduler answers at {address} ({error})") from None


@dataclass(eq=False)
class _Sent:
    """A unit on its way. `future` is what whoever waits for it holds."""

    digest: str
    first: int
    players: int
    future: Future[Any]
    task: Any = None


class _Cluster(Executor):
    def __init__(self, address: str, client: Any) -> None:
        self._address, self._client = address, client
        self._programs: OrderedDict[str, bytes] = OrderedDict()
        self._digests: dict[int, tuple[object, str]] = {}  # by identity; each entry holds what it is of
        self._lock = threading.RLock()
        self._waiting: set[_Sent] = set()
        self._again = ThreadPoolExecutor(1, thread_name_prefix="cluster")
        self._closed = threading.Event()
        threading.Thread(target=self._watch, name="cluster", daemon=True).start()

    def submit(self, play: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Only units are played here; what is running is not stopped in its midst, but not waited for."""
        if play is not play_unit:
            raise TypeError("a cluster plays units of trials and nothing else")
        unit: AnyUnit = args[0]
        sent = _Sent(self._digest_of(unit), unit.first, unit.players, _Awaited(self._give_up))
        with self._lock:
            self._waiting.add(sent)
        self._send(sent, with_program=False)
        return sent.future

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._closed.set()
        self._again.shutdown(wait=False, cancel_futures=True)
        with suppress(Exception):  # a scheduler that has gone cannot be told goodbye
            self._client.close(timeout=PATIENCE)

    def _digest_of(self, unit: AnyUnit) -> str:
        """Of all of a unit but its players, which is the same for all units of a trial."""
        of = unit.course if isinstance(unit, RouteUnit) else unit.legs[0].compiled
        with self._lock:
            if id(of) not in self._digests:
                program = pickle.dumps(replace(unit, first=0, players=0))
                digest = hashlib.sha256(program).hexdigest()
                self._digests[id(of)] = of, digest
                self._programs[digest] = program
                while len(self._programs) > _KEPT_PROGRAMS:
                    gone, _ = self._programs.popitem(last=False)
                    self._digests = {at: one for at, one in self._digests.items() if one[1] != gone}
            return self._digests[id(of)][1]

    def _send(self, sent: _Sent, with_program: bool) -> None:
        """Now, or once the cluster can be reached again."""
        try:
            self._submit(sent, with_program)
        except Exception:  # the library has many for a connection that is gone
            self._later(lambda: self._resent(sent))

    def _submit(self, sent: _Sent, with_program: bool) -> None:
        program = self._programs[sent.digest] if with_program else None
        asked = versions(), sent.digest, program, sent.first, sent.players
        with self._lock:
            sent.task = self._client.submit(_played_there, *asked, pure=False)
            sent.task.add_done_callback(lambda task: self._finished(sent, task))

    def _finished(self, sent: _Sent, task: Any) -> None:
        """Called by the library's own thread, so whatever takes a while is done by another."""
        if self._closed.is_set() or sent.future.done() or task is not sent.task:
            return
        if task.cancelled():  # its scheduler has gone, or has come back and knows nothing
            self._later(lambda: self._resent(sent))
            return
        try:
            if task.status == "error":
                raise task.exception()
            self._settle(sent, unpacked(task.result()))
        except _Unknown:
            self._later(lambda: self._send(sent, with_program=True))
        except Exception as error:
            self._settle(sent, error=error)

    def _later(self, work: Callable[[], None]) -> None:
        with suppress(RuntimeError):  # closed meanwhile
            self._again.submit(work)

    def _resent(self, sent: _Sent) -> None:
        """To the same cluster, or to the one that comes back at its address."""
        end = time.monotonic() + RETURNS
        while not self._closed.is_set() and not sent.future.done():
            try:
                if self._client.status != "running":
                    self._client = _connected(self._address)
                return self._submit(sent, with_program=False)
            except Exception:
                if time.monotonic() > end:
                    told = f"the Dask scheduler at {self._address} went away and did not come back"
                    return self._settle(sent, error=NoCluster(told))
                self._closed.wait(_LOOK)

    def _settle(self, sent: _Sent, result: Any = None, error: Exception | None = None) -> None:
        with self._lock:
            self._waiting.discard(sent)
            if sent.future.done():
                return
            if error is None:
                sent.future.set_result(result)
            else:
                sent.future.set_exception(error)

    def _give_up(self, future: Future[Any]) -> None:
        """A unit that no worker has begun is taken back; what a worker has begun it plays to its end."""
        with self._lock:
            for sent in [one for one in self._waiting if one.future is future]:
                self._waiting.discard(sent)
                with suppress(Exception):
                    sent.task.cancel()

    def _watch(self) -> None:
        """A cluster without workers would be waited for for ever."""
        since: float | None = None
        while not self._closed.wait(_LOOK):
            with self._lock:
                waiting = list(self._waiting)
            try:
                has_workers = bool(self._client.scheduler_info(n_workers=1)["workers"])
            except Exception:
                has_workers = True  # its scheduler is away; that is seen to elsewhere
            if not waiting or has_workers:
                since = None
            elif since is None:
                since = time.monotonic()
            elif time.monotonic() - since > WITHOUT_WORKERS:
                told = f"the cluster has no workers; start some: dask worker {self._address}"
                for sent in waiting:
                    self._settle(sent, error=NoCluster(told))


class _Awaited(Future[Any]):
    def __init__(self, give_up: Callable[[Future[Any]], None]) -> None:
        super().__init__()
        self._give_up = give_up
        self.set_running_or_notify_cancel()

    def cancel(self) -> bool:
        self._give_up(self)
        return False


# --- on the workers ----------------------------------------------------------------------------------------

_programs: OrderedDict[str, AnyUnit] = OrderedDict()
_lock = threading.Lock()


def _played_there(
    asked: tuple[str, int, str], digest: str, program: bytes | None, first: int, players: int
) -> bytes:
    """Raises OtherVersion, and _Unknown where the program has to be sent."""
    mine = versions()
    if asked != mine:
        has, wants = (f"Gold Dice {one[0]}, kernel {one[1]} ({one[2][:8]})" for one in (mine, asked))
        raise OtherVersion(
            f"a worker would play otherwise: it has {has}, asked was {wants}; install the same"
        )
    if program is not None:
        if hashlib.sha256(program).hexdigest() != digest:
            raise OtherVersion("a program came to a worker otherwise than it was sent")
        with _lock:
            _programs[digest] = pickle.loads(program)
            while len(_programs) > _KEPT_PROGRAMS:
                _programs.popitem(last=False)
    with _lock:
        bare = _programs.get(digest)
    if bare is None:
        raise _Unknown(digest)
    return packed(play_unit(replace(bare, first=first, players=players)))


@cache
def versions() -> tuple[str, int, str]:
    """Of the package, of the kernel, and a digest of all that plays: two that are the same play alike."""
    try:
        package = version("golddice")
    except PackageNotFoundError:
        package = "unknown"
    found = hashlib.sha256()
    for path in sorted(Path(__file__).parent.glob("*.py")):
        found.update(path.name.encode() + path.read_bytes())
    return package, KERNEL_VERSION, found.hexdigest()
