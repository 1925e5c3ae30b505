"""Whatever is sent, the server answers with a refusal that can be read, and keeps what it has."""

from __future__ import annotations

import copy
import json
import random
import unittest
from collections.abc import Iterator
from typing import Any

import httpx

from tests.games import DEMO
from tests.support import running_server

EEL: dict[str, Any] = {"view": {"kind": "source", "id": "lantern-eel"}, "depth": 14, "flags": [], "draft": []}
ASKED: dict[str, dict[str, Any]] = {
    "odds": {**EEL, "focus": {"kind": "line", "table": "eel-catch", "line": "a"}},
    "spread": {**EEL, "events": 20},
    "profile": EEL,
    "answers": {**EEL, "table": "eel-catch", "line": "a", "answer": "chance", "wanted": 0.1},
    "compare": {"table": "eel-catch", "depth": 14, "flags": [], "draft": []},
    "depths": EEL,
    "meets": {"depth": 14, "points": 3, "flags": [], "draft": []},
    "items/lamp-oil": {"flags": [], "draft": []},
    "rolls": {**EEL, "seed": 1, "count": 2},
    "trials": {
        "view": EEL["view"],
        "depth": 14,
        "players": 10,
        "events": 10,
        "seed": 1,
    },
}
JSON = {"Content-Type": "application/json"}
STRANGE: list[Any] = [
    None,
    True,
    -1,
    0,
    10**30,
    1e308,
    "",
    "no-such-thing",
    "\u202e\x00",
    "half \ud83c",
    [],
    [[]],
    {},
    {"id": 5},
    "9" * 400,
]


def places(body: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The path of everything in a body, itself left out."""
    parts = body.items() if isinstance(body, dict) else enumerate(body) if isinstance(body, list) else ()
    for key, part in parts:
        yield (*path, key)
        yield from places(part, (*path, key))


def bent(body: Any, path: tuple[Any, ...], value: Any) -> Any:
    """A copy with something else in one place."""
    changed = copy.deepcopy(body)
    part = changed
    for key in path[:-1]:
        part = part[key]
    part[path[-1]] = value
    return changed


class Nonsense(unittest.TestCase):
    client: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        address, _ = cls.enterClassContext(running_server(pages=False))
        cls.client = cls.enterClassContext(httpx.Client(base_url=address, timeout=120))

    def setUp(self) -> None:
        made = self.client.post("/api/games/import", content=DEMO.read_bytes())
        self.url = f"/api/games/{made.json()['id']}"
        self.before = self.client.get(self.url).json()

    def sent(self, path: str, body: Any) -> httpx.Response:
        """The answer; never a 500, and a refusal says what is wrong."""
        text = json.dumps(body)  # in ASCII, so that half a character can be sent too
        answer = self.client.post(f"{self.url}/{path}", content=text, headers=JSON)
        self.assertLess(answer.status_code, 500, f"{path}: {body}")
        if answer.status_code >= 400:
            self.assertTrue(answer.json()["detail"], f"{path}: {body}")
        return answer

    def test_the_questions_themselves_are_sound(self) -> None:
        for path, body in ASKED.items():
            self.assertLess(self.sent(path, body).status_code, 300, path)

    def test_every_place_of_every_question(self) -> None:
        rng = random.Random(2)
        for path, body in ASKED.items():
            if path == "trials":
                continue  # those that are sound would run
            for place in places(body):
                for value in rng.sample(STRANGE, 5):
                    self.sent(path, bent(body, place, value))
        self.assertEqual(self.client.get(self.url).json(), self.before)

    def test_bodies_that_are_no_question_at_all(self) -> None:
        for path in [*ASKED, "changes", "removals"]:
            for body in STRANGE:
                self.assertGreaterEqual(self.sent(path, body).status_code, 400 if body != {} else 200)
            for text in (b"", b"{", b"\xff\xfe", b'{"a":NaN}', b"[" * 5000):
                answer = self.client.post(f"{self.url}/{path}", content=text, headers=JSON)
                self.assertIn(answer.status_code, (400, 422), path)

    def test_every_place_of_an_entity_in_a_draft_and_in_a_change(self) -> None:
        rng = random.Random(3)
        kinds = {"table": "eel-catch", "source": "lantern-eel", "curve": "trench-pull", "item": "beacon-lens"}
        for kind, name in kinds.items():
            body = next(one for one in self.before[f"{kind}s"] if one["id"] == name)
            every = list(places(body))
            for place in rng.sample(every, min(40, len(every))):
                value = rng.choice(STRANGE)
                entry = {"kind": kind, "id": name, "body": bent(body, place, value)}
                self.sent("odds", {**EEL, "draft": [entry]})
                now = self.client.get(self.url).json()
                answer = self.sent("changes", {"base": now["revision"], "label": "x", "entries": [entry]})
                if answer.status_code >= 400:  # then nothing has changed, half or whole
                    self.assertEqual(self.client.get(self.url).json(), now)
        # Whatever was taken is a sound game, that can go out and come back.
        file = self.client.get(f"{self.url}/file")
        self.assertEqual(self.client.post("/api/games/import", content=file.content).status_code, 201)

    def test_names_in_the_address(self) -> None:
        for name in ("%00", "no-such", "%ED%A0%BC", "..%2F..", "x" * 300):
            for path in (f"/api/games/{name}", f"{self.url}/trials/{name}", f"{self.url}/uses/item/{name}"):
                self.assertLess(self.client.get(path).status_code, 500, path)

    def test_a_label_that_cannot_be_kept_keeps_the_change_out(self) -> None:
        item = next(one for one in self.before["items"] if one["id"] == "lamp-oil")
        entry = {"kind": "item", "id": "lamp-oil", "body": {**item, "value": 99}}
        answer = self.sent("changes", {"base": 1, "label": "a\x00b", "entries": [entry]})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("cannot be kept", answer.json()["detail"])
        self.assertEqual(self.client.get(self.url).json(), self.before)

    def test_two_changes_at_once_of_which_one_is_unsound(self) -> None:
        table = next(one for one in self.before["tables"] if one["id"] == "eel-catch")
        good = {"kind": "table", "id": "eel-catch", "body": {**table, "nothing": 20}}
        bad = {"kind": "item", "id": "lamp-oil", "body": {"name": "Lamp oil", "tier": "no-such"}}
        answer = self.sent("changes", {"base": 1, "label": "both", "entries": [good, bad]})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.client.get(self.url).json(), self.before)


if __name__ == "__main__":
    unittest.main()
