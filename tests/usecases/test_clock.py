"""Times of day by the PC's clock, also in a night in which it is changed for summer time."""

import time
from datetime import datetime

import pytest

from plucky_ledger.usecases.jobs import clock

CENTRAL, HALF_HOUR = "CET-1CEST,M3.5.0,M10.5.0/3", "IST-5:30"


@pytest.fixture
def local_time(monkeypatch):
    """Called with rules of local time and an instant, which is now from then on."""

    def at(rules, instant):
        monkeypatch.setenv("TZ", rules)
        time.tzset()
        monkeypatch.setattr(clock, "now", lambda: datetime.fromisoformat(instant))

    yield at
    monkeypatch.undo()
    time.tzset()


@pytest.mark.parametrize(
    ("rules", "now", "wanted", "expected"),
    [
        (CENTRAL, "2026-07-01T20:00Z", (7, 0), "2026-07-02T05:00Z"),
        (CENTRAL, "2026-10-24T20:00Z", (7, 0), "2026-10-25T06:00Z"),
        (CENTRAL, "2027-03-27T21:00Z", (7, 0), "2027-03-28T05:00Z"),
        (CENTRAL, "2027-03-28T05:00Z", (7, 0), "2027-03-29T05:00Z"),
        (CENTRAL, "2027-03-27T21:00Z", (2, 30), "2027-03-28T00:30Z"),  # a time that day lacks
        (HALF_HOUR, "2026-11-30T20:00Z", (7, 0), "2026-12-01T01:30Z"),
        (HALF_HOUR, "2026-11-30T18:00Z", (23, 29), "2026-12-01T17:59Z"),
    ],
)
def test_the_next_time_a_clock_shows_so(local_time, rules, now, wanted, expected):
    local_time(rules, now)
    assert clock.next_time(*wanted) == datetime.fromisoformat(expected)


@pytest.mark.parametrize(
    ("rules", "now", "began"),
    [
        (CENTRAL, "2026-10-25T20:00Z", "2026-10-24T22:00Z"),
        (CENTRAL, "2027-03-28T20:00Z", "2027-03-27T23:00Z"),
        (HALF_HOUR, "2026-11-30T18:29Z", "2026-11-29T18:30Z"),
        (HALF_HOUR, "2026-11-30T18:30Z", "2026-11-30T18:30Z"),
    ],
)
def test_when_today_began(local_time, rules, now, began):
    local_time(rules, now)
    assert clock.midnight() == datetime.fromisoformat(began)
