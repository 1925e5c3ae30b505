"""Gold Dice: author loot tables, see their exact odds, simulate the players who roll them."""

import ctypes
import os
from contextlib import suppress

# Matrices here are small: threads for them cost more than they bring, and would stand in the way of
# trials. Has to be said before NumPy is imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def _keep_freed_memory() -> None:
    """Keep up to 256 MB that was freed for the next question, where the C library can be told so.

    Otherwise every depth sheet gets its pages anew from the system, a fifth of its time.
    """
    trim_threshold, mmap_threshold = -1, -3  # M_TRIM_THRESHOLD and M_MMAP_THRESHOLD of malloc.h
    with suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(trim_threshold, 256 << 20)
        library.mallopt(mmap_threshold, 32 << 20)


_keep_freed_memory()
