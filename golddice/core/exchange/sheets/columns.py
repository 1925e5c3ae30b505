"""The columns of every sheet: how a cell is written, how it is read, and where it goes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from golddice.core.exchange.sheets.cells import Cell, number_of, text_of, whole_of
from golddice.core.game.models import Game, list_name
from golddice.core.game.quantity import quantity_fields

_KINDS = ("tier", "item", "table", "source", "curve", "flag")


class Names:
    """Of every kind the ids by id and by name, and what a cell says for an id."""

    def __init__(self, game: Game, comma: bool = False) -> None:
        self.comma = comma
        self._ids: dict[str, dict[str, str]] = {kind: {} for kind in _KINDS}
        self._names: dict[str, dict[str, str]] = {kind: {} for kind in _KINDS}
        for kind in _KINDS:
            for part in getattr(game, list_name(kind)):
                self.add(kind, part.id, part.name)

    def add(self, kind: str, id: str, name: str) -> None:
        self._names[kind][text_of(name).lower()] = id if self.by_name(kind, name) is None else ""
        self._ids[kind][id] = text_of(name)

    def by_name(self, kind: str, name: str) -> str | None:
        """None where there is none, "" where there are several."""
        return self._names[kind].get(text_of(name).lower())

    def find(self, kind: str, text: str) -> str | None:
        return text if text in self._ids[kind] else self.by_name(kind, text) or None

    def read(self, kind: str, text: str) -> str:
        found = self.find(kind, text)
        if found is None:
            many = " alone: several have that name; write its id" if self.by_name(kind, text) == "" else ""
            raise ValueError(f"there is no {kind} “{text[:60]}”{many}")
        return found

    def write(self, kind: str, id: str) -> str:
        name = self._ids[kind].get(id, id)
        bare = not any(sign in name for sign in ",;+#@")
        return name if bare and name and self.find(kind, name) == id else id


Write = Callable[[Names, Any], Cell]
Read = Callable[[Names, str], Any]


@dataclass(frozen=True)
class Column:
    """`key` of the body; what is empty takes it out, so that it is at its default again."""

    head: str
    key: str
    write: Write = lambda _, value: value
    read: Read = lambda _, text: text
    fits: frozenset[str] = field(default_factory=frozenset)  # the rules that have it; none is all


def _texts(_: Names, value: Any) -> Cell:
    return ", ".join(value or [])


def _read_texts(_: Names, text: str) -> list[str]:
    return [one.strip() for one in text.split(",") if one.strip()]


def _flags(names: Names, value: Any) -> Cell:
    return ", ".join(names.write("flag", one) for one in value or [])


def _read_flags(names: Names, text: str) -> list[str]:
    return [names.read("flag", one.strip()) for one in text.split(",") if one.strip()]


def _depths(_: Names, value: Any) -> Cell:
    return None if value is None else f"{value[0]}-{value[1]}"


def _read_depths(names: Names, text: str) -> list[int]:
    first, _, last = text.replace("–", "-").partition("-")
    return [whole_of(first), whole_of(last or first)]


def _quantity(_: Names, value: Any) -> Cell:
    if value.get("dice"):
        text = value["dice"]
    else:
        low, high, step = value["min"], value["max"], value.get("step") or 1
        text = str(low) if low == high else f"{low}-{high}" + (f"/{step}" if step != 1 else "")
    return f"{text} @{value['curve']}" if value.get("curve") else text


def read_quantity(names: Names, text: str) -> dict[str, Any]:
    bare, _, curve = text.partition("@")
    found = quantity_fields(bare.replace("–", "-"))
    return found | ({"curve": names.read("curve", curve.strip())} if curve else {})


def _guard(_: Names, value: Any) -> Cell:
    if not value:
        return None
    sure = "" if value.get("sure_at") is None else f", sure at {value['sure_at']}"
    return f"after {value['after']}, rise {value['rise']!r}{sure}"


def _read_guard(names: Names, text: str) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for part in text.split(","):
        word, _, number = part.strip().rpartition(" ")
        if word == "rise":
            found["rise"] = number_of(number, names.comma)
        elif word in ("after", "sure at"):
            found[word.replace(" ", "_")] = whole_of(number)
        else:
            raise ValueError("a guard is written: after 10, rise 0.05, sure at 40")
    return found


def _gives(names: Names, value: Any) -> Cell:
    return "; ".join(_given(names, one) for one in value or [])


def _given(names: Names, one: Any) -> str:
    if one.get("pool") is not None:
        pool = one["pool"]
        parts = [names.write("tier", tier) for tier in pool.get("tiers") or []]
        return "any " + " + ".join(parts + [f"#{tag}" for tag in pool.get("tags") or []])
    kind = next(kind for kind in ("item", "table", "source") if one.get(kind) is not None)
    name = names.write(kind, one[kind])
    return name if kind == "item" and not _is_taken(name) else f"{kind} {name}"


def _is_taken(name: str) -> bool:
    return name.split(" ")[0].lower() in ("any", "table", "source", "item", "nothing")


def read_gives(names: Names, text: str) -> list[dict[str, Any]]:
    return [_read_given(names, one.strip()) for one in text.split(";") if one.strip()]


def _read_given(names: Names, text: str) -> dict[str, Any]:
    word, _, rest = text.partition(" ")
    if word.lower() == "any" and rest:
        parts = [part.strip() for part in rest.replace(",", "+").split("+")]
        tiers = [names.read("tier", part) for part in parts if part and not part.startswith("#")]
        return {"pool": {"tiers": tiers, "tags": [part[1:] for part in parts if part.startswith("#")]}}
    if word.lower() in ("table", "source", "item") and rest:
        return {word.lower(): names.read(word.lower(), rest)}
    for kind in ("item", "table", "source"):
        if names.find(kind, text):
            return {kind: names.read(kind, text)}
    raise ValueError(f"there is no item, table or source “{text[:60]}”")


def _ref(kind: str) -> tuple[Write, Read]:
    return (
        lambda names, value: None if value is None else names.write(kind, value),
        lambda names, text: names.read(kind, text),
    )


def _number(names: Names, text: str) -> float:
    return number_of(text, names.comma)


def _whole(names: Names, text: str) -> int:
    return whole_of(text, names.comma)


def _yes(_: Names, value: Any) -> Cell:
    return "yes" if value else None


def _read_yes(_: Names, text: str) -> bool:
    if text.lower() not in ("yes", "no", "true", "false", "1", "0", "x"):
        raise ValueError("yes or nothing is wanted")
    return text.lower() in ("yes", "true", "1", "x")


_CURVE, _TIER, _TABLE = _ref("curve"), _ref("tier"), _ref("table")
_WEIGHED, _CHANCED = frozenset({"pick", "retry"}), frozenset({"each", "first", "retry"})

TIERS = [
    Column("id", "id"),
    Column("name", "name"),
    Column("pips", "pips", read=_whole),
    Column("colour", "colour"),
    Column("curve", "curve", *_CURVE),
    Column("stat factor", "stat_factor", read=_number),
]
ITEMS = [
    Column("id", "id"),
    Column("name", "name"),
    Column("tier", "tier", *_TIER),
    Column("tags", "tags", _texts, _read_texts),
    Column("value", "value", read=_number),
    Column("abundance", "abundance", read=_number),
    Column("stack", "stack", read=_whole),
    Column("width", "width", read=_whole),
    Column("height", "height", read=_whole),
    Column("money", "currency", _yes, _read_yes),
    Column("slot", "slot"),
]
TABLES = [
    Column("table", "id"),
    Column("table name", "name"),
    Column("rule", "rule"),
    Column("rolls", "rolls", _quantity, read_quantity),
    Column("nothing", "nothing", read=_number, fits=frozenset({"pick"})),
]
_GATES = [
    Column("curve", "curve", *_CURVE),
    Column("open depths", "depths", _depths, _read_depths),
    Column("guard", "guard", _guard, _read_guard),
    Column("needs", "needs", _flags, _read_flags),
    Column("unless", "unless", _flags, _read_flags),
]
LINES = [
    Column("line", "id"),
    Column("gives", "yields", _gives, read_gives),
    Column("weight", "weight", read=_number, fits=_WEIGHED),
    Column("chance", "chance", read=_number, fits=_CHANCED),
    Column("copies", "copies", read=_whole, fits=frozenset({"deck"})),
    *_GATES,
    Column("limit", "limit", read=_whole),
]
SOURCES = [
    Column("source", "id"),
    Column("source name", "name"),
    Column("kind", "kind"),
    Column("depths", "depths", _depths, _read_depths),
    Column("seconds", "seconds", read=_number),
]
DROPS = [
    Column("drop", "id"),
    Column("table", "table", *_TABLE),
    Column("chance", "chance", read=_number),
    Column("times", "times", _quantity, read_quantity),
    *_GATES,
]


QUANTITY = "quantity"


def quantities(names: Names, value: Any) -> Cell:
    """Of what a line gives, in its order."""
    return "; ".join(str(_quantity(names, one["quantity"])) for one in value or [])


def read_yields(names: Names, gives: str, quantity: str) -> list[dict[str, Any]]:
    """What a line gives, from two cells: one quantity is for each, else there are as many as things."""
    given = read_gives(names, gives)
    counts = [read_quantity(names, one.strip()) for one in quantity.split(";") if one.strip()]
    if len(counts) == 1:
        counts *= len(given)
    if counts and len(counts) != len(given):
        raise ValueError(f"{len(given)} things and {len(counts)} quantities")
    return [
        one | ({"quantity": counts[at]} if counts and not _is_one(counts[at]) else {})
        for at, one in enumerate(given)
    ]


def _is_one(count: dict[str, Any]) -> bool:
    return count.get("min") == 1 and count.get("max") == 1 and "curve" not in count
