"""Where targets stand, as it goes over the wire."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from golddice.server.schemas.games import Asked


class TargetsIn(Asked):
    """Which targets; without `ids` all. Each has flags of its own."""

    ids: list[str] | None = None


class StepOut(BaseModel):
    """A line or drop that hits or misses, or, without a part, a roll that gives nothing."""

    kind: Literal["table", "source"]
    id: str
    part: str
    how: Literal["hits", "misses", "nothing"]


class StandingOut(BaseModel):
    """Lists go by the target's depths. A figure is null where `never` is true, or where there is none;
    `furthest` is the row that misses by most, and `way` how an event breaks a promise there. All lists
    but the depths are empty where it is untold. `played`: the figures are no exact ones, but of players,
    settings-out or periods that were played."""

    id: str
    is_met: bool
    depths: list[int]
    figures: list[float | None]
    never: list[bool]
    holds: list[bool]
    furthest: int | None
    untold: str | None
    played: bool
    way: list[StepOut]


class TargetsOut(BaseModel):
    revision: int
    targets: list[StandingOut]
