"""The built pages, compressed as they lie beside one another on the disk."""

from __future__ import annotations

from pathlib import Path

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

_FORMS = (("br", ".br"), ("gzip", ".gz"))  # the shorter first


class Pages(StaticFiles):
    """Built files, kept by the browser where their name holds a hash; else the one page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api/", "assets/")):
                raise
            response = await super().get_response("index.html", scope)
        response = _compressed(response, Headers(scope=scope).get("accept-encoding", ""))
        forever = path.startswith("assets/")
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable" if forever else "no-cache"
        return response


def _compressed(found: Response, accepted: str) -> Response:
    """The same file in the shortest form that whoever asks takes."""
    if not isinstance(found, FileResponse) or found.status_code != 200:
        return found
    forms = {one.split(";")[0].strip() for one in accepted.split(",") if "q=0" not in one.replace(" ", "")}
    for name, ending in _FORMS:
        path = Path(f"{found.path}{ending}")
        if name in forms and path.exists():
            headers = {"Content-Encoding": name, "Vary": "Accept-Encoding"}
            return FileResponse(path, headers=headers, media_type=found.media_type)
    found.headers["Vary"] = "Accept-Encoding"
    return found
