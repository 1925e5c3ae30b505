"""Which sources a spawn table gives: how many events of each, and the chance of each in one roll."""

from __future__ import annotations

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Drop
from golddice.core.game.quantity import ONE
from golddice.core.game.views import View
from golddice.core.odds.depths.depth_odds import odds_of_view
from golddice.core.odds.depths.flows import flows
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.marks import mark_item, mark_table, mark_tier
from golddice.core.terms.size import most_rolls


def spawned(under: Conditions, table: str) -> dict[str, FloatArray]:
    """Expected events of each source in one execution of a spawn table, by depth; what those roll
    aside."""
    start = View("table", table)
    found = flows(under, most_rolls(under, start), start, past_sources=False)
    return {view.id: count for view, count in found.items() if view.kind == "source" and count.any()}


def chances_of_sources(under: Conditions, table: str) -> dict[str, float]:
    """Chance of each source in one roll of a table, also by way of tables in it: every source is made
    to give a mark of its own, and the marks' chances are asked for."""
    game, first = under.game, len(under.game.items)
    names = [source.id for source in game.sources]
    rolled = [one.model_copy(update={"rolls": ONE}) if one.id == table else one for one in game.tables]
    marks = [mark_item(name) for name in names]
    sources = [
        source.model_copy(update={"drops": [Drop.model_construct(id="", table=mark.id)]})
        for source, mark in zip(game.sources, marks, strict=True)
    ]
    marked = game.model_copy(
        update={
            "tiers": [*game.tiers, mark_tier()],
            "items": [*game.items, *marks],
            "tables": [*rolled, *map(mark_table, marks)],
            "sources": sources,
        }
    )
    odds = odds_of_view(Conditions(marked, under.depths, under.flags), View("table", table))
    hits = zip(odds.places.tolist(), odds.hit[:, 0].tolist(), strict=True)
    return {names[at - first]: hit for at, hit in hits if at >= first}
