"""Made-up boots and jobs for property tests."""

from datetime import UTC, datetime, timedelta

from hypothesis import strategies as st

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)

readings = st.dictionaries(
    st.sampled_from(Measure),
    st.builds(
        Reading,
        st.floats(0, 1e6, allow_nan=False) | st.sampled_from([0.0, 0.05, 41.25, 41.35]),
        st.booleans(),
    ),
    max_size=8,
)

boots = st.builds(
    Boot,
    number=st.integers(1, 10_000),
    started_at=st.integers(0, 10_000).map(lambda minutes: START + timedelta(minutes=minutes)),
    how=st.sampled_from(How),
    readings=readings,
    set_aside=st.sampled_from(["", "", "", "updates were installing"]),
)

rounds = st.lists(boots, max_size=5).map(tuple)


@st.composite
def jobs(draw) -> Job:
    """A job with any mixture of measured, unmeasured, censored and struck-out rounds."""
    count = draw(st.integers(0, 5))
    postings = []
    for number in range(1, count + 1):
        pencilled = number == count and draw(st.booleans())
        postings.append(
            Posting(
                number=number,
                changes=(Change(kind=ChangeKind.OTHER, what=f"change {number}"),),
                posted_at=None if pencilled else START + timedelta(hours=number),
                strikes_out=draw(st.none() | st.integers(1, number)),
                boots=() if pencilled else draw(rounds),
            )
        )
    return Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=draw(rounds),
        postings=tuple(postings),
    )
