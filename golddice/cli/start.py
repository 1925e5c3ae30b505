"""Where the command line begins."""

from __future__ import annotations

import sys

import typer

from golddice.core.errors import GoldDiceError


def main() -> None:
    """Run the command line; our own errors are a sentence on stderr and exit 1."""
    try:
        _app()()
    except GoldDiceError as error:
        print(error, file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)


def _app() -> typer.Typer:
    """All commands; where the application is started only that one, since it leaves the core to its workers
    and need not load it."""
    if sys.argv[1:2] == ["serve"]:
        from golddice.cli.serving import serve

        app = typer.Typer(add_completion=False)
        app.command()(serve)
        sys.argv.pop(1)
        return app
    from golddice.cli.commands import app as every

    return every
