"""What depth does that was hardly meant: items that vanish and come back, tiers that run backwards."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from golddice.core.arrays import BoolArray, FloatArray, IntArray
from golddice.core.findings.finding import Finding
from golddice.core.findings.survey import Survey
from golddice.core.game.views import View
from golddice.core.odds.depths.along import gaps, tier_shares
from golddice.core.odds.depths.depth_odds import DepthOdds

_SEEN = 1e-4  # a tier that is rarer than this is not compared


def look(survey: Survey) -> Iterator[Finding]:
    if survey.under.depths.size < 2:
        return
    odds = DepthOdds(survey.under)
    every = np.arange(len(survey.game.items))
    obtainable = np.zeros((len(survey.game.items), survey.under.depths.size), dtype=bool)
    for source in survey.game.sources:
        mean, met = odds.means(View("source", source.id)), survey.met(source)
        obtainable |= (mean > 0) & met
        falls = tier_shares(survey.under, every, mean)[0]
        for message, where in _tiers(survey, falls, met):
            yield survey.of_source(source, message, field="depths", depths=survey.span(where))
    yield from _vanishing(survey, obtainable)


def _vanishing(survey: Survey, obtainable: BoolArray) -> Iterator[Finding]:
    for at, item in enumerate(survey.game.items):
        for low, high in gaps(survey.under, obtainable[at]):
            where = (survey.under.depths >= low) & (survey.under.depths <= high)
            message = f"nobody can get {item.name} {survey.words(where)}, though before and after it falls"
            yield Finding("warning", f"items[{at}]", "item", item.id, message, None, "depths", (low, high))


def _tiers(survey: Survey, falls: FloatArray, met: BoolArray) -> Iterator[tuple[str, BoolArray]]:
    """A higher tier that gives way to a lower one, and a top tier that comes in a leap."""
    rows = np.flatnonzero(met)
    if rows.size < 2:
        return
    first, last = rows[0], rows[-1]
    change = falls[:, last] - falls[:, first]
    held = np.asarray((falls[:, rows] > _SEEN).all(axis=1))
    for high in range(falls.shape[0] - 1, 0, -1):
        lower = [low for low in range(high) if held[low] and change[low] > 0.02]
        if held[high] and lower and change[high] < -0.1 * falls[high, first]:
            tiers = survey.game.tiers
            message = (
                f"{tiers[high].name} falls from {_share(falls[high, first])} to {_share(falls[high, last])} "
                f"with {survey.game.words.depth}, while the lower {tiers[lower[0]].name} rises"
            )
            yield message, met
            break
    yield from _leap(survey, falls, rows)


def _leap(survey: Survey, falls: FloatArray, rows: IntArray) -> Iterator[tuple[str, BoolArray]]:
    """The highest tier that falls here, more than so many times as often one depth further as the game
    says is too much."""
    there = [tier for tier in range(falls.shape[0]) if falls[tier, rows].max() > _SEEN]
    if not there:
        return
    share = falls[there[-1], rows]
    before, after = share[:-1], share[1:]
    leap = np.flatnonzero((before > _SEEN) & (after > survey.game.depth.leap * before))
    if leap.size:
        row = rows[leap[0] + 1]
        name = survey.game.tiers[there[-1]].name
        where = np.arange(survey.under.depths.size) == row
        low, high = before[leap[0]], after[leap[0]]
        most = survey.game.depth.leap
        message = (
            f"{name} leaps from {_share(low)} to {_share(high)} {survey.words(where)}: "
            f"{high / low:.3g} times as much, and more than {most:g} is a leap"
        )
        yield message, where


def _share(share: float) -> str:
    return f"{100 * share:.3g} %"
