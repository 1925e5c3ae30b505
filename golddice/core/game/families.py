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
_FEW = 100  # things that are wrong in one source


def resolved(data: Body) -> tuple[Body, list[Problem]]:
    """A game's data with all families resolved, and what is wrong with them."""
    sources = data.get("sources")
    if not isinstance(sources, list) or not any(is_kin(one) for one in sources):
        return data, _not_of_files(data)
    places: dict[str, int] = {}
    for at, one in enumerate(sources):
        if isinstance(one, dict) and isinstance(one.get("id"), str):
            places.setdefault(one["id"], at)
    whole, problems = all_resolved({name: sources[at] for name, at in places.items()})
    told = [Problem(f"sources[{places[name]}].{one.path}".rstrip("."), one.message) for name, one in problems]
    found = [whole[one["id"]] if _is_of(one, whole) else _alone_for_now(one) for one in sources]
    return {**data, "sources": found}, [*told, *_not_of_files(data)]


def _is_of(source: Any, whole: Mapping[str, Body]) -> bool:
    return isinstance(source, dict) and isinstance(source.get("id"), str) and source["id"] in whole


def _alone_for_now(source: Any) -> Any:
    """One whose family is not sound, which is told: as if it stated what it would have taken, so that nothing
    is told of what is missing only therefore."""
    if not is_kin(source):
        return source
    own = {key: value for key, value in source.items() if key not in ("like", "without", "stated", "drops")}
    return {"name": "not known", "kind": "enemy", **own}


def all_resolved(bodies: Mapping[str, Body]) -> tuple[dict[str, Body], list[tuple[str, Problem]]]:
    """Every sound source by id, resolved; and problems with the id of their source, paths within it."""
    whole: dict[str, Body] = {}
    problems: list[tuple[str, Problem]] = []
    seen: set[str] = set()
    for name in bodies:
        _resolve(name, bodies, whole, problems, seen)
    return whole, problems


def loop_told(what: str, trail: list[str], back_to: str) -> str:
    """A loop in words, from where it begins to there again; of a long one the ends."""
    names = [name[:80] for name in [*trail[trail.index(back_to) :], back_to]]
    if len(names) > 12:
        names = [*names[:6], f"… {len(names) - 12} more …", *names[-6:]]
    return f"{what}: " + " > ".join(names)


def kin_shape(body: Body) -> list[Problem]:
    """What is no list of names or of drops, where whoever resolves a family takes it for one."""
    problems = []
    for key in ("without", "stated"):
        names = body.get(key, [])
        if not isinstance(names, list):
            problems.append(Problem(key, "must be a list of ids"))
            continue
        wrong = [at for at, name in enumerate(names) if not isinstance(name, str)]
        problems += [Problem(f"{key}[{at}]", "must be an id") for at in wrong[:_FEW]]
    drops = body.get("drops", [])
    if not isinstance(drops, list):
        return [*problems, Problem("drops", "must be a list of drops")]
    for at, drop in enumerate(drops):
        if len(problems) >= _FEW:
            break
        if not isinstance(drop, dict):
            problems.append(Problem(f"drops[{at}]", "must be an object"))
        elif not isinstance(drop.get("id"), str):
            problems.append(Problem(f"drops[{at}].id", "must be an id"))
    return problems


def _resolve(
    name: str,
    bodies: Mapping[str, Body],
    whole: dict[str, Body],
    problems: list[tuple[str, Problem]],
    seen: set[str],
) -> None:
    """The elders first, without recursion: families may be chained far. `seen` are those that were come by
    before, sound or not, so that none is gone through twice."""
    line: dict[str, None] = {}
    at: Any = name
    while isinstance(at, str) and at in bodies and at not in seen and at not in line:
        line[at] = None
        at = bodies[at].get("like") if is_kin(bodies[at]) else None
    seen |= set(line)
    if at in line:
        trail = list(line)
        problems.append((at, Problem("like", loop_told("a family that closes a loop", trail, at))))
        return
    for one in reversed(line):
        body = bodies[one]
        if not is_kin(body):
            whole[one] = body
            continue
        wrong = kin_shape(body)
        problems += [(one, problem) for problem in wrong]
        elder = whole.get(body["like"])
        if elder is None:
            if body["like"] not in bodies:
                message = f"there is no source “{body['like'][:80]}”"
                problems.append((one, Problem("like", message)))
            return
        if wrong:
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
        Problem(f"without[{at}]", f"none of the family's drops is “{name[:80]}”")
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
                message = f"none of the family's drops is “{drop['id'][:80]}”, and a new one names its table"
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
