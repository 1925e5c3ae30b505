"""What things are called on the page, and what is read of what is typed: the same as in the core."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from hypothesis import given, settings
from hypothesis import strategies as st

from golddice.core.game.editing import Entities, uses
from golddice.core.game.models import Item
from golddice.core.game.quantity import Quantity, parse_quantity
from golddice.core.terms.conditions import Conditions
from tests.games import demo
from tests.web.page import PageTest
from tests.web.test_targets import body_of_demo

WORDS, PARTS, FORMAT, MENTIONS, ENDS = (
    "game/words.ts",
    "game/parts.ts",
    "text/format.ts",
    "game/mentions.ts",
    "plots/ends.ts",
)
quantities = st.one_of(
    st.tuples(st.integers(0, 10_000), st.integers(0, 400), st.integers(1, 50)).map(
        lambda drawn: {"min": drawn[0], "max": drawn[0] + drawn[1] * drawn[2], "step": drawn[2]}
    ),
    st.tuples(st.integers(1, 12), st.integers(2, 20), st.integers(0, 9)).map(
        lambda drawn: {"dice": f"{drawn[0]}d{drawn[1]}" + (f"{drawn[2]:+d}" if drawn[2] else "")}
    ),
)


class OfWords(PageTest):
    MODULES = (WORDS, PARTS, FORMAT, MENTIONS, ENDS)
    body: ClassVar[dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.body = body_of_demo()

    @property
    def parts(self) -> dict[str, Any]:
        return {"parts of": self.body}

    def words(self, name: str, *args: Any) -> Any:
        return self.page.call(WORDS, name, *args)


class Quantities(OfWords):
    @settings(max_examples=80, deadline=None)
    @given(quantities)
    def test_what_is_written_is_read_as_it_was(self, told: dict[str, Any]) -> None:
        wanted = Quantity.model_validate(told)
        text = self.words("quantityText", wanted.model_dump(mode="json"))
        read = parse_quantity(text)
        self.assertEqual((read.least, read.most), (wanted.least, wanted.most), text)
        if wanted.dice is None and wanted.min != wanted.max:
            self.assertEqual(read.step, wanted.step, text)

    def test_every_quantity_of_the_demo_in_words(self) -> None:
        """Its range and mean are those that are reckoned with."""
        for table in demo().tables:
            for line in table.lines:
                for one in line.yields:
                    told = self.words("quantityWords", self.parts, one.model_dump(mode="json"))
                    low, high = one.quantity.least, one.quantity.most
                    wanted = str(low) if low == high else f"{low} to {high}"
                    self.assertEqual(told.split(",")[0].split(":")[0], wanted, (table.id, line.id))


class Names(OfWords):
    def test_each_thing_is_found_by_its_name(self) -> None:
        """In any case; an item before a table, a table before a source."""
        seen: set[str] = set()
        for kind in ("item", "table", "source"):
            for one in self.body[f"{kind}s"]:
                name = one["name"].lower()
                if name in seen:
                    continue
                seen.add(name)
                found = self.words("yieldByName", self.parts, f"  {one['name'].upper()} ")
                self.assertEqual(found, {kind: one["id"]}, one["name"])
        self.assertIsNone(self.words("yieldByName", self.parts, "Nothing"))

    def test_a_line_is_marked_by_the_tier_that_it_counts_in(self) -> None:
        catalogue = Conditions(demo(), [1]).catalogue
        for table in demo().tables:
            for line in table.lines:
                shown = self.words("lineTier", self.parts, line.model_dump(mode="json"))
                items = [one.item for one in line.yields if one.item is not None]
                if len(items) == len(line.yields) == 1:
                    self.assertEqual(shown, catalogue.line_tier(line), (table.id, line.id))

    @settings(max_examples=80, deadline=None)
    @given(st.text(max_size=70), st.booleans())
    def test_an_id_made_of_a_name_is_one_that_the_server_takes(self, name: str, is_taken: bool) -> None:
        """And a new one, whatever is there."""
        made = self.page.call(PARTS, "freshId", name, {"ids": []})
        taken = [made, f"{made}-2"] if is_taken else []
        again = self.page.call(PARTS, "freshId", name, {"ids": taken})
        self.assertEqual(again, f"{made}-3" if is_taken else made)
        for one in (made, again):
            self.assertEqual(Item.model_validate({"id": one, "name": "X", "tier": "t"}).id, one)

    def test_letters_of_lines_go_on(self) -> None:
        letters = [{"id": letter} for letter in "abcdefghijklmnopqrstuvwxyz"]
        self.assertEqual(self.page.call(PARTS, "freshLetter", letters[:2] + letters[3:]), "c")
        self.assertEqual(self.page.call(PARTS, "freshLetter", letters), "l27")
        self.assertEqual(self.page.call(PARTS, "freshLetter", [*letters, {"id": "l27"}]), "l28")


class Mentions(OfWords):
    def test_who_names_a_thing_is_told_by_name(self) -> None:
        """Of every curve and flag of the demo, as the server finds them."""
        entities = Entities.of(demo())
        for kind in ("curve", "flag"):
            for one in self.body[f"{kind}s"]:
                found = [(use.kind, use.id, use.path) for use in uses(entities, kind, one["id"])]
                asked = [dict(zip(("kind", "id", "path"), use, strict=True)) for use in found]
                told = self.page.call(MENTIONS, "mentionWords", self.parts, asked)
                holders = {use[:2] for use in found}
                self.assertEqual(len(told), len(holders), (one["id"], told))
                for text in told:
                    self.assertNotRegex(text, r"undefined|null|\[\d")

    def test_whatever_rolls_a_table(self) -> None:
        for table in demo().tables:
            rollers = self.page.call(MENTIONS, "rollersOf", self.parts, table.id)
            sources = {one.id for one in demo().sources if any(drop.table == table.id for drop in one.drops)}
            shown = {one["sheet"]["id"] for one in rollers if one["sheet"]["kind"] == "source"}
            self.assertEqual(shown, sources, table.id)


class Told(OfWords):
    def test_numbers_as_people_read_them(self) -> None:
        for value, wanted in (
            (12345.6, "12\u202f346"),
            (42.123, "42.1"),
            (0.00285, "0.00285"),
            (999.6, "1\u202f000"),
            (0, "0"),
            (-3.14159, "−3.14"),
            (2e-9, "2.00e-9"),
        ):
            self.assertEqual(self.page.call(FORMAT, "figures", value), wanted)

    @settings(max_examples=80, deadline=None)
    @given(st.floats(1e-6, 1e12))
    def test_three_figures_are_as_near_as_three_figures_are(self, value: float) -> None:
        text = self.page.call(FORMAT, "figures", value).replace("\u202f", "")
        self.assertLessEqual(abs(float(text) - value), max(0.00501 * value, 0.0 if value < 1000 else 0.51))

    def test_brief_ones(self) -> None:
        for value, wanted in ((46313, "46.3k"), (1234567, "1.23M"), (2.5e9, "2.50G"), (9000, "9\u202f000")):
            self.assertEqual(self.page.call(FORMAT, "brief", value), wanted)

    def test_ends_of_more_than_a_call_takes(self) -> None:
        many = list(range(150_000))
        self.assertEqual(self.page.call(ENDS, "mostOf", many), 149_999)
        self.assertEqual(self.page.call(ENDS, "leastOf", many), 0)


if __name__ == "__main__":
    unittest.main()
