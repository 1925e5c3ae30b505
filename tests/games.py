"""Small games for tests, and the demo game."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from string import ascii_lowercase
from typing import Any

from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from golddice.files.game_file import read_game_file

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "demo" / "saltglass-deep.golddice.json"


@cache
def demo() -> Game:
    return read_game_file(DEMO)


def game(tables: list[dict[str, Any]], **more: Any) -> Game:
    """A game with four items and one source, `crab`, that rolls the first table once."""
    return read_game(game_data(tables, **more))


def game_data(tables: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    first = tables[0]["id"] if tables else None
    drops = [{"id": "a", "table": first, "chance": 1}] if first else []
    return {
        "format": "golddice-game",
        "version": 1,
        "name": "Tide pool",
        "currency": "brass",
        "depth": {"from": 1, "to": 10},
        "tiers": [
            {"id": "silt", "name": "Silt"},
            {"id": "pearl", "name": "Pearl", "pips": 4, "colour": "#b83a5b"},
        ],
        "items": [
            {"id": "sand", "name": "Sand", "tier": "silt", "value": 1, "tags": ["glass"]},
            {"id": "claw", "name": "Claw", "tier": "silt", "value": 3},
            {"id": "lens", "name": "Lens", "tier": "pearl", "value": 40, "tags": ["glass"]},
            {"id": "crown", "name": "Crown", "tier": "pearl", "value": 500},
        ],
        "tables": tables,
        "sources": [{"id": "crab", "name": "Crab", "kind": "enemy", "seconds": 6, "drops": drops}],
        **more,
    }


def pick(*lines: tuple[float, str], name: str = "bits", **more: Any) -> dict[str, Any]:
    """A pick table of (weight, item or @table)."""
    return {
        "id": name,
        "name": name.title(),
        "rule": "pick",
        "lines": _lines("weight", lines),
        **more,
    }


def each(*lines: tuple[float, str], name: str = "bits", **more: Any) -> dict[str, Any]:
    """An each table of (chance, item or @table)."""
    return {
        "id": name,
        "name": name.title(),
        "rule": "each",
        "lines": _lines("chance", lines),
        **more,
    }


def source(name: str, table: str, **more: Any) -> dict[str, Any]:
    """An enemy that rolls one table."""
    return {"id": name, "name": name.title(), "kind": "enemy", "drops": [{"id": "a", "table": table}], **more}


def _lines(key: str, lines: tuple[tuple[float, str], ...]) -> list[dict[str, Any]]:
    return [
        {"id": ascii_lowercase[at], key: value, "yields": [_yield(what)]}
        for at, (value, what) in enumerate(lines)
    ]


def _yield(what: str) -> dict[str, Any]:
    name, _, quantity = what.partition(" ")
    given: dict[str, Any] = {"table": name[1:]} if name.startswith("@") else {"item": name}
    if quantity:
        low, _, high = quantity.partition("-")
        given["quantity"] = {"min": int(low), "max": int(high or low)}
    return given
