"""A parcel with a price: what one of an item costs, and how much of its price comes back."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from golddice.core.errors import QueryError
from golddice.core.forecast.ahead import Ahead
from golddice.core.forecast.later import Later
from golddice.core.game.finding import by_id
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.odds.carried.prospect import Prospect
from golddice.core.odds.event.evaluator import Evaluator
from golddice.core.terms.conditions import Conditions


def parcel(game: Game, source: str, *, depth: int, flags: Iterable[str] = ()) -> dict[str, Any]:
    """Of each item that can come: what it costs to have one, on average, and for half, nine in ten and 99 in
    100 buyers; None for never, of the mean where some never have one; `more_than` what it costs at the least
    where nobody who was played had one by then. `pays_back` is what comes of a purchase over its price, in
    worth, in the long run; None where money is worth nothing.

    Raises UnknownThing, and QueryError of a source without a price.
    """
    under = Conditions(game, [depth], flags)
    price = under.source(source).price
    if price is None:
        raise QueryError(f"“{source}” has no price; give it one, and it is told what things cost")
    prospect = Prospect(Evaluator(under, detail=False), View("source", source))
    ahead, later = Ahead(prospect), Later(prospect)
    money = by_id(game.items, price.item)
    worth = price.amount * money.value
    found = {}
    for at, item in enumerate(game.items):
        column = prospect.columns.item(at)
        hit = ahead.hit(column)
        if hit > 0:
            wait, mean = later.wait(column), later.mean_wait(column).figure
            found[item.id] = {
                "mean": None if mean is None or math.isinf(mean) else price.amount * mean,
                **{f"cost_{q}": _times(price.amount, wait.events[f"first_{q}"]) for q in (50, 90, 99)},
                "more_than": {
                    name.replace("first", "cost"): price.amount * purchases
                    for name, purchases in wait.more_than.items()
                },
            }
    back = later.value().settled
    return {
        "item": price.item,
        "amount": price.amount,
        "pays_back": back / worth if worth > 0 and back is not None else None,
        "method": "exact" if ahead.method == later.method == "exact" else "simulated",
        "items": found,
    }


def _times(amount: int, purchases: int | None) -> int | None:
    return None if purchases is None else amount * purchases
