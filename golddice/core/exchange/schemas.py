"""JSON Schemas (2020-12) of what goes out: the game file and the thresholds."""

from __future__ import annotations

import copy
from typing import Any

from golddice.core.exchange.thresholds import Thresholds
from golddice.core.game.models import Game

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def game_schema() -> dict[str, Any]:
    """Of a game file: types, ranges, unknown keys. What holds between things is for `golddice check`."""
    found = Game.model_json_schema(by_alias=True)
    definitions = found["$defs"]
    source = definitions["Source"]
    source["properties"].pop("stated")
    # A source that is like another may leave out all but its id; so may its drops.
    kin_drop, kin = copy.deepcopy(definitions["Drop"]), copy.deepcopy(source)
    kin_drop["required"] = ["id"]
    kin["required"] = ["id", "like"]
    kin["properties"]["drops"]["items"] = {"$ref": "#/$defs/DropOver"}
    kin["properties"]["like"] = {"type": "string"}
    alone = copy.deepcopy(source)
    alone["properties"]["like"] = {"type": "null"}
    definitions |= {"DropOver": kin_drop, "Source": {"anyOf": [alone, kin]}}
    return {"$schema": DIALECT, "title": "Gold Dice game", **_without_title(found)}


def thresholds_schema() -> dict[str, Any]:
    found = Thresholds.model_json_schema(by_alias=True)
    return {"$schema": DIALECT, "title": "Gold Dice thresholds", **_without_title(found)}


def _without_title(schema: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in schema.items() if key != "title"}
