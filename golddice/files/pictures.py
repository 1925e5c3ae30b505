"""Pictures as they come from outside: PNG, and no larger than a plan needs."""

from __future__ import annotations

import struct

from golddice.core.errors import QueryError

LARGEST = 4 * 2**20
_MOST_PIXELS = 8_192  # on a side
_SIGN = b"\x89PNG\r\n\x1a\n"


def checked_png(content: bytes) -> bytes:
    """The same. Raises QueryError of what is no PNG, over 4 MB, or more than 8 192 pixels on a side."""
    if len(content) > LARGEST:
        raise QueryError(f"the picture has {len(content) / 2**20:.1f} MB; the limit is 4 MB")
    if len(content) < 33 or not content.startswith(_SIGN) or content[12:16] != b"IHDR":
        raise QueryError("this is no PNG picture; save it as one")
    wide, high = struct.unpack(">II", content[16:24])
    if not (0 < wide <= _MOST_PIXELS and 0 < high <= _MOST_PIXELS):
        raise QueryError(f"the picture is {wide} × {high}; up to {_MOST_PIXELS} × {_MOST_PIXELS} is shown")
    return content
