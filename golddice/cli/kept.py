"""Commands about what is kept: bag, purse, kit, sets, properties; a container's cells, a parcel's price."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from golddice.cli.options import DepthOption, FlagsOption, GameArgument, JsonOption, SourceOption, named
from golddice.core.errors import GameError, Problem
from golddice.core.game.models import Item
from golddice.core.sheets.kept.container import container
from golddice.core.sheets.kept.keeping import kept_along, kept_of
from golddice.core.sheets.kept.parcel import parcel
from golddice.core.trial.packing import MOST_UNITS, Packing
from golddice.files.game_file import read_game_file

SourceNamed = Annotated[str, typer.Option("--source", metavar="ID")]


def install(app: typer.Typer) -> None:
    for command in (kept, cells, price, pack):
        app.command()(command)


def kept(
    game: GameArgument,
    source: SourceOption = None,
    route: Annotated[str | None, typer.Option("--route", metavar="ID")] = None,
    depth: DepthOption = None,
    events: Annotated[int, typer.Option("--events", metavar="N", min=1)] = 1,
    flags: FlagsOption = "",
    as_json: JsonOption = False,
) -> None:
    """What players keep along a route, or in N events of a source: bag, purse, kit, sets, properties."""
    loaded = read_game_file(game)
    if (source is None) == (route is None):
        raise typer.BadParameter("name one of --source ID and --route ID")
    if route is not None:
        found = kept_along(loaded, route)
    else:
        at = loaded.depth.from_ if depth is None else depth
        found = kept_of(loaded, str(source), depth=at, events=events, flags=named(flags))
    print(json.dumps(found) if as_json else _kept_text(found))


def cells(
    game: GameArgument,
    source: SourceNamed,
    depth: DepthOption = None,
    flags: FlagsOption = "",
    opening: Annotated[int, typer.Option("--opening", metavar="K", min=0)] = 0,
    as_json: JsonOption = False,
) -> None:
    """Whether all that a container rolls fits into its cells, and one packing of it, drawn."""
    loaded = read_game_file(game)
    at = loaded.depth.from_ if depth is None else depth
    found = container(loaded, source, depth=at, flags=named(flags), opening=opening)
    print(json.dumps(found) if as_json else _cells_text(found))


def price(
    game: GameArgument,
    source: SourceNamed,
    depth: DepthOption = None,
    flags: FlagsOption = "",
    as_json: JsonOption = False,
) -> None:
    """What one of each item costs that a source with a price gives, and how much of the price comes back."""
    loaded = read_game_file(game)
    at = loaded.depth.from_ if depth is None else depth
    found = parcel(loaded, source, depth=at, flags=named(flags))
    print(json.dumps(found) if as_json else _price_text(found))


class _Thing(BaseModel):
    model_config = ConfigDict(extra="forbid")

    width: int = Field(default=1, ge=1, le=100)
    height: int = Field(default=1, ge=1, le=100)
    stack: int = Field(default=1, ge=1, le=10**9)
    currency: bool = False


class _Case(BaseModel):
    """Cells, things by name, and units in order: so many of one after the other."""

    cells: tuple[int, int]
    items: dict[str, _Thing]
    units: list[tuple[str, int]]


def pack(
    case: Annotated[Path, typer.Argument(metavar="CASE", help="cells, items and units, as JSON.")],
    as_json: JsonOption = False,
) -> None:
    """Pack units one by one, as a bag and a container are packed."""
    found = _packed(_case_of(case))
    if as_json:
        print(json.dumps(found))
        return
    for stack in found["stacks"]:
        turned = ", turned" if stack["turned"] else ""
        print(f"column {stack['column']}, row {stack['row']}: {stack['item']} ×{stack['count']}{turned}")
    for name, count in found["does_not_fit"].items():
        print(f"does not fit: {name} ×{count}")
    print(f"{found['cells_used']} cells in use")


def _case_of(path: Path) -> _Case:
    try:
        case = _Case.model_validate_json(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise GameError([Problem(str(path), str(error))]) from None
    except ValidationError as error:
        raise GameError(
            [Problem(".".join(map(str, one["loc"])), one["msg"]) for one in error.errors()]
        ) from None
    problems = [
        Problem(f"units[{at}]", f"there is no item “{name}”")
        for at, (name, _) in enumerate(case.units)
        if name not in case.items
    ]
    if not all(1 <= one <= 100 for one in case.cells):
        problems.append(Problem("cells", "columns and rows are 1 to 100"))
    if sum(abs(count) for _, count in case.units) > MOST_UNITS:
        problems.append(Problem("units", f"more than {MOST_UNITS:,} in all"))
    if problems:
        raise GameError(problems)
    return case


def _packed(case: _Case) -> dict[str, Any]:
    items = {name: Item.model_construct(id=name, **vars(thing)) for name, thing in case.items.items()}
    packing = Packing(*case.cells)
    places = [packing.add(items[name]) for name, count in case.units for _ in range(count)]
    return {
        "places": places,
        "stacks": [vars(stack) for stack in packing.stacks],
        "does_not_fit": packing.left,
        "purse": packing.purse,
        "cells_used": packing.cells_used,
    }


# --- for people ------------------------------------------------------------------------------------------


def _kept_text(found: dict[str, Any]) -> str:
    rows = [f"{found['players']:,} players"]
    for name, one in found.get("slots", {}).items():
        exact = found["exact"]["slots"].get(name, {}).get("after")
        told = "" if exact is None else f", exactly {exact['mean']:.5g} with {exact['upgrades']:.4g} upgrades"
        worn = one["worn"]
        rows.append(
            f"{name}: worn {worn['mean']:.4g} ({worn['p05']:.4g} to {worn['p95']:.4g}), "
            f"{one['upgrades']['mean']:.3g} upgrades{told}"
        )
    for name, one in found.get("sets", {}).items():
        spare = "" if one["spare"] is None else f", {one['spare']:.3g} spare by then"
        rows.append(f"set {name}: complete for {100 * one['complete']:.3g} %{spare}")
    for name, one in found.get("properties", {}).items():
        rows.append(f"{name}: {one['mean']:.4g} ({one['p05']:.4g} to {one['p95']:.4g})")
    rows += _carried_text(found)
    return "\n".join(rows)


def _carried_text(found: dict[str, Any]) -> list[str]:
    rows = []
    for name, one in found.get("purse", {}).get("money", {}).items():
        rows.append(f"purse: {one['mean']:.4g} {name} in the end")
    for name, one in found.get("purse", {}).get("bought", {}).items():
        rows.append(f"{name}: bought {one['bought']:.4g} times, refused {one['refused']:.4g} times")
    worth = found.get("kept", {}).get("worth", {})
    words = {"lost": "lost in containers", "missed": "missed on the ground", "left": "left behind"}
    rows += [f"{what}: worth {worth[name]:.4g}" for name, what in words.items() if worth.get(name)]
    bag = found.get("kept", {}).get("bag")
    if bag is not None:
        full = bag["full_for_half"]
        rows.append("the bag is full for half " + ("of nobody" if full is None else f"after stop {full + 1}"))
    return rows


def _cells_text(found: dict[str, Any]) -> str:
    columns, rows = found["cells"]
    grid = [["·"] * columns for _ in range(rows)]
    names = {}
    for at, stack in enumerate(found["packing"]["stacks"]):
        sign = chr(ord("a") + at % 26)
        names[sign] = f"{stack['item']} ×{stack['count']}"
        wide, high = (stack["width"], stack["height"])[:: -1 if stack["turned"] else 1]
        for y in range(high):
            for x in range(wide):
                grid[stack["row"] + y][stack["column"] + x] = sign
    told = [
        f"everything fits in {100 * found['fits']:.4g} of 100 openings, of {found['players']:,}; "
        f"worth {found['lost_worth']:.4g} of {found['received_worth']:.4g} is lost",
        f"cells in use: {found['used']['mean']:.3g}, {found['used']['p95']:.3g} for 95 of 100",
        *(" ".join(row) for row in grid),
        *(f"  {sign} {name}" for sign, name in names.items()),
        *(f"  lost: {name} ×{count}" for name, count in found["packing"]["lost"].items()),
    ]
    return "\n".join(told)


def _price_text(found: dict[str, Any]) -> str:
    back = (
        ""
        if found["pays_back"] is None
        else f"; {100 * found['pays_back']:.4g} % of it comes back in the long run"
    )
    rows = [f"{found['amount']:,} {found['item']}, {found['method']}{back}"]
    rows.append(f"{'one of':32} {'on average':>12}   half, nine in ten, 99 in 100 pay at most")
    for name, one in found["items"].items():
        paid = ", ".join(f"{one[f'cost_{q}']:,}" if one[f"cost_{q}"] else "never" for q in (50, 90, 99))
        mean = "never" if one["mean"] is None else f"{one['mean']:.5g}"
        rows.append(f"{name:32} {mean:>12}   {paid}")
    return "\n".join(rows)
