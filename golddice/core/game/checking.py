"""What must hold between the things of a game: unique ids, references that lead somewhere, no loops.

Works on plain JSON data and tolerates any shape, so that it can report beside the type errors of a
broken file. Every problem carries the JSON path of the place that is wrong.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from golddice.core.errors import Problem
from golddice.core.game.families import loop_told
from golddice.core.game.mentions import Mention, joined, mentions, repeated
from golddice.core.game.models import LISTS
from golddice.core.game.views import View

Links = dict[View, list[tuple[str, View]]]
ROLLED = ("table", "source")  # the kinds that lead on to others


@dataclass(frozen=True)
class Facts:
    """What one part of a game says of others, and what is wrong within it; paths within the part."""

    mentions: tuple[Mention, ...]
    problems: tuple[Problem, ...]

    def links(self, path: str) -> list[tuple[str, View]]:
        """The tables and sources that it rolls, each with its place; `path` is the part's own."""
        leading = (one for one in self.mentions if one.leads)
        return [(joined(path, one.path), View(one.kind, one.target)) for one in leading]  # type: ignore[arg-type]

    def with_those_of(self, other: Facts, key: str) -> Facts:
        """Besides what another's says at this key."""
        return Facts(
            (*self.mentions, *(one for one in other.mentions if one.path.startswith(key))),
            (*self.problems, *(one for one in other.problems if one.path.startswith(key))),
        )


def facts_of(kind: str, body: dict[str, Any]) -> Facts:
    """The facts of an entity's body; kind `settings` is the game without its lists."""
    own = _CHECKERS.get(kind)
    return Facts(tuple(mentions(kind, body)), (*_repeats(repeated(kind, body)), *(own(body) if own else ())))


def reference_problems(data: dict[str, Any], whole: dict[str, Any] | None = None) -> list[Problem]:
    """Repeated ids, dangling references and loops of a game given as plain data; `whole` is the same with its
    families resolved, since what rolls what rests on that."""
    known = {kind: _ids(data, key) for kind, key in LISTS.items()}
    money = {item.get("id") for _, item in _entries(data, "items") if item.get("currency") is True}
    problems = [problem for kind, key in LISTS.items() for problem in _repeated_entities(data, key)]
    links: Links = {}
    for path, kind, body in _parts(data):
        facts = facts_of(kind, body)
        problems += [Problem(joined(path, one.path), one.message) for one in facts.problems]
        problems += [
            Problem(joined(path, one.path), dangling(one))
            for one in facts.mentions
            if one.target not in known[one.kind]
        ]
        problems += [
            Problem(joined(path, one.path), no_money(one))
            for one in facts.mentions
            if one.money and one.target in known[one.kind] and one.target not in money
        ]
        if kind in ROLLED and isinstance(body.get("id"), str):
            links[View(kind, body["id"])] = facts.links(path)  # type: ignore[arg-type]
    for at, body in _entries(whole or {}, "sources"):
        if isinstance(body.get("like"), str) and isinstance(body.get("id"), str):
            links[View("source", body["id"])] = facts_of("source", body).links(f"sources[{at}]")
    return problems + list(loops(links))


def dangling(mention: Mention) -> str:
    return f"there is no {mention.kind} “{mention.target[:80]}”"


def no_money(mention: Mention) -> str:
    return f"“{mention.target[:80]}” is no money; say that it is (`currency`), or name an item that is"


def all_mentions(data: dict[str, Any]) -> Iterator[Mention]:
    """Every mention in the game, in file order; paths within the game."""
    for path, kind, body in _parts(data):
        for one in mentions(kind, body):
            yield Mention(joined(path, one.path), one.kind, one.target, one.leads)


def loops(links: Links) -> Iterator[Problem]:
    """Each link that closes a loop of tables and sources, by depth-first search without recursion."""
    done: set[View] = set()
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
                names = [name for _, name in trail[trail.index(target) :]]
                yield Problem(path, loop_told("closes a loop", names, names[0]))
            elif target not in done and target in links:
                trail.append(target)
                on_trail.add(target)
                pending.append(iter(links[target]))


def _parts(data: dict[str, Any]) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """(path, kind, body) of the settings and of every entity."""
    yield "", "settings", data
    for kind, key in LISTS.items():
        for at, body in _entries(data, key):
            yield f"{key}[{at}]", kind, body


def _repeated_entities(data: dict[str, Any], key: str) -> Iterator[Problem]:
    first: dict[str, int] = {}
    for at, body in _entries(data, key):
        name = body.get("id")
        if not isinstance(name, str):
            continue
        if name in first:
            yield _repeat(f"{key}[{at}].id", name, f"{key}[{first[name]}]")
        first.setdefault(name, at)


def _repeats(found: Iterator[tuple[str, str, str]]) -> Iterator[Problem]:
    for path, name, first in found:
        yield _repeat(path, name, first)


def _repeat(path: str, name: str, first: str) -> Problem:
    return Problem(path, f"“{name[:80]}” is the id of {first} already")


# --- what holds within one part ----------------------------------------------------------------------------


def _settings_problems(settings: dict[str, Any]) -> Iterator[Problem]:
    scale = _dict(settings.get("depth"))
    first, last = scale.get("from", 1), scale.get("to", 1)
    if not (isinstance(first, int) and isinstance(last, int)):
        return
    for at, band in _entries(scale, "bands"):
        low, high = band.get("from"), band.get("to")
        if not (isinstance(low, int) and isinstance(high, int)):
            continue
        if low < first or high > last:
            yield Problem(
                f"depth.bands[{at}]",
                f"lies outside the game's depths {first} to {last}; cut it, or let the game go further",
            )


def _table_problems(table: dict[str, Any]) -> Iterator[Problem]:
    if table.get("rule") != "deck":
        return
    for at, line in _entries(table, "lines"):
        if line.get("guard") is not None:
            yield Problem(f"lines[{at}].guard", "a deck is its own guard; take this one off")


_CHECKERS: dict[str, Callable[[dict[str, Any]], Iterator[Problem]]] = {
    "settings": _settings_problems,
    "table": _table_problems,
}


def _ids(data: dict[str, Any], key: str) -> set[str]:
    return {part["id"] for _, part in _entries(data, key) if isinstance(part.get("id"), str)}


def _entries(holder: dict[str, Any], key: str) -> Iterator[tuple[int, dict[str, Any]]]:
    """(index, body) of every object in a list; anything else is the type check's business."""
    parts = holder.get(key)
    for at, part in enumerate(parts if isinstance(parts, list) else []):
        if isinstance(part, dict):
            yield at, part


def _dict(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}
