"""What goes out and comes in, as it goes over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from golddice.server.schemas.games import EntryIn

Verdict = Literal["agrees", "few", "differs"]
Cell = str | float | bool | None


class NewOut(BaseModel):
    """`kind` is also line, drop or tag."""

    kind: str
    id: str
    name: str


class CellOut(BaseModel):
    kind: str
    id: str
    key: str
    before: Cell
    after: Cell


class RefusedOut(BaseModel):
    sheet: str
    row: int
    column: str
    why: str


class ReadSheet(BaseModel):
    """A sheet that was sent: what it is read as, None where it is not; its heads, and those that are read;
    `guessed`, by column, as which head it is read by what it holds."""

    name: str
    kind: str | None
    rows: int
    heads: list[str]
    known: list[str]
    guessed: dict[str, str]


class PreviewOut(BaseModel):
    """What sheets would make of the game. Nothing is made: `entries` are the edit that it comes to."""

    revision: int
    sheets: list[ReadSheet]
    new: list[NewOut]
    changed: list[CellOut]
    unchanged: int
    refused: list[RefusedOut]
    entries: list[EntryIn]


class LogWait(BaseModel):
    """Of players with so many events (`within`, in which half are due to have had their first), those that
    had it."""

    within: int
    players: int
    had: int
    due: float
    verdict: Verdict


class LogDrought(BaseModel):
    """The most events in a row without, of any player; and between which nine logs in ten have it."""

    longest: int
    due: tuple[int, int]
    verdict: Verdict


class LogAnything(BaseModel):
    """Events that gave anything at all; `chance` where every event has the same."""

    expected: float
    observed: int
    chance: float | None
    verdict: Verdict


class LogTogether(BaseModel):
    """Chi-square of all items at once, and its degrees of freedom; None where what came cannot."""

    value: float | None
    of: int
    verdict: Verdict


class LogItem(BaseModel):
    """`interval` is of the true rate of events with any, 95 %; `power` the chance with which a rate 20 % off
    would be seen, `needed` the events in which it would be four times in five."""

    item: str
    expected: float
    observed: float
    z: float | None
    with_any: int
    chance: float | None
    interval: tuple[float, float] | None
    power: float | None
    needed: int | None = None
    wait: LogWait | None = None
    drought: LogDrought | None = None
    verdict: Verdict


class LikelierOut(BaseModel):
    kind: str
    id: str
    depth: int
    each: str | None = None
    times_likelier: float | None


class LogGroup(BaseModel):
    """Of one source at one depth with the same flags; without a depth at all of the log's together.
    `played` : how often each player was played through the same events, where not all that is due can be
    told exactly."""

    source: str
    depth: int | None
    events: int
    flags: list[str]
    value: float
    told: bool
    verdict: Verdict
    items: list[LogItem]
    any: LogAnything | None = None
    together: LogTogether | None = None
    played: int | None = None
    better: list[LikelierOut]


class FaultOut(BaseModel):
    fault: str
    source: str | None
    item: str | None
    count: int
    rows: list[int]
    says: str


class NonsenseOut(BaseModel):
    why: str
    count: int
    rows: list[int]


class HeldLog(BaseModel):
    """A log that was held against a revision."""

    id: str
    name: str
    revision: int
    at: datetime


class LogOut(BaseModel):
    id: str
    name: str
    revision: int
    agrees: bool
    events: int
    rows: int
    refused: list[NonsenseOut]
    sources: list[LogGroup]
    pooled: list[LogGroup] = []
    faults: list[FaultOut]
