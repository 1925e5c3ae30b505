"""What goes between the front and a worker: a head of plain JSON and a body of bytes, after their lengths."""

from __future__ import annotations

import asyncio
import json
import struct
from typing import Any

_SIZES = struct.Struct(">IQ")
Frame = tuple[dict[str, Any], bytes]


async def read_frame(reader: asyncio.StreamReader) -> Frame | None:
    """The next frame; None where the other side has gone."""
    try:
        head, body = _SIZES.unpack(await reader.readexactly(_SIZES.size))
        return json.loads(await reader.readexactly(head)), await reader.readexactly(body)
    except (asyncio.IncompleteReadError, ConnectionError):
        return None


def write_frame(writer: asyncio.StreamWriter, head: dict[str, Any], body: bytes = b"") -> None:
    """Queue a frame; the caller drains the writer where a body may be long."""
    told = json.dumps(head).encode()
    writer.write(_SIZES.pack(len(told), len(body)) + told)
    if body:
        writer.write(body)
