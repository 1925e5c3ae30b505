"""Prints the OpenAPI document, from which the web's types are generated."""

from __future__ import annotations

import json
from typing import Any, cast

from golddice.server.app import make_app
from golddice.server.bench import Workbench


def document() -> dict[str, Any]:
    return make_app(cast(Workbench, None)).openapi()


if __name__ == "__main__":
    print(json.dumps(document(), indent=1, sort_keys=True))
