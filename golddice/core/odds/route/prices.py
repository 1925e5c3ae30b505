"""Whether what is bought along a route rests on luck."""

from __future__ import annotations

from collections.abc import Sequence

from golddice.core.errors import TooLarge
from golddice.core.game.models import Game, Route
from golddice.core.odds.route.counts import law_of_count
from golddice.core.odds.route.visits import met_on
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.stops import Stop


def check_prices(game: Game, route: Route, stops: Sequence[Stop]) -> None:
    """Raise TooLarge unless the purse at the start is sure to hold all that could be bought."""
    sources = {source.id: source for source in game.sources}
    priced = [source for source in met_on(game, stops) if source.price is not None]
    if priced:
        raise TooLarge(
            f"visits may meet “{priced[0].id}”, which has a price: what is bought is not told exactly"
        )
    needed: dict[str, int] = {}
    for stop in stops:
        price = sources[stop.view.id].price if stop.doing == "events" and stop.view is not None else None
        if price is not None:
            most = law_of_count(Conditions(game, [stop.depth], stop.flags), stop.times).most
            needed[price.item] = needed.get(price.item, 0) + most * price.amount
    for item, amount in needed.items():
        if route.purse.get(item, 0) < amount:
            raise TooLarge(
                f"the purse at the start holds {route.purse.get(item, 0):,} “{item}”, and {amount:,} could "
                "be spent: what is bought is not told exactly"
            )
