"""A log as the game would write it: of players who are played here."""

from __future__ import annotations

from collections.abc import Iterator

from golddice.core.game.finding import by_id
from golddice.core.game.models import Game
from golddice.core.game.views import View
from golddice.core.terms.stops import route_of
from golddice.core.trial.route import course_of
from golddice.core.trial.trace import EventTrace, replayed, rolled

COLUMNS = ("event", "time", "player", "source", "instance", "depth", "flags", "item", "quantity")
Row = tuple[str, float, int, str, str, int, str, str, int | str]


def log_of_source(
    game: Game, source: str, *, depth: int, flags: tuple[str, ...], players: int, events: int, seed: int
) -> Iterator[Row]:
    """A row for each thing received, and one without an item for an event that gave nothing."""
    seconds = by_id(game.sources, source).seconds
    for player in range(players):
        found = rolled(
            game,
            View("source", source),
            depth=depth,
            seed=seed,
            player=player,
            count=events,
            flags=flags,
        )
        for event in found.events:
            at = event.event * seconds
            yield from _rows(event, at, player, source, depth, flags)


def log_of_route(game: Game, route: str, *, players: int, events: int, seed: int) -> Iterator[Row]:
    course = course_of(game, route_of(game, route))
    for player in range(players):
        found = replayed(course, game, seed=seed, player=player, count=events)
        clock = 0.0
        for event in found.events:
            if event.event <= 0 or event.stop is None:
                continue  # what a visit itself gives is of no source
            stop = course.stops[event.stop]
            met = next((str(step["source"]) for step in event.steps if step["kind"] == "event"), None)
            source = met or stop.leg.source
            if source is None:
                continue
            clock += by_id(game.sources, source).seconds
            yield from _rows(event, clock, player, source, stop.depth, tuple(sorted(stop.flags)))


def _rows(
    event: EventTrace, at: float, player: int, source: str, depth: int, flags: tuple[str, ...]
) -> Iterator[Row]:
    name = f"{player}-{event.event}"
    head = (name, round(at, 3), player, source, name, depth, " ".join(flags))
    if not event.received:
        yield (*head, "", "")
    for item, count in event.received:
        yield (*head, item, count)
