"""Whatever is made is made once, however often it is sent under the same id."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col

from golddice.store.rows import MadeRow

Made = TypeVar("Made")


def made_once(
    session: Session,
    what: str,
    token: str | None,
    make: Callable[[], tuple[str, Made]],
    again: Callable[[str], Made],
) -> Made:
    """Make something and its id, or find what was made under that token before.

    A second one that comes meanwhile waits here until the first is kept or taken back.
    """
    if token is None:
        return make()[1]
    key = f"{what}/{token}"
    row = insert(MadeRow).values(token=key, id="").on_conflict_do_nothing().returning(col(MadeRow.token))
    if session.execute(row).first() is None:
        before = session.get(MadeRow, key)
        assert before is not None
        return again(before.id)
    name, made = make()
    kept = session.get(MadeRow, key)
    assert kept is not None
    kept.id = name
    return made
