"""How long players wait, in sentences: one for every shape of answer, and true of it."""

from __future__ import annotations

from typing import Any

from tests.web.page import PageTest

WORDS = "sheets/reading/waitWords.ts"
KILLS = {"one": "kill", "many": "kills"}


class OfWaits(PageTest):
    MODULES = (WORDS,)

    def said(self, first: tuple[int | None, int | None, int | None], **more: Any) -> str:
        at = dict(zip(("first_50", "first_90", "first_99"), first, strict=True))
        wait = {"method": "exact", "more_than": {}, "all": False, **at, **more}
        pieces = self.page.call(WORDS, "waitSentence", wait, KILLS, "diver")
        told = []
        for piece in pieces:
            event = "" if isinstance(piece, str) else at["first_" + str(piece["sure"])]
            told.append(piece if isinstance(piece, str) else f"{event}{piece['after']}")
        return "".join(told)

    def test_every_shape(self) -> None:
        for said, first, more in (
            (
                "Half of divers have one by kill 7, nine in ten by 22, one in a hundred still waits at 44.",
                (7, 22, 44),
                {},
            ),
            ("Every diver has one by kill 10.", (10, 10, 10), {"all": True}),
            ("99 in a hundred divers have one by kill 1.", (1, 1, 1), {}),
            ("Nine in ten divers have one by kill 2, one in a hundred still waits at 5.", (2, 2, 5), {}),
            ("Nine in ten divers have one by kill 2, everyone by 5.", (2, 2, 5), {"all": True}),
            ("Half of divers have one by kill 3, everyone by 10.", (3, 10, 10), {"all": True}),
            (
                "Half of divers have one by kill 3, nine in ten by 8, everyone by 10.",
                (3, 8, 10),
                {"all": True},
            ),
            ("Fewer than half of divers ever have one.", (None, None, None), {}),
            ("Half of divers have one by kill 6; fewer than nine in ten ever have one.", (6, None, None), {}),
            (
                "Half of divers have one by kill 6, nine in ten by 60; "
                "fewer than 99 in a hundred ever have one.",
                (6, 60, None),
                {},
            ),
            (
                "Nine in ten divers have one by kill 6; fewer than 99 in a hundred ever have one.",
                (6, 6, None),
                {},
            ),
            (
                "Half of divers have one by kill 900; "
                "until nine in ten have one it takes more than 2\u202f000 kills.",
                (900, None, None),
                {"method": "simulated", "more_than": {"first_90": 2_000, "first_99": 2_000}},
            ),
            (
                "Until half of divers have one it takes more than 2\u202f000 kills.",
                (None, None, None),
                {"method": "simulated", "more_than": {"first_50": 2_000}},
            ),
            (
                "How long divers wait is not told: they can be in too many states.",
                (None, None, None),
                {"method": "untold"},
            ),
        ):
            with self.subTest(said=said):
                self.assertEqual(self.said(first, **more), said)

    def test_what_comes_later(self) -> None:
        for words, run, late, first in (
            ("alike", 0.1, None, 0.1),
            ("ends", 0.0, None, 0.1),
            ("long run", 0.2, None, 0.1),
            ("late", None, 0.2, 0.1),
            ("untold", None, None, 0.1),
        ):
            wait = {"long_run_mean": run, "late_mean": late, "p_any": first, "without": [[0, 0]]}
            self.assertEqual(self.page.call(WORDS, "laterWords", wait), words)
