"""Which depths are alike: at which every chance of a view is the same."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.game.models import Table
from golddice.core.odds.event.rules import roll_chances
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.size import Rolled


def depth_keys(under: Conditions, rolls: Rolled) -> list[bytes]:
    """A cache key for each depth: the same where everything that depth changes is the same. `rolls` is
    `size.most_rolls` of what is rolled."""
    columns: list[FloatArray] = [under.ones]
    for kind, name in rolls:
        if kind == "source":
            for drop in under.source(name).drops:
                columns += [under.drop_chance(drop), under.drop_open(drop).astype(np.float64)]
                columns.append(under.curve(drop.times.curve))
            continue
        table = under.table(name)
        columns += [*_entries(table, under), under.curve(table.rolls.curve)]
        for line in table.lines:
            columns.append(under.line_open(line, table.rule != "deck").astype(np.float64))
            columns += [under.curve(given.quantity.curve) for given in line.yields]
            for given in line.yields:
                if given.pool is not None:
                    columns += list(under.pool_chances(given.pool))
    return [row.tobytes() for row in np.column_stack(columns)]


def _entries(table: Table, under: Conditions) -> list[FloatArray]:
    """What a roll is worked out from, for a player who carries anything: a line that is hidden from a
    fresh one, behind one that is sure, has its turn once that one's limit is reached."""
    if table.rule in ("each", "first"):
        return list(under.chances(table))
    if table.rule == "retry":
        return [*under.weights(table), *under.chances(table)]
    chances, nothing = roll_chances(table, under)
    return [*chances, nothing]
