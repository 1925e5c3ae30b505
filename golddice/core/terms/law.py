"""The law of a quantity: its distribution, and what it does to independent repeats."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from propcache.api import cached_property

from golddice.core.arrays import ComplexArray, FloatArray, IntArray
from golddice.core.errors import TooLarge
from golddice.core.game.quantity import Quantity
from golddice.core.terms.rolling import any_of_tries

MOST_VALUES = 2_000_000
MOST_AMOUNT = 1e15  # of one thing at once: a few thousand times as many can be counted in whole numbers
TOO_MANY = f"more than {MOST_AMOUNT:.0e} at once are not counted"
MOST_LISTED = 100_000
MOST_ALONG = 20_000_000  # values, over all depths at which a curve makes another law of a quantity
_MOST_DICE_WORK = 200_000_000
_CLOSED_FORM = 32
_MOST_STEPS = 64
_MOST_TERMS = 500_000_000
_NONE = -800.0  # e^-800 is 0


@dataclass(frozen=True)
class Law:
    """Distribution of a whole number, the same at all depths.

    Attributes
    ----------
    values : ndarray of int, shape (n,), rising
    chances : ndarray, shape (n,); sum to 1
    """

    values: IntArray
    chances: FloatArray
    step: int | None = None  # of a uniform range, whose repeats have a closed form

    varies = False

    @cached_property
    def is_one(self) -> bool:
        """Always exactly 1, so that repeating changes nothing."""
        return self.values.size == 1 and int(self.values[0]) == 1

    @cached_property
    def mean(self) -> FloatArray:
        """Shape (1,)."""
        return np.atleast_1d(self.chances @ self.values)

    @cached_property
    def var(self) -> FloatArray:
        """Shape (1,). By deviations, so a constant has exactly 0."""
        off = self.values - float(self.mean[0])
        return np.atleast_1d(self.chances @ (off * off))

    @cached_property
    def some(self) -> FloatArray:
        """Chance of at least one, shape (1,)."""
        return np.atleast_1d(self.chances[self.values > 0].sum())

    @cached_property
    def figures(self) -> tuple[float, float, float]:
        """(some, mean, var)."""
        return float(self.some[0]), float(self.mean[0]), float(self.var[0])

    @cached_property
    def most(self) -> int:
        return int(self.values[-1])

    def any_of(self, hit: FloatArray) -> FloatArray:
        """Chance of at least one success in this many tries of chance `hit`, shape (d, k).

        Sum of chance(n) * (1 - (1 - hit)^n), each term step by step or through expm1 and log1p, so
        that a hit of 1e-12 keeps its digits.
        """
        if self.is_one:
            return hit
        if self.is_short:
            result = np.ascontiguousarray(hit).copy()
            self.any_in_place(result)
            return result
        with np.errstate(divide="ignore"):
            log_miss = np.log1p(-hit)
        if self.step is not None and self.values.size > _CLOSED_FORM:
            return self._any_of_range(log_miss)
        if self.values.size > MOST_LISTED:
            raise TooLarge(f"a quantity with {self.values.size:,} outcomes; the limit is {MOST_LISTED:,}")
        total = np.zeros_like(hit)
        for n, chance in zip(self.values.tolist(), self.chances.tolist(), strict=True):
            if n > 0:
                total += chance * -np.expm1(n * log_miss)
        return np.minimum(total, 1.0)

    @property
    def is_short(self) -> bool:
        """A small number: `any_in_place` is for these only."""
        return self.most <= _MOST_STEPS

    def any_in_place(self, hit: FloatArray) -> None:
        """`any_of` written over `hit`, of any shape (a, b)."""
        weights = np.zeros(self.most + 1)
        weights[self.values] = self.chances
        any_of_tries(weights, hit)

    def _any_of_range(self, log_miss: FloatArray) -> FloatArray:
        """`any_of` for n values a, a + s ... of equal chance: the geometric series of q^value.

        Its mean is q^a times e^(x (n - 1) / 2) sinh(n x / 2) / (n sinh(x / 2)) with x = s log q. Taken
        through its logarithm it keeps the digits of a small chance.
        """
        assert self.step is not None
        least, count = int(self.values[0]), self.values.size
        log_miss = np.maximum(log_miss, _NONE)
        x = self.step * log_miss
        log_mean = least * log_miss + x * (count - 1) / 2 + _log_sinhc(count * x / 2) - _log_sinhc(x / 2)
        certain = self.some[0] if least == 0 else 1.0
        return np.where(log_miss <= _NONE, certain, -np.expm1(log_mean))

    def pgf(self, x: ComplexArray, row: int = 0) -> ComplexArray:
        """E[x^N] elementwise, at one depth; Horner's rule over the gaps between values."""
        values, chances = self.row(row)
        if values.size == 1:
            return np.asarray(x ** int(values[0]) * chances[0])
        if self.step is not None and values.size > _CLOSED_FORM:
            return np.asarray(x ** int(values[0]) * _powers_summed(x**self.step, values.size) / values.size)
        if values.size * x.size > _MOST_TERMS:
            raise TooLarge(f"a quantity with {values.size:,} outcomes on a grid of {x.size:,}")
        total = np.full_like(x, chances[-1])
        for at in range(values.size - 2, -1, -1):
            total = total * x ** int(values[at + 1] - values[at]) + chances[at]
        return np.asarray(total * x ** int(values[0]))

    def row(self, row: int) -> tuple[IntArray, FloatArray]:
        """(values rising, chances) at one depth."""
        return self.values, self.chances


class LawAlong:
    """The laws of a quantity that a curve makes another at each of d depths. Only their figures are
    kept; a depth's law is worked out when it is asked for."""

    varies = True
    is_one = False
    is_short = False

    def __init__(self, quantity: Quantity, factor: FloatArray) -> None:
        self._quantity, self._factor = quantity, factor
        self._values, self._chances = _entered(quantity)
        if self._values.size * np.unique(factor).size > MOST_ALONG:
            raise TooLarge(
                f"{quantity} has {self._values.size:,} values, and its curve makes others of them at "
                f"{np.unique(factor).size:,} depths; the limit is {MOST_ALONG:,} in all"
            )
        self._latest: tuple[float, Law] | None = None

    @cached_property
    def _each(self) -> FloatArray:
        """(some, mean, var, most) by depth, shape (d, 4)."""
        known: dict[float, tuple[float, ...]] = {}
        for law, rows in self._by_factor():
            known[float(self._factor[rows[0]])] = (*law.figures, float(law.most))
        return np.array([known[float(factor)] for factor in self._factor])

    @property
    def some(self) -> FloatArray:
        """Shape (d,), as the others."""
        return np.asarray(self._each[:, 0])

    @property
    def mean(self) -> FloatArray:
        return np.asarray(self._each[:, 1])

    @property
    def var(self) -> FloatArray:
        return np.asarray(self._each[:, 2])

    @cached_property
    def most(self) -> int:
        return int(self._each[:, 3].max())

    @property
    def figures(self) -> tuple[float, float, float]:
        """(some, mean, var) at the first depth."""
        return float(self.some[0]), float(self.mean[0]), float(self.var[0])

    def any_of(self, hit: FloatArray) -> FloatArray:
        """As `Law.any_of`, with another law at each depth; shape (d, k)."""
        result = np.empty_like(hit)
        for law, rows in self._by_factor():
            result[rows] = law.any_of(hit[rows])
        return result

    def any_in_place(self, hit: FloatArray) -> None:
        raise NotImplementedError("for laws that are the same at all depths")

    def pgf(self, x: ComplexArray, row: int = 0) -> ComplexArray:
        return self._law(float(self._factor[row])).pgf(x)

    def row(self, row: int) -> tuple[IntArray, FloatArray]:
        return self._law(float(self._factor[row])).row(0)

    def _by_factor(self) -> Iterator[tuple[Law, IntArray]]:
        """Each law, and the rows of the depths that have it."""
        factors, which = np.unique(self._factor, return_inverse=True)
        for at, factor in enumerate(factors.tolist()):
            yield self._law(factor), np.flatnonzero(which == at)

    def _law(self, factor: float) -> Law:
        latest = self._latest  # another thread may put another in its place meanwhile
        if latest is None or latest[0] != factor:
            self._latest = latest = (factor, Law(*_scaled(self._values, self._chances, factor)))
        return latest[1]

    @property
    def nbytes(self) -> int:
        return 4 * (self._values.nbytes + self._chances.nbytes) + 40 * self._factor.size


AnyLaw = Law | LawAlong


def law_of(quantity: Quantity, factor: FloatArray | None = None) -> AnyLaw:
    """The distribution of a quantity; `factor` is its curve at each depth, shape (d,). Raises TooLarge."""
    if factor is not None and quantity.most * float(factor.max()) > MOST_AMOUNT:
        raise TooLarge(f"{quantity} is {quantity.most * float(factor.max()):.3g} by its curve; {TOO_MANY}")
    if factor is None or bool(np.all(factor == 1.0)):
        return Law(*_entered(quantity), None if quantity.dice is not None else quantity.step)
    if bool(np.all(factor == factor[0])):
        return Law(*_scaled(*_entered(quantity), float(factor[0])))
    return LawAlong(quantity, factor)


def _entered(quantity: Quantity) -> tuple[IntArray, FloatArray]:
    """(values, chances) before any curve."""
    return _dice(quantity) if quantity.dice is not None else _range(quantity)


def _range(quantity: Quantity) -> tuple[IntArray, FloatArray]:
    low, high = quantity.least, quantity.most
    count = (high - low) // quantity.step + 1
    if count > MOST_VALUES:
        raise TooLarge(f"{quantity} has {count:,} values; the limit is {MOST_VALUES:,}")
    return low + quantity.step * np.arange(count, dtype=np.int64), np.full(count, 1.0 / count)


def _powers_summed(x: ComplexArray, count: int) -> ComplexArray:
    """1 + x + ... + x^(count - 1), by doubling: S(2k) = S(k) (1 + x^k), without a division."""
    total, power, done = np.ones_like(x), x, 1
    for bit in bin(count)[3:]:
        total, power, done = total * (1.0 + power), power * power, 2 * done
        if bit == "1":
            total, power, done = 1.0 + x * total, power * x, done + 1
    return total


def _log_sinhc(x: FloatArray) -> FloatArray:
    """log(sinh(x) / x), even in x; a series where x is small, so that no digits are lost."""
    size = np.abs(x)
    square = x * x
    near = square / 6 - square**2 / 180 + square**3 / 2835 - square**4 / 37800
    with np.errstate(divide="ignore", over="ignore", invalid="ignore"):
        far = size - np.log(2 * size) + np.log1p(-np.exp(-2 * size))
    return np.where(size < 0.1, near, far)


def _dice(quantity: Quantity) -> tuple[IntArray, FloatArray]:
    count, faces, plus = quantity.dice_parts()
    size = count * (faces - 1) + 1
    if size > MOST_VALUES or size * count > _MOST_DICE_WORK:
        raise TooLarge(
            f"{quantity} has {size:,} values of {count:,} dice; the limit is {MOST_VALUES:,} values, "
            f"and {_MOST_DICE_WORK:,} values times dice"
        )
    chances = np.ones(1)
    for _ in range(count):  # a running sum is a convolution with a die, exact for small chances too
        chances = _add_die(chances, faces)
    return count + plus + np.arange(size, dtype=np.int64), chances


def _add_die(chances: FloatArray, faces: int) -> FloatArray:
    if faces <= 64 or chances.size <= 64:
        return np.convolve(chances, np.full(faces, 1.0 / faces))
    summed = np.concatenate([np.cumsum(chances), np.full(faces - 1, 1.0)])
    summed[faces:] -= np.cumsum(chances)[: summed.size - faces]
    # The upper half is the lower one backwards: there the differences would be of next to 1.
    half = (summed.size + 1) // 2
    return np.concatenate([summed[:half], summed[: summed.size - half][::-1]]) / faces


def _scaled(values: IntArray, chances: FloatArray, factor: float) -> tuple[IntArray, FloatArray]:
    """x * factor made whole by stochastic rounding, so that the mean is exact."""
    exact = values * factor
    near = np.rint(exact)
    exact = np.where(np.abs(exact - near) < 1e-12 * near, near, exact)  # of what is next to 0 nothing is lost
    low = np.floor(exact)
    up = exact - low
    both = np.concatenate([low, low + 1.0]).astype(np.int64)
    weight = np.concatenate([chances * (1.0 - up), chances * up])
    kept, place = np.unique(both[weight > 0], return_inverse=True)
    return kept, np.bincount(place.ravel(), weights=weight[weight > 0]).astype(np.float64)
