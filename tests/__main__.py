"""Runs every test, or those named: `python -m tests core`, `python -m tests core.test_odds`.

One PostgreSQL serves the whole run, with a database for each module. A few processes take one module after
another, half of them those with a browser first, the others those without: to start a process, or a browser,
takes longer than most modules. Ends with where the time went, and a line that counts:
`tests: N passed, N failed`.
"""

from __future__ import annotations

import io
import os
import re
import resource
import secrets
import signal
import subprocess
import sys
import threading
import time
import unittest
from collections import deque
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple, NoReturn

import psutil

_HERE = Path(__file__).parent
_CHILD = "--modules"
_RUN = "GOLDDICE_TESTS_RUN"  # which of several runs a process belongs to
_LANES = 6  # a browser, and a server that is started, are waited for half of the time
_BROWSER = "tests.browser."
# What takes longest is begun first, so that all lanes end at about the same time.
_LONGEST = tuple(
    f"tests.{name}" for name in ("browser.test_reach", "server", "core", "store", "test_", "files")
)
_TOLD = re.compile(r"^(?:ok|FAIL) +(tests\S+) +(\d+) passed +(\d+) failed +([\d.]+) s +([\d.]+) s busy$")


class Told(NamedTuple):
    module: str
    passed: int
    failed: int
    seconds: float
    busy: float  # seconds of a processor, here and in processes that have ended

    def __str__(self) -> str:
        name = "ok" if self.failed == 0 and self.passed > 0 else "FAIL"
        times = f"{self.seconds:7.1f} s {self.busy:7.1f} s busy"
        return f"{name:4}  {self.module:36} {self.passed:4} passed {self.failed:4} failed {times}"


def main(names: list[str]) -> int:
    modules = sorted({module for name in names or [""] for module in _modules(name)})
    start = time.monotonic()
    waiting = _Waiting(modules)
    os.environ[_RUN] = secrets.token_hex(8)
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda number, _: _end_all(waiting, number))
    _share_a_postgres(modules)
    lanes = min(_LANES, len(modules))
    with ThreadPoolExecutor(lanes) as pool:
        told = [one for lane in pool.map(waiting.lane, range(lanes)) for one in lane]
    _where_the_time_went(told, time.monotonic() - start)
    passed, failed = (sum(column) for column in list(zip(*told, strict=True))[1:3])
    print(f"tests: {passed} passed, {failed} failed", flush=True)
    return 0 if failed == 0 and passed > 0 else 1


def _end_all(waiting: _Waiting, number: int) -> NoReturn:
    """Told to stop: all that was begun ends, browsers and servers too. PostgreSQL goes as this process
    does."""
    waiting.end()
    ends = time.monotonic() + 3
    # Again and again: a browser that is just being started is nobody's child once its driver has ended.
    while every := _begun_here():
        for process in every:
            with suppress(psutil.NoSuchProcess):
                (process.terminate if time.monotonic() < ends else process.kill)()
        psutil.wait_procs(every, timeout=0.5)
    sys.exit(128 + number)


def _begun_here() -> list[psutil.Process]:
    """All that is left of what this run has begun, whoever its parent is by now."""
    found = psutil.Process().children(recursive=True)
    for process in psutil.process_iter():
        with suppress(psutil.Error):
            if process.environ().get(_RUN) == os.environ[_RUN] and process not in found:
                found.append(process)
    return [one for one in found if _is_alive(one)]


def _is_alive(process: psutil.Process) -> bool:
    with suppress(psutil.NoSuchProcess):
        return process.is_running() and process.status() != psutil.STATUS_ZOMBIE
    return False


def _share_a_postgres(modules: list[str]) -> None:
    """Only where it is needed: the core and the files are tested on a machine that has none."""
    if any(not module.startswith(("tests.core.", "tests.files.")) for module in modules):
        from tests import support

        os.environ[support.POSTGRES] = support.postgres()


def _modules(name: str) -> Iterator[str]:
    """The test modules in a folder, or the one (or the class, or the test) that is named."""
    folder = _HERE.joinpath(*name.split(".")) if name else _HERE
    if not folder.is_dir():
        yield f"tests.{name}"
        return
    for path in folder.rglob("test_*.py"):
        yield ".".join(path.relative_to(_HERE.parent).with_suffix("").parts)


class _Waiting:
    """The modules that wait for a process."""

    def __init__(self, modules: list[str]) -> None:
        ordered = sorted(modules, key=_how_late)
        self._with_browser = deque(one for one in ordered if one.startswith(_BROWSER))
        self._without = deque(one for one in ordered if not one.startswith(_BROWSER))
        self._taking = threading.Lock()

    def lane(self, number: int) -> list[Told]:
        """Module by module, in one process as long as it lives; a module in which it dies has failed."""
        told: list[Told] = []
        process = _Process()
        while module := self._next(number):
            one = process.run(module)
            if one is None:
                how = process.end()
                one = Told(module, 0, 1, 0.0, 0.0)
                print(f"{one}\nnever told: its process ended with {how}", flush=True)
                process = _Process()
            told.append(one)
        process.end()
        return told

    def end(self) -> None:
        """No other is begun."""
        with self._taking:
            self._with_browser.clear()
            self._without.clear()

    def _next(self, lane: int) -> str | None:
        mine, others = self._with_browser, self._without
        if lane % 2:
            mine, others = others, mine
        with self._taking:
            return mine.popleft() if mine else others.popleft() if others else None


def _how_late(module: str) -> int:
    return next((at for at, name in enumerate(_LONGEST) if module.startswith(name)), len(_LONGEST))


class _Process:
    """One that runs the modules whose names it reads, and says of each how it went."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests", _CHILD],
            **{"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "stderr": subprocess.STDOUT},
            text=True,
        )

    def run(self, module: str) -> Told | None:
        """What it says goes out as it comes. Nothing where it ends before it has told."""
        assert self._process.stdin is not None and self._process.stdout is not None
        try:
            print(module, file=self._process.stdin, flush=True)
        except BrokenPipeError:
            return None
        for line in self._process.stdout:
            print(line, end="", flush=True)
            found = _TOLD.match(line)
            if found:
                name, passed, failed, seconds, busy = found.groups()
                return Told(name, int(passed), int(failed), float(seconds), float(busy))
        return None

    def end(self) -> int:
        """What it says as it ends goes out too."""
        said, _ = self._process.communicate()
        print(said, end="", flush=True)
        return self._process.returncode


def _where_the_time_went(told: list[Told], seconds: float) -> None:
    folders: dict[str, list[Told]] = {}
    for one in told:
        folders.setdefault(one.module.split(".")[1], []).append(one)
    print(f"{seconds:.0f} s in all, in {_LANES} lanes:")
    for folder, those in sorted(folders.items(), key=lambda one: -sum(told.seconds for told in one[1])):
        slowest = max(those, key=lambda one: one.seconds)
        total, busy = sum(one.seconds for one in those), sum(one.busy for one in those)
        what = f"{folder:10} {sum(one.passed for one in those):4} tests {total:6.0f} s, {busy:6.0f} s busy"
        print(f"  {what}, {slowest.module} {slowest.seconds:.0f} s of it")


def _run_what_is_asked() -> None:
    """The modules named on standard input. Of each a line is told, and what it wrote where it fails. Told to
    stop, what it began (a browser, a server) is ended by what was set down for its end."""
    signal.signal(signal.SIGTERM, lambda number, _: sys.exit(128 + number))
    for line in sys.stdin:
        start, busy, output = time.monotonic(), _busy(), io.StringIO()
        suite = unittest.defaultTestLoader.loadTestsFromName(line.strip())
        result = unittest.TextTestRunner(output, verbosity=1).run(suite)
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        passed = max(result.testsRun - failed - len(result.skipped), 0)
        seconds = time.monotonic() - start
        told = Told(line.strip(), passed, failed or int(passed == 0), seconds, _busy() - busy)
        text = output.getvalue() if failed else ""
        print(f"{text}{told}", flush=True)


def _busy() -> float:
    every = (resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    return sum(one.ru_utime + one.ru_stime for one in every)


if __name__ == "__main__":
    asked = sys.argv[1:]
    sys.exit(_run_what_is_asked() if asked[:1] == [_CHILD] else main(asked))
