"""Which round a boot belongs to, when clocks agree and when they do not."""

from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.job.rounds import round_of
from plucky_ledger.core.pc.facts import Facts

POSTED = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)
MINUTE = timedelta(minutes=1)
YEARS = timedelta(days=1500)


def job(*postings):
    change = (Change(kind=ChangeKind.SWAP, what="swap"),)
    numbered = enumerate(postings, 1)
    return Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=POSTED - YEARS,
        postings=tuple(
            Posting(number=number, changes=change, posted_at=at, posted_in_boot=boot)
            for number, (at, boot) in numbered
        ),
    )


@pytest.mark.parametrize(
    ("boot_id", "started", "now", "round_"),
    [
        ("a", -MINUTE, MINUTE, None),  # started before
        ("b", MINUTE, 2 * MINUTE, 1),
        ("a", 2 * MINUTE, 3 * MINUTE, None),  # the boot it was posted in, its clock set meanwhile
        ("b", -YEARS, -YEARS + MINUTE, 1),  # the clock was years ahead when it was posted
        ("a", -YEARS, -YEARS + MINUTE, None),
        ("", MINUTE, 2 * MINUTE, 1),  # another PC, which tells no boot
    ],
)
def test_a_boot_follows_a_posting_by_clock_by_boot_and_by_order(boot_id, started, now, round_):
    assert round_of(job((POSTED, "a")), boot_id, POSTED + started, POSTED + now) == round_


def test_what_is_only_pencilled_has_no_round_and_the_last_posting_counts():
    both = job((POSTED, "a"), (POSTED + 10 * MINUTE, "b"), (None, ""))
    later = POSTED + 20 * MINUTE
    assert round_of(both, "c", later, later) == 2
    assert round_of(both, "b", later, later) == 1
    assert round_of(both, "c", POSTED + MINUTE, later) == 1
