"""Edits: a game with some of its entities replaced, added, removed or moved.

A game's entities are its settings and all that its lists hold (`models.KINDS`). An edit is a list of
entries; it is applied whole or not at all, and only if a sound game comes of it.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any

from propcache.api import cached_property

from golddice.core.errors import GameError, Problem, UnknownThing
from golddice.core.game.checking import ROLLED, Facts, dangling, facts_of, loops, no_money
from golddice.core.game.families import OWN, all_resolved, alone, kin_of, kin_shape, narrowed, own_form
from golddice.core.game.held import Held, Side, Waiting, held
from golddice.core.game.mentions import without
from golddice.core.game.models import FORMAT, KINDS, SETTINGS_KEYS, VERSION, Game, Settings, Source, list_name
from golddice.core.game.reading import full, read_part, whole
from golddice.core.game.stocks import Stocked, place_problems, stall_problems
from golddice.core.game.views import View

SETTINGS = "settings"
SETTINGS_ID = "game"
ENTITY_KINDS = (SETTINGS, *KINDS)


@dataclass(frozen=True)
class Entry:
    """One entity's new body (None removes it) and, where it moves, its new place in the list."""

    kind: str
    id: str
    body: dict[str, Any] | None
    before: str | None = None  # the id that it is put in front of; None leaves it or appends it


@dataclass
class Place:
    """A problem, told by entity rather than by index."""

    kind: str
    id: str
    path: str
    message: str


class Entities:
    """A game taken apart: what is `held` of its entities by kind and id, in order."""

    def __init__(self, every: dict[str, dict[str, Held]], lists: dict[str, list[Any]] | None = None) -> None:
        self._held = every
        self._lists = lists or {}  # the parts alone, by kind, once they were asked for
        self.parsed: Mapping[str, Mapping[str, Any]] = Side(every, "part")
        self.bodies: Mapping[str, Mapping[str, dict[str, Any]]] = Side(every, "body")
        self.facts: Mapping[str, Mapping[str, Facts]] = Side(every, "facts")

    @classmethod
    def of(cls, game: Game) -> Entities:
        own = game.model_dump_json(include=set(Settings.model_fields), by_alias=True, exclude_defaults=True)
        settings = read_part(SETTINGS, json.loads(own))
        every = {SETTINGS: {SETTINGS_ID: held(SETTINGS, settings)}}
        for kind in KINDS:
            every[kind] = {part.id: held(kind, part) for part in getattr(game, list_name(kind))}
        return cls(every)

    def game(self) -> Game:
        """Put together again, without checking: for entities that are known to be sound."""
        settings = self.parsed[SETTINGS][SETTINGS_ID]
        fields: dict[str, Any] = {key: getattr(settings, key) for key in SETTINGS_KEYS}
        fields |= {"format": FORMAT, "version": VERSION}
        for kind in KINDS:
            if kind not in self._lists:
                self._lists[kind] = [one.part for one in self._held[kind].values()]
            fields[list_name(kind)] = self._lists[kind]
        return Game.model_construct(None, **fields)

    def every(self) -> Iterator[tuple[str, str]]:
        """(kind, id) of every entity, in file order."""
        for kind, parts in self._held.items():
            yield from ((kind, name) for name in parts)

    def data(self) -> dict[str, Any]:
        """The whole game as plain data."""
        lists = {list_name(kind): list(self.bodies[kind].values()) for kind in KINDS}
        return {"format": FORMAT, "version": VERSION, **self.bodies[SETTINGS][SETTINGS_ID], **lists}

    def edited(self, entries: Iterable[Entry]) -> Entities:
        """A copy with the entries applied and checked.

        Raises EditError, which tells every problem by entity. Only entries are parsed anew; what
        holds between entities is checked for all.
        """
        entries = list(entries)
        result = self._copy({entry.kind for entry in entries})
        places: list[Place] = []
        touched: set[tuple[str, str]] = set()
        for entry in entries:
            if (entry.kind, entry.id) in touched:
                places.append(Place(entry.kind, entry.id, "", "stands twice in one change; put both in one"))
                continue
            places += result._apply(entry)
            touched.add((entry.kind, entry.id))
        if not places:
            places = result._follow_families(touched, self._kin_after(result, touched))
        if not places:
            places = list(_between(self, result, touched))
        if not places and (result.parsed["place"] or result.parsed["stall"]):
            places = list(_stocks(result, touched))
        if places:
            raise EditError(places)
        return result

    def in_order(self, order: Iterable[tuple[str, str]]) -> Entities:
        """The same entities, those of each kind in the order of (kind, id)."""
        every: dict[str, dict[str, Held]] = {kind: {} for kind in self._held}
        for kind, name in order:
            every[kind][name] = self._held[kind][name]
        return Entities(every)

    def _copy(self, kinds: Set[str]) -> Entities:
        """One of which these kinds can be changed; the others are shared."""
        return Entities(
            {kind: dict(parts) if kind in kinds else parts for kind, parts in self._held.items()},
            {kind: self._lists[kind] for kind in KINDS if kind not in kinds and kind in self._lists},
        )

    def _apply(self, entry: Entry) -> list[Place]:
        if entry.kind not in ENTITY_KINDS:
            return [Place(entry.kind, entry.id, "", f"there is no kind “{entry.kind}”")]
        if entry.kind == SETTINGS and entry.id != SETTINGS_ID:
            return [Place(entry.kind, entry.id, "id", f"a game's settings have the id “{SETTINGS_ID}”")]
        if entry.body is None:
            return self._remove(entry)
        body = entry.body if entry.kind == SETTINGS else {"id": entry.id, **entry.body}
        if entry.kind != SETTINGS and body["id"] != entry.id:
            return [Place(entry.kind, entry.id, "id", "an id stays as it is; change the name")]
        if entry.kind == "source" and isinstance(body.get("like"), str):
            # It is read once all entries are there: its elder may be among them.
            problems = kin_shape(body)
            if problems:
                return [Place(entry.kind, entry.id, one.path, one.message) for one in problems]
            self._held["source"][entry.id] = Waiting(body)
        else:
            try:
                part = read_part(entry.kind, body, typed=True)
            except GameError as error:
                return [Place(entry.kind, entry.id, p.path, p.message) for p in error.problems]
            self._held[entry.kind][entry.id] = held(entry.kind, part)
        if entry.before is not None:
            self._move(entry.kind, entry.id, entry.before)
        return []

    @cached_property
    def _kin(self) -> dict[str, list[str]]:
        """Those that are like each."""
        kin: dict[str, list[str]] = {}
        for name, one in self._held["source"].items():
            if one.like is not None:
                kin.setdefault(one.like, []).append(name)
        return kin

    def _kin_after(self, result: Entities, touched: set[tuple[str, str]]) -> dict[str, list[str]]:
        """The same after an edit: hardly any says whom something is like."""
        was, now = self._held["source"], result._held["source"]
        for kind, name in touched:
            before, after = was.get(name), now.get(name)
            if kind == "source" and (before and before.like) != (after and after.like):
                return result._kin
        result._kin = self._kin
        return self._kin

    def _follow_families(self, touched: set[tuple[str, str]], kin: dict[str, list[str]]) -> list[Place]:
        """Resolve anew the sources that are like another and rest on one that was touched, elders first;
        what they rest on besides is resolved already."""
        sources = self._held["source"]
        pending = [name for kind, name in touched if kind == "source"]
        if not pending:
            return []
        rest = dict.fromkeys(name for name in pending if name in sources and sources[name].like is not None)
        while pending:
            found = [name for name in kin.get(pending.pop(), ()) if name not in rest]
            rest |= dict.fromkeys(found)
            pending += found
        places = self._resolve(list(rest))
        touched |= {("source", name) for name in rest}
        return places

    def _resolve(self, kin: list[str]) -> list[Place]:
        sources = self._held["source"]
        own, places = {}, list[Place]()
        for name in kin:
            try:
                own[name] = self._own_form(sources[name])
            except GameError as error:  # it was edited as a whole, and is not sound
                places += [Place("source", name, one.path, one.message) for one in error.problems]
        if places:
            return places
        likes = {name: sources[name].like for name in kin}
        elders = {
            name: alone(sources[name].whole) for name in likes.values() if name in sources and name not in own
        }
        found, problems = all_resolved(own | elders)
        places = [Place("source", name, one.path, one.message) for name, one in problems]
        if places:
            return places
        for name in (one for one in found if one in own):  # elders first
            try:
                sources[name] = self._kin_read(sources[name], found[name], "drops" in own[name])
            except GameError as error:
                places += [Place("source", name, one.path, one.message) for one in error.problems]
        return places

    def _kin_read(self, was: Held, found: dict[str, Any], with_drops: bool) -> Held:
        """One that is like another, resolved. Raises GameError."""
        elder = self._held["source"][found["like"]]
        # One that was not edited itself states what it stated; of drops that hangs on its elder's.
        is_as_stated = not isinstance(was, Waiting) and not with_drops
        if elder.part is None or with_drops:  # the first where the elder is not sound
            return held("source", read_part("source", found, typed=True), was.body if is_as_stated else None)
        if is_as_stated:
            return held("source", _like(elder.part, was.part, found["stated"]), was.body, elder)
        own = read_part("source", {**found, "drops": []}, typed=True)
        return held("source", _with_drops(elder.part, own), None, elder)

    def _own_form(self, one: Held) -> dict[str, Any]:
        """The keys that a source states; one that was edited as a whole says so by `stated`."""
        body = one.body
        if "stated" not in body:
            return body
        elder = self._held["source"].get(body["like"])
        if elder is None or elder.part is None:
            return own_form(body)
        return narrowed(full("source", alone(body), typed=True) | _kinship(body), elder.full)

    def _remove(self, entry: Entry) -> list[Place]:
        if entry.kind == SETTINGS or entry.id not in self._held[entry.kind]:
            return [Place(entry.kind, entry.id, "", f"there is no {entry.kind} “{entry.id}”")]
        del self._held[entry.kind][entry.id]
        return []

    def _move(self, kind: str, name: str, before: str) -> None:
        parts = self._held[kind]
        moved = parts.pop(name)
        rest = list(parts.items())
        at = next((at for at, (other, _) in enumerate(rest) if other == before), len(rest))
        self._held[kind] = dict([*rest[:at], (name, moved), *rest[at:]])


def _like(elder: Source, was: Source, stated: list[str]) -> Source:
    """One that states no drop in part, after an edit of its elder's: both were read and are sound."""
    own = {key: getattr(was, key) for key in (*OWN, *stated) if "/" not in key}
    return _with_drops(elder, Source.model_construct(None, **{**dict(elder), **own, "stated": stated}))


def _with_drops(elder: Source, own: Source) -> Source:
    """One that states no drop, with those that it takes from its elder."""
    left_out = set(own.without)
    drops = [drop for drop in elder.drops if drop.id not in left_out] if left_out else elder.drops
    return own.model_copy(update={"drops": drops})


class EditError(GameError):
    """An edit that would not leave a sound game; nothing was changed."""

    def __init__(self, places: Sequence[Place]) -> None:
        super().__init__([Problem(f"{p.kind} {p.id} {p.path}".strip(), p.message) for p in places])
        self.places = list(places)


def _between(before: Entities, after: Entities, touched: set[tuple[str, str]]) -> Iterator[Place]:
    """What does not hold between entities after an edit of the touched ones to a sound game."""
    gone = {(kind, name) for kind, name in touched if name not in after.facts[kind]}
    spent = any(_is_money(before, *one) and not _is_money(after, *one) for one in touched)
    looked_at = after.every() if gone or spent else ((kind, name) for kind, name in touched)
    for kind, name in looked_at:
        facts = after.facts[kind][name]
        yield from (Place(kind, name, one.path, one.message) for one in facts.problems)
        for one in facts.mentions:
            if one.target not in after.facts[one.kind]:
                yield Place(kind, name, one.path, dangling(one))
            elif one.money and not _is_money(after, "item", one.target):
                yield Place(kind, name, one.path, no_money(one))
    if any(_links(before, *one) != _links(after, *one) for one in touched):
        links = {View(*one): _links(after, *one) for one in after.every() if one[0] in ROLLED}  # type: ignore[arg-type]
        for problem in loops(links):
            kind, name, path = problem.path.split(" ", 2)
            yield Place(kind, name, path, problem.message)


_GOODS = {"settings", "curve", "tier", "item"}  # what the goods of a stall rest on, besides their table


def _stocks(entities: Entities, touched: set[tuple[str, str]]) -> Iterator[Place]:
    """What does not hold any more of places and stalls, which rest on tables, curves, tiers and depths."""
    tables, stocked = entities.parsed["table"], Stocked(entities.game())
    for place in stocked.game.places:
        if touched & {("place", place.id), ("table", place.stock)}:
            for one in place_problems(place, tables.get(place.stock)):
                yield Place("place", place.id, one.path, one.message)
    all_stalls = any(kind in _GOODS for kind, _ in touched)
    for stall in stocked.game.stalls:
        if all_stalls or touched & {("stall", stall.id), ("table", stall.stock)}:
            for one in stall_problems(stocked, stall, tables.get(stall.stock)):
                yield Place("stall", stall.id, one.path, one.message)


def _is_money(entities: Entities, kind: str, name: str) -> bool:
    return kind == "item" and bool(entities.bodies["item"].get(name, {}).get("currency"))


def _links(entities: Entities, kind: str, name: str) -> list[tuple[str, View]]:
    """What an entity rolls; a place is told as `kind id path`, since loops go through several."""
    facts = entities.facts[kind].get(name)
    if facts is None or kind not in ROLLED:
        return []
    return [(f"{kind} {name} {path}", target) for path, target in facts.links("")]


def uses(entities: Entities, kind: str, name: str) -> list[Place]:
    """Every place that names an entity."""
    return [
        Place(*user, one.path, "")
        for user in entities.every()
        for one in entities.facts[user[0]][user[1]].mentions
        if one.kind == kind and one.target == name
    ]


def removal(entities: Entities, kind: str, name: str) -> list[Entry]:
    """The edit that removes an entity together with whatever only makes sense with it, as the models
    say (`naming`), and with private curves that nothing names any more. What is `refused` stays, so that
    the edit as a whole is refused at its place.
    """
    if name not in entities.bodies.get(kind, {}):
        raise UnknownThing(kind, name)
    entries = [Entry(kind, name, None)]
    touched = {(use.kind, use.id) for use in uses(entities, kind, name)} - {(kind, name)}
    for user in sorted(touched):
        body = entities.bodies[user[0]][user[1]]
        if not any((one.kind, one.target) == (kind, name) for one in facts_of(user[0], body).mentions):
            continue  # a source that only takes it from its elder, and follows
        if kind == user[0] == "source" and body.get("like") == name:
            body = alone(whole(entities.parsed["source"][user[1]]))  # it has what it took
        entries.append(Entry(*user, without(user[0], body, kind, name)))
    entries += _overrides_without(entities, entries)
    return [*entries, *_left_alone(entities, entries)]


def removals(entities: Entities, kind: str, names: Sequence[str]) -> list[Entry]:
    """The edit that removes several, one after the other. Raises UnknownThing; EditError where one of them
    cannot go."""
    made: dict[tuple[str, str], Entry] = {}
    for name in names:
        if (kind, name) in made and made[kind, name].body is None:
            continue  # it went with one before it
        entries = removal(entities, kind, name)
        made |= {(entry.kind, entry.id): entry for entry in entries}
        entities = entities.edited(entries)
    return list(made.values())


def _overrides_without(entities: Entities, entries: list[Entry]) -> Iterator[Entry]:
    """What kin say of drops that their elders lose goes with them."""
    changed = {entry.id: entry for entry in entries if entry.kind == "source" and entry.body is not None}
    for elder in list(changed):
        was = entities.parsed["source"][elder]
        own = {drop.id for drop in was.drops if was.like is None or f"drops/{drop.id}" in was.stated}
        gone = own - {drop["id"] for drop in (changed[elder].body or {}).get("drops", [])}
        for name in kin_of(entities.bodies["source"], elder):
            body = changed[name].body if name in changed else entities.bodies["source"][name]
            if body is None or not gone or "like" not in body:
                continue
            kept = [one for one in body.get("drops", []) if one["id"] not in gone or "table" in one]
            rest = {**body, "drops": kept}
            rest["without"] = [one for one in body.get("without", []) if one not in gone]
            if name in changed:
                entries.remove(changed[name])
            changed[name] = Entry("source", name, rest)
            yield changed[name]


def _kinship(body: dict[str, Any]) -> dict[str, Any]:
    return {key: body[key] for key in ("like", "without", "stated") if key in body}


def _left_alone(entities: Entities, entries: list[Entry]) -> Iterator[Entry]:
    """The removal of private curves that only those places name which an edit takes away."""
    after = {(entry.kind, entry.id): entry.body for entry in entries}
    users: dict[str, set[tuple[str, str]]] = {}
    for user in entities.every():
        for one in entities.facts[user[0]][user[1]].mentions:
            if one.kind == "curve":
                users.setdefault(one.target, set()).add(user)
    for curve, places in users.items():
        is_own = entities.bodies["curve"][curve].get("private") and ("curve", curve) not in after
        if is_own and places <= set(after) and not any(_names(*at, after[at], curve) for at in places):
            yield Entry("curve", curve, None)


def _names(kind: str, _: str, body: Any, curve: str) -> bool:
    return body is not None and any(
        one.kind == "curve" and one.target == curve for one in facts_of(kind, body).mentions
    )


def new_id(name: str, taken: Iterable[str]) -> str:
    """An id made of a name, that no one has yet.

    >>> new_id("Purser's locker", {"pursers-locker"})
    'pursers-locker-2'
    """
    letters = "".join(c if c.isascii() and c.isalnum() else " " for c in _plain_letters(name))
    base = "-".join(letters.lower().split())[:60].rstrip("-") or "thing"
    held, found, count = taken if isinstance(taken, Set) else set(taken), base, 1
    while found in held:
        count += 1
        found = f"{base}-{count}"
    return found


def _plain_letters(name: str) -> str:
    import unicodedata

    apart = unicodedata.normalize("NFKD", name.replace("’", "").replace("'", ""))
    return "".join(c for c in apart if not unicodedata.combining(c))
