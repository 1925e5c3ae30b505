"""Arguments and options that commands share."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

GameArgument = Annotated[Path, typer.Argument(metavar="GAME", help="A game file.")]
SourceOption = Annotated[str | None, typer.Option("--source", metavar="ID")]
TableOption = Annotated[str | None, typer.Option("--table", metavar="ID")]
RouteOption = Annotated[str | None, typer.Option("--route", metavar="ID")]
DepthOption = Annotated[int | None, typer.Option("--depth", metavar="D", help="Default: the first.")]
FlagsOption = Annotated[str, typer.Option("--flags", metavar="A,B", help="Flags that are set.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]


def named(text: str) -> list[str]:
    """The parts of a list with commas."""
    return [name for name in text.split(",") if name]
