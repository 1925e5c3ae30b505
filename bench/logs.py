"""(l) Logs: faults planted in those of random games, and how many are found."""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path

from tests.faults import tried

GAMES = 100


def main() -> None:
    found, every = Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory() as folder:
        for fault, is_found in tried(GAMES, 7, Path(folder) / "log.csv"):
            every[fault] += 1
            found[fault] += is_found
    for fault, count in every.items():
        word = "logs without a fault of which something is said" if fault == "none" else fault
        print(f"{word:50} {found[fault]:4} of {count}")


if __name__ == "__main__":
    main()
