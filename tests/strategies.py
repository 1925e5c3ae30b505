"""Random games for property tests: every rule, nested three deep, with ranges of everything.

`games(state=True)` adds what players carry: limits, guards and decks.
"""

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


guards = st.fixed_dictionaries(
    {"after": st.integers(0, 3), "rise": st.sampled_from([0.0, 0.1, 0.5])},
    optional={"sure_at": st.integers(1, 7)},
)


@st.composite
def lines(draw: st.DrawFn, rule: str, inner: list[str], state: bool) -> list[dict[str, Any]]:
    count = draw(st.integers(0, 4))
    result = []
    for at in range(count):
        target = draw(st.sampled_from([*ITEMS, *(f"@{name}" for name in inner), ""]))
        given: list[dict[str, Any]] = []
        if target:
            kind = {"table": target[1:]} if target.startswith("@") else {"item": target}
            given = [{**kind, "quantity": draw(quantities(2))}]
        entry: dict[str, Any] = {}
        if rule in ("pick", "retry"):
            entry["weight"] = draw(weights)
        if rule in ("each", "first", "retry"):
            entry["chance"] = draw(chances)
        if rule == "deck":
            entry["copies"] = draw(st.integers(0, 3))
        if state and at < 2 and draw(st.booleans()):
            entry["limit"] = draw(st.integers(1, 3))
        if state and at < 2 and rule != "deck" and draw(st.booleans()):
            entry["guard"] = draw(guards)
        result.append({"id": f"l{at}", **entry, "yields": given})
    return result


@st.composite
def tables(draw: st.DrawFn, name: str, inner: list[str], state: bool) -> dict[str, Any]:
    rules = ["pick", "each", "first", "retry", *(["deck"] if state else [])]
    rule = draw(st.sampled_from(rules))
    table: dict[str, Any] = {"id": name, "name": name, "rule": rule, "rolls": draw(quantities())}
    if rule == "pick":
        table |= {"nothing": draw(weights), "distinct": draw(st.booleans())}
    if rule == "retry":
        table["tries"] = draw(st.integers(1, 4))
    return {**table, "lines": draw(lines(rule, inner, state))}


@st.composite
def games(draw: st.DrawFn, state: bool = False) -> Game:
    """Three tables, each of which may yield the later ones; a source with two drops.

    With state only one table carries any, to keep the spaces small enough to be exact.
    """
    names = ["outer", "middle", "inner"]
    carrier = draw(st.sampled_from(names)) if state else ""
    made = [draw(tables(name, names[at + 1 :], name == carrier)) for at, name in enumerate(names)]
    drops: list[dict[str, Any]] = [
        {
            "id": f"d{at}",
            "table": draw(st.sampled_from(names)),
            "chance": draw(chances),
            "times": draw(quantities(2)),
        }
        for at in range(2)
    ]
    if state and draw(st.booleans()):
        drops[0]["guard"] = draw(guards)
    source = {"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops}
    return read_game(game_data(made, sources=[source]))
