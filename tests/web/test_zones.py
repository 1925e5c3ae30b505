"""A stall's dates by the clock of any place, held against Python's own knowledge of clocks."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta
from typing import Any, ClassVar
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import Page

ZONES = "sheets/stall/zones.ts"
PLACES = ("UTC", "Europe/Berlin", "America/New_York", "Asia/Kathmandu", "Australia/Lord_Howe")


class Zones(unittest.TestCase):
    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = cls.enterClassContext(Page(ZONES))

    def clock(self, moment: datetime, zone: str) -> Any:
        return self.page.call(ZONES, "clockOf", moment.timestamp() * 1000, zone)

    def moment(self, text: str, zone: str) -> datetime | None:
        found = self.page.call(ZONES, "momentOf", text, zone)
        return None if found is None else datetime.fromtimestamp(found / 1000, UTC)

    @settings(max_examples=150, deadline=None)
    @given(st.integers(-(10**9), 2 * 10**9), st.sampled_from(PLACES))
    def test_as_the_clocks_there_say(self, seconds: int, zone: str) -> None:
        at = datetime(1990, 1, 1, tzinfo=UTC) + timedelta(minutes=seconds // 60)
        there = at.astimezone(ZoneInfo(zone))
        clock = self.clock(at, zone)
        self.assertEqual(clock, {"day": f"{there:%Y-%m-%d}", "time": f"{there:%H:%M}"})
        # Back again, but for the hour that there is twice.
        back = self.moment(f"{clock['day']} {clock['time']}", zone)
        assert back is not None
        self.assertLessEqual(abs(back - at), timedelta(hours=1))
        self.assertEqual(self.clock(back, zone), clock)

    def test_days_on_which_clocks_change(self) -> None:
        for day, zone, wanted in (
            ("2031-03-30", "Europe/Berlin", "2031-03-29T23:00:00+00:00"),
            ("2031-03-31", "Europe/Berlin", "2031-03-30T22:00:00+00:00"),
            ("2031-10-26", "Europe/Berlin", "2031-10-25T22:00:00+00:00"),
            ("2031-10-27", "Europe/Berlin", "2031-10-26T23:00:00+00:00"),
            ("1969-12-31", "America/New_York", "1969-12-31T05:00:00+00:00"),
        ):
            found = self.moment(day, zone)
            assert found is not None
            self.assertEqual(found.isoformat(), wanted, (day, zone))

    def test_what_is_no_day(self) -> None:
        for text in ("", "soon", "2031-13-01", "01.04.2031", "2031-04-01 25:00"):
            self.assertIsNone(self.moment(text, "UTC"), text)
