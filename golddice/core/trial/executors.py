"""Where the units of a trial are played: threads of this process, or the workers of a Dask cluster.

Whoever plays a unit brings the same; where it is done changes nothing in what comes of a trial.
"""

from __future__ import annotations

import os
from concurrent.futures import Executor, ThreadPoolExecutor

from golddice.core.trial.cluster import NoCluster, cluster_executor


def local_executor(workers: int | None = None) -> Executor:
    """Threads on this machine: the kernel runs without Python's lock, so they share no time."""
    return ThreadPoolExecutor(workers or os.cpu_count() or 1, thread_name_prefix="trial")


__all__ = ["NoCluster", "cluster_executor", "local_executor"]
