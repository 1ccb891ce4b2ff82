"""Which round a boot belongs to: the one of the last posting that was made before the PC started.

Wall clocks order them as long as they agree. The boot in which a posting was made never follows
it, whatever the clocks say; and where a posting seems to lie in the future, the clock was ahead
when it was made, and what comes into the book after it follows it.
"""

from datetime import datetime, timedelta

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting

AGREE_WITHIN = timedelta(minutes=1)
"""Two looks at one clock may differ by so much."""


def round_of(job: Job, boot_id: str, started_at: datetime, now: datetime) -> int | None:
    """Number of the posting whose round a boot belongs to; None for the opening round.

    ``started_at`` is when the PC was started; ``now`` is when the boot comes into the book.
    Nothing counts for a posting until the PC has really been restarted.
    """
    before = [
        posting.number for posting in job.postings if _follows(posting, boot_id, started_at, now)
    ]
    return before[-1] if before else None


def _follows(posting: Posting, boot_id: str, started_at: datetime, now: datetime) -> bool:
    if posting.posted_at is None or (boot_id and boot_id == posting.posted_in_boot):
        return False
    return clock_was_ahead(posting, now) or posting.posted_at <= started_at


def clock_was_ahead(posting: Posting, now: datetime) -> bool:
    """Whether the clock that a posting was made by was ahead of the one there is now."""
    return posting.posted_at is not None and posting.posted_at > now + AGREE_WITHIN
