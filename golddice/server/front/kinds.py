"""What a request is, told by its address alone: how urgent, how long it may take and how much memory."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import IntEnum


class Urgency(IntEnum):
    """Smaller goes first."""

    WRITE = 0  # an edit; never put back once it is begun
    LIGHT = 1  # a question; one that turns out to be long is put back among the long ones
    LONG = 2  # a question that is known to take long


@dataclass(frozen=True)
class Kind:
    """Limits of a request: seconds of work, and bytes beyond what a worker holds when it starts."""

    urgency: Urgency
    seconds: float = 20.0
    memory: int = 2**30
    is_write: bool = False
    is_upload: bool = False  # its body goes to a file, not into memory


_GAME = r"/api/games/[^/]+"
_UPLOAD = re.compile(rf"{_GAME}/log")
_WITH_PROGRESS = re.compile(rf"{_GAME}/tune")
_LONG = re.compile(rf"{_GAME}/(tune/.*|sheets|export/.*|compare|made-log|trials/[^/]+/compare)")
_LONG_WRITE = re.compile(r"/api/games/import")
_WRITE = re.compile(
    rf"/api/games(/demo)?|{_GAME}(/(changes|removals|undo|redo|back|restore|duplicate|marks/.*|pictures/.*"
    r"|logs/.*|trials(/(?!estimate$)[^/]+(/cancel|/restore)?)?))?"
)
_LARGE_EDIT = 2**20


def kind_of(method: str, path: str, length: int) -> Kind:
    """`length` is that of the body, in bytes."""
    if _UPLOAD.fullmatch(path):  # told how far it is, and cancelled by leaving
        return Kind(Urgency.LONG, seconds=600.0, memory=2**31, is_upload=True)
    if _WITH_PROGRESS.fullmatch(path):
        return Kind(Urgency.LONG, seconds=600.0)
    if _LONG_WRITE.fullmatch(path):
        return Kind(Urgency.LONG, seconds=60.0, is_write=True)
    if method not in ("GET", "HEAD", "OPTIONS") and _WRITE.fullmatch(path):
        return Kind(Urgency.LONG if length > _LARGE_EDIT else Urgency.WRITE, is_write=True)
    return Kind(Urgency.LONG if _LONG.fullmatch(path) else Urgency.LIGHT)
