"""How much one event can come to: the limit that keeps a nested explosion from hanging a trial.

All of it is worked out table by table in an order of who rolls whom, so that it does not matter how deep
tables nest.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Sequence

from golddice.core.errors import TooLarge
from golddice.core.game.links import innermost_first, links_of, still_to_do
from golddice.core.game.models import Source, Table
from golddice.core.game.views import View
from golddice.core.results import CacheKey, cache_key
from golddice.core.terms.conditions import Conditions
from golddice.core.terms.forms import form_of

MOST_EXECUTIONS = 1_000_000
_PLENTY = 10**12
_MOST_KEPT = 500  # views, and what each of them reaches

Rolled = dict[View, int]


def part_of(under: Conditions, view: View) -> Table | Source:
    return under.source(view.id) if view.kind == "source" else under.table(view.id)


def inner_of(under: Conditions, view: View) -> Sequence[View]:
    """What a table or source leads to, each once."""
    part = part_of(under, view)
    if isinstance(part, Source):
        return under.once("links", part, lambda: links_of(part))
    return form_of(part).inner


def in_order(under: Conditions, starts: Iterable[View]) -> list[View]:
    """All that the starts reach, each after all that it leads to."""
    return innermost_first(starts, lambda view: inner_of(under, view))


def missing(under: Conditions, view: View, done: Container[View]) -> Iterator[View]:
    """All that a view reaches and is not done yet, each after all that it leads to."""
    return still_to_do(view, lambda one: inner_of(under, one), done)


def view_key(under: Conditions, view: View) -> CacheKey:
    """All that a table or source rests on, with whatever it reaches."""
    known = under.keys
    if view in known:
        return known[view]
    for one in missing(under, view, known):
        own = under.own_key(part_of(under, one))
        inner = [known[link] for link in inner_of(under, one)]
        known[one] = cache_key((own, *inner)) if inner else own
    return known[view]


def executions(under: Conditions, view: View) -> int:
    """The most rolls of tables and pools that one event of a source, or execution of a table, can
    come to; counted to a million millions."""
    known = under.executions
    for one in missing(under, view, known):
        known[one] = min(_executions(under, one), _PLENTY)
    return known[view]


def _executions(under: Conditions, view: View) -> int:
    known = under.executions
    part = part_of(under, view)
    if isinstance(part, Source):
        return 1 + sum(under.law(drop.times).most * known[View("table", drop.table)] for drop in part.drops)
    form = form_of(part)
    lines = dict.fromkeys(form.others, 0)
    for at, _, many in form.pools:
        lines[at] += under.law(many).most
    for at, link, many in form.links:
        lines[at] += under.law(many).most * known[link]
    worst = sum(lines.values()) if part.rule == "each" else max(lines.values(), default=0)
    return under.law(part.rolls).most * (1 + worst)


def most_rolls(under: Conditions, view: View) -> Rolled:
    """The most rolls of each table, and events of each source, within one event or execution.

    Worked out from the top, each table after everything that rolls it. Not to be changed: it is kept.
    """
    known = under.rolled.get(view)
    if known is None:
        known = _most_rolls(under, view)
        if len(known) <= _MOST_KEPT and len(under.rolled) < _MOST_KEPT:
            under.rolled[view] = known
    return known


def _most_rolls(under: Conditions, view: View) -> Rolled:
    order = list(reversed(in_order(under, [view])))
    events = dict.fromkeys(order, 0)
    events[view] = 1
    result: Rolled = {}
    for one in order:
        times, inner = _inner(under, part_of(under, one))
        result[one] = here = min(events[one] * times, _PLENTY)
        for link, most in inner:
            events[link] = min(events[link] + here * most, _PLENTY)
    return result


def _inner(under: Conditions, part: Table | Source) -> tuple[int, list[tuple[View, int]]]:
    """The most rolls of one execution (of an event: 1), and what each may lead to, and how many times."""
    return under.once("inner", part, lambda: _new_inner(under, part))


def _new_inner(under: Conditions, part: Table | Source) -> tuple[int, list[tuple[View, int]]]:
    if isinstance(part, Source):
        return 1, [(View("table", drop.table), under.law(drop.times).most) for drop in part.drops]
    links = [(link, under.law(many).most) for _, link, many in form_of(part).links]
    return under.law(part.rolls).most, links


def check_size(under: Conditions, view: View) -> None:
    """Raise TooLarge where one event may roll more than MOST_EXECUTIONS times."""
    most = executions(under, view)
    if most > MOST_EXECUTIONS:
        raise TooLarge(
            f"one event of “{view.id}” could roll tables {most:,} times; "
            f"the limit is {MOST_EXECUTIONS:,}. Make its quantities, times or rolls smaller"
        )
