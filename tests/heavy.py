"""A game that is sound and asks for much: what questions about it cost is far above what any page shows."""

from __future__ import annotations

from typing import Any

DEPTHS = 10_000
ITEMS = 20_000


def heavy_game() -> dict[str, Any]:
    """Twenty thousand items, of which pools name all; a table of five thousand lines under each rule; a line
    with a limit of ten thousand; a stall of thirty goods of which one hardly comes; a route of a hundred legs
    of a hundred stops."""
    items = [
        {"id": f"i{at}", "name": f"Thing {at}", "tier": f"t{at % 4}", "value": 1 + at % 97}
        for at in range(ITEMS)
    ]
    return {
        "format": "golddice-game",
        "version": 1,
        "name": "Heavy",
        "depth": {"from": 1, "to": DEPTHS},
        "tiers": [{"id": f"t{at}", "name": f"Tier {at}"} for at in range(4)],
        "items": items,
        "curves": [{"id": "down", "name": "Down", "shape": "line", "points": [[1, 1], [DEPTHS, 3]]}],
        "tables": [
            *(_wide(rule) for rule in ("pick", "each", "first", "retry")),
            _table("pool", [{"id": "a", "weight": 1, "curve": "down", "yields": [_pool(5)]}]),
            _table(
                "limited", [{"id": "a", "weight": 1, "limit": 10_000, "yields": [{"item": "i1"}]}, _nothing()]
            ),
            _table("goods", [_good(at) for at in range(30)]),
        ],
        "sources": [
            *(_source(name, [name]) for name in ("pick", "each", "first", "retry", "pool", "limited")),
            _source("all", ["pick", "each", "pool", "limited"]),
        ],
        "stalls": [
            {
                **{"id": "stall", "name": "Stall", "stock": "goods", "slots": 4, "period_seconds": 60},
                **{"depth": 1, "starts_at": 0, "seed": 1},
            }
        ],
        "routes": [{"id": "long", "name": "Long", "legs": [_leg(at) for at in range(100)]}],
        "targets": [
            {
                **{"id": "target", "name": "Target", "source": "pool", "item": "i1", "figure": "chance"},
                **{"wanted": 0.5, "side": "at-least"},
            }
        ],
    }


def _wide(rule: str) -> dict[str, Any]:
    entered = "weight" if rule == "pick" else "chance"
    lines = [
        {"id": f"l{at}", entered: 0.001 + at % 7 / 100, "curve": "down", "yields": [{"item": f"i{at}"}]}
        for at in range(5_000)
    ]
    return {"id": rule, "name": rule, "rule": rule, "lines": lines}


def _table(name: str, lines: list[dict[str, Any]]) -> dict[str, Any]:
    return {"id": name, "name": name, "rule": "pick", "lines": lines}


def _pool(many: int) -> dict[str, Any]:
    return {"pool": {"tiers": [f"t{at}" for at in range(4)]}, "quantity": {"min": 1, "max": many}}


def _nothing() -> dict[str, Any]:
    return {"id": "z", "weight": 3, "yields": []}


def _good(at: int) -> dict[str, Any]:
    return {"id": f"g{at}", "weight": 1 if at else 1e-5, "yields": [{"item": f"i{at}"}]}


def _source(name: str, tables: list[str]) -> dict[str, Any]:
    drops = [{"id": f"d{at}", "table": table} for at, table in enumerate(tables)]
    return {"id": name, "name": name, "kind": "enemy", "seconds": 1, "drops": drops}


def _leg(at: int) -> dict[str, Any]:
    low = 1 + 100 * at
    return {"id": f"leg{at}", "from": low, "to": low + 99, "source": "all", "times": {"min": 1, "max": 9}}


def view(name: str) -> dict[str, Any]:
    return {"view": {"kind": "source", "id": name}, "depth": 500}


def questions() -> list[tuple[str, dict[str, Any]]]:
    """Path and body of questions, each as large as it may be asked."""
    asked: list[tuple[str, dict[str, Any]]] = [
        ("route", {"route": "long"}),
        ("kept", {"route": "long"}),
        ("bag", {"route": "long", "player": 1}),
        (
            "stall",
            {"stall": "stall", "at": "2031-04-01T00:00:00Z", "count": 1_000, "look_every": 7, "looks": 1_000},
        ),
        ("targets", {}),
        ("tune", {}),
        ("tune/free", {}),
        ("tune/levers", {"target": "target", "depth": 500}),
        ("items/i1", {"swings": True}),
        ("tiers/t1", {"swings": True}),
        ("meets", {"depth": 500, "points": 1_000}),
        ("meets/profile", {}),
        ("overview", {}),
    ]
    for name in ("pick", "each", "retry", "pool", "limited", "all"):
        asked += [
            ("odds", view(name)),
            ("spread", {**view(name), "events": 1_000_000}),
            ("profile", view(name)),
            ("depths", {**view(name), "swings": True}),
            ("rolls", {**view(name), "seed": 1, "first": 1, "count": 1_000_000}),
            ("kept", {"source": name, "depth": 500, "events": 1_000_000}),
            ("tune/frontier", view(name)),
        ]
    for name in ("pick", "each", "first", "retry"):
        asked.append(("compare", {"table": name, "depth": 500}))
    return asked
