"""A run of tests that is ended leaves nothing behind."""

from __future__ import annotations

import os
import secrets
import signal
import subprocess
import sys
import time
import unittest
from collections.abc import Callable
from pathlib import Path

MARK = "GOLDDICE_TESTS_MARK"


class Ended(unittest.TestCase):
    def test_by_a_signal_in_its_midst(self) -> None:
        mark = secrets.token_hex(8)
        environment = {**os.environ, MARK: mark}
        environment.pop("GOLDDICE_TESTS_POSTGRES", None)  # one of its own
        command = [sys.executable, "-m", "tests", "server.test_front", "browser.test_five_minutes"]
        told = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        with subprocess.Popen(command, env=environment, start_new_session=True, **told) as run:  # type: ignore[call-overload]
            self.until(lambda: any("chrom" in one for one in _marked(mark)), 90)
            self.until(lambda: any("zygote" in one for one in _marked(mark)), 90)
            self.assertTrue(any("postgres" in one for one in _marked(mark)))
            run.send_signal(signal.SIGTERM)
            self.assertEqual(run.wait(60), 128 + signal.SIGTERM)
        self.until(lambda: not _marked(mark), 40, lambda: _marked(mark))

    def until(self, holds: Callable[[], bool], seconds: float, left: Callable[[], list[str]] = list) -> None:
        end = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), end, left())
            time.sleep(0.1)


def _marked(mark: str) -> list[str]:
    """The commands of all processes that were begun under a mark."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if f"{MARK}={mark}".encode() in (folder / "environ").read_bytes():
                found.append((folder / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace"))
        except OSError:
            continue  # it has ended meanwhile, or is not ours
    return found


if __name__ == "__main__":
    unittest.main()
