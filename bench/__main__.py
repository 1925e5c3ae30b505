"""`python -m bench` runs all, `python -m bench events odds` those named."""

from __future__ import annotations

import importlib
import sys

ALL = (
    "events",
    "odds",
    "big",
    "families",
    "features",
    "depths",
    "screen",
    "drag",
    "memory",
    "runs",
    "scale",
    "resume",
    "browser",
    "painting",
    "history",
    "logs",
    "thresholds",
    "pages",
    "strain",
    "edges",
)

# What begins with -- is for the bench that knows it: `python -m bench runs --long`.
for name in [name for name in sys.argv[1:] if not name.startswith("--")] or ALL:
    print(f"\n== {name}", flush=True)
    importlib.import_module(f"bench.{name}").main()
