"""Trials: run, watch, cancel, look at, compare, describe, put away."""

from __future__ import annotations

import os
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Path, Query
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.terms.stops import route_of
from golddice.core.trial.bytes_of import unpacked
from golddice.core.trial.compare import Cohort, compared
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.route import course_of
from golddice.core.trial.summary import MOST_FAN_PLAYERS
from golddice.core.trial.trace import MOST_TRACED_EVENTS, EventTrace, Rolled, replayed, rolled
from golddice.core.trial.trial import (
    MOST_PLAYERS,
    AnyTrial,
    Plan,
    RouteTrial,
    plan_of,
)
from golddice.server.bench import Bench, Workbench
from golddice.server.schemas.common import Token
from golddice.server.schemas.trials import (
    CompareTrialsIn,
    CompareTrialsOut,
    Estimate,
    NearOut,
    ReplayedEvent,
    ReplayOut,
    TrialChange,
    TrialIn,
    TrialOut,
    TrialSummary,
)
from golddice.server.trial_plans import game_at, game_of, trial_of
from golddice.store.rows import TrialRow
from golddice.store.trials import UNDER_WAY

router = APIRouter(prefix="/api/games/{game_id}", tags=["trials"])

LONG = 120.0  # seconds
LARGE = 200 * 2**20  # bytes that are kept
MOST_COMPARED = 60_000_000  # numbers of players and items
MOST_REPLAYED = 200  # events at a time
_ROLLS_A_SECOND = 12_000_000  # on one core; of plain picks three times as many
_STREAM: dict[int | str, dict[str, Any]] = {
    200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}
}


@router.get("/trials")
def list_trials(game_id: str, bench: Bench) -> list[TrialSummary]:
    return [_summary(row) for row in bench.trials.of_game(game_id)]


@router.post("/trials", status_code=201, responses={429: {"description": "too many wait already"}})
def run(game_id: str, asked: TrialIn, bench: Bench) -> TrialSummary:
    """Refused at once where it cannot run, or would take long and is not asked for `knowingly`; else queued,
    and told about on the event stream."""
    bench.trials.check_room()
    revision, plan = _planned(bench, game_id, asked)
    estimate = _estimate(plan)
    if not asked.knowingly and (estimate.seconds > LONG or estimate.bytes > LARGE):
        raise QueryError(f"this would take {_words(estimate)}; take fewer players or ask for it knowingly")
    row = added(bench, game_id, revision, asked)
    bench.wake()
    return _summary(row)


def added(bench: Workbench, game_id: str, revision: int, asked: TrialIn) -> TrialRow:
    spec = asked.model_dump(exclude={"knowingly", "beside", "token"})
    name = asked.name.strip()
    return bench.trials.add(game_id, revision, name, spec, KERNEL_VERSION, asked.beside, asked.token)


@router.post("/trials/estimate")
def estimate(game_id: str, asked: TrialIn, bench: Bench) -> Estimate:
    """What a trial would come to."""
    return _estimate(_planned(bench, game_id, asked)[1])


@router.get("/trials/{trial_id}")
def show(game_id: str, trial_id: str, bench: Bench) -> TrialOut:
    row = bench.trials.get(game_id, trial_id)
    more = {"partial": row.partial, "pace": row.progress} if row.status == "running" else {}
    return TrialOut.model_validate({**_summary(row).model_dump(), "result": row.result, **more})


@router.patch("/trials/{trial_id}")
def describe(game_id: str, trial_id: str, asked: TrialChange, bench: Bench) -> TrialSummary:
    return _summary(bench.trials.described(game_id, trial_id, **asked.model_dump(exclude_none=True)))


@router.post("/trials/{trial_id}/compare")
def compare(game_id: str, trial_id: str, asked: CompareTrialsIn, bench: Bench) -> CompareTrialsOut:
    """How its players fared beside those of another trial, which counts as the one before."""
    after, before = bench.trials.get(game_id, trial_id), bench.trials.get(game_id, asked.other)
    why = _why_unpaired(TrialIn.model_validate(before.spec), TrialIn.model_validate(after.spec))
    found = compared(_cohort(bench, before), _cohort(bench, after), paired=why is None)
    return CompareTrialsOut.model_validate({**found, "why_unpaired": why})


@router.get("/trials/{trial_id}/players/{player}")
def replay(
    game_id: str,
    trial_id: str,
    player: Annotated[int, Path(ge=0, le=MOST_PLAYERS)],
    bench: Bench,
    first: Annotated[int, Query(ge=1, le=MOST_TRACED_EVENTS)] = 1,
    count: Annotated[int, Query(ge=1, le=MOST_REPLAYED)] = 20,
) -> ReplayOut:
    """A player's events again, each with how it came about, of the game as it was then."""
    row = bench.trials.get(game_id, trial_id)
    asked = TrialIn.model_validate(row.spec)
    if row.kernel != KERNEL_VERSION:
        raise QueryError(f"that trial was played by version {row.kernel} of the simulator; run it again")
    if player >= asked.players:
        raise QueryError(f"“{row.name}” has players 0 to {asked.players - 1}")
    game, trial = game_of(bench.games, row), trial_of(asked)
    found = _replayed(game, trial, player, first, count)
    events = [_event(event) for event in found.events]
    return ReplayOut(player=player, events=events, counts=found.counts, value=found.value)


@router.get("/trials/{trial_id}/near")
def near(
    game_id: str,
    trial_id: str,
    bench: Bench,
    value: Annotated[float, Query(ge=0, le=1e300, allow_inf_nan=False)],
) -> NearOut:
    """The player who ended nearest to a value; the first of several."""
    row = bench.trials.get(game_id, trial_id)
    best: tuple[float, int, float] | None = None
    first = 0
    for data in bench.trials.units(row.id):
        values = unpacked(data).value
        at = int(np.argmin(np.abs(values - value)))
        found = (abs(float(values[at]) - value), first + at, float(values[at]))
        best = found if best is None else min(best, found)
        first += values.size
    if best is None:
        raise QueryError(f"of “{row.name}” no players are kept")
    return NearOut(player=best[1], value=best[2])


def _replayed(game: Game, trial: AnyTrial, player: int, first: int, count: int) -> Rolled:
    if isinstance(trial, RouteTrial):
        course = course_of(game, route_of(game, trial.route))
        return replayed(course, game, seed=trial.seed, player=player, first=first, count=count)
    count = min(count, trial.events - first + 1)
    if count < 1:
        return Rolled([], [], {}, 0.0)
    return rolled(
        game,
        trial.view,
        depth=trial.depth,
        seed=trial.seed,
        player=player,
        first=first,
        count=count,
        flags=trial.flags,
    )


def _event(event: EventTrace) -> ReplayedEvent:
    received = [{"item": item, "count": count} for item, count in event.received]
    return ReplayedEvent.model_validate({**vars(event), "received": received})


@router.post("/trials/{trial_id}/cancel", status_code=202)
def cancel(game_id: str, trial_id: str, bench: Bench) -> None:
    bench.trials.get(game_id, trial_id)
    _stopped(bench, game_id, trial_id, bench.line.cancel(game_id, trial_id))


@router.delete("/trials/{trial_id}", status_code=204)
def delete(game_id: str, trial_id: str, bench: Bench) -> None:
    """Put away; `restore` brings it back."""
    _stopped(bench, game_id, trial_id, bench.line.put_away(game_id, trial_id))


@router.post("/trials/{trial_id}/restore")
def restore(game_id: str, trial_id: str, bench: Bench) -> TrialSummary:
    return _summary(bench.line.bring_back(game_id, trial_id))


@router.get("/events", response_class=StreamingResponse, responses=_STREAM)
async def events(game_id: str, bench: Bench, page: Token | None = None) -> StreamingResponse:
    """News of this game: {type: revision, revision} and {type: trial, id, status, done}. When the stream ends
    the page is gone for those who look at the same game."""
    await run_in_threadpool(bench.games.steps, game_id)  # one that is not there has no news
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    news = bench.broadcast.listen(game_id, page)
    return StreamingResponse(news, media_type="text/event-stream", headers=headers)


def _stopped(bench: Workbench, game_id: str, trial_id: str, stopped: int) -> None:
    if stopped:
        message = {"type": "trial", "id": trial_id, "status": "cancelled", "done": 0}
        bench.broadcast.tell(game_id, message)
        bench.wake()


def _planned(bench: Workbench, game_id: str, asked: TrialIn) -> tuple[int, Plan]:
    loaded = bench.games.load(game_id, asked.revision)
    return loaded.revision, plan_of(game_at(bench.games, game_id, loaded.revision, asked), trial_of(asked))


def _estimate(plan: Plan) -> Estimate:
    players, cores = plan.trial.players, os.cpu_count() or 1
    held = players * (2 * plan.items.size + 8) + 8 * min(players, MOST_FAN_PLAYERS) * plan.marks.size
    speed = _ROLLS_A_SECOND * cores * (3 if plan.is_plain else 1)
    return Estimate(seconds=players * plan.work / speed, bytes=int(held))


def _words(estimate: Estimate) -> str:
    minutes = estimate.seconds / 60
    took = f"about {minutes:,.0f} minutes" if minutes >= 1 else f"about {estimate.seconds:,.0f} s"
    return f"{took}, {estimate.bytes / 1e6:,.0f} MB kept"


def _why_unpaired(before: TrialIn, after: TrialIn) -> str | None:
    """Why luck is not the same, player by player; None where it is."""
    if before.seed != after.seed:
        return "other seeds, so other luck"
    same = ("route", "view", "depth", "events", "flags")
    if any(getattr(before, name) != getattr(after, name) for name in same):
        return "players do something else"
    return None


def _cohort(bench: Workbench, row: TrialRow) -> Cohort:
    if row.status != "done":
        raise QueryError(f"“{row.name}” is not done: {row.status}; only what is done can be compared")
    plan = plan_of(game_of(bench.games, row), trial_of(row.spec))
    if row.done * max(plan.items.size, 1) > MOST_COMPARED:
        raise QueryError(f"“{row.name}” has too many players to compare; run it with fewer")
    units = [unpacked(data) for data in bench.trials.units(row.id)]
    if not units:
        raise QueryError(f"of “{row.name}” no players are kept; run it again, then compare")
    return Cohort(plan.game, plan.items, units)


def _summary(row: TrialRow) -> TrialSummary:
    """What is known of it; where it runs, with how far it is by now."""
    told = {name: getattr(row, name) for name in TrialSummary.model_fields}
    if row.status in UNDER_WAY and row.progress is not None:
        told["done"] = row.progress["players"]
    return TrialSummary.model_validate({**told, "spec": TrialIn.model_validate(row.spec)})
