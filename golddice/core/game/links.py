"""What a table, a source or a line leads to, and everything that can be reached from there."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Iterator
from graphlib import TopologicalSorter

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
    links: dict[View, list[View]] = {}

    def noted(view: View) -> list[View]:
        links[view] = list(inner(view))
        return links[view]

    reached(starts, noted)
    return list(TopologicalSorter(links).static_order())


def still_to_do(
    start: View, inner: Callable[[View], Iterable[View]], done: Container[View]
) -> Iterator[View]:
    """What the start leads to and is not done yet, each after all that it leads to. Whoever goes through
    it does each when it comes, and what is done is not gone through again."""
    if start in done:
        return
    pending = [(start, iter(inner(start)))]
    begun = {start}
    while pending:
        view, rest = pending[-1]
        following = next((one for one in rest if one not in done and one not in begun), None)
        if following is None:
            pending.pop()
            yield view
        else:
            begun.add(following)
            pending.append((following, iter(inner(following))))
