"""Money: what an hour brings, what can be spent of it on parcels and at stalls, what sales would bring."""

from __future__ import annotations

from typing import Any

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Game
from golddice.core.odds.stalls import Sale
from golddice.core.overview.along import Hours
from golddice.core.stopping import go_on
from golddice.core.terms.pace import HOUR
from golddice.core.terms.stops import bands_at


def money(hours: Hours) -> dict[str, Any]:
    """By money and band: how much an hour brings, on average over its depths; what each parcel costs, in
    hours of the band that brings most; what a stall's goods cost an hour, all of them bought."""
    game = hours.met.under.game
    coins = [(at, item) for at, item in enumerate(game.items) if item.currency]
    bands = _bands(hours)
    found = []
    for at, item in coins:
        income = {name: float(hours.items[at][here].mean()) for name, here in bands.items()}
        found.append(
            {
                "item": item.id,
                "income": income,
                "income_by_depth": hours.items[at].tolist(),
                "parcels": _parcels(game, item.id, max(income.values(), default=0.0)),
            }
        )
    return {
        "money": found,
        "sales": _sales(hours, bands),
        "stalls": [_stall(game, stall.id) for stall in game.stalls],
    }


def _bands(hours: Hours) -> dict[str, Any]:
    """The depths of each band at which something is met; without bands all of them, as one."""
    under = hours.met.under
    counts, some = bands_at(under.game, under.depths), hours.visits > 0
    found = {band.id: (counts == at) & some for at, band in enumerate(under.game.depth.bands)}
    return {name: here for name, here in found.items() if bool(here.any())}


def _parcels(game: Game, money_item: str, best: float) -> list[dict[str, Any]]:
    prices = [one for one in game.sources if one.price is not None and one.price.item == money_item]
    return [
        {
            "source": one.id,
            "price": float(one.price.amount),
            "hours": float(one.price.amount) / best if best > 0 else None,
        }
        for one in prices
        if one.price is not None
    ]


def _sales(hours: Hours, bands: dict[str, FloatArray]) -> dict[str, Any] | None:
    """What all that is no money would bring an hour at the best share that any route sells for; None where
    nothing is sold."""
    game = hours.met.under.game
    offers = [leg.sells for route in game.routes for leg in route.legs if leg.sells is not None]
    if not offers:
        return None
    best = max(offers, key=lambda one: one.share)
    worth = np.array([0.0 if item.currency else item.value for item in game.items]) @ hours.items
    by_band = {name: best.share * float(worth[here].mean()) for name, here in bands.items()}
    return {"item": best.item, "share": best.share, "income": by_band}


def _stall(game: Game, name: str) -> dict[str, Any]:
    """What all goods of a stall cost in an hour, each as often as it is on sale."""
    go_on()
    stall = next(one for one in game.stalls if one.id == name)
    sale = Sale(game, stall)
    a_period = sum(share * sale.prices[good] for good, share in sale.shares.items())
    return {"stall": name, "an_hour": a_period * HOUR / stall.period_seconds, "a_period": a_period}
