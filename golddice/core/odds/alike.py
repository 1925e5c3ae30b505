"""Which depths are alike: at which every chance of a view is the same."""

from __future__ import annotations

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.odds.conditions import Conditions
from golddice.core.odds.resting import Rolled
from golddice.core.odds.rules import roll_chances


def depth_signs(under: Conditions, rolls: Rolled) -> list[bytes]:
    """A sign for each depth: the same where everything that depth changes is the same. `rolls` is
    `size.most_rolls` of what is rolled."""
    columns: list[FloatArray] = [under.ones]
    for kind, name in rolls:
        if kind == "source":
            columns += [under.drop_chance(drop) for drop in under.source(name).drops]
            columns += [under.curve(drop.times.curve) for drop in under.source(name).drops]
            continue
        table = under.table(name)
        columns += [*roll_chances(table, under)[0], under.curve(table.rolls.curve)]
        for line in table.lines:
            columns.append(under.line_open(line, table.rule != "deck").astype(np.float64))
            columns += [under.curve(given.quantity.curve) for given in line.yields]
            for given in line.yields:
                if given.pool is not None:
                    columns += list(under.pool_chances(given.pool))
    return [row.tobytes() for row in np.column_stack(columns)]
