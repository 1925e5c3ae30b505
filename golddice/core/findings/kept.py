"""What is kept: sets and properties that cannot come right, scores that say nothing, bags that one drop
fills."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.items import larger_stack, offered
from golddice.core.findings.survey import Survey
from golddice.core.game.models import Item, Property, Route
from golddice.core.game.reading import plain
from golddice.core.odds.kit.scores import MOST_STATS, Score, score_of
from golddice.core.stopping import go_on
from golddice.core.terms.conditions import Conditions

BEATEN = 0.4  # of the units of the tier above: from here on rarity does not tell
_DEPTHS = 6
_POINTS = 201


def look(survey: Survey) -> Iterator[Finding]:
    yield from _sets(survey)
    for one in survey.game.properties:
        yield from _property(survey, one)
    yield from _scores(survey)
    yield from _tiers(survey)
    for route in survey.game.routes:
        yield from _bag(survey, route)


def _sets(survey: Survey) -> Iterator[Finding]:
    """Pieces that nobody can receive, and sets without any."""
    known = offered(survey)
    for at, one in enumerate(survey.game.sets):
        path = f"sets[{at}]"
        if not one.items:
            yield Finding("warning", path, "set", one.id, "it has no pieces: it is never complete")
        for place, piece in enumerate(one.items):
            if survey.under.item_index[piece.item] in known:
                continue
            name = survey.items[piece.item].name
            message = f"it is never complete: nobody can receive {name}"
            yield Finding(
                "warning",
                f"{path}.items[{place}]",
                "set",
                one.id,
                message,
                mend=_without_piece(survey, at, place),
            )


def _without_piece(survey: Survey, at: int, place: int) -> Mend:
    one = survey.game.sets[at]

    def make() -> Body:
        body = plain(one)
        del body["items"][place]
        return body

    return Mend("take the piece out", "set", one.id, make)


def _property(survey: Survey, one: Property) -> Iterator[Finding]:
    """All that is added together passes a bound, or leads to nothing where there is no bound."""
    known = offered(survey)
    added: list[float] = []
    for at, item in enumerate(survey.game.items):
        if at in known:
            added += [effect.amount * effect.units for effect in item.effects if effect.property == one.id]
    for whole in survey.game.sets:
        added += [effect.amount for effect in whole.effects if effect.property == one.id]
    high = one.base + sum(amount for amount in added if amount > 0)
    low = one.base + sum(amount for amount in added if amount < 0)
    path = survey.path("property", one.id)
    if one.most is not None and high > one.most:
        message = (
            f"all pieces together come to {high:g}, {high - one.most:g} more than its most of {one.most:g}: "
            "that much is for nothing"
        )
        yield Finding("warning", f"{path}.most", "property", one.id, message)
    if one.least is not None and low < one.least:
        short = one.least - low
        message = f"all that takes from it comes to {low:g}, {short:g} below its least of {one.least:g}"
        yield Finding("warning", f"{path}.least", "property", one.id, message)
    if one.least is None and low <= 0 < one.base:
        message = f"it can fall to {low:g}: say its least"
        yield Finding("warning", f"{path}.least", "property", one.id, message)


def _scores(survey: Survey) -> Iterator[Finding]:
    """Scores for stats that nothing with a slot has."""
    stats = {name for item in survey.game.items if item.slot is not None for name in item.stats}
    for name in survey.game.scores:
        if name not in stats:
            message = f"a point of “{name}” has a score, and nothing that is worn has that stat"
            yield Finding("warning", f"scores.{name}", "settings", "game", message)


def _tiers(survey: Survey) -> Iterator[Finding]:
    """Slots in which what is rarer is not better."""
    game = survey.game
    order = {tier.id: at for at, tier in enumerate(game.tiers)}
    names = {tier.id: tier.name for tier in game.tiers}
    depths = np.unique(np.linspace(game.depth.from_, game.depth.to, _DEPTHS).round().astype(int)).tolist()
    for slot in dict.fromkeys(item.slot for item in game.items if item.slot is not None):
        worn = [item for item in game.items if item.slot == slot and _is_scored(item)]
        by_tier = {tier: [one for one in worn if one.tier == tier] for tier in order}
        held = [tier for tier in order if by_tier[tier]]
        for lower, higher in pairwise(held):
            go_on()
            worst = max((_beaten(survey, by_tier[lower], by_tier[higher], depth), depth) for depth in depths)
            if worst[0] >= BEATEN:
                item, share = by_tier[higher][0], 100 * worst[0]
                message = (
                    f"for {slot}, {names[lower]} scores as much as {names[higher]} in {share:.0f} of 100, "
                    f"{survey.words(survey.under.depths == worst[1])}: the tier does not tell what is better"
                )
                yield Finding("warning", survey.path("item", item.id) + ".stats", "item", item.id, message)


def _is_scored(item: Item) -> bool:
    varied = sum(stat.min != stat.max for stat in item.stats.values())
    return bool(item.stats) and varied <= MOST_STATS


def _beaten(survey: Survey, lower: list[Item], higher: list[Item], depth: int) -> float:
    """How often a unit of the lower tier scores no less than one of the higher, each of them as likely."""
    under = Conditions(survey.game, [depth])
    low, high = ([score_of(under, item) for item in items] for items in (lower, higher))
    return float(np.mean([_chance(one, other) for one in low for other in high]))


def _chance(one: Score, other: Score) -> float:
    """That `one` comes to no less than `other`."""
    if one.widths.size == 0:
        return float(other.at_most(np.array([one.low]))[0])
    points = np.linspace(one.low, one.high, _POINTS)
    steps = np.diff(one.at_most(points))
    middles = (points[:-1] + points[1:]) / 2
    return float(steps @ other.at_most(middles))


def _bag(survey: Survey, route: Route) -> Iterator[Finding]:
    """Drops that can fill the whole bag in one event, since so few of them make a stack."""
    if route.bag is None:
        return
    cells = route.bag[0] * route.bag[1]
    told: set[str] = set()
    for table in survey.game.tables:
        for at, line in enumerate(table.lines):
            for given in line.yields:
                item = survey.items.get(given.item or "")
                if item is None or item.currency or item.id in told:
                    continue
                most = given.quantity.most
                taken = -(-most // item.stack) * item.width * item.height
                if most > 1 and taken >= cells:
                    told.add(item.id)
                    message = (
                        f"{most:,} {item.name} at once take {taken:,} cells, and the bag of {route.name} has "
                        f"{cells}: one event fills it"
                    )
                    mend = larger_stack(item, most)
                    yield survey.of_table(table, message, at, field="quantity", mend=mend)
