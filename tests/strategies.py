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
def quantities(draw: st.DrawFn, most: int = 3) -> dict[str, Any]:
    if draw(st.integers(0, 5)) == 0:
        found: dict[str, Any] = {"dice": draw(st.sampled_from(["1d2", "2d2-1", "1d3"]))}
    else:
        low = draw(st.integers(0, most))
        found = {"min": low, "max": draw(st.integers(low, most))}
    if draw(st.integers(0, 7)) == 0:
        found["curve"] = "swell"
    return found


gates = st.sampled_from(
    [{"curve": "swell"}, {"curve": "never"}, {"needs": ["key"]}, {"unless": ["key"]}, {"depths": [2, 9]}]
)
guards = st.fixed_dictionaries(
    {"after": st.integers(0, 3), "rise": st.sampled_from([0.0, 0.1, 0.5])},
    optional={"sure_at": st.integers(1, 7)},
)


@st.composite
def yields(draw: st.DrawFn, inner: list[str]) -> list[dict[str, Any]]:
    """None (a stated nothing), one or two: items, pools, tables further in, the small source."""
    pools = [{"pool": {"tags": ["glass"]}}, {"pool": {"tiers": ["silt"]}}]
    every: list[dict[str, Any]] = [{"item": name} for name in ITEMS] + pools
    every += [{"table": name} for name in inner] + ([{"source": "egg"}] if inner else [])
    count = draw(st.sampled_from([0, 1, 1, 1, 1, 2]))
    return [{**draw(st.sampled_from(every)), "quantity": draw(quantities(2))} for _ in range(count)]


@st.composite
def lines(draw: st.DrawFn, rule: str, inner: list[str], state: bool) -> list[dict[str, Any]]:
    count = draw(st.sampled_from([4, 3, 4, 3, 2, 1, 0]))
    result = []
    for at in range(count):
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
        if draw(st.integers(0, 5)) == 0:
            entry |= draw(gates)
        result.append({"id": f"l{at}", **entry, "yields": draw(yields(inner))})
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
    """Three tables, each of which may yield the later ones; a source with two drops, and a small one.

    With state only one table carries any, to keep the spaces small enough to be exact.
    """
    names = ["outer", "middle", "inner"]
    carrier = draw(st.sampled_from(names)) if state else ""
    made = [draw(tables(name, names[at + 1 :], name == carrier)) for at, name in enumerate(names)]
    times = [{"min": 1, "max": 1}, {"min": 1, "max": 2}, {"min": 0, "max": 2}]
    drops: list[dict[str, Any]] = [
        {
            "id": f"d{at}",
            "table": draw(st.sampled_from(names)),
            "chance": draw(st.sampled_from([1.0, 1.0, 0.85, 0.5, 0.2, 0.0])),
            "times": draw(st.sampled_from(times)),
        }
        for at in range(2)
    ]
    if state and draw(st.booleans()):
        drops[0]["guard"] = draw(guards)
    every = [
        {"id": "crab", "name": "Crab", "kind": "enemy", "drops": drops},
        {
            "id": "egg",
            "name": "Egg",
            "kind": "container",
            "drops": [{"id": "d", "table": "inner", "chance": 0.5}],
        },
    ]
    curves = [
        {"id": "swell", "name": "Swell", "points": [[1, 0.6], [5, 1.7]]},
        {"id": "never", "name": "Never", "shape": "step", "points": [[1, 0.0], [6, 1.0]]},
    ]
    flags = [{"id": "key", "name": "Key"}]
    return read_game(game_data(made, sources=every, curves=curves, flags=flags))
