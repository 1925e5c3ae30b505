"""Finding numbers that meet targets. Nothing is written: what is taken is an edit as any other."""

from __future__ import annotations

from collections import Counter
from dataclasses import fields

from fastapi import APIRouter

from golddice.core.errors import UnknownThing
from golddice.core.game.models import Game
from golddice.core.odds.depths.along import all_depths
from golddice.core.stopping import heard_by
from golddice.core.tuning.aims import Book
from golddice.core.tuning.asking import KINDS, Ask, free_numbers, missed_of, numbers_under
from golddice.core.tuning.frontier import Point, frontier
from golddice.core.tuning.levers import levers
from golddice.core.tuning.numbers import Number, entities_with, numbers_named
from golddice.core.tuning.proposal import propose
from golddice.server.bench import Bench, view_of
from golddice.server.progress import Progress
from golddice.server.schemas.games import EntryIn
from golddice.server.schemas.tuning import (
    FrontierIn,
    FrontierOut,
    LeversIn,
    LeversOut,
    MayMoveOut,
    TakeIn,
    TakeOut,
    TuneIn,
    TuneOut,
)

_ASKED = [one.name for one in fields(Ask)]
router = APIRouter(prefix="/api/games/{game_id}", tags=["tuning"])


@router.post("/tune")
def tune(game_id: str, asked: TuneIn, bench: Bench) -> TuneOut:
    """The smallest change with which targets are met, or the nearest and what contradicts. It ends when the
    asker goes."""
    loaded, game = bench.asked_of(game_id, asked)
    with heard_by(Progress(bench.broadcast, game_id, "tuning", asked.token)):
        found = propose(game, _ask(asked))
    told = found.plain() | {
        "revision": loaded.revision,
        "numbers": [_number(number, value) for number, value in found.values.items()],
        "entries": _entries(game, found.values),
    }
    return TuneOut.model_validate(told)


@router.post("/tune/free")
def what_may_move(game_id: str, asked: TuneIn, bench: Bench) -> MayMoveOut:
    """The numbers that would be moved, by where they are, before anything is worked out."""
    _, game = bench.asked_of(game_id, asked)
    missed = missed_of(game, _ask(asked))
    numbers = free_numbers(Book(game), _ask(asked), missed)
    kinds = {sort: kind for kind, sorts in KINDS.items() for sort in sorts}
    free: dict[tuple[str, str], Counter[str]] = {}
    for number in numbers:
        free.setdefault((number.of, number.id), Counter())[kinds[number.sort]] += 1
    told = [{"kind": kind, "id": name, "numbers": dict(many)} for (kind, name), many in free.items()]
    return MayMoveOut.model_validate({"missed": [target.id for target in missed], "free": told})


@router.post("/tune/frontier")
def mean_against_swing(game_id: str, asked: FrontierIn, bench: Bench) -> FrontierOut:
    """For each mean worth of an event the least swing that could be had."""
    loaded, game = bench.asked_of(game_id, asked)
    view, flags = view_of(asked.view), frozenset(asked.flags)
    ask = Ask(kinds=asked.kinds or ["weights", "chances"], most=asked.most)
    numbers = numbers_under(all_depths(game, flags), view, ask)
    found = frontier(game, view, asked.depth, numbers, ask.far, flags)
    points = [_point(point) for point in found.least]
    return FrontierOut.model_validate(
        {"revision": loaded.revision, "here": _point(found.here), "least": points}
    )


def _point(point: Point) -> dict[str, object]:
    numbers = [_number(number, value) for number, value in point.values.items()]
    return {"mean": point.mean, "cv": point.cv, "numbers": numbers}


def _ask(asked: TuneIn) -> Ask:
    return Ask(**{name: getattr(asked, name) for name in _ASKED})


@router.post("/tune/take")
def take(game_id: str, asked: TakeIn, bench: Bench) -> TakeOut:
    """The edit with which some numbers stand, as a proposal names them."""
    _, game = bench.asked_of(game_id, asked)
    values = numbers_named(game, {one.where: one.value for one in asked.numbers})
    return TakeOut(entries=_entries(game, values))


@router.post("/tune/levers")
def which_moves_it(game_id: str, asked: LeversIn, bench: Bench) -> LeversOut:
    """Which numbers move a target's figure at a depth, the strongest first."""
    _, game = bench.asked_of(game_id, asked)
    target = next((one for one in game.targets if one.id == asked.target), None)
    if target is None:
        raise UnknownThing("target", asked.target)
    found = levers(game, target, asked.depth)
    told = [named(one.number) | {"value": one.number.value, "elasticity": one.elasticity} for one in found]
    return LeversOut.model_validate({"levers": told})


def _number(number: Number, value: float) -> dict[str, object]:
    return named(number) | {"before": number.value, "after": value}


def named(number: Number) -> dict[str, object]:
    return {
        "where": number.where,
        "kind": number.of,
        "id": number.id,
        "part": number.part,
        "sort": number.sort,
    }


def _entries(game: Game, values: dict[Number, float]) -> list[EntryIn]:
    """Bodies as a page holds them, with what is left at its default too."""
    changed = entities_with(game, values)
    return [
        EntryIn(kind=kind, id=part.id, body=part.model_dump(mode="json", by_alias=True))
        for kind, part in changed
    ]
