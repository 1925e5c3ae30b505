"""A page's modules in a Node of their own, asked from here."""

from __future__ import annotations

import json
import subprocess
import unittest
from pathlib import Path
from types import TracebackType
from typing import Any, ClassVar, Self

_WEB = Path(__file__).parents[2] / "web"
_ASKED = Path(__file__).with_name("asked.mjs")


class PageTest(unittest.TestCase):
    """Tests of some of the page's modules."""

    MODULES: ClassVar[tuple[str, ...]] = ()
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(*cls.MODULES))


class Page:
    """`Page("text/format.ts")` answers `call("text/format.ts", "figures", 0.5)`."""

    def __init__(self, *modules: str) -> None:
        self._node = subprocess.Popen(
            ["node", str(_ASKED), *modules],
            cwd=_WEB,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            encoding="utf-8",
        )
        self._games: list[Any] = []
        if self._read() != "ready":
            raise RuntimeError("the page's modules could not be put together")

    def call(self, module: str, name: str, *args: Any) -> Any:
        """An argument {"parts of": game} becomes what a page knows of a game, {"ids": [...]} a set."""
        return self._ask({"module": module, "name": name, "args": [self._told(one) for one in args]})

    def _told(self, argument: Any) -> Any:
        """A game is told once."""
        game = argument.get("parts of") if isinstance(argument, dict) else None
        if game is None:
            return argument
        number = len(self._games)
        for known, of in enumerate(self._games):
            if of is game:
                return {"game": known}
        self._games.append(game)
        return {"game": number, "parts of": game}

    def sync(self, client: str, **asked: Any) -> dict[str, Any]:
        """What a page knows after an event, or after a game was opened; and what it does about it."""
        found: dict[str, Any] = self._ask({"sync": {"client": client, **asked}})
        return found

    def _ask(self, asked: dict[str, Any]) -> Any:
        assert self._node.stdin is not None
        self._node.stdin.write(json.dumps(asked) + "\n")
        self._node.stdin.flush()
        answer = json.loads(self._read())
        if "error" in answer:
            raise AssertionError(answer["error"])
        return answer["value"]

    def _read(self) -> str:
        assert self._node.stdout is not None
        return self._node.stdout.readline().rstrip("\n")

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._node.kill()
        self._node.communicate()
