"""What a table, a source or a line leads to, and everything that can be reached from there."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Iterator

from golddice.core.game.models import BaseLine, Source, Table
from golddice.core.game.views import View


def links_of(part: Table | Source | BaseLine) -> list[View]:
    """The tables and sources that a part rolls, each once."""
    if isinstance(part, Source):
        return list(dict.fromkeys(View("table", drop.table) for drop in part.drops))
    lines = [part] if isinstance(part, BaseLine) else part.lines
    every = (given.what for line in lines for given in line.yields)
    return list(dict.fromkeys(link for link in every if isinstance(link, View)))


def reached(starts: Iterable[View], inner: Callable[[View], Iterable[View]]) -> list[View]:
    """All that the starts lead to, themselves included, in the order in which it is come to."""
    found = dict.fromkeys(starts)
    pending = list(found)
    for view in pending:  # grows while it is gone through
        for link in inner(view):
            if link not in found:
                found[link] = None
                pending.append(link)
    return list(found)


def innermost_first(starts: Iterable[View], inner: Callable[[View], Iterable[View]]) -> list[View]:
    """The same in an order in which each comes after all that it leads to, however deep they nest."""
    done: dict[View, None] = {}
    for start in starts:
        for view in still_to_do(start, inner, done):
            done[view] = None
    return list(done)


def still_to_do(
    start: View, inner: Callable[[View], Iterable[View]], done: Container[View]
) -> Iterator[View]:
    """What the start leads to and is not done yet, each after all that it leads to. Whoever goes through
    it does each when it comes, and what is done is not gone through again.

    A walk in depth by a list of its own: `graphlib` takes longer, since it looks for loops as well.
    """
    if start in done:
        return
    pending = [(start, iter(inner(start)))]
    begun = {start}
    while pending:
        view, rest = pending[-1]
        for one in rest:
            if one not in begun and one not in done:
                begun.add(one)
                pending.append((one, iter(inner(one))))
                break
        else:
            pending.pop()
            yield view
