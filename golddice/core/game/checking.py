"""What must hold between the things of a game: unique ids, references that lead somewhere, no loops.

Works on plain JSON data and tolerates any shape, so that it can report beside the type errors of a
broken file. Every problem carries the JSON path of the place that is wrong.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from golddice.core.errors import Problem

LISTS = ("curves", "tiers", "flags", "items", "tables", "sources")


@dataclass(frozen=True)
class Reference:
    """One place that names another thing: where it stands, what kind it wants, which id."""

    path: str
    kind: str
    target: str


def reference_problems(data: dict[str, Any]) -> list[Problem]:
    """Repeated ids, dangling references and loops of a game given as plain data."""
    known = {name[:-1]: _ids(data, name) for name in LISTS}
    problems = list(_repeated_ids(data))
    for reference in references(data):
        if reference.target not in known[reference.kind]:
            problems.append(Problem(reference.path, f"there is no {reference.kind} “{reference.target}”"))
    problems += _band_problems(data) + _guarded_decks(data)
    return problems + list(_loops(data))


def references(data: dict[str, Any]) -> Iterator[Reference]:
    """Every reference in the game, in file order."""
    for at, band in _entries(_dict(data.get("depth")), "bands"):
        yield from _one(band, "spawns", "table", f"depth.bands[{at}]")
    for at, tier in _entries(data, "tiers"):
        yield from _one(tier, "curve", "curve", f"tiers[{at}]")
    for at, item in _entries(data, "items"):
        yield from _one(item, "tier", "tier", f"items[{at}]")
    for at, table in _entries(data, "tables"):
        yield from table_references(table, f"tables[{at}]")
    for at, source in _entries(data, "sources"):
        yield from source_references(source, f"sources[{at}]")


def table_references(table: dict[str, Any], path: str) -> Iterator[Reference]:
    """What one table's body names."""
    yield from _one(table, "nothing_curve", "curve", path)
    yield from _of_quantity(table, "rolls", path)
    for at, line in _entries(table, "lines"):
        here = f"{path}.lines[{at}]"
        yield from _of_gated(line, here)
        for place, given in _entries(line, "yields"):
            yield from _of_yield(given, f"{here}.yields[{place}]")


def source_references(source: dict[str, Any], path: str) -> Iterator[Reference]:
    """What one source's body names."""
    yield from _one(_dict(source.get("price")), "item", "item", f"{path}.price")
    for at, drop in _entries(source, "drops"):
        here = f"{path}.drops[{at}]"
        yield from _one(drop, "table", "table", here)
        yield from _of_gated(drop, here)
        yield from _of_quantity(drop, "times", here)


def _of_yield(given: dict[str, Any], path: str) -> Iterator[Reference]:
    for kind in ("item", "table", "source"):
        yield from _one(given, kind, kind, path)
    tiers = _dict(given.get("pool")).get("tiers")
    for at, tier in enumerate(tiers if isinstance(tiers, list) else []):
        if isinstance(tier, str):
            yield Reference(f"{path}.pool.tiers[{at}]", "tier", tier)
    yield from _of_quantity(given, "quantity", path)


def _of_gated(part: dict[str, Any], path: str) -> Iterator[Reference]:
    yield from _one(part, "curve", "curve", path)
    for key in ("needs", "unless"):
        names = part.get(key)
        for at, name in enumerate(names if isinstance(names, list) else []):
            if isinstance(name, str):
                yield Reference(f"{path}.{key}[{at}]", "flag", name)


def _of_quantity(part: dict[str, Any], key: str, path: str) -> Iterator[Reference]:
    yield from _one(_dict(part.get(key)), "curve", "curve", f"{path}.{key}")


def _one(part: dict[str, Any], key: str, kind: str, path: str) -> Iterator[Reference]:
    target = part.get(key)
    if isinstance(target, str):
        yield Reference(f"{path}.{key}", kind, target)


def _repeated_ids(data: dict[str, Any]) -> Iterator[Problem]:
    yield from _repeats(_dict(data.get("depth")), "bands", "depth.bands")
    for name in LISTS:
        yield from _repeats(data, name, name)
    for name, inner in (("tables", "lines"), ("sources", "drops")):
        for at, part in _entries(data, name):
            yield from _repeats(part, inner, f"{name}[{at}].{inner}")


def _repeats(holder: dict[str, Any], key: str, path: str) -> Iterator[Problem]:
    first: dict[str, int] = {}
    for at, part in _entries(holder, key):
        name = part.get("id")
        if not isinstance(name, str):
            continue
        if name in first:
            yield Problem(f"{path}[{at}].id", f"“{name}” is the id of {path}[{first[name]}] already")
        first.setdefault(name, at)


def _band_problems(data: dict[str, Any]) -> list[Problem]:
    scale = _dict(data.get("depth"))
    first, last = scale.get("from", 1), scale.get("to", 1)
    problems = []
    previous: int | None = None
    for at, band in _entries(scale, "bands"):
        low, high = band.get("from"), band.get("to")
        if not (isinstance(low, int) and isinstance(high, int)):
            continue
        if not (isinstance(first, int) and isinstance(last, int)):
            continue
        if low < first or high > last:
            message = f"lies outside the game's depths {first} to {last}"
            problems.append(Problem(f"depth.bands[{at}]", message))
        if previous is not None and low <= previous:
            message = f"begins at {low}, but the band before it ends at {previous}"
            problems.append(Problem(f"depth.bands[{at}].from", message))
        previous = high
    return problems


def _guarded_decks(data: dict[str, Any]) -> list[Problem]:
    return [
        Problem(f"tables[{at}].lines[{place}].guard", "a deck is its own guard; take this one off")
        for at, table in _entries(data, "tables")
        if table.get("rule") == "deck"
        for place, line in _entries(table, "lines")
        if line.get("guard") is not None
    ]


def _loops(data: dict[str, Any]) -> Iterator[Problem]:
    """Each link that closes a loop of tables and sources, by depth-first search without recursion."""
    links = _links(data)
    done: set[tuple[str, str]] = set()
    for start in links:
        if start in done:
            continue
        trail, on_trail = [start], {start}
        pending = [iter(links[start])]
        while pending:
            step = next(pending[-1], None)
            if step is None:
                pending.pop()
                done.add(trail[-1])
                on_trail.discard(trail.pop())
                continue
            path, target = step
            if target in on_trail:
                names = [name for _, name in [*trail[trail.index(target) :], target]]
                yield Problem(path, "closes a loop: " + " > ".join(names))
            elif target not in done and target in links:
                trail.append(target)
                on_trail.add(target)
                pending.append(iter(links[target]))


def _links(data: dict[str, Any]) -> dict[tuple[str, str], list[tuple[str, tuple[str, str]]]]:
    """From each table and source to the tables and sources that it rolls, with the place."""
    links: dict[tuple[str, str], list[tuple[str, tuple[str, str]]]] = {}
    finders = (("table", "tables", table_references), ("source", "sources", source_references))
    for kind, name, finder in finders:
        for at, part in _entries(data, name):
            if isinstance(part.get("id"), str):
                found = finder(part, f"{name}[{at}]")
                links[kind, part["id"]] = [
                    (reference.path, (reference.kind, reference.target))
                    for reference in found
                    if reference.kind in ("table", "source")
                ]
    return links


def _ids(data: dict[str, Any], name: str) -> set[str]:
    return {part["id"] for _, part in _entries(data, name) if isinstance(part.get("id"), str)}


def _entries(holder: dict[str, Any], key: str) -> Iterator[tuple[int, dict[str, Any]]]:
    """(index, body) of every object in a list; anything else is the type check's business."""
    parts = holder.get(key)
    for at, part in enumerate(parts if isinstance(parts, list) else []):
        if isinstance(part, dict):
            yield at, part


def _dict(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}
