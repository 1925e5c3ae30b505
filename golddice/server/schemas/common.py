"""What every request and answer over the wire shares."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from golddice.core.trial.trial import LARGEST_SEED

ShortText = Annotated[str, Field(min_length=1, max_length=120)]
Seed = Annotated[int, Field(ge=0, le=LARGEST_SEED)]
DepthNumber = Annotated[int, Field(ge=1, le=10_000)]
Token = Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]


class Wire(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Problem(BaseModel):
    """Where something is wrong: an entity and a path within, or a path of a file."""

    kind: str | None = None
    id: str | None = None
    path: str
    message: str


class ProblemDetails(BaseModel):
    """RFC 9457, with our places; on a conflict the other side's version."""

    type: str
    title: str
    status: int
    detail: str
    places: list[Problem] = []
    theirs: list[dict[str, Any]] = []
    revision: int | None = None
