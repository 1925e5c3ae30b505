"""Runs every test, or those named: `python -m tests core`, `python -m tests core.test_odds`.

One PostgreSQL serves the whole run, with a database for each module. Modules with a browser share a few
processes, each with one browser; between them the others run, a few to a process, and whoever is done
first takes the next. Ends with where the time went, and a line that counts:
`tests: N passed, N failed`.
"""

from __future__ import annotations

import io
import os
import re
import resource
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import zip_longest
from pathlib import Path
from typing import NamedTuple

_HERE = Path(__file__).parent
_CHILD = "--modules"
_LANES = 6  # a browser, and a server that is started, are waited for half of the time
_BROWSERS = 6  # one after another, so that no lane of them outlasts all the others
_TOGETHER = 6  # modules to a process: each new one compiles and imports once more
_BROWSER = "tests.browser."
_LONGEST_FIRST = "tests.server tests.core tests.files tests.store"
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
    _share_a_postgres(modules)
    with ThreadPoolExecutor(_LANES) as pool:
        told = [one for group in pool.map(_in_a_process, _groups(modules)) for one in group]
    _where_the_time_went(told, time.monotonic() - start)
    passed, failed = (sum(column) for column in list(zip(*told, strict=True))[1:3])
    print(f"tests: {passed} passed, {failed} failed", flush=True)
    return 0 if failed == 0 and passed > 0 else 1


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


def _groups(modules: list[str]) -> list[list[str]]:
    """Those with a browser, which take longest, and between them the others, those with a server first; of
    each folder a few together. What is short comes last, so that all lanes end at about the same time."""
    with_browser = [module for module in modules if module.startswith(_BROWSER)]
    folders: dict[str, list[str]] = {}
    for module in modules:
        if module not in with_browser:
            folders.setdefault(module.rpartition(".")[0], []).append(module)
    others: list[list[str]] = []
    for _, those in sorted(folders.items(), key=lambda one: _LONGEST_FIRST.find(one[0]) % 1000):
        others += [those[at : at + _TOGETHER] for at in range(0, len(those), _TOGETHER)]
    browsers = [group for at in range(_BROWSERS) if (group := with_browser[at::_BROWSERS])]
    together = zip_longest(browsers, others)
    return [group for pair in together for group in pair if group]


def _in_a_process(modules: list[str]) -> list[Told]:
    """What the process says goes out as it comes; modules that it never reached have failed."""
    command = [sys.executable, "-m", "tests", _CHILD, *modules]
    told = []
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) as process:
        assert process.stdout is not None
        for line in process.stdout:
            print(line, end="", flush=True)
            found = _TOLD.match(line)
            if found:
                module, passed, failed, seconds, busy = found.groups()
                told.append(Told(module, int(passed), int(failed), float(seconds), float(busy)))
    missing = [
        Told(module, 0, 1, 0.0, 0.0) for module in modules if module not in {one.module for one in told}
    ]
    for one in missing:
        print(f"{one}\nnever reached: its process ended with {process.returncode}", flush=True)
    return told + missing


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


def _run(modules: list[str]) -> int:
    """Run these here. What a failing module wrote is shown, of others one line."""
    told = []
    for module in modules:
        start, busy, output = time.monotonic(), _busy(), io.StringIO()
        suite = unittest.defaultTestLoader.loadTestsFromName(module)
        result = unittest.TextTestRunner(output, verbosity=1).run(suite)
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        passed = max(result.testsRun - failed - len(result.skipped), 0)
        seconds = time.monotonic() - start
        told.append(Told(module, passed, failed or int(passed == 0), seconds, _busy() - busy))
        text = output.getvalue() if failed else ""
        print(f"{told[-1]}\n{text}", end="", flush=True)
    return 0 if all(one.failed == 0 for one in told) else 1


def _busy() -> float:
    every = (resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    return sum(one.ru_utime + one.ru_stime for one in every)


if __name__ == "__main__":
    asked = sys.argv[1:]
    sys.exit(_run(asked[1:]) if asked[:1] == [_CHILD] else main(asked))
