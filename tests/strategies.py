"""Random games for property tests: pick and each, nested three deep, with ranges of everything."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from golddice.core.game.models import Game
from golddice.core.game.reading import read_game
from tests.games import game_data

ITEMS = ["sand", "claw", "lens", "crown"]
chances = st.sampled_from([0.0, 0.01, 0.2, 0.5, 0.85, 1.0])
weights = st.sampled_from([0.0, 0.1, 1.0, 2.5, 10.0, 60.0])


@st.composite
def quantities(draw: st.DrawFn, most: int = 3) -> dict[str, int]:
    low = draw(st.integers(0, most))
    return {"min": low, "max": draw(st.integers(low, most))}


@st.composite
def lines(draw: st.DrawFn, rule: str, inner: list[str]) -> list[dict[str, Any]]:
    count = draw(st.integers(0, 5))
    result = []
    for at in range(count):
        target = draw(st.sampled_from([*ITEMS, *(f"@{name}" for name in inner), ""]))
        given: list[dict[str, Any]] = []
        if target:
            kind = {"table": target[1:]} if target.startswith("@") else {"item": target}
            given = [{**kind, "quantity": draw(quantities(2))}]
        entry = {"weight": draw(weights)} if rule == "pick" else {"chance": draw(chances)}
        result.append({"id": f"l{at}", **entry, "yields": given})
    return result


@st.composite
def tables(draw: st.DrawFn, name: str, inner: list[str]) -> dict[str, Any]:
    rule = draw(st.sampled_from(["pick", "each", "first"]))
    table: dict[str, Any] = {"id": name, "name": name, "rule": rule, "rolls": draw(quantities())}
    if rule == "pick":
        table["nothing"] = draw(weights)
    return {**table, "lines": draw(lines(rule, inner))}


@st.composite
def games(draw: st.DrawFn) -> Game:
    """Three tables, each of which may yield the later ones; a source with two drops."""
    names = ["outer", "middle", "inner"]
    made = [draw(tables(name, names[at + 1 :])) for at, name in enumerate(names)]
    drops = [
        {
            "id": f"d{at}",
            "table": draw(st.sampled_from(names)),
            "chance": draw(chances),
            "times": draw(quantities(2)),
        }
        for at in range(2)
    ]
    source = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops}
    return read_game(game_data(made, sources=[source]))
