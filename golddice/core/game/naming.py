"""What a field of the models says of others: the entity that it names, and what goes when that goes.

Declared once, beside the field; `mentions` reads it for checking, editing, removal and links.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

Id = Annotated[str, Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=80)]

# What goes when something that is named goes: the mention itself (a key, an element of a list), the part
# that holds it (a yield, a drop, a price), or the whole entity. "refused": it has to be moved first.
# "marked": the mention goes, and its holder says so under its key `gone`, as "KIND/ID".
Gone = Literal["mention", "marked", "holder", "entity", "refused"]


@dataclass(frozen=True)
class Names:
    """The field holds the id of another entity of this kind.

    `leads` : whoever comes to the field's holder goes on to what it names, so that no loop may be made.
    `money` : only an item that is money may be named.
    """

    kind: str
    gone: Gone = "mention"
    leads: bool = False
    money: bool = False


@dataclass(frozen=True)
class WhenGone:
    """What goes when the field's own value has gone, or, of a list, the last of its elements."""

    gone: Gone


@dataclass(frozen=True)
class Kind:
    """The list of the game that holds the entities of a kind: edited, stored and named one by one."""

    name: str
