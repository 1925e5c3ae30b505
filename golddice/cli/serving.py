"""The command that starts the application."""

from __future__ import annotations

from typing import Annotated

import typer


def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Load the demo game if there is none.")] = False,
) -> None:
    """Start PostgreSQL and the web application on this machine."""
    from golddice.server.serving import serve_until_stopped

    serve_until_stopped(demo=demo)
