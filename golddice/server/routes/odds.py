"""Questions about odds, of the game as it is or as a draft edit would make it."""

from __future__ import annotations

import math
from typing import Any

from fastapi import APIRouter

from golddice.core.findings import Finding, findings
from golddice.core.game.reading import full
from golddice.core.odds.answers import table_answering
from golddice.core.odds.compare import compared
from golddice.core.odds.depth_sheet import depth_sheet
from golddice.core.odds.item_view import item_view
from golddice.core.odds.meeting import meets, meets_profile
from golddice.core.odds.prospect import Prospect
from golddice.core.odds.sheet import SheetOdds, profile, spread
from golddice.core.trial.trace import EventTrace, rolled
from golddice.server.bench import Bench, view_of
from golddice.server.schemas import (
    AnswerIn,
    AnswerOut,
    CompareIn,
    CompareOut,
    DepthSheetOut,
    DraftIn,
    FindingOut,
    FindingsOut,
    HeldOut,
    ItemViewOut,
    Looked,
    MeetsIn,
    MeetsOut,
    OddsIn,
    OddsOut,
    ProblemDetails,
    ProfileOut,
    RolledEvent,
    RollIn,
    RollOut,
    RuleReading,
    SpreadIn,
    SpreadOut,
    TierCount,
)

router = APIRouter(prefix="/api/games/{game_id}", tags=["odds"], responses={422: {"model": ProblemDetails}})
MOST_TRACED = 100
MOST_FINDINGS = 400


@router.post("/odds")
def odds(game_id: str, asked: OddsIn, bench: Bench) -> OddsOut:
    with bench.in_turn():
        loaded, sheet = bench.sheet(game_id, asked)
        focus = asked.focus.model_dump(exclude_none=True) if asked.focus else sheet.rarest_tier()
        wait = sheet.wait(focus) if focus else None
        found = {"revision": loaded.revision, "sheet": sheet.sheet(), "wait": wait}
        return OddsOut.model_validate(found)


@router.post("/spread")
def value_spread(game_id: str, asked: SpreadIn, bench: Bench) -> SpreadOut:
    loaded, game = bench.looked_at(game_id, asked)
    with bench.in_turn():
        found = spread(
            game,
            view_of(asked),
            depth=asked.depth,
            events=asked.events,
            flags=asked.flags,
            quick=bool(asked.draft),
        )
    return SpreadOut.model_validate({"revision": loaded.revision, **found})


@router.post("/profile")
def depth_profile(game_id: str, asked: Looked, bench: Bench) -> ProfileOut:
    loaded, game = bench.looked_at(game_id, asked)
    with bench.in_turn():
        found = profile(game, view_of(asked), asked.flags)
    return ProfileOut.model_validate({"revision": loaded.revision, **found})


@router.post("/depths")
def along_depths(game_id: str, asked: Looked, bench: Bench) -> DepthSheetOut:
    """What is in view at every depth of the game."""
    loaded, game = bench.looked_at(game_id, asked)
    with bench.in_turn():
        found = depth_sheet(game, view_of(asked), asked.flags)
    return DepthSheetOut.model_validate({"revision": loaded.revision, **found})


@router.post("/items/{item}")
def one_item(game_id: str, item: str, asked: DraftIn, bench: Bench) -> ItemViewOut:
    """Every way to get an item, by depth."""
    loaded, game = bench.drafted(game_id, asked.draft)
    with bench.in_turn():
        found = item_view(game, item, asked.flags)
    return ItemViewOut.model_validate({"revision": loaded.revision, **found})


@router.post("/meets")
def what_is_met(game_id: str, asked: MeetsIn, bench: Bench) -> MeetsOut:
    """What a visit to one depth comes to."""
    loaded, game = bench.drafted(game_id, asked.draft)
    with bench.in_turn():
        found = meets(game, asked.depth, asked.flags, asked.points)
    return MeetsOut.model_validate({"revision": loaded.revision, **found})


@router.post("/meets/profile")
def met_profile(game_id: str, asked: DraftIn, bench: Bench) -> ProfileOut:
    """Tier shares of what a visit brings, at every depth."""
    loaded, game = bench.drafted(game_id, asked.draft)
    with bench.in_turn():
        found = meets_profile(game, asked.flags)
    return ProfileOut.model_validate({"revision": loaded.revision, **found})


@router.post("/answers")
def answer(game_id: str, asked: AnswerIn, bench: Bench) -> AnswerOut:
    _, game = bench.looked_at(game_id, asked)
    table = table_answering(
        game,
        view_of(asked),
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
    loaded, game = bench.drafted(game_id, asked.draft)
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


@router.post("/rolls")
def roll(game_id: str, asked: RollIn, bench: Bench) -> RollOut:
    """Roll some events of one player; the count runs from the player's first event."""
    loaded, game = bench.looked_at(game_id, asked)
    last = asked.first + asked.count - 1
    found = rolled(
        game,
        asked.view.kind,
        asked.view.id,
        depth=asked.depth,
        seed=asked.seed,
        player=asked.player,
        count=last,
        flags=tuple(asked.flags),
    )
    events = found.events
    prospect = SheetOdds(game, view_of(asked), asked.depth, asked.flags).prospect
    value_mean, value_var = prospect.value_after(last)
    return RollOut(
        revision=loaded.revision,
        events=[_event(event) for event in events[asked.first - 1 :][-MOST_TRACED:]],
        rolled=last,
        tiers=_tier_counts(prospect, events),
        held=[HeldOut.model_validate(vars(one)) for one in found.held],
        value=sum(event.value for event in events),
        value_expected=value_mean,
        value_sd=math.sqrt(value_var),
    )


def _event(event: EventTrace) -> RolledEvent:
    received: list[dict[str, Any]] = [{"item": item, "count": count} for item, count in event.received]
    return RolledEvent.model_validate({**vars(event), "received": received})


def _tier_counts(prospect: Prospect, events: list[EventTrace]) -> list[TierCount]:
    tiers = prospect.under.game.tiers
    fell = dict.fromkeys((tier.id for tier in tiers), 0)
    expected = [prospect.count_after(prospect.columns.tier(at), len(events)) for at in range(len(tiers))]
    tier_of = {item.id: item.tier for item in prospect.under.game.items}
    for event in events:
        for item, count in event.received:
            fell[tier_of[item]] += count
    return [
        TierCount(
            tier=tier.id,
            fell=fell[tier.id],
            expected=expected[at][0],
            sd=math.sqrt(expected[at][1]),
        )
        for at, tier in enumerate(tiers)
    ]
