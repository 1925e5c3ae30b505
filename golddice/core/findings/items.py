"""Items that nobody can receive, and items that fit nowhere they are put."""

from __future__ import annotations

from collections.abc import Iterator

from golddice.core.findings.finding import Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.models import BaseLine, Item, ItemNamed, Pool, Source
from golddice.core.game.reading import plain


def look(survey: Survey) -> Iterator[Finding]:
    known = offered(survey)
    for at, item in enumerate(survey.game.items):
        if at not in known:
            message = f"nobody can receive {item.name}: no table offers it"
            yield Finding("warning", f"items[{at}]", "item", item.id, message)
    yield from _too_large(survey)


def offered(survey: Survey) -> set[int]:
    """Items that some line offers, by itself or through a pool."""
    found: set[int] = set()
    for table in survey.game.tables:
        for line in table.lines:
            found |= items_of(survey, line)
    return found


def items_of(survey: Survey, line: BaseLine) -> set[int]:
    """The items that a line's own yields can be, by itself or through a pool."""
    found: set[int] = set()
    for given in line.yields:
        match given.what:
            case ItemNamed(item):
                found.add(survey.under.item_index[item])
            case Pool() as pool:
                found.update(int(at) for at in survey.under.pool_items(pool))
    return found


def _too_large(survey: Survey) -> Iterator[Finding]:
    """Items that fit in none of the containers with cells which give them, either way up."""
    holders: dict[int, list[Source]] = {}
    for source in survey.game.sources:
        if source.cells is not None:
            for at in _within(survey, source):
                holders.setdefault(at, []).append(source)
    for at, sources in sorted(holders.items()):
        item = survey.game.items[at]
        if any(_fits(item, source) for source in sources):
            continue
        names = ", ".join(source.name for source in sources)
        message = f"{item.name} takes {item.width} × {item.height} cells, too large for {names}"
        yield Finding("warning", f"items[{at}].width", "item", item.id, message, None, "cells")


def _within(survey: Survey, source: Source) -> set[int]:
    """The items that a source can give."""
    found: set[int] = set()
    for view, where in survey.reached_from(source).items():
        if view.kind != "table" or not bool(where.any()):
            continue
        table = survey.under.table(view.id)
        for line in table.lines:
            if not bool((survey.line_open(table, line) & where).any()):
                continue
            found |= items_of(survey, line)
    return found


def _fits(item: Item, source: Source) -> bool:
    assert source.cells is not None
    wide, high = source.cells
    upright = item.width <= wide and item.height <= high
    return upright or (item.height <= wide and item.width <= high)


def larger_stack(item: Item, size: int) -> Mend:
    """Let a stack hold so many."""
    label = f"let {item.name} stack to {size}"
    return Mend(label, "item", item.id, lambda: plain(item) | {"stack": size})
