"""What a unit brought, as bytes that can be kept: small, and the same to the last digit when read again."""

from __future__ import annotations

import io
import zlib
from dataclasses import fields
from typing import Any

import numpy as np
import numpy.typing as npt

from golddice.core.trial.playing import Bags
from golddice.core.trial.route import RouteBags

_KEPT = "kept."
_LEVEL = 1  # most of a bag is small numbers: quick is small enough


def packed(bags: Bags) -> bytes:
    """Whole numbers in the fewest bytes that hold them, then squeezed."""
    room = io.BytesIO()
    arrays = {one.name: _narrow(getattr(bags, one.name)) for one in fields(bags) if one.name != "kept"}
    arrays |= {f"{_KEPT}{name}": _narrow(array) for name, array in bags.kept.items()}
    np.savez(room, allow_pickle=False, **arrays)
    return zlib.compress(room.getvalue(), _LEVEL)


def unpacked(data: bytes) -> Bags:
    with np.load(io.BytesIO(zlib.decompress(data)), allow_pickle=False) as found:
        arrays = {
            name: found[name].astype(np.int64) if found[name].dtype.kind in "iu" else found[name]
            for name in found.files
        }
    arrays["kept"] = {
        name.removeprefix(_KEPT): arrays.pop(name) for name in list(arrays) if name.startswith(_KEPT)
    }
    return RouteBags(**arrays) if "events_at" in arrays else Bags(**arrays)


def _narrow(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
    if values.dtype.kind != "i" or not values.size:
        return values
    low, high = int(values.min()), int(values.max())
    return values.astype(np.promote_types(np.min_scalar_type(low), np.min_scalar_type(high)))
