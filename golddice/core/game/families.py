"""Families: a source that is `like` another takes from it every key that it does not state.

In a file, and wherever bodies are kept, such a source holds its own keys alone. Resolved it is an ordinary
source, which besides says whom it is like, what it leaves out and which keys it states (`stated`: `seconds`,
of a drop of the family `drops/ID/chance`, a new drop `drops/ID`). All is worked out from resolved ones.

Works on plain data of any shape, like `checking`.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from golddice.core.errors import Problem

Body = dict[str, Any]
OWN = frozenset({"id", "like", "without", "stated"})  # never taken from the family
_APART = OWN | {"drops"}


def resolved(data: Body) -> tuple[Body, list[Problem]]:
    """A game's data with all families resolved, and what is wrong with them."""
    sources = data.get("sources")
    if not isinstance(sources, list) or not any(is_kin(one) for one in sources):
        return data, _not_of_files(data)
    by_id = {one["id"]: one for one in sources if isinstance(one, dict) and isinstance(one.get("id"), str)}
    places = {one["id"]: at for at, one in enumerate(sources) if isinstance(one, dict) and "id" in one}
    whole, problems = all_resolved(by_id)
    told = [Problem(f"sources[{places[name]}].{one.path}".rstrip("."), one.message) for name, one in problems]
    found = [
        whole.get(one["id"], one) if isinstance(one, dict) and isinstance(one.get("id"), str) else one
        for one in sources
    ]
    return {**data, "sources": found}, [*told, *_not_of_files(data)]


def all_resolved(bodies: Mapping[str, Body]) -> tuple[dict[str, Body], list[tuple[str, Problem]]]:
    """Every sound source by id, resolved; and problems with the id of their source, paths within it."""
    whole: dict[str, Body] = {}
    problems: list[tuple[str, Problem]] = []
    for name in bodies:
        _resolve(name, bodies, whole, problems)
    return whole, problems


def _resolve(
    name: str, bodies: Mapping[str, Body], whole: dict[str, Body], problems: list[tuple[str, Problem]]
) -> None:
    """The elders first, without recursion: families may be chained far."""
    line: list[str] = []
    at: Any = name
    while isinstance(at, str) and at not in whole and at not in line:
        body = bodies.get(at)
        if body is None:
            break
        line.append(at)
        at = body.get("like") if is_kin(body) else None
    if at in line:
        if not any(one == at and problem.path == "like" for one, problem in problems):
            loop = " > ".join([*line[line.index(at) :], at])
            problems.append((at, Problem("like", f"a family that closes a loop: {loop}")))
        return
    for one in reversed(line):
        body = bodies[one]
        if not is_kin(body):
            whole[one] = body
            continue
        elder = whole.get(body["like"])
        if elder is None:
            if body["like"] not in bodies:
                problems.append((one, Problem("like", f"there is no source “{body['like']}”")))
            return
        made, wrong = _put_over(elder, body)
        problems += [(one, problem) for problem in wrong]
        whole[one] = made


def _put_over(elder: Body, own: Body) -> tuple[Body, list[Problem]]:
    """What a source states, over what its elder is."""
    taken = {key: value for key, value in elder.items() if key not in OWN}
    said = {key: value for key, value in own.items() if key not in _APART}
    drops, stated, problems = _drops(elder, own)
    found = {**taken, **said, "id": own.get("id"), "like": own["like"], "drops": drops}
    if own.get("without"):
        found["without"] = own["without"]
    found["stated"] = sorted([*said, *stated])
    return found, problems


def _drops(elder: Body, own: Body) -> tuple[list[Any], list[str], list[Problem]]:
    family = [one for one in _list(elder.get("drops")) if isinstance(one, dict)]
    if not own.get("drops") and not own.get("without"):  # as most
        return family, [], []
    names = {one.get("id") for one in family}
    problems = [
        Problem(f"without[{at}]", f"none of the family's drops is “{name}”")
        for at, name in enumerate(_list(own.get("without")))
        if name not in names
    ]
    left_out = {name for name in _list(own.get("without")) if isinstance(name, str)}
    over: dict[Any, Body] = {}
    new, stated = [], []
    for at, drop in enumerate(_list(own.get("drops"))):
        if not isinstance(drop, dict):
            new.append(drop)
        elif drop.get("id") in names:
            over[drop.get("id")] = drop
            if drop.get("id") not in left_out:
                stated += [f"drops/{drop.get('id')}/{key}" for key in drop if key != "id"]
        else:
            if "table" not in drop:
                message = f"none of the family's drops is “{drop.get('id')}”, and a new one names its table"
                problems.append(Problem(f"drops[{at}]", message))
                continue
            new.append(drop)
            stated.append(f"drops/{drop.get('id')}")
    kept = [{**one, **over.get(one.get("id"), {})} for one in family if one.get("id") not in left_out]
    return [*kept, *new], stated, problems


def own_form(whole: Body) -> Body:
    """What a resolved source states itself, as files and the store hold it."""
    if not is_kin(whole):
        return {key: value for key, value in whole.items() if key not in ("stated", "without", "like")}
    stated = set(whole.get("stated") or ())
    found: Body = {"id": whole["id"], "like": whole["like"]}
    found |= {key: value for key, value in whole.items() if key in stated and key not in OWN}
    if whole.get("without"):
        found["without"] = whole["without"]
    drops = []
    for drop in _list(whole.get("drops")):
        name = drop.get("id")
        if f"drops/{name}" in stated:
            drops.append(drop)
            continue
        own = {key: value for key, value in drop.items() if f"drops/{name}/{key}" in stated}
        if own:
            drops.append({"id": name, **own})
    if drops:
        found["drops"] = drops
    return found


def narrowed(whole: Body, elder: Body) -> Body:
    """The own form of a source that was edited as a whole: what it stated, and what is now other than its
    elder's, which is resolved; defaults written out in both."""
    stated = [key for key in whole.get("stated") or () if not key.startswith("drops/")]
    stated += [
        key
        for key, value in whole.items()
        if key not in (*OWN, "drops") and key not in stated and value != elder.get(key)
    ]
    family = {one["id"]: one for one in _list(elder.get("drops"))}
    left_out = [name for name in whole.get("without") or () if name in family]
    here = {one.get("id") for one in _list(whole.get("drops"))}
    left_out += [name for name in family if name not in here and name not in left_out]
    before = set(whole.get("stated") or ())
    for drop in _list(whole.get("drops")):
        name = drop.get("id")
        if name not in family:
            stated.append(f"drops/{name}")
            continue
        stated += [
            f"drops/{name}/{key}"
            for key, value in drop.items()
            if key != "id" and (f"drops/{name}/{key}" in before or value != family[name].get(key))
        ]
    return own_form({**whole, "without": [one for one in left_out if one not in here], "stated": stated})


def alone(whole: Body) -> Body:
    """A resolved source that is like nobody any more: it has what it took."""
    return {key: value for key, value in whole.items() if key not in ("like", "without", "stated")}


def _not_of_files(data: Body) -> list[Problem]:
    return [
        Problem(f"sources[{at}].stated", "unknown key; take it out or mend its spelling")
        for at, one in enumerate(_list(data.get("sources")))
        if isinstance(one, dict) and "stated" in one
    ]


def is_kin(body: Any) -> bool:
    return isinstance(body, dict) and isinstance(body.get("like"), str)


def _list(value: Any) -> list[Any]:
    return value if isinstance(value, list) else []


def kin_of(bodies: Mapping[str, Body], name: str) -> Iterator[str]:
    """The sources that are like one, and those that are like them."""
    found, pending = {name}, [name]
    while pending:
        elder = pending.pop()
        for other, body in bodies.items():
            if body.get("like") == elder and other not in found:
                found.add(other)
                pending.append(other)
                yield other
