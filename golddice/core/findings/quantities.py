"""Quantities that no stack holds, that can come to nothing, or that come to far too much."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from golddice.core.errors import TooLarge
from golddice.core.findings.finding import Finding
from golddice.core.findings.items import larger_stack
from golddice.core.findings.survey import Survey, mended_line
from golddice.core.game.models import BaseLine, Table, Yield
from golddice.core.game.quantity import Quantity
from golddice.core.game.reading import plain
from golddice.core.game.views import View
from golddice.core.terms.size import MOST_EXECUTIONS, executions


def look(survey: Survey) -> Iterator[Finding]:
    for table in survey.game.tables:
        for at, line in enumerate(table.lines):
            for place, given in enumerate(line.yields):
                yield from _given(survey, table, at, line, place, given)
        yield from _shrinks(survey, table, table.rolls, None, "rolls")
    for source in survey.game.sources:
        most = executions(survey.under, View("source", source.id))
        if most > MOST_EXECUTIONS:
            message = f"one event may roll tables {most:,} times; it can be computed but not simulated"
            yield survey.of_source(source, message)


def _given(
    survey: Survey, table: Table, at: int, line: BaseLine, place: int, given: Yield
) -> Iterator[Finding]:
    within = f"yields[{place}].quantity"
    if given.quantity.most == 0:
        message = "this line can hit and give none of it: its quantity is 0"
        yields = plain(line)["yields"]
        yields[place] |= {"quantity": {"min": 1, "max": 1}}
        mend = mended_line(table, at, "give 1", yields=yields)
        yield survey.of_table(table, message, at, within=within, field="quantity", mend=mend)
    item = survey.items.get(given.item or "")
    if item is not None and given.quantity.most > item.stack and not item.currency:
        message = f"up to {given.quantity.most} {item.name}, but a stack holds {item.stack}"
        mend = larger_stack(item, given.quantity.most)
        yield survey.of_table(table, message, at, within=within, field="quantity", mend=mend)
    yield from _shrinks(survey, table, given.quantity, at, within)


def _shrinks(
    survey: Survey, table: Table, quantity: Quantity, at: int | None, within: str
) -> Iterator[Finding]:
    """A "min 1" that a curve takes below 1, so that it can give nothing; one that is too much to work out."""
    try:
        survey.under.law(quantity)
    except TooLarge as error:
        field = "quantity" if at is not None else "rolls"
        yield survey.of_table(table, f"this cannot be worked out: {error}", at, within=within, field=field)
        return
    if quantity.curve is None or quantity.least < 1:
        return
    factor = survey.under.curve(quantity.curve)
    where = quantity.least * factor < 1.0
    if not bool(where.any()):
        return
    least = quantity.least * float(factor[where].min())
    chance = 100 * (1.0 - least)
    message = (
        f"{survey.words(where)} its curve makes the smallest {quantity.least} into {least:.3g}: "
        f"{chance:.3g} % of those give nothing"
    )
    field = "quantity" if at is not None else "rolls"
    depths = survey.span(np.asarray(where))
    yield survey.of_table(table, message, at, within=within, field=field, depths=depths)
