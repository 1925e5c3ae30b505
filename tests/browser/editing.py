"""A page that edits while others do: what the tests of it share."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from unittest.mock import patch

from tests.browser.driver import BrowserTest

GRID = '[aria-label="lines of Eel catch"]'


class EditingTest(BrowserTest):
    """Each begins on the sheet of a source, its numbers there."""

    def setUp(self) -> None:
        super().setUp()
        self.open("source/lantern-eel")
        self.until("numbers", lambda: self.text("a", "chance") != " %")

    def line(self, name: str) -> dict[str, Any]:
        return next(one for one in self.table()["lines"] if one["id"] == name)

    def elsewhere(self, body: dict[str, Any], kind: str = "table") -> None:
        """Another page saves this."""
        entry = {"kind": kind, "id": body.get("id", "game"), "body": body}
        change = {"base": self.whole()["revision"], "label": "elsewhere", "page": "page-elsewhere"}
        change["entries"] = [entry]
        self.client.post(f"/api/games/{self.game}/changes", json=change).raise_for_status()

    def line_elsewhere(self, name: str, **changed: Any) -> None:
        """Another page changes a line, and this one has heard of it."""
        table = self.table()
        lines = [{**line, **(changed if line["id"] == name else {})} for line in table["lines"]]
        self.elsewhere({**table, "lines": lines})
        self.saved(self.whole()["revision"])

    def slowly(self, seconds: float) -> Any:
        """Every change takes so long to be saved."""
        kept = self.bench.games.change

        def change(*given: Any) -> Any:
            time.sleep(seconds)
            return kept(*given)

        return patch.object(self.bench.games, "change", change)

    @contextmanager
    def away(self) -> Iterator[None]:
        """The server cannot be reached."""
        self.network(offline=True)
        try:
            yield
        finally:
            self.network(offline=False)

    def network(self, *, offline: bool) -> None:
        self.browser.execute_cdp_cmd("Network.enable", {})
        how = {"offline": offline, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        self.browser.execute_cdp_cmd("Network.emulateNetworkConditions", how)

    def toasts(self) -> str:
        return " ".join(one.text for one in self.all("[data-sonner-toast]"))

    def status(self) -> str:
        return self.find("header [role=status]").text
