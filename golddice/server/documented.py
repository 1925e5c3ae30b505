"""The OpenAPI document says every answer that there can be, refusals too."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI

from golddice.server.schemas.common import ProblemDetails

_EVERYWHERE = {
    "400": "not a request that can be read",
    "403": "a change that does not come from our own page",
    "413": "a body over the limit",
    "421": "asked under a name that is not this machine's",
    "503": "the database cannot be reached",
}
_WITH_GAME = {"404": "there is no such thing"}
_WITH_BODY = {
    "408": "a body of which the rest never came",
    "409": "changed elsewhere, or no longer to be done",
    "422": "refused, with every place",
}
_PROBLEM = {"$ref": "#/components/schemas/ProblemDetails"}


def document(app: FastAPI) -> dict[str, Any]:
    """The document, made once."""
    if app.openapi_schema is None:
        app.openapi_schema = _completed(app.__class__.openapi(app))
    return app.openapi_schema


def _completed(found: dict[str, Any]) -> dict[str, Any]:
    schemas = found["components"]["schemas"]
    whole = ProblemDetails.model_json_schema(ref_template="#/components/schemas/{model}")
    schemas.update(whole.pop("$defs", {}))
    schemas["ProblemDetails"] = whole
    for name in ("HTTPValidationError", "ValidationError"):
        schemas.pop(name, None)
    for path, operations in found["paths"].items():
        for method, operation in operations.items():
            answers = operation.setdefault("responses", {})
            answers.pop("422", None)
            wanted = dict(_EVERYWHERE)
            wanted |= _WITH_GAME if "{" in path else {}
            wanted |= _WITH_BODY if method != "get" or operation.get("parameters") else {}
            for status, why in wanted.items():
                content = {"application/problem+json": {"schema": _PROBLEM}}
                answers[status] = {"description": why, "content": content}
            operation["responses"] = dict(sorted(answers.items()))
    return found
