"""Bodies from yesterday: steps from each older shape to the next, so that what was saved by an earlier
version opens.

`SHAPE` counts the shapes that bodies have had. Whoever changes a model so that older bodies would be refused,
or mean something else, raises it and adds a step; a key that may be left out needs none. Each body is kept
with the shape it was written in.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Body = dict[str, Any]
Step = Callable[[str, Body], Body]

# From shape 1 to 2, from 2 to 3 ...: each takes a kind and a body, and leaves the body as it is.
STEPS: list[Step] = []


def current_shape() -> int:
    return 1 + len(STEPS)


class FromTomorrow(ValueError):
    """A body was written by a later version than this one."""


def upgraded(kind: str, body: Body | None, shape: int) -> Body | None:
    """A body of an older shape in today's; None, a removed one, stays."""
    if shape > current_shape():
        raise FromTomorrow(f"saved by a later version (shape {shape}; this one knows {current_shape()})")
    if body is not None:
        for step in STEPS[shape - 1 :]:
            body = step(kind, body)
    return body
