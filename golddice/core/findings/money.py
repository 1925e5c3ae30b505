"""Prices nobody can pay, and rounds of buying and selling that earn without end."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from golddice.core.errors import TooLarge
from golddice.core.findings.finding import Finding
from golddice.core.findings.items import items_of
from golddice.core.findings.survey import Survey
from golddice.core.game.models import Route, RouteLeg, Source
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.stops import band_at

_DEPTHS = 8


def look(survey: Survey) -> Iterator[Finding]:
    for source in survey.game.sources:
        if source.price is not None:
            yield from _never_paid(survey, source)
            yield from _earns(survey, source)


def _never_paid(survey: Survey, source: Source) -> Iterator[Finding]:
    """A price that nobody can have on any of the routes that come there."""
    routes = [route for route in survey.game.routes if any(leg.source == source.id for leg in route.legs)]
    assert source.price is not None
    if not routes or source.price.amount == 0 or any(_can_pay(survey, route, source) for route in routes):
        return
    names = ", ".join(route.name for route in routes)
    money = survey.items[source.price.item].name
    price = f"{source.price.amount:,} {money}"
    message = f"nobody can pay {price}: along {names} none is earned before, nor owned"
    yield Finding("warning", survey.path("source", source.id) + ".price", "source", source.id, message)


def _can_pay(survey: Survey, route: Route, source: Source) -> bool:
    assert source.price is not None
    if route.purse.get(source.price.item, 0) >= source.price.amount:
        return True
    for leg in route.legs:
        if leg.source == source.id:
            return False
        if leg.sells is not None and leg.sells.item == source.price.item:
            return True
        if _brings(survey, leg, survey.under.item_index[source.price.item]):
            return True
    return False


def _brings(survey: Survey, leg: RouteLeg, item: int) -> bool:
    """Whether some of an item can come on a leg."""
    starts: list[View] = []
    if leg.source is not None:
        starts.append(View("source", leg.source))
    elif leg.visits is not None:
        low, high = sorted((leg.from_, leg.to))
        bands = (band_at(survey.game, depth) for depth in range(low, high + 1))
        starts += [View("table", band.spawns) for band in bands if band is not None and band.spawns]
    everywhere = np.ones(survey.under.depths.size, dtype=bool)
    for start in dict.fromkeys(starts):
        for view in survey.reached_at(start, everywhere):
            if view.kind == "table":
                lines = survey.under.table(view.id).lines
                if any(item in items_of(survey, line) for line in lines):
                    return True
    return False


def _earns(survey: Survey, source: Source) -> Iterator[Finding]:
    """A purchase that brings more than it costs, by itself or with the best sale that any route offers."""
    price = source.price
    assert price is not None
    sales = [leg.sells for route in survey.game.routes for leg in route.legs if leg.sells is not None]
    share = max((sale.share for sale in sales if sale.item == price.item), default=0.0)
    best, at = 0.0, 0
    where = survey.under.depths[survey.met(source)]
    rows = np.unique(np.linspace(0, max(where.size - 1, 0), _DEPTHS).round().astype(int))
    for depth in (int(where[row]) for row in rows if where.size):
        go_on()
        gained = _gained(survey, source, depth, share) - price.amount
        if gained > best * (1 + 1e-12) + 1e-9:
            best, at = gained, depth
    if best <= 0:
        return
    money, player = survey.items[price.item].name, survey.game.words.player
    how = f"buying {source.name}" if share == 0 else f"buying {source.name} and selling what it gives"
    message = (
        f"a {player} can earn without end by {how}: {best:.4g} {money} a round "
        f"{survey.words(survey.under.depths == at)}"
    )
    path = survey.path("source", source.id) + ".price"
    yield Finding("warning", path, "source", source.id, message, field="price", depths=(at, at))


def _gained(survey: Survey, source: Source, depth: int, share: float) -> float:
    """Money from a purchase in the long run: what it gives, and what all else is sold for; 0 where that is
    not told exactly."""
    price, game = source.price, survey.game
    assert price is not None
    prospect = Prospect(Evaluator(Conditions(game, [depth]), detail=False), View("source", source.id))
    gained = 0.0
    for at, item in enumerate(game.items):
        try:
            mean = prospect.long_run_mean(prospect.columns.item(at))
        except TooLarge:
            return 0.0
        if item.id == price.item:
            gained += mean
        elif not item.currency:
            gained += mean * item.value * share
    return gained
