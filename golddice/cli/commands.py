"""The command line: the same core without the web.

Every command reads a game file and prints text for people, or one JSON object with --json.
Exit 0; 1 with an error on stderr; 2 for wrong usage.
"""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path
from typing import Annotated, cast, get_args

import typer

from golddice.cli import exchange, kept, overview, places
from golddice.cli.exchange import write_log
from golddice.cli.options import (
    DepthOption,
    FlagsOption,
    GameArgument,
    JsonOption,
    RouteOption,
    SourceOption,
    TableOption,
    named,
)
from golddice.cli.serving import serve
from golddice.cli.texts import odds_text, proposal_text, route_text, trial_text
from golddice.core.errors import GameError
from golddice.core.exchange.logs.making import log_of_route, log_of_source
from golddice.core.findings import findings
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.sheets.report import odds
from golddice.core.sheets.route_report import route_odds
from golddice.core.trial.trace import rolled
from golddice.core.trial.trial import (
    RouteTrial,
    Trial,
    Until,
    cluster_executor,
    local_executor,
    run_trial,
)
from golddice.core.tuning import Standing, standings
from golddice.files.game_file import game_text, read_game_file

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    help="Gold Dice: loot tables, their odds, their players.",
)

_DASK = "Play on the workers of this Dask scheduler."
UntilOption = Annotated[
    str | None,
    typer.Option(
        "--until",
        metavar="PERCENT[:ITEM]",
        help="End as soon as the mean of an item (or of value) is known so well, in percent.",
    ),
]


@app.command()
def check(
    game: GameArgument,
    strict: Annotated[bool, typer.Option("--strict", help="Exit 1 where a target is missed, too.")] = False,
    as_json: JsonOption = False,
) -> None:
    """Say what is wrong with a game, and what is odd about it."""
    try:
        found = [finding.plain() for finding in findings(read_game_file(game))]
    except GameError as error:
        found = [
            {"level": "error", "path": problem.path, "message": problem.message} for problem in error.problems
        ]
    failed = any(finding["level"] == "error" for finding in found)
    missed = _missed(game) if strict and not failed else []
    if as_json:
        more = {"missed": [one.target.id for one in missed]} if strict else {}
        print(json.dumps({"findings": found, **more}, ensure_ascii=False))
    else:
        for finding in found:
            print(f"{finding['level']}: {finding['path']}: {finding['message']}")
        print("no findings" if not found else f"{len(found)} findings")
    if failed:
        print(f"{game}: not a sound game", file=sys.stderr)
        raise typer.Exit(1)
    if missed:
        names = ", ".join(one.target.id for one in missed)
        print(f"{game}: {len(missed)} targets are missed: {names}", file=sys.stderr)
        raise typer.Exit(1)


def _missed(game: Path) -> list[Standing]:
    """Targets that do not hold; those put aside are not asked for."""
    return [one for one in standings(read_game_file(game)) if not one.is_met and not one.target.aside]


@app.command("odds")
def odds_command(
    game: GameArgument,
    source: SourceOption = None,
    table: TableOption = None,
    depth: DepthOption = None,
    flags: FlagsOption = "",
    events: Annotated[int | None, typer.Option("--events", metavar="N")] = None,
    route: RouteOption = None,
    as_json: JsonOption = False,
) -> None:
    """Exact odds of an event of a source, of an execution of a table, or along a route, at every stop."""
    if route is not None:
        if (source, table, depth, events) != (None, None, None, None) or flags:
            raise typer.BadParameter("a route has depths, flags and numbers of events of its own")
        along = route_odds(read_game_file(game), route, kit=True)
        print(json.dumps(along) if as_json else route_text(along))
        return
    view = _view(source, table)
    report = odds(read_game_file(game), view, depth=depth, flags=named(flags), events=events)
    print(json.dumps(report) if as_json else odds_text(view, report))


@app.command()
def trial(
    game: GameArgument,
    players: Annotated[int, typer.Option("--players", metavar="P")],
    seed: Annotated[int, typer.Option("--seed", metavar="S")],
    events: Annotated[int | None, typer.Option("--events", metavar="N")] = None,
    source: SourceOption = None,
    table: TableOption = None,
    route: RouteOption = None,
    depth: DepthOption = None,
    flags: FlagsOption = "",
    until: UntilOption = None,
    workers: Annotated[int | None, typer.Option("--workers", metavar="W", min=1, max=256)] = None,
    dask: Annotated[
        str | None, typer.Option("--dask", metavar="ADDRESS", envvar="GOLDDICE_DASK", help=_DASK)
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Simulate a cohort: P players, each doing N events, or each going along a route."""
    loaded = read_game_file(game)
    spec: Trial | RouteTrial
    if route is not None:
        if (source, table, depth, events) != (None, None, None, None) or flags:
            raise typer.BadParameter("a route has depths, flags and numbers of events of its own")
        spec = RouteTrial(route, players, seed, _until(until))
    else:
        if events is None:
            raise typer.BadParameter("say how many events each player does: --events N")
        view, at = _view(source, table), _depth(loaded, depth)
        spec = Trial(view, at, players, events, seed, tuple(named(flags)), _until(until))
    start = time.perf_counter()
    with cluster_executor(dask) if dask else local_executor(workers) as executor:
        result = run_trial(loaded, spec, executor)
    result["seconds"] = round(time.perf_counter() - start, 3)
    print(json.dumps(result) if as_json else trial_text(result))


@app.command()
def roll(
    game: GameArgument,
    seed: Annotated[int, typer.Option("--seed", metavar="S")],
    source: SourceOption = None,
    table: TableOption = None,
    depth: DepthOption = None,
    flags: FlagsOption = "",
    player: Annotated[int, typer.Option("--player", metavar="K", min=0)] = 0,
    count: Annotated[int, typer.Option("--count", metavar="C", min=1)] = 1,
    route: RouteOption = None,
    players: Annotated[int, typer.Option("--players", metavar="P", min=1)] = 1,
    many: Annotated[int, typer.Option("--events", metavar="N", min=1, help="Of each, with --log.")] = 100,
    log_to: Annotated[
        Path | None, typer.Option("--log", metavar="OUT.csv", help="Write what fell, as a game would.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Roll a few events of one player and show every decision; or write a log of players."""
    loaded = read_game_file(game)
    if log_to is not None:
        told = tuple(named(flags))
        if route is not None:
            rows = log_of_route(loaded, route, players=players, events=many, seed=seed)
        else:
            at = _depth(loaded, depth)
            rows = log_of_source(
                loaded, _source(source), depth=at, flags=told, players=players, events=many, seed=seed
            )
        print(f"{write_log(log_to, rows):,} rows written to {log_to}")
        return
    view = _view(source, table)
    events = rolled(
        loaded,
        view,
        depth=_depth(loaded, depth),
        seed=seed,
        player=player,
        count=count,
        flags=tuple(named(flags)),
    ).events
    if as_json:
        print(json.dumps({"events": [vars(event) for event in events]}))
        return
    names = {item.id: item.name for item in loaded.items}
    for event in events:
        fell = ", ".join(f"{names[item]} ×{count}" for item, count in event.received) or "nothing"
        print(f"event {event.event}: {fell} ({event.value:g} {loaded.currency})")
        for step in event.steps:
            print(f"    {step['text']}")


@app.command()
def targets(game: GameArgument, as_json: JsonOption = False) -> None:
    """Say where the targets of a game stand."""
    found = standings(read_game_file(game))
    if as_json:
        print(json.dumps({"targets": [standing.plain() for standing in found]}))
    else:
        for standing in found:
            print(_target_text(standing))
        print(f"{sum(standing.is_met for standing in found)} of {len(found)} targets are met")


@app.command()
def tune(
    game: GameArgument,
    targets: Annotated[
        str, typer.Option("--targets", metavar="A,B", help="Default: all that are not put aside.")
    ] = "",
    unlock: Annotated[
        list[str] | None,
        typer.Option(metavar="TABLE[/LINE]", help="What alone may move; SOURCE/DROP and CURVE[@DEPTH] too."),
    ] = None,
    keep: Annotated[
        list[str] | None, typer.Option(metavar="TABLE[/LINE]", help="What stays as it is.")
    ] = None,
    rounded: Annotated[bool, typer.Option("--rounded", help="With as few digits as can be.")] = False,
    whole: Annotated[
        int | None, typer.Option(metavar="N", min=1, help="Whole weights, none above N.")
    ] = None,
    free_totals: Annotated[
        bool, typer.Option("--free-totals", help="A table's weights need not add up to what they did.")
    ] = False,
    kinds: Annotated[
        str, typer.Option(metavar="A,B", help="Of weights, chances, curves, guards, quantities.")
    ] = "",
    most: Annotated[
        float | None, typer.Option(metavar="F", min=1.0, help="By which factor a number may change at most.")
    ] = None,
    way: Annotated[
        str, typer.Option(metavar="WAY", help="smallest, fewest, weights or curves.")
    ] = "smallest",
    hold_long_run: Annotated[
        bool, typer.Option("--hold-long-run", help="A wait changes, how many come in the long run does not.")
    ] = False,
    write: Annotated[
        Path | None, typer.Option(metavar="OUT", help="Write the game with the new numbers.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Find the smallest change of numbers that meets the targets. Exit 3 where only the nearest is found."""
    from golddice.core.tuning.asking import Ask, Way
    from golddice.core.tuning.proposal import propose

    if way not in get_args(Way):
        raise typer.BadParameter(f"--way is one of {', '.join(get_args(Way))}")
    asked = Ask(
        targets=named(targets) or None,
        unlock=unlock or [],
        keep=keep or [],
        kinds=named(kinds),
        rounded=rounded,
        whole=whole,
        keep_totals=not free_totals,
        most=most,
        way=cast(Way, way),
        hold_long_run=hold_long_run,
    )
    found = propose(read_game_file(game), asked)
    if write is not None:
        write.write_text(game_text(found.game), encoding="utf-8")
    print(json.dumps(found.plain(), ensure_ascii=False) if as_json else proposal_text(found.plain()))
    if found.status == "nearest":
        raise typer.Exit(3)


kept.install(app)
places.install(app)
overview.install(app)
exchange.install(app)


app.command()(serve)


def _target_text(standing: Standing) -> str:
    target, row = standing.target, standing.furthest
    side = "" if target.side == "near" else target.side.replace("-", " ")
    wanted = side if target.is_order else f"{side} {target.wanted:g}".strip()
    wanted += f" ± {target.tolerance:g}" if target.tolerance else ""
    told = f"{target.id}: {target.figure} wanted {wanted}{', played' if standing.is_played else ''}"
    if standing.untold is not None:
        return f"untold  {told}: {standing.untold}"
    if not standing.depths:
        return f"nowhere {told}: met at none of its depths"
    if row is None:
        low, high = _number(min(standing.figures)), _number(max(standing.figures))
        return f"met     {told}: {low} to {high} at {len(standing.depths)} depths"
    at = f"{_number(standing.figures[row])} at depth {standing.depths[row]}"
    return f"missed  {told}: {at}, holds at {sum(standing.holds)} of {len(standing.holds)} depths"


def _number(figure: float) -> str:
    return "never" if figure == float("inf") else f"{figure:.4g}"


def _source(source: str | None) -> str:
    if source is None:
        raise typer.BadParameter("name one of --source ID and --route ID")
    return source


def _view(source: str | None, table: str | None) -> View:
    if (source is None) == (table is None):
        raise typer.BadParameter("name one of --source ID and --table ID")
    return View("source", source) if source is not None else View("table", str(table))


def _until(text: str | None) -> Until | None:
    if text is None:
        return None
    within, _, item = text.partition(":")
    try:
        return Until(float(within.removesuffix("%")) / 100, item or None)
    except ValueError:
        raise typer.BadParameter("--until is written 2 or 2:ITEM, in percent") from None


def _depth(game: Game, depth: int | None) -> int:
    return game.depth.from_ if depth is None else depth
