"""Commands about places and stalls."""

from __future__ import annotations

import json
from typing import Annotated, Any

import typer

from golddice.cli.options import DepthOption, FlagsOption, GameArgument, JsonOption, named
from golddice.core.sheets.place_report import place_report
from golddice.core.sheets.stall_report import stall_report
from golddice.files.game_file import read_game_file


def install(app: typer.Typer) -> None:
    for command in (place, stall):
        app.command()(command)


def place(
    game: GameArgument,
    name: Annotated[str, typer.Option("--place", metavar="ID")],
    depth: DepthOption = None,
    flags: FlagsOption = "",
    every: Annotated[
        int | None, typer.Option("--every", metavar="V", min=1, help="What is there every V seconds.")
    ] = None,
    seed: Annotated[
        int | None, typer.Option("--seed", metavar="S", min=0, help="One setting-out besides.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """What lies where in a place, and what is there for whoever comes back."""
    found = place_report(read_game_file(game), name, depth=depth, flags=named(flags), every=every, seed=seed)
    print(json.dumps(found) if as_json else _place_text(found))


def stall(
    game: GameArgument,
    name: Annotated[str, typer.Option("--stall", metavar="ID")],
    at: Annotated[
        str, typer.Option("--at", metavar="ISO", help="A moment, as 2031-04-01T12:00:00Z; else UTC.")
    ],
    count: Annotated[int, typer.Option("--count", metavar="N", min=1, help="Periods from then on.")] = 1,
    every: Annotated[
        int | None, typer.Option("--every", metavar="M", min=1, help="Look every M periods.")
    ] = None,
    looks: Annotated[int, typer.Option("--looks", metavar="L", min=1, help="So many times.")] = 1,
    as_json: JsonOption = False,
) -> None:
    """What is on sale at a stall from a moment on, the same for everybody."""
    found = stall_report(read_game_file(game), name, at, count, look_every=every, looks=looks)
    print(json.dumps(found) if as_json else _stall_text(found))


def _place_text(found: dict[str, Any]) -> str:
    rows = [f"at depth {found['depth']}, {found['method']}"]
    rows.append(f"{'line':24} {'wanted':>9} {'placed':>9} {'all placed':>11} {'at most':>9}")
    for name, line in found["lines"].items():
        rows.append(
            f"{name:24} {line['wanted']:9.4g} {line['placed']:9.4g} {100 * line['all_placed']:9.4g} % "
            f"{line['most']:9.4g}"
        )
    for name, item in found["items"].items():
        if item["mean"] > 0:
            rows.append(f"{name:24} {item['mean']:9.4g} on average, any in {100 * item['p_any']:.4g} %")
    if "visit" in found:
        rows.append(f"unseen: {100 * found['visit']['unseen_share']:.4g} % of what comes")
        for name, mean in found["visit"]["mean"].items():
            if mean > 0:
                rows.append(f"{name:24} {mean:9.4g} a visit, {found['visit']['per_hour'][name]:.4g} an hour")
    for spot, line in found.get("setting", {}).items():
        rows.append(f"{spot}: {line}")
    return "\n".join(rows)


def _stall_text(found: dict[str, Any]) -> str:
    rows = [
        f"{one['k']:8} {one['from']}  {', '.join(one['goods']) or 'nothing yet'}" for one in found["periods"]
    ]
    for name, share in found["shares"].items():
        rows.append(f"{name:24} in {100 * share:.4g} % of periods, costs {found['prices'][name]:g}")
    for name, one in found.get("goods", {}).get("by_good", {}).items():
        rows.append(
            f"{name:24} missing for {one['longest']} periods in a row at most, seen {100 * one['seen']:.4g} %"
        )
    return "\n".join(rows)
