"""Trials: run, watch, cancel, look at, rename, throw away."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from golddice.core.terms.conditions import Conditions
from golddice.core.trial.compiling import compiled
from golddice.core.trial.kernel import KERNEL_VERSION
from golddice.core.trial.trial import Trial
from golddice.server.bench import Bench, view_of
from golddice.server.schemas.trials import TrialIn, TrialOut, TrialRename, TrialSummary
from golddice.store.rows import TrialRow

router = APIRouter(prefix="/api/games/{game_id}", tags=["trials"])

_STREAM: dict[int | str, dict[str, Any]] = {
    200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}
}


@router.get("/trials")
def list_trials(game_id: str, bench: Bench) -> list[TrialSummary]:
    return [_summary(row) for row in bench.trials.of_game(game_id)]


@router.post("/trials", status_code=201)
def run(game_id: str, asked: TrialIn, bench: Bench) -> TrialSummary:
    """Refused at once where it cannot run; else queued, and told about on the event stream."""
    loaded = bench.games.load(game_id)
    game = loaded.entities.game()
    trial = Trial(
        view_of(asked.view),
        asked.depth,
        asked.players,
        asked.events,
        asked.seed,
        tuple(asked.flags),
    )
    trial.check()
    compiled(Conditions(game, [trial.depth], trial.flags), trial.view)
    row = bench.trials.add(game_id, loaded.revision, asked.name.strip(), asked.model_dump(), KERNEL_VERSION)
    bench.jobs.start(game_id, row.id, game, trial)
    return _summary(row)


@router.get("/trials/{trial_id}")
def show(game_id: str, trial_id: str, bench: Bench) -> TrialOut:
    row = bench.trials.get(game_id, trial_id)
    return TrialOut.model_validate({**_summary(row).model_dump(), "result": row.result})


@router.patch("/trials/{trial_id}")
def rename(game_id: str, trial_id: str, asked: TrialRename, bench: Bench) -> TrialSummary:
    return _summary(bench.trials.rename(game_id, trial_id, asked.name))


@router.post("/trials/{trial_id}/cancel", status_code=202)
def cancel(game_id: str, trial_id: str, bench: Bench) -> None:
    bench.trials.get(game_id, trial_id)
    bench.jobs.cancel(trial_id)


@router.delete("/trials/{trial_id}", status_code=204)
def delete(game_id: str, trial_id: str, bench: Bench) -> None:
    bench.jobs.cancel(trial_id)
    bench.trials.delete(game_id, trial_id)


@router.get("/events", response_class=StreamingResponse, responses=_STREAM)
async def events(game_id: str, bench: Bench) -> StreamingResponse:
    """News of this game: {type: revision, revision} and {type: trial, id, status, done}."""
    await run_in_threadpool(bench.games.steps, game_id)  # one that is not there has no news
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return StreamingResponse(bench.broadcast.listen(game_id), media_type="text/event-stream", headers=headers)


def _summary(row: TrialRow) -> TrialSummary:
    return TrialSummary.model_validate(
        {**row.model_dump(exclude={"result", "game"}), "spec": TrialIn.model_validate(row.spec)}
    )
