"""Files that mean no good: two hundred of them, the same every time.

Each says where it goes: a game file, spreadsheet cells, or a log. None is large; what they ask for is.
"""

from __future__ import annotations

import io
import json
import random
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

Where = Literal["game", "sheets", "log"]
SEED = 20_291


@dataclass(frozen=True)
class Hostile:
    """`name` is that of the file, which says how it is read; `what` is what is wrong with it."""

    where: Where
    name: str
    what: str
    content: bytes


def corpus() -> list[Hostile]:
    return [*_games(), *_sheets(), *_logs(), *_damaged()]


# --- game files --------------------------------------------------------------------------------------------


def _game(**parts: Any) -> dict[str, Any]:
    tiers = [{"id": "t", "name": "T"}]
    return {"format": "golddice-game", "version": 1, "name": "G", "tiers": tiers, **parts}


def _games() -> Iterator[Hostile]:
    def one(what: str, content: bytes | str | dict[str, Any]) -> Hostile:
        told = json.dumps(content) if isinstance(content, dict) else content
        return Hostile("game", "game.json", what, told.encode() if isinstance(told, str) else told)

    head = '{"format":"golddice-game","version":1,"name":"G"'
    for many in (1_000, 32_000, 2_000_000):
        yield one(f"an unclosed quote, {many} escaped ones", '{"' + '\\"' * many)
        yield one(f"{many} opening brackets", "[" * many)
        yield one(f"{many} opening braces", '{"a":' * many)
        yield one(f"{many} backslashes", '{"' + "\\" * many)
    for deep in (61, 500, 900):
        yield one(f"nested {deep} deep", f'{head},"tables":{"[" * deep}{"]" * deep}}}')
    for deep in (30, 61, 200):
        yield one(f"lines nested {deep} deep", _game(tables=_nested(deep)))
    yield one("nothing", b"")
    yield one("not UTF-8", b"\xff\xfe\x00\x01")
    yield one("a number", "5")
    yield one("a list", "[1, 2]")
    yield one("a number of a million digits", f'{head},"tiers":[{"9" * 1_000_000}]}}')
    yield one("a key of a million letters", f'{head},"{"k" * 1_000_000}":1}}')
    yield one("half a character", head + ',"notes":"\\ud800"}')
    yield one("NaN and Infinity", head + ',"tiers":[NaN,Infinity,-Infinity]}')
    for kind in ("tiers", "items", "tables", "sources", "curves", "routes", "targets", "places", "stalls"):
        yield one(f"a million numbers for {kind}", f'{head},"{kind}":[{",".join(["1"] * 1_000_000)}]}}')
        yield one(f"{kind} that are an object", {**_game(), kind: {"a": 1}})
        yield one(f"{kind} with twenty thousand that are wrong", {**_game(), kind: [{"id": 5}] * 20_000})
        yield one(f"{kind} of lists", {**_game(), kind: [[[]]] * 10})
    for many in (3, 1_000, 20_000):
        ring = [{"id": f"s{at}", "name": "S", "like": f"s{(at + 1) % many}"} for at in range(many)]
        yield one(f"{many} sources, each like the next, in a ring", _game(sources=ring))
        yields = [[{"table": f"t{(at + 1) % many}"}] for at in range(many)]
        lines = [[{"id": "a", "weight": 1, "yields": one}] for one in yields]
        tables = [{"id": f"t{at}", "name": "T", "rule": "pick", "lines": lines[at]} for at in range(many)]
        yield one(f"a ring of {many} tables", _game(tables=tables))
    elder = {"id": "e", "name": "E", "kind": "enemy", "drops": []}
    for key in ("without", "drops", "stated", "like"):
        for value in (5, "a", [{}], [["a"]], [5], {"id": "a"}, None, [{"id": ["a"]}], [{"id": {}}], [None]):
            kin = {"id": "k", "like": "e", key: value}
            yield one(f"kin whose {key} is {value!r}", _game(sources=[elder, kin]))
    items = [{"id": f"i{at}", "name": "I", "tier": "t"} for at in range(20_000)]
    lines_of_stall = [{"id": f"l{at}", "weight": 1, "yields": [{"item": f"i{at}"}]} for at in range(3_000)]
    stall = {
        "id": "s",
        "name": "S",
        "stock": "t",
        "slots": 3,
        "period_seconds": 60,
        "depth": 1,
        "starts_at": 0,
    }
    stock = {"id": "t", "name": "T", "rule": "pick", "lines": lines_of_stall}
    sound = _game(items=items, tables=[stock], stalls=[stall | {"seed": 1}])
    yield one("a stall beside very many items", sound)
    yields_wrong = {"id": "t", "name": "T", "rule": "pick", "lines": [{"yields": [1] * 50_000}] * 20}
    yield one("a million yields that are numbers", _game(tables=[yields_wrong]))


def _nested(deep: int) -> Any:
    found: Any = []
    for _ in range(deep):
        found = [{"lines": found}]
    return found


# --- spreadsheets ------------------------------------------------------------------------------------------


def _sheets() -> Iterator[Hostile]:
    def one(what: str, name: str, content: bytes) -> Hostile:
        return Hostile("sheets", name, what, content)

    wide = ",".join(f"h{at}" for at in range(1_000)) + "\n"
    yield one("a thousand columns, sixty thousand rows", "items.csv", (wide + "1\n" * 60_000).encode())
    yield one("two million commas", "items.csv", b"id,name\n" + b"," * 2_000_000)
    yield one("an unclosed quote", "items.csv", b'id,name\n"' + b"a\n" * 500_000)
    yield one("a cell of four megabytes", "items.csv", b"id,name\n" + b"a" * 4_000_000)
    yield one("two hundred thousand rows", "items.csv", b"id,name\n" + b"a,b\n" * 200_000)
    yield one("quotes alone", "items.csv", b'"' * 1_000_001)
    yield one("not text", "items.csv", bytes(range(256)) * 1_000)
    yield one("UTF-16 cut short", "items.csv", "id,name\nä".encode("utf-16")[:-1])
    for many, columns in ((1_000_000, 0), (100_000, 60), (300, 16_384)):
        rows = "".join(_row(at, columns) for at in range(1, many + 1))
        yield one(f"{many} rows of {columns} cells", "book.xlsx", _book(f"<sheetData>{rows}</sheetData>"))
    yield one("a million nested rows", "book.xlsx", _book("<sheetData>" + "<row>" * 1_000_000))
    for what, place in (
        ("far down and far out", "XFD1048576"),
        ("outside of everything", "ZZZZZZZ99999999999"),
    ):
        cell = f'<row r="{place.lstrip("DFXZ")}"><c r="{place}"><v>1</v></c></row>'
        yield one(f"one cell {what}", "book.xlsx", _book(f"<sheetData>{cell}</sheetData>"))
    yield one("entities that grow", "book.xlsx", _book(_LAUGHS))
    for what, change in _DAMAGE.items():
        yield one(what, "book.xlsx", change(_book("<sheetData/>")))
        yield one(f"{what}, of CSVs", "all.zip", change(_zip({"items.csv": b"id,name\na,A\n" * 1_000})))
    yield one("a ZIP that unpacks to a gigabyte", "all.zip", _zip({"items.csv": b"\0" * 250_000_000}))
    yield one("a ZIP of a thousand parts", "all.zip", _zip({f"p{at}.csv": b"a" for at in range(1_000)}))
    yield one("a ZIP of nothing", "all.zip", _zip({}))


def _row(at: int, columns: int) -> str:
    return f'<row r="{at}">' + "<c><v>1</v></c>" * columns + "</row>"


_LAUGHS = "<sheetData><row><c t='inlineStr'><is><t>&a;</t></is></c></row></sheetData>"


def _book(sheet: str) -> bytes:
    space = "http://schemas.openxmlformats.org"
    main, office = f"{space}/spreadsheetml/2006/main", f"{space}/officeDocument/2006/relationships"
    package, kind = f"{space}/package/2006", "application/vnd.openxmlformats-officedocument.spreadsheetml"
    laughs = "".join(f'<!ENTITY {a} "{f"&{b};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True))
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{package}/content-types">'
        f'<Override PartName="/xl/workbook.xml" ContentType="{kind}.sheet.main+xml"/>'
        f'<Override PartName="/xl/worksheets/sheet1.xml" ContentType="{kind}.worksheet+xml"/></Types>',
        "_rels/.rels": _relation(package, f"{office}/officeDocument", "xl/workbook.xml"),
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets>'
        '<sheet name="Items" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": _relation(package, f"{office}/worksheet", "worksheets/sheet1.xml"),
        "xl/worksheets/sheet1.xml": f'<?xml version="1.0"?><!DOCTYPE x [{laughs}<!ENTITY i "ha">]>'
        f'<worksheet xmlns="{main}">{sheet}</worksheet>',
    }
    return _zip({name: text.encode() for name, text in parts.items()})


def _relation(package: str, kind: str, target: str) -> str:
    inner = f'<Relationship Id="r1" Type="{kind}" Target="{target}"/>'
    return f'<Relationships xmlns="{package}/relationships">{inner}</Relationships>'


def _zip(parts: dict[str, bytes]) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in parts.items():
            packed.writestr(zipfile.ZipInfo(name), content, zipfile.ZIP_DEFLATED)
    return held.getvalue()


def _locked(content: bytes) -> bytes:
    """Every part said to need a password."""
    found = bytearray(content)
    for sign, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        start = -1
        while (start := found.find(sign, start + 1)) >= 0:
            found[start + at] |= 1
    return bytes(found)


def _garbled(content: bytes) -> bytes:
    """The first part's stream is damaged."""
    found = bytearray(content)
    for at in range(60, min(len(found), 90)):
        found[at] ^= 0x5A
    return bytes(found)


_DAMAGE = {
    "cut in half": lambda content: content[: len(content) // 2],
    "its first part damaged": _garbled,
    "locked with a password": _locked,
    "only its first letters": lambda content: content[:30],
    "its end alone": lambda content: b"PK" + content[len(content) // 2 :],
}


# --- logs --------------------------------------------------------------------------------------------------


def _logs() -> Iterator[Hostile]:
    def json_log(what: str, content: bytes | str) -> Hostile:
        return Hostile("log", "log.jsonl", what, content.encode() if isinstance(content, str) else content)

    def csv_log(what: str, content: bytes | str) -> Hostile:
        return Hostile("log", "log.csv", what, content.encode() if isinstance(content, str) else content)

    row = {"event": 1, "player": "p", "source": "lantern-eel", "item": "glass-sand", "quantity": 1}
    yield json_log("null", "null\n")
    for deep in (100, 2_000, 20_000, 100_000):
        yield json_log(f"a line nested {deep} deep", "[" * deep + "]" * deep + "\n")
        yield json_log(
            f"a field nested {deep} deep", '{"source":' + '{"a":' * deep + "1" + "}" * deep + "}\n"
        )
    for cell in ({}, {"a": 1}, [[1]], [{}], True, None, 1e308, 10**400, "x" * 100_000, "\x00", "\\ud800"):
        for key in ("player", "quantity", "flags"):
            yield json_log(f"{key} is {str(cell)[:20]!r}", json.dumps({**row, key: cell}) + "\n")
    yield json_log("a row, then another kind", json.dumps(row) + "\n[1, 2]\n5\n")
    yield json_log("no line", "")
    yield json_log("empty lines", "\n" * 1_000_000)
    yield json_log("half a character", '{"source": "\\ud800", "item": "a"}\n')
    yield json_log("not UTF-8", b'{"source": "\xff\xfe"}\n')
    yield json_log("a line of four megabytes", '{"source": "' + "a" * 4_000_000 + '"}\n')
    yield json_log("ten thousand keys", json.dumps({f"k{at}": at for at in range(10_000)}) + "\n")
    yield json_log("the same key twice", '{"source": "lantern-eel", "source": "a", "item": "glass-sand"}\n')
    heads = "event,player,source,item,quantity"
    yield csv_log("a column named twice", f"source,source,item\n{'a,b,c' * 3}\n")
    yield csv_log("a first field of a megabyte", "a" * 1_000_000 + ",source,item\n1,2,3\n")
    yield csv_log("a field of a megabyte", f"{heads}\n" + "a" * 1_500_000 + ",p,lantern-eel,glass-sand,1\n")
    yield csv_log("an unclosed quote", f'{heads}\n"' + "1,p,lantern-eel,glass-sand,1\n" * 50_000)
    yield csv_log("a thousand columns", ",".join(f"h{at}" for at in range(1_000)) + "\n" + "1\n" * 1_000)
    yield csv_log("nothing", "")
    yield csv_log("a head alone", heads + "\n")
    yield csv_log("not UTF-8", f"{heads}\n1,p,lantern-eel,".encode() + b"\xff\n")
    yield csv_log("NUL", f"{heads}\n1,\0,lantern-eel,glass-sand,1\n")
    for quantity in ("-1", "nan", "inf", "1e400", "9" * 400, "0x10", "1.5", ""):
        yield csv_log(f"a quantity of {quantity[:9]!r}", f"{heads}\n1,p,lantern-eel,glass-sand,{quantity}\n")
    rows = "".join(f"{at},p{at},lantern-eel,glass-sand,1\n" for at in range(60_000))
    yield csv_log("each player once", f"{heads}\n{rows}")


# --- by chance ---------------------------------------------------------------------------------------------


def _damaged() -> Iterator[Hostile]:
    """Sound files in which some bytes are others."""
    from tests.games import DEMO

    chance, whole = random.Random(SEED), DEMO.read_bytes()
    for at in range(12):
        found = bytearray(whole)
        for _ in range(chance.choice((1, 5, 200))):
            found[chance.randrange(len(found))] = chance.choice(b'"[]{},:0\\\x00\xff')
        yield Hostile("game", "game.json", f"the demo, damaged ({at})", bytes(found))
