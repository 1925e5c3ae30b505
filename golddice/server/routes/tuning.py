"""Finding numbers that meet targets. Nothing is written: what is taken is an edit as any other."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.errors import UnknownThing
from golddice.core.game.models import Game
from golddice.core.tuning.levers import levers
from golddice.core.tuning.numbers import Number, entities_with, numbers_named
from golddice.core.tuning.proposal import Ask, propose
from golddice.server.bench import Bench
from golddice.server.schemas.games import EntryIn
from golddice.server.schemas.tuning import LeversIn, LeversOut, TakeIn, TakeOut, TuneIn, TuneOut

router = APIRouter(prefix="/api/games/{game_id}", tags=["tuning"])


@router.post("/tune")
def tune(game_id: str, asked: TuneIn, bench: Bench) -> TuneOut:
    """The smallest change with which targets are met, or the nearest and what contradicts. It ends when the
    asker goes."""
    loaded, game = bench.asked_of(game_id, asked)
    ask = Ask(asked.targets, asked.unlock, asked.keep, asked.rounded, asked.whole, asked.keep_totals)
    with bench.in_turn():
        found = propose(game, ask)
    told = found.plain() | {
        "revision": loaded.revision,
        "numbers": [_number(number, value) for number, value in found.values.items()],
        "entries": _entries(game, found.values),
    }
    return TuneOut.model_validate(told)


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
    with bench.in_turn():
        found = levers(game, target, asked.depth)
    told = [_named(one.number) | {"value": one.number.value, "elasticity": one.elasticity} for one in found]
    return LeversOut.model_validate({"levers": told})


def _number(number: Number, value: float) -> dict[str, object]:
    return _named(number) | {"before": number.value, "after": value}


def _named(number: Number) -> dict[str, object]:
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
