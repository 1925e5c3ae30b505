"""Targets that ask about nothing: at no depth at which their source is met."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from golddice.core.findings.finding import Body, Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.finding import found_one
from golddice.core.game.reading import plain
from golddice.core.game.target import Target
from golddice.core.tuning.targets import asked_at


def look(survey: Survey) -> Iterator[Finding]:
    for at, target in enumerate(survey.game.targets):
        if target.gone is not None:
            yield _gone(at, target)
            continue
        if bool(np.any(asked_at(survey.under, target))):
            continue
        place = found_one(survey.game.places, target.place)
        about = survey.under.source(target.source) if target.source else place or target
        name = about.name
        message = f"{target.name} asks about no {survey.game.words.depth} at which {name} is met"
        mend = Mend("ask wherever it is met", "target", target.id, partial(_everywhere, target))
        path = f"targets[{at}].depths"
        yield Finding("warning", path, "target", target.id, message, None, "depths", target.depths, mend)


def _gone(at: int, target: Target) -> Finding:
    kind, _, name = str(target.gone).partition("/")
    message = f"{target.name} was about the {kind} “{name}”, which is gone; point it elsewhere, or delete it"
    path = f"targets[{at}]"
    return Finding("warning", path, "target", target.id, message)


def _everywhere(target: Target) -> Body:
    return {key: value for key, value in plain(target).items() if key != "depths"}
