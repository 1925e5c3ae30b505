"""Walks plain data by what the models declare: who names whom, and what is left when one of them goes.

One walker serves checking, editing, removal and links. It tolerates any shape, so that it can report
beside the type errors of a broken file; every place is told as a JSON path.
"""

from __future__ import annotations

import types
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from golddice.core.game.models import KINDS, Settings
from golddice.core.game.naming import Gone, Names, WhenGone


@dataclass(frozen=True)
class Mention:
    """One place that names another thing: where it stands, what kind it wants, which id."""

    path: str
    kind: str
    target: str
    leads: bool = False
    money: bool = False


@dataclass(frozen=True)
class _Plan:
    """What is to be looked at in a value: of an object its fields, of a list its elements.

    `names` : the value itself is an id. `gone` : what goes with the value.
    """

    names: Names | None = None
    gone: Gone = "mention"
    fields: dict[str, _Plan] = field(default_factory=dict)
    each: _Plan | None = None  # the elements of a list, the values of a mapping
    keys: Names | None = None  # the keys of a mapping are ids
    numbered: bool = False  # a list of parts with ids, which may not repeat

    @property
    def is_idle(self) -> bool:
        return not (self.names or self.fields or self.each or self.keys or self.numbered)


def mentions(of: str, body: Any) -> Iterator[Mention]:
    """Every place that names another entity in a body of the kind `of`, in order."""
    yield from _mentions(_plan_of(of), body, "")


def repeated(of: str, body: Any) -> Iterator[tuple[str, str, str]]:
    """(path, id, path of the first) of every id that stands twice in one list."""
    yield from _repeated(_plan_of(of), body, "")


def without(of: str, body: Any, kind: str, name: str) -> Any:
    """A body with every mention of an entity cut out, and whatever goes with it; None where all goes.

    What may not go so (`refused`) stays.
    """
    kept = _without(_plan_of(of), body, kind, name)
    return None if isinstance(kept, _Going) else kept


def joined(path: str, within: str) -> str:
    separator = "" if not path or not within or within.startswith("[") else "."
    return f"{path}{separator}{within}"


# --- walking -------------------------------------------------------------------------------------------


def _mentions(plan: _Plan, value: Any, path: str) -> Iterator[Mention]:
    if plan.names is not None:
        if isinstance(value, str):
            yield Mention(path, plan.names.kind, value, plan.names.leads, plan.names.money)
        return
    for inner, part, place in _within(plan, value, path):
        yield from _mentions(inner, part, place)


def _repeated(plan: _Plan, value: Any, path: str) -> Iterator[tuple[str, str, str]]:
    if plan.numbered and isinstance(value, list):
        first: dict[str, str] = {}
        for at, part in enumerate(value):
            name = part.get("id") if isinstance(part, dict) else None
            if not isinstance(name, str):
                continue
            place = f"{path}[{at}]"
            if name in first:
                yield f"{place}.id", name, first[name]
            first.setdefault(name, place)
    for inner, part, place in _within(plan, value, path):
        yield from _repeated(inner, part, place)


def _within(plan: _Plan, value: Any, path: str) -> Iterator[tuple[_Plan, Any, str]]:
    """The parts of a value that have something to tell, each with its plan and its place."""
    if isinstance(value, dict):
        for key, inner in plan.fields.items():
            if key in value:
                yield inner, value[key], f"{path}.{key}" if path else key
        if plan.keys is not None:
            for key in value:
                yield _Plan(plan.keys), key, f"{path}.{key}" if path else str(key)
        if plan.each is not None:
            for key, part in value.items():
                yield plan.each, part, f"{path}.{key}" if path else str(key)
    elif isinstance(value, list) and plan.each is not None:
        for at, part in enumerate(value):
            yield plan.each, part, f"{path}[{at}]"


@dataclass(frozen=True)
class _Going:
    """A value that goes, and how far up it takes others with it."""

    gone: Gone


def _without(plan: _Plan, value: Any, kind: str, name: str) -> Any:
    """What is left of a value."""
    if plan.names is not None:
        named = plan.names.kind == kind and value == name and plan.names.gone != "refused"
        return _Going(plan.names.gone) if named else value
    if isinstance(value, list) and plan.each is not None:
        return _list_without(plan, value, kind, name)
    if not isinstance(value, dict):
        return value
    result: dict[str, Any] = {}
    marks: dict[str, Any] = {}
    for key, part in value.items():
        if plan.keys is not None and plan.keys.kind == kind and key == name:
            continue
        inner = plan.fields.get(key, plan.each)
        kept = part if inner is None else _without(inner, part, kind, name)
        if not isinstance(kept, _Going):
            result[key] = kept
        elif kept.gone == "marked":
            marks = {"gone": f"{kind}/{name}"}
        elif kept.gone != "mention":
            return _Going("entity" if kept.gone == "entity" else plan.gone)
    return result | marks


def _list_without(plan: _Plan, value: list[Any], kind: str, name: str) -> Any:
    assert plan.each is not None
    kept = [_without(plan.each, part, kind, name) for part in value]
    if any(isinstance(part, _Going) and part.gone == "entity" for part in kept):
        return _Going("entity")
    left = [part for part in kept if not isinstance(part, _Going)]
    return _Going(plan.gone) if value and not left and plan.gone != "mention" else left


# --- plans, from the models ------------------------------------------------------------------------------


@cache
def _plan_of(kind: str) -> _Plan:
    return _plan(Settings if kind == "settings" else KINDS[kind], ())


def _plan(annotation: Any, marks: tuple[Any, ...]) -> _Plan:
    """The plan of a value of a type, with the marks of the field that holds it."""
    while get_origin(annotation) is Annotated:
        annotation, *more = get_args(annotation)
        marks = (*marks, *more)
    names = next((mark for mark in marks if isinstance(mark, Names)), None)
    if names is not None:
        return _Plan(names)
    gone: Gone = next((mark.gone for mark in marks if isinstance(mark, WhenGone)), "mention")
    origin, inner = get_origin(annotation), get_args(annotation)
    if origin in (Union, types.UnionType):
        return _merged([_plan(one, marks) for one in inner if one is not type(None)], gone)
    if origin is list:
        each = _plan(inner[0], ())
        return _Plan(gone=gone, each=None if each.is_idle else each, numbered=_has_id(inner[0]))
    if origin is dict:
        keys, each = _plan(inner[0], ()).names, _plan(inner[1], ())
        return _Plan(gone=gone, each=None if each.is_idle else each, keys=keys)
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return _Plan(gone=gone, fields=_fields(annotation))
    return _Plan(gone=gone)


def _fields(model: type[BaseModel]) -> dict[str, _Plan]:
    plans = {info.alias or name: _of_field(info) for name, info in model.model_fields.items()}
    return {key: plan for key, plan in plans.items() if not plan.is_idle}


def _of_field(info: FieldInfo) -> _Plan:
    return _plan(info.annotation, tuple(info.metadata))


def _merged(plans: list[_Plan], gone: Gone) -> _Plan:
    """Of a union: whatever any of its branches looks at."""
    if len(plans) == 1:
        return plans[0]
    fields: dict[str, _Plan] = {}
    for plan in plans:
        for key, inner in plan.fields.items():
            fields[key] = _merged([fields[key], inner], inner.gone) if key in fields else inner
    names = next((plan.names for plan in plans if plan.names), None)
    eaches = [plan.each for plan in plans if plan.each is not None]
    each = _merged(eaches, eaches[0].gone) if eaches else None
    keys = next((plan.keys for plan in plans if plan.keys), None)
    return _Plan(names, gone, fields, each, keys, any(plan.numbered for plan in plans))


def _has_id(annotation: Any) -> bool:
    while get_origin(annotation) is Annotated:
        annotation = get_args(annotation)[0]
    if get_origin(annotation) in (Union, types.UnionType):
        return any(map(_has_id, get_args(annotation)))
    is_model = isinstance(annotation, type) and issubclass(annotation, BaseModel)
    return is_model and "id" in annotation.model_fields
