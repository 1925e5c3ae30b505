"""From plain JSON data to a sound `Game`, or to every problem at once.

Types and ranges are pydantic's work, references and loops are `checking`'s. Both run on the same
data, so a file with a misspelt key and a dangling reference hears of both in one go.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import cache
from typing import Any, TypeVar

from pydantic import BaseModel, TypeAdapter, ValidationError

from golddice.core.errors import GameError, Problem
from golddice.core.game.checking import reference_problems
from golddice.core.game.families import own_form, resolved
from golddice.core.game.models import FORMAT, KINDS, LISTS, RULES, VERSION, Drop, Game, Settings, Source
from golddice.core.game.stocks import (
    Stocked,
    place_problems,
    plan_problems,
    stall_problems,
    stock_problems,
)

_ADAPTERS: dict[int, tuple[Any, TypeAdapter[Any]]] = {}  # by identity, which the first keeps its own
MOST_TOLD = 1_000  # things that are wrong
_UNION_LISTS = {"tables", "table"}
Model = TypeVar("Model", bound=BaseModel)


def read_game(data: Any) -> Game:
    """The game that plain JSON data describes. Raises GameError with all its problems."""
    if not isinstance(data, dict):
        raise GameError([Problem("", "a game file holds one JSON object")])
    header = _header_problems(data) or list(_no_entities(data))
    if header:
        raise GameError(header)
    found, families = resolved(data)
    game, problems = _validated(Game, found)
    if len(problems) + len(families) > MOST_TOLD:
        raise GameError(_first_few(_without_repeats([*families, *problems])))
    problems = [*families, *problems, *reference_problems(data, found)]
    problems += _stock_problems(found) if game is None else stock_problems(game)
    if game is None or problems:
        raise GameError(_first_few(_without_repeats(problems)))
    assert isinstance(game, Game)
    return game


def _no_entities(data: dict[str, Any]) -> Iterator[Problem]:
    """What stands in a list of entities and is none, before anything else is looked at."""
    for key in LISTS.values():
        parts = data.get(key)
        wrong = [
            at
            for at, part in enumerate(parts if isinstance(parts, list) else [])
            if not isinstance(part, dict)
        ]
        for at in wrong[:MOST_TOLD]:
            yield Problem(f"{key}[{at}]", f"must be an object, got {quoted(parts[at])}")  # type: ignore[index]


def _first_few(problems: list[Problem]) -> list[Problem]:
    if len(problems) <= MOST_TOLD:
        return problems
    more = f"{len(problems):,} things are wrong; the first {MOST_TOLD:,} are told"
    return [*problems[:MOST_TOLD], Problem("", more)]


def _stock_problems(data: dict[str, Any]) -> list[Problem]:
    """Of the places and stalls that are sound in themselves, in a game that is not; and of the plans of the
    others."""
    rest, _ = _validated(Game, {key: value for key, value in data.items() if key not in ("places", "stalls")})
    tables = {table.id: table for table in rest.tables} if rest is not None else {}
    stocked = Stocked(rest) if rest is not None else None
    problems = []
    for key, kind in (("places", "place"), ("stalls", "stall")):
        bodies = data.get(key)
        for at, body in enumerate(bodies if isinstance(bodies, list) else []):
            part, _ = _validated(KINDS[kind], body)
            if part is None or stocked is None:
                found = plan_problems(body) if kind == "place" and isinstance(body, dict) else iter(())
            elif kind == "place":
                found = place_problems(part, tables.get(part.stock))
            else:
                found = stall_problems(stocked, part, tables.get(part.stock))
            problems += [Problem(f"{key}[{at}].{one.path}", one.message) for one in found]
    return problems


def read_part(kind: str, body: Any, *, typed: bool = False) -> Any:
    """One entity's body, checked alone: its shape and ranges, not its references.

    `typed` also takes quantities as people write them, `1-3`. Raises GameError; paths are relative
    to the body.
    """
    model = Settings if kind == "settings" else KINDS[kind]
    part, problems = _validated(model, body, typed)
    if part is None:
        raise GameError(problems)
    return part


def plain(part: BaseModel) -> dict[str, Any]:
    """Plain JSON data of a game or a part of one, with what is at its default left out; of a source that is
    like another what it states itself."""
    return plain_of(part, json.loads(part.model_dump_json(by_alias=True, exclude_defaults=True)))


def plain_of(part: BaseModel, short: dict[str, Any]) -> dict[str, Any]:
    """`plain`, where the part as JSON without its defaults is there already."""
    if isinstance(part, Source) and part.like is not None:
        return _own(part, short)
    if isinstance(part, Game) and any(source.like is not None for source in part.sources):
        return {**short, "sources": [plain(source) for source in part.sources]}
    return short


@cache
def _defaults() -> tuple[dict[str, Any], dict[str, Any]]:
    """Of a source, and of a drop."""
    return whole(Source(id="a", name="A", kind="enemy")), whole(Drop(id="a", table="a"))


def _own(source: Source, short: dict[str, Any]) -> dict[str, Any]:
    """What is stated is written out, also at its default; a new drop as every other."""
    at_default, drop_at_default = _defaults()
    if not any("/" in one for one in source.stated):  # as most are
        own = {key: short.get(key, at_default[key]) for key in source.stated}
        without = {"without": short["without"]} if source.without else {}
        return {"id": source.id, "like": source.like, **own, **without}
    drops = {drop["id"]: drop for drop in short.get("drops", [])}
    written_out = [{**drop_at_default, **drop} for drop in drops.values()]
    own = own_form({**at_default, **short, "drops": written_out})
    found = {key: short.get(key, value) for key, value in own.items()}
    if "drops" in own:
        found["drops"] = [
            drops[drop["id"]]
            if f"drops/{drop['id']}" in source.stated
            else {key: drops[drop["id"]].get(key, value) for key, value in drop.items()}
            for drop in own["drops"]
        ]
    return found


def whole(part: BaseModel) -> dict[str, Any]:
    """Plain JSON data with its defaults written out; of a source resolved."""
    return part.model_dump(mode="json", by_alias=True)


def full(kind: str, body: dict[str, Any], typed: bool = False) -> dict[str, Any]:
    """A body with its defaults written out, as screens want it."""
    part: BaseModel = read_part(kind, body, typed=typed)
    return whole(part)


def plain_game(game: Game) -> dict[str, Any]:
    """The whole game as its file holds it."""
    return plain(game)


def _header_problems(data: dict[str, Any]) -> list[Problem]:
    problems = []
    if data.get("format") != FORMAT:
        problems.append(Problem("format", f"must be “{FORMAT}”; this is not a game file of ours"))
    if data.get("version") != VERSION:
        problems.append(Problem("version", f"must be {VERSION}, got {quoted(data.get('version'))}"))
    return problems


def _validated(model: Any, data: Any, typed: bool = False) -> tuple[Any | None, list[Problem]]:
    """Validate through JSON, where strict mode takes arrays for tuples."""
    try:
        text = json.dumps(data, allow_nan=True, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return None, list(_half_characters(data))
    try:
        return _adapter(model).validate_json(text, context={"typed": typed}), []
    except ValidationError as error:
        if error.error_count() > MOST_TOLD and model is Game:
            return None, list(_of_the_first_parts(data))
        return None, [_problem(entry) for entry in error.errors(include_url=False)[:MOST_TOLD]]


def _of_the_first_parts(data: dict[str, Any]) -> Iterator[Problem]:
    """Of a game with very much wrong: entity by entity, until enough is told."""
    told = 0
    for kind, key in LISTS.items():
        for at, part in enumerate(data.get(key) or ()):
            _, problems = _validated(KINDS[kind], part)
            for one in problems:
                path = f"{key}[{at}]" + (f".{one.path}" if one.path else "")
                yield Problem(shortened(path, 300), one.message)
            told += len(problems)
            if told > MOST_TOLD:
                return


def _adapter(model: Any) -> TypeAdapter[Any]:
    """Made once for each model: to make one takes longer than to read a body by it."""
    if id(model) not in _ADAPTERS:
        _ADAPTERS[id(model)] = model, TypeAdapter(model)
    return _ADAPTERS[id(model)][1]


def _half_characters(data: Any) -> Iterator[Problem]:
    """Texts with half of a character, which no file or database can hold."""
    pending: list[tuple[tuple[int | str, ...], Any]] = [((), data)]
    while pending:
        at, value = pending.pop()
        inner = (
            enumerate(value) if isinstance(value, list) else value.items() if isinstance(value, dict) else ()
        )
        pending += [((*at, step), part) for step, part in inner]
        texts = [value] if isinstance(value, str) else list(value) if isinstance(value, dict) else []
        for text in texts:
            if any("\ud800" <= letter <= "\udfff" for letter in text):
                yield Problem(json_path(at), "holds half of a character, which cannot be kept; take it out")


# What a library says of types and bounds, as a designer would say it.
_WORDS = {
    "extra_forbidden": "unknown key; take it out or mend its spelling",
    "missing": "is missing",
    "string_too_short": "must have at least {min_length} letters",
    "string_too_long": "must have at most {max_length} letters",
    "too_short": "must have at least {min_length}, has {actual_length}",
    "too_long": "must have at most {max_length}, has {actual_length}",
    "greater_than": "must be above {gt:g}",
    "greater_than_equal": "must be {ge:g} or more",
    "less_than": "must be below {lt:g}",
    "less_than_equal": "must be {le:g} or less",
    "finite_number": "must be a number that is not infinite",
    "int_from_float": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_type": "must be a whole number",
    "float_parsing": "must be a number",
    "float_type": "must be a number",
    "string_type": "must be a text",
    "list_type": "must be a list",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
}
_COMPLETE = {"extra_forbidden", "missing", "too_short", "too_long"}  # which need not say what was given


def _problem(entry: Any) -> Problem:
    message = entry["msg"]
    for prefix in ("Value error, ", "Input should be "):
        if message.startswith(prefix):
            message = message.removeprefix(prefix)
            message = message if prefix.startswith("Value") else f"must be {message}"
    if entry["type"] in _WORDS:
        message = _WORDS[entry["type"]].format(**entry.get("ctx", {}))
    if entry["type"] == "string_too_short" and entry["ctx"]["min_length"] == 1:
        message = "must not be empty"
    elif entry["type"] == "string_pattern_mismatch":
        message = _pattern_message(entry)
    elif entry["type"] not in _COMPLETE and not isinstance(entry.get("input"), (dict, list)):
        message += f", got {quoted(entry.get('input'))}" if "got" not in message else ""
    return Problem(shortened(json_path(entry["loc"]), 300), shortened(message, 300))


def _pattern_message(entry: Any) -> str:
    if "0-9a-f]{6}" in str(entry["ctx"]["pattern"]):
        return f"a colour is written #rrggbb in lower case, got {quoted(entry['input'])}"
    return f"an id is lower-case words joined by hyphens, got {quoted(entry['input'])}"


def quoted(value: Any) -> str:
    """A value as it can be told: whole values can be millions of characters."""
    return shortened(repr(value), 80)


def shortened(text: str, most: int) -> str:
    return text if len(text) <= most else f"{text[: most - 1]}…"


def json_path(location: tuple[int | str, ...]) -> str:
    """`("tables", 0, "pick", "lines", 1)` as `tables[0].lines[1]`.

    The name of the union's branch, which is the table's rule and no key of the file, is left out.
    """
    path = ""
    for at, step in enumerate(location):
        is_branch = step in RULES and (
            at == 0 or (isinstance(location[at - 1], int) and location[at - 2] in _UNION_LISTS)
        )
        if step == "[key]":  # of a mapping: the key itself is wrong, and stands in the path
            continue
        if isinstance(step, int):
            path += f"[{step}]"
        elif not is_branch:
            path += f".{step}" if path else step
    return path


def _without_repeats(problems: list[Problem]) -> list[Problem]:
    return list(dict.fromkeys(problems))
