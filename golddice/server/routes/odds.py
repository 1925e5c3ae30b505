"""Questions about odds, of the game as it is or as a draft edit would make it."""

from __future__ import annotations

from fastapi import APIRouter

from golddice.core.findings import Finding, findings
from golddice.core.game.reading import full
from golddice.core.sheets.answers import table_answering
from golddice.core.sheets.compare import compared
from golddice.core.sheets.depth_sheet import profile
from golddice.core.sheets.route_report import route_odds
from golddice.core.sheets.sheet import spread
from golddice.server.bench import Bench, view_of
from golddice.server.schemas.odds import (
    AnswerIn,
    AnswerOut,
    CompareIn,
    CompareOut,
    FindingOut,
    FindingsOut,
    Looked,
    OddsIn,
    OddsOut,
    ProfileOut,
    RouteIn,
    RouteOut,
    RuleReading,
    SpreadIn,
    SpreadOut,
)

router = APIRouter(prefix="/api/games/{game_id}", tags=["odds"])
MOST_FINDINGS = 400


@router.post("/odds")
def odds(game_id: str, asked: OddsIn, bench: Bench) -> OddsOut:
    loaded, sheet = bench.sheet(game_id, asked)
    focus = asked.focus.model_dump(exclude_none=True) if asked.focus else sheet.rarest_tier()
    wait = sheet.wait(focus) if focus else None
    found = {"revision": loaded.revision, "sheet": sheet.sheet(), "wait": wait}
    return OddsOut.model_validate(found)


@router.post("/spread")
def value_spread(game_id: str, asked: SpreadIn, bench: Bench) -> SpreadOut:
    loaded, game = bench.asked_of(game_id, asked)
    found = spread(
        game,
        view_of(asked.view),
        depth=asked.depth,
        events=asked.events,
        flags=asked.flags,
        quick=bool(asked.draft),
    )
    return SpreadOut.model_validate({"revision": loaded.revision, **found})


@router.post("/route")
def along_route(game_id: str, asked: RouteIn, bench: Bench) -> RouteOut:
    """What is expected at every stop of a route."""
    loaded, game = bench.asked_of(game_id, asked)
    return RouteOut.model_validate({"revision": loaded.revision, **route_odds(game, asked.route)})


@router.post("/profile")
def depth_profile(game_id: str, asked: Looked, bench: Bench) -> ProfileOut:
    loaded, game = bench.asked_of(game_id, asked)
    found = profile(game, view_of(asked.view), asked.flags)
    return ProfileOut.model_validate({"revision": loaded.revision, **found})


@router.post("/answers")
def answer(game_id: str, asked: AnswerIn, bench: Bench) -> AnswerOut:
    _, game = bench.asked_of(game_id, asked)
    table = table_answering(
        game,
        view_of(asked.view),
        asked.table,
        asked.line,
        asked.answer,
        asked.wanted,
        depth=asked.depth,
        flags=asked.flags,
    )
    return AnswerOut(body=table.model_dump(mode="json", by_alias=True))


@router.post("/compare")
def compare(game_id: str, asked: CompareIn, bench: Bench) -> CompareOut:
    """What one roll would do under each rule, without changing the table."""
    loaded, game = bench.asked_of(game_id, asked)
    rules = [
        RuleReading(
            rule=one.rule,
            body=one.table.model_dump(mode="json", by_alias=True),
            chances=one.chances,
            nothing=one.nothing,
            hits=one.hits,
        )
        for one in compared(game, asked.table, asked.depth, asked.flags)
    ]
    return CompareOut(revision=loaded.revision, rules=rules)


@router.get("/findings")
def game_findings(game_id: str, bench: Bench) -> FindingsOut:
    """What is odd about the game as it is saved."""
    loaded = bench.games.load(game_id)
    every = findings(loaded.entities.game())
    found = [_finding(one) for one in every[:MOST_FINDINGS]]
    return FindingsOut(revision=loaded.revision, count=len(every), findings=found)


def _finding(finding: Finding) -> FindingOut:
    """A finding with the whole bodies of its mend, defaults written out, as screens hold them."""
    body = finding.plain()
    for entry in body["mend"]["entries"] if body["mend"] else ():
        if entry["body"] is not None:
            entry["body"] = full(entry["kind"], entry["body"])
    return FindingOut.model_validate(body)
