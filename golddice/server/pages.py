"""The built pages."""

from __future__ import annotations

from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope


class Pages(StaticFiles):
    """Built files, kept by the browser where their name holds a hash; else the one page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api/", "assets/")):
                raise
            response = await super().get_response("index.html", scope)
        forever = path.startswith("assets/")
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable" if forever else "no-cache"
        return response
