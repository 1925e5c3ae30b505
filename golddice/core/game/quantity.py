"""Quantities: how many. A uniform range with a step, or dice; perhaps scaled by a curve.

People write `3`, `1-3`, `1000-2000/100` or `2d6+1`; files hold the fields below.
"""

from __future__ import annotations

import re
from typing import Annotated, Any, Self

from pydantic import BaseModel, ConfigDict, ValidationInfo, model_validator

from golddice.core.game.naming import Id, Names

LARGEST = 1_000_000_000
MOST_DICE = 1_000
MOST_FACES = 1_000_000

_DICE = re.compile(r"(\d{1,7})d(\d{1,9})(?:([+-])(\d{1,10}))?")
_THOUSANDS = re.compile(r"(?<=\d)[\s\u00a0\u2009\u202f](?=\d{3}(?!\d))")  # between them, as in 20 000
_IN_THOUSANDS = re.compile(r"\b(\d{1,6}(?:\.\d{1,3})?)k\b")
_RANGE = re.compile(r"(\d{1,12})(?:\s*[-–]\s*(\d{1,12}))?(?:\s*/\s*(\d{1,12}))?")

CurveId = Annotated[Id, Names("curve")]


class Quantity(BaseModel):
    """A whole number >= 0, drawn anew each time it is needed.

    `min`, `max`, `step`: uniform over min, min + step, ... max, ends included.
    `dice`: the sum of so many fair dice, plus or minus a constant, as in `2d6+1`.
    `curve`: the drawn x becomes x * c(depth), rounded up or down at random so the mean is exact.
    """

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    min: int | None = None
    max: int | None = None
    step: int = 1
    dice: str | None = None
    curve: CurveId | None = None

    @model_validator(mode="before")
    @classmethod
    def _typed(cls, data: Any, info: ValidationInfo) -> Any:
        """Where the reader allows it (a screen, never a file), take what a person typed: text, or
        `{"typed": text, "curve": id}`, since a curve is not typed."""
        if not (info.context or {}).get("typed"):
            return data
        if isinstance(data, dict) and isinstance(data.get("typed"), str):
            return quantity_fields(data["typed"]) | {"curve": data.get("curve")}
        return quantity_fields(data) if isinstance(data, str) else data

    @model_validator(mode="after")
    def _is_sound(self) -> Self:
        problem = self._dice_problem() if self.dice is not None else self._range_problem()
        if problem:
            raise ValueError(problem)
        return self

    def _range_problem(self) -> str | None:
        if self.min is None or self.max is None:
            return "give both min and max, or dice"
        if self.min < 0:
            return f"a quantity cannot be negative, got {self.min}"
        if self.min > self.max:
            return f"min {self.min} is above max {self.max}; swap them"
        if self.max > LARGEST:
            return f"{self.max} is more than {LARGEST}, the largest quantity"
        if self.step < 1:
            return f"step must be at least 1, got {self.step}"
        if (self.max - self.min) % self.step:
            return f"step {self.step} does not lead from {self.min} to {self.max}"
        return None

    def _dice_problem(self) -> str | None:
        if self.min is not None or self.max is not None or self.step != 1:
            return "give dice or min and max, not both"
        match = _DICE.fullmatch(self.dice or "")
        if match is None:
            return f"dice are written like 2d6+1, got “{self.dice}”"
        count, faces, least = *self.dice_parts()[:2], self.least
        if not 1 <= count <= MOST_DICE or not 1 <= faces <= MOST_FACES:
            return f"1 to {MOST_DICE} dice of 1 to {MOST_FACES} faces, got “{self.dice}”"
        if least < 0:
            return f"a quantity cannot be negative, but {self.dice} can give {least}"
        return None

    def dice_parts(self) -> tuple[int, int, int]:
        """(number of dice, faces, constant) of a dice quantity."""
        match = _DICE.fullmatch(self.dice or "")
        assert match is not None
        plus = int(match[4] or 0) * (-1 if match[3] == "-" else 1)
        return int(match[1]), int(match[2]), plus

    @property
    def least(self) -> int:
        """The smallest value before any curve."""
        if self.dice is None:
            return self.min or 0
        count, _, plus = self.dice_parts()
        return count + plus

    @property
    def most(self) -> int:
        """The largest value before any curve."""
        if self.dice is None:
            return self.max or 0
        count, faces, plus = self.dice_parts()
        return count * faces + plus

    def __str__(self) -> str:
        """As people write it; `parse_quantity` reads it back."""
        if self.dice is not None:
            return self.dice
        if self.min == self.max:
            return str(self.min)
        return f"{self.min}-{self.max}" + (f"/{self.step}" if self.step != 1 else "")


ONE = Quantity(min=1, max=1)


def parse_quantity(text: str, curve: str | None = None) -> Quantity:
    """Read what a person typed: `3`, `1-3`, `1000-2000/100` or `2d6+1`.

    Raises ValueError (pydantic's, with our sentence) when it is none of these or is unsound.

    >>> str(parse_quantity(" 1000 - 2000 / 100 "))
    '1000-2000/100'
    """
    return Quantity(**quantity_fields(text), curve=curve)


def quantity_fields(text: str) -> dict[str, Any]:
    """The fields of a quantity as a person typed it; not yet checked for soundness."""
    cleaned = _THOUSANDS.sub("", text.strip().lower())
    cleaned = _IN_THOUSANDS.sub(lambda found: str(round(float(found[1]) * 1000)), cleaned)
    if _DICE.fullmatch(cleaned.replace(" ", "")):
        return {"dice": cleaned.replace(" ", "")}
    match = _RANGE.fullmatch(cleaned)
    if match is None:
        raise ValueError(f"a quantity is written 3, 1-3, 1000-2000/100 or 2d6+1, got “{text}”")
    low = int(match[1])
    high = int(match[2]) if match[2] is not None else low
    return {"min": low, "max": high, "step": int(match[3] or 1)}
