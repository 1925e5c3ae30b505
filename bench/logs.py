"""(l) Logs: faults planted in those of random games, and how many are found; and whether it is told which
table it really was.
"""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path

from tests.faults import named, tried

GAMES = 100


def main() -> None:
    found, every = Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory() as folder:
        for fault, is_found in tried(GAMES, 7, Path(folder) / "log.csv"):
            every[fault] += 1
            found[fault] += is_found
        told = [is_first for is_told, is_first in named(GAMES, 7, Path(folder) / "log.csv") if is_told]
    for fault, count in every.items():
        word = "logs without a fault of which something is said" if fault == "none" else fault
        print(f"{word:50} {found[fault]:4} of {count}")
    print(f"{'rolls what another does, where that is told: named':50} {sum(told):4} of {len(told)}")


if __name__ == "__main__":
    main()
