"""What the store can refuse.

StoreError
 ├── NotFound       no such game, trial ...
 ├── Conflict       an entity has moved since the revision that a change was made on
 ├── NothingToUndo
 │    └── NoLonger       there is, but somebody has gone on from it
 ├── Unstorable     text that PostgreSQL cannot hold
 ├── Unavailable    the database cannot be reached now
 │    └── Uncertain     it went away while it was being told to keep something
 └── FromLater      it was saved by a later version
"""

from __future__ import annotations

from typing import Any

from golddice.core.errors import GoldDiceError


class StoreError(GoldDiceError):
    """The family's root."""


class NotFound(StoreError, LookupError):
    def __init__(self, what: str, name: str) -> None:
        super().__init__(what, name)
        self.what, self.name = what, name

    def __str__(self) -> str:
        return f"there is no {self.what} “{self.name[:80]}”"


class Conflict(StoreError):
    """`mine` and `theirs` are lists of {kind, id, body, revision}."""

    def __init__(self, revision: int, theirs: list[dict[str, Any]]) -> None:
        super().__init__(revision, theirs)
        self.revision, self.theirs = revision, theirs

    def __str__(self) -> str:
        names = ", ".join(f"{entry['kind']} “{entry['id']}”" for entry in self.theirs)
        return f"changed elsewhere since you began: {names}"


class NothingToUndo(StoreError):
    def __str__(self) -> str:
        return str(self.args[0]) if self.args else "there is nothing to undo"


class NoLonger(NothingToUndo):
    """A change cannot be taken back, or done again, because of a later one of somebody else."""

    def __init__(self, which: str, label: str, why: str) -> None:
        super().__init__(f"“{label}” cannot be {'done again' if which == 'redo' else 'taken back'}: {why}")


class Unstorable(StoreError):
    def __str__(self) -> str:
        return "a text holds a character that cannot be kept (NUL, or half of one); nothing was changed"


class Unavailable(StoreError):
    """Of writing it may be said that nothing was changed; of reading, which may come after something was
    kept, it may not."""

    def __init__(self, unchanged: bool = False) -> None:
        super().__init__(unchanged)
        self.unchanged = unchanged

    def __str__(self) -> str:
        return "the database cannot be reached now" + ("; nothing was changed" if self.unchanged else "")


class Uncertain(Unavailable):
    def __str__(self) -> str:
        return (
            "the database went away while this was being kept, so it may or may not have been; "
            "sent again under the same id it is kept once"
        )


class FromLater(StoreError):
    def __str__(self) -> str:
        return f"{self.args[0]}; open it with the version that saved it"
