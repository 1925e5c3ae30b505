"""The garbage collector, so that it does not stop an answer on its way."""

from __future__ import annotations

import gc

# New objects before the young are looked through, and how many such rounds before older ones are: an
# answer makes thousands that go with it, and few in circles.
_THRESHOLDS = (10_000, 20, 20)


def settle_collector() -> None:
    """Take what is loaded by now out of its sight: libraries alone are some 160 000 objects, and to look
    through all of them takes 80 ms, in which nothing else goes on."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(*_THRESHOLDS)
