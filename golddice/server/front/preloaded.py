"""What every worker begins with: loaded once in the process that they are forked from, and shared by all."""

from __future__ import annotations

import gc

from golddice.core.warm import warm
from golddice.server.app import make_app
from golddice.server.collector import settle_collector

__all__ = ["make_app"]

warm()  # the kernel's compiled code is read from the disk once
settle_collector()
gc.freeze()
