"""What must hold between the things of a game: unique ids, references that lead somewhere, no loops.

Works on plain JSON data and tolerates any shape, so that it can report beside the type errors of a
broken file. Every problem carries the JSON path of the place that is wrong.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from golddice.core.errors import Problem

LISTS = ("curves", "tiers", "flags", "items", "tables", "sources", "targets")


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
    links: Links = {}
    for path, kind, body in _parts(data):
        facts = facts_of(kind, body)
        problems += [Problem(joined(path, one.path), one.message) for one in facts.problems]
        problems += [
            Problem(joined(path, one.path), dangling(one))
            for one in facts.references
            if one.target not in known[one.kind]
        ]
        if kind in ("table", "source") and isinstance(body.get("id"), str):
            links[kind, body["id"]] = facts.links(path)
    return problems + list(loops(links))


@dataclass(frozen=True)
class Facts:
    """What one part of a game says of others, and what is wrong within it; paths within the part."""

    references: tuple[Reference, ...]
    problems: tuple[Problem, ...]

    def links(self, path: str) -> list[Link]:
        """The tables and sources that it rolls, each with its place; `path` is the part's own."""
        return [
            (joined(path, one.path), (one.kind, one.target))
            for one in self.references
            if one.kind in ("table", "source") and not one.path.startswith("depth.")
        ]


Link = tuple[str, tuple[str, str]]
Links = dict[tuple[str, str], list[Link]]


def facts_of(kind: str, body: dict[str, Any]) -> Facts:
    """The facts of an entity's body; kind `settings` is the game without its lists."""
    finder, checker = _FINDERS.get(kind), _CHECKERS.get(kind)
    return Facts(tuple(finder(body)) if finder else (), tuple(checker(body)) if checker else ())


def dangling(reference: Reference) -> str:
    return f"there is no {reference.kind} “{reference.target}”"


def joined(path: str, within: str) -> str:
    return f"{path}.{within}" if path and within else path or within


def references(data: dict[str, Any]) -> Iterator[Reference]:
    """Every reference in the game, in file order."""
    for path, kind, body in _parts(data):
        for one in facts_of(kind, body).references:
            yield Reference(joined(path, one.path), one.kind, one.target)


def _parts(data: dict[str, Any]) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """(path, kind, body) of the settings and of every entity."""
    yield "", "settings", data
    for name in LISTS:
        for at, body in _entries(data, name):
            yield f"{name}[{at}]", name[:-1], body


def _of_settings(settings: dict[str, Any]) -> Iterator[Reference]:
    for at, band in _entries(_dict(settings.get("depth")), "bands"):
        yield from _one(band, "spawns", "table", f"depth.bands[{at}]")
        yield from _of_quantity(band, "encounters", f"depth.bands[{at}]")


def _of_tier(tier: dict[str, Any]) -> Iterator[Reference]:
    yield from _one(tier, "curve", "curve", "")


def _of_item(item: dict[str, Any]) -> Iterator[Reference]:
    yield from _one(item, "tier", "tier", "")
    for name, stat in _dict(item.get("stats")).items():
        yield from _one(_dict(stat), "curve", "curve", f"stats.{name}")


def _of_table(table: dict[str, Any]) -> Iterator[Reference]:
    yield from _one(table, "nothing_curve", "curve", "")
    yield from _of_quantity(table, "rolls", "")
    for at, line in _entries(table, "lines"):
        here = f"lines[{at}]"
        yield from _of_gated(line, here)
        for place, given in _entries(line, "yields"):
            yield from _of_yield(given, f"{here}.yields[{place}]")


def _of_source(source: dict[str, Any]) -> Iterator[Reference]:
    yield from _one(_dict(source.get("price")), "item", "item", "price")
    for at, drop in _entries(source, "drops"):
        here = f"drops[{at}]"
        yield from _one(drop, "table", "table", here)
        yield from _of_gated(drop, here)
        yield from _of_quantity(drop, "times", here)


def _of_target(target: dict[str, Any]) -> Iterator[Reference]:
    for kind in ("source", "table", "item", "tier"):
        yield from _one(target, kind, kind, "")
    yield from _of_flags(target, "flags", "")


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
        yield from _of_flags(part, key, path)


def _of_flags(part: dict[str, Any], key: str, path: str) -> Iterator[Reference]:
    names = part.get(key)
    for at, name in enumerate(names if isinstance(names, list) else []):
        if isinstance(name, str):
            yield Reference(joined(path, f"{key}[{at}]"), "flag", name)


def _of_quantity(part: dict[str, Any], key: str, path: str) -> Iterator[Reference]:
    yield from _one(_dict(part.get(key)), "curve", "curve", joined(path, key))


def _one(part: dict[str, Any], key: str, kind: str, path: str) -> Iterator[Reference]:
    target = part.get(key)
    if isinstance(target, str):
        yield Reference(joined(path, key), kind, target)


def _repeated_ids(data: dict[str, Any]) -> Iterator[Problem]:
    for name in LISTS:
        yield from _repeats(data, name, name)


def _repeats(holder: dict[str, Any], key: str, path: str) -> Iterator[Problem]:
    first: dict[str, int] = {}
    for at, part in _entries(holder, key):
        name = part.get("id")
        if not isinstance(name, str):
            continue
        if name in first:
            yield Problem(f"{path}[{at}].id", f"“{name}” is the id of {path}[{first[name]}] already")
        first.setdefault(name, at)


def _settings_problems(settings: dict[str, Any]) -> Iterator[Problem]:
    scale = _dict(settings.get("depth"))
    yield from _repeats(scale, "bands", "depth.bands")
    first, last = scale.get("from", 1), scale.get("to", 1)
    if not (isinstance(first, int) and isinstance(last, int)):
        return
    previous: int | None = None
    for at, band in _entries(scale, "bands"):
        low, high = band.get("from"), band.get("to")
        if not (isinstance(low, int) and isinstance(high, int)):
            continue
        if low < first or high > last:
            yield Problem(
                f"depth.bands[{at}]",
                f"lies outside the game's depths {first} to {last}; cut it, or let the game go further",
            )
        if previous is not None and low <= previous:
            message = (
                f"begins at {low}, but the band before it ends at {previous}; "
                f"begin it at {previous + 1}, or end the other at {low - 1}"
            )
            yield Problem(f"depth.bands[{at}].from", message)
        previous = high


def _table_problems(table: dict[str, Any]) -> Iterator[Problem]:
    yield from _repeats(table, "lines", "lines")
    if table.get("rule") != "deck":
        return
    for at, line in _entries(table, "lines"):
        if line.get("guard") is not None:
            yield Problem(f"lines[{at}].guard", "a deck is its own guard; take this one off")


def _source_problems(source: dict[str, Any]) -> Iterator[Problem]:
    yield from _repeats(source, "drops", "drops")


def loops(links: Links) -> Iterator[Problem]:
    """Each link that closes a loop of tables and sources, by depth-first search without recursion."""
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


_FINDERS: dict[str, Callable[[dict[str, Any]], Iterator[Reference]]] = {
    "settings": _of_settings,
    "tier": _of_tier,
    "item": _of_item,
    "table": _of_table,
    "source": _of_source,
    "target": _of_target,
}
_CHECKERS: dict[str, Callable[[dict[str, Any]], Iterator[Problem]]] = {
    "settings": _settings_problems,
    "table": _table_problems,
    "source": _source_problems,
}
