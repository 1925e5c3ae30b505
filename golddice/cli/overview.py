"""The whole game on one sheet: as text, as a page, or as JSON; or along a route, repeated."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

import typer

from golddice.cli.options import FlagsOption, GameArgument, JsonOption, RouteOption, named
from golddice.core.game.models import Game
from golddice.core.overview.collection import RUNS, collection
from golddice.core.overview.page import overview_page, time_words
from golddice.core.overview.report import health, overview
from golddice.files.game_file import read_game_file

AS = ("text", "json", "html")


def install(app: typer.Typer) -> None:
    app.command("overview")(overview_command)


def overview_command(
    game: GameArgument,
    form: Annotated[str, typer.Option("--as", metavar="FORM", help=f"One of {', '.join(AS)}.")] = "text",
    flags: FlagsOption = "",
    route: RouteOption = None,
    runs: Annotated[
        str, typer.Option("--runs", metavar="A,B", help="How often the route is done, for what is owned.")
    ] = ",".join(map(str, RUNS)),
    out: Annotated[Path | None, typer.Option("--out", metavar="FILE")] = None,
    as_json: JsonOption = False,
) -> None:
    """The whole game on one sheet: an hour down the depths, every item, money, targets and what is odd; with
    --route what players own after so many runs of it."""
    loaded, form = read_game_file(game), "json" if as_json else form
    if form not in AS:
        raise typer.BadParameter(f"--as is one of {', '.join(AS)}")
    if form == "html":
        text = overview_page(loaded, frozenset(named(flags)))
    else:
        told = _owned(loaded, route, runs) if route else {**overview(loaded, named(flags)), **health(loaded)}
        text = json.dumps(told, ensure_ascii=False) if form == "json" else "\n".join(_text(loaded, told))
    if out is None:
        print(text)
    else:
        out.write_text(text + "\n", encoding="utf-8")


def _owned(game: Game, route: str, runs: str) -> dict[str, Any]:
    try:
        counts = [int(one) for one in named(runs)]
    except ValueError:
        raise typer.BadParameter("--runs is written 1,5,20") from None
    return collection(game, route, counts)


def _text(game: Game, found: dict[str, Any]) -> Iterator[str]:
    if "runs" in found:
        yield from _owned_text(game, found)
        return
    for row, depth in enumerate(found["depths"]):
        worth = {tier: by_depth[row] for tier, by_depth in found["worth"].items() if by_depth[row] > 0}
        if worth:
            parts = ", ".join(f"{tier} {value:.4g}" for tier, value in worth.items())
            yield f"depth {depth}: worth {sum(worth.values()):.5g} an hour ({parts})"
    for item, one in found["coverage"].items():
        yield f"{item:24} {_place(one)}"
    for one in found["money"]["money"]:
        bands = ", ".join(f"{band} {value:.4g}" for band, value in one["income"].items())
        yield f"{one['item']} an hour: {bands or 'none'}"
    met = sum(one["is_met"] for one in found["targets"])
    yield f"{met} of {len(found['targets'])} targets met, {len(found['findings'])} findings"


def _owned_text(game: Game, found: dict[str, Any]) -> Iterator[str]:
    yield f"{found['method']}" + (f", {found['players']} players" if found["players"] else "")
    for one in found["runs"]:
        yield (
            f"after {one['runs']:4} runs: {one['owned']:.4g} of {len(game.items)} items on average, "
            f"{one['by_half']} owned by half of all players"
        )
    if found["last"]:
        yield f"the last: {found['last']}"


def _place(one: dict[str, Any]) -> str:
    best = one["best"]
    if best is None:
        return "nowhere, with " + " or ".join(one["with"]) if one["with"] else "nowhere"
    if best["hours"] is not None:
        when = f"half have one in {time_words(best['hours'])}"
    elif best["price"] is not None:
        when = f"half have one for {best['price']:,.0f}"
    else:
        when = "how soon is not told"
    once = ", so many times ever" if one["limited"] else ""
    return f"{best['source']} at depth {best['depth']}, {100 * best['chance']:.4g} %: {when}{once}"
