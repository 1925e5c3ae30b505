"""Numbers as people write them: the fewest digits with which every aim is still met."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from golddice.core.arrays import FloatArray
from golddice.core.stopping import go_on
from golddice.core.tuning.numbers import CHANCES, Number

MOST_DIGITS = 9
_CLOSE = 0.1  # by which a whole weight may be off its share, where one of this measure is found
Values = dict[Number, float]
Holds = Callable[[Values], bool]


COST = 0.05  # by what share few digits may make a change larger


def size_of(values: Values) -> float:
    """The root of the sum of squares of all steps: logarithms of ratios, of odds of chances."""
    return math.sqrt(sum(number.change(value) ** 2 for number, value in values.items()))


def costing_little(holds: Holds, least: float) -> Holds:
    """What holds, and is hardly larger than the smallest change."""
    return lambda tried: size_of(tried) <= (1.0 + COST) * least + 1e-12 and holds(tried)


def rounded(values: Values, holds: Holds) -> Values:
    """The values with as few digits as can be, all alike first, then each with fewer where that holds too.
    As they are where none hold."""
    for digits in range(1, MOST_DIGITS + 1):
        go_on()
        found = {number: to_digits(number, value, digits) for number, value in values.items()}
        if holds(found):
            return _fewer(found, digits, holds)
    return values


def _fewer(values: Values, digits: int, holds: Holds) -> Values:
    """Numbers one by one with fewer digits, those that moved least first: an untouched number is shortest."""
    found = dict(values)
    for number in sorted(values, key=lambda one: abs(one.change(values[one]))):
        for fewer in range(digits):
            go_on()
            shorter = to_digits(number, values[number], fewer) if fewer else number.value
            if shorter == found[number]:
                break
            tried = {**found, number: shorter}
            if holds(tried):
                found = tried
                break
    return found


def to_digits(number: Number, value: float, digits: int) -> float:
    """So many digits; of a chance near 1 of what it lacks to 1, that it does not become certain."""
    if number.is_whole or value <= 0:
        return value
    if number.sort in CHANCES and value > 0.9:
        return float(f"{1.0 - _short(1.0 - value, digits):.12g}")
    return _short(value, digits)


def _short(value: float, digits: int) -> float:
    return float(f"{value:.{digits - 1}e}")


def in_whole(values: Values, every: Values, most: int, holds: Holds) -> Values | None:
    """Whole weights no larger than `most`: each table's weights are brought to a common measure. `every` are
    all weights of the tables that move, also those that stayed. None where no measure holds."""
    tables: dict[str, list[Number]] = {}
    for number in every:
        tables.setdefault(number.id, []).append(number)
    found = {number: value for number, value in values.items() if number not in every}
    for _, numbers in sorted(tables.items()):
        wanted = np.array([values.get(number, number.value) for number in numbers])
        so_far = {**values, **found}

        def with_these(tried: list[float], numbers: list[Number] = numbers, so_far: Values = so_far) -> bool:
            return holds(so_far | dict(zip(numbers, tried, strict=True)))

        whole = _measured(wanted, most, with_these)
        if whole is None:
            return None
        found |= dict(zip(numbers, whole, strict=True))
    return found


def _measured(wanted: FloatArray, most: int, holds: Callable[[list[float]], bool]) -> list[float] | None:
    """Whole weights at the measure that they have, if that holds; else at larger ones, up to `most`."""
    top = float(wanted.max())
    larger = [most * 0.8**at / top for at in range(60)]
    scales = [1.0, *sorted(one for one in larger if one > 1.0), *(one for one in larger if one <= 1.0)]
    measures = [np.maximum(np.rint(wanted * scale), np.where(wanted > 0, 1, 0)) for scale in scales]
    off = [
        float(np.abs(np.log(one / scale / wanted)).max()) for one, scale in zip(measures, scales, strict=True)
    ]
    for at in sorted(range(len(scales)), key=lambda at: off[at] > _CLOSE):
        go_on()
        if measures[at].max() <= most and holds(measures[at].tolist()):
            found: list[float] = measures[at].tolist()
            return found
    return None
