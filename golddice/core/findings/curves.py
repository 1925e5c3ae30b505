"""Private curves that are used by more than their one place, or by none any more."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from golddice.core.findings.finding import Finding, Mend
from golddice.core.findings.survey import Survey
from golddice.core.game.checking import all_mentions
from golddice.core.game.models import Curve
from golddice.core.game.reading import plain


def look(survey: Survey) -> Iterator[Finding]:
    if not any(curve.private for curve in survey.game.curves):
        return
    used = Counter(one.target for one in all_mentions(plain(survey.game)) if one.kind == "curve")
    for at, curve in enumerate(survey.game.curves):
        if curve.private and used[curve.id] != 1:
            yield _finding(at, curve, used[curve.id])


def _finding(at: int, curve: Curve, used: int) -> Finding:
    if used == 0:
        message = f"{curve.name} is private to a place that does not use it any more"
        mend = Mend(f"delete {curve.name}", "curve", curve.id, lambda: None)
    else:
        message = f"{curve.name} is private to one place, but {used} use it"
        mend = Mend(f"share {curve.name}", "curve", curve.id, lambda: plain(curve) | {"private": False})
    return Finding("warning", f"curves[{at}].private", "curve", curve.id, message, mend=mend)
