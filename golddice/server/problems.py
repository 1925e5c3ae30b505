"""Problem details (RFC 9457): the form of everything that is refused or went wrong."""

from __future__ import annotations

import json
from typing import Any

from starlette.responses import Response

KIND = "application/problem+json"


def problem(
    status: int, title: str, detail: str, headers: dict[str, str] | None = None, **more: Any
) -> Response:
    return Response(problem_body(status, title, detail, **more), status, headers, media_type=KIND)


def problem_body(status: int, title: str, detail: str, **more: Any) -> bytes:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    # What was refused may be quoted, also half a character: in ASCII it can be sent all the same.
    return json.dumps(body).encode()
