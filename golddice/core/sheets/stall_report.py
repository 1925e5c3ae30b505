"""Everything that is told of a stall: its calendar from a moment on, and how often its goods are on sale."""

from __future__ import annotations

import math
from datetime import UTC, datetime, timedelta
from typing import Any

from golddice.core.errors import QueryError
from golddice.core.game.models import Game
from golddice.core.odds.stalls import MOST_PERIODS, Sale, absence_of, seen_within, stall_of, until_all

YEAR = 400  # periods whose longest absences are told
_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


def stall_report(
    game: Game, name: str, at: str, count: int = 1, *, look_every: int | None = None, looks: int = 1
) -> dict[str, Any]:
    """So many periods from a moment on (ISO 8601; without a zone UTC), with the goods by slot, and the share
    of periods of each good; with `look_every` also whether one sees it.

    Raises UnknownThing and QueryError.
    """
    sale = Sale(game, stall_of(game, name))
    if not 1 <= count <= MOST_PERIODS:
        raise QueryError(f"periods must be 1 to {MOST_PERIODS:,}, got {count:,}")
    first = sale.period_at(moment_of(at))
    report: dict[str, Any] = {
        "method": "simulated" if sale.is_counted else "exact",
        "periods": [
            {
                "k": period,
                "from": iso(sale.begins(period)),
                "to": iso(sale.begins(period + 1)),
                "goods": sale.on_sale(period),
            }
            for period in range(first, first + count)
        ],
        "shares": sale.shares,
        "prices": sale.prices,
    }
    if look_every is not None:
        report["goods"] = _figures(sale, max(first, 0), look_every, looks)
    return report


def _figures(sale: Sale, first: int, every: int, looks: int) -> dict[str, Any]:
    seen, longest = seen_within(sale, every, looks), sale.absences(first, YEAR)
    is_drawn, periods = sale.stall.way == "draw", until_all(sale)
    errors = {
        share_name: math.sqrt(share * (1.0 - share) / 100_000) if sale.is_counted else 0.0
        for share_name, share in sale.shares.items()
    }
    return {
        "until_all": {"mean": float(periods.mean()), "most": float(periods.max())},
        "by_good": {
            name: {
                "share": share,
                "share_error": errors[name],
                "absence_mean": (1.0 - share) / share if is_drawn and share > 0 else None,
                "absence_99": absence_of(share, 0.99) if is_drawn else None,
                "longest": longest[name],
                "seen": seen[name],
            }
            for name, share in sale.shares.items()
        },
    }


def moment_of(text: str) -> float:
    """Unix time of a moment as ISO 8601; without a zone it is UTC. Raises QueryError."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise QueryError(f"“{text[:60]}” is no moment; write 2031-04-01T12:00:00Z") from None
    aware = found if found.tzinfo is not None else found.replace(tzinfo=UTC)
    return (aware - _EPOCH) / timedelta(seconds=1)


def iso(seconds: int) -> str:
    """Unix time as ISO 8601 in UTC. Raises QueryError beyond the calendar."""
    try:
        return (_EPOCH + timedelta(seconds=seconds)).strftime("%Y-%m-%dT%H:%M:%SZ")
    except OverflowError:
        raise QueryError("that lies beyond the calendar's years 1 to 9999") from None
