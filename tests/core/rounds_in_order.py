"""Jobs whose boots have a known state and figure, one after the other: the product's own path from
boots to verdict.
"""

from datetime import UTC, datetime, timedelta

from plucky_ledger.core.book.states_compared import compare_states
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)
AS_FOUND = "A"


def job_of(rounds, measure=Measure.SETTLED, kernel=(), worked=()):
    """A job of rounds: pairs of a state's letter and the figures of its boots, in their order.

    ``A`` is the PC as it was found; in any other state the entry of that name is off. ``kernel``
    has the kernel stages of all boots, ``worked`` who worked in each.
    """
    taken, made = 0, []
    for _, values in rounds:
        made.append(
            tuple(
                _boot(taken + place, measure, value, kernel, worked)
                for place, value in enumerate(values)
            )
        )
        taken += len(values)
    now, postings = AS_FOUND, []
    for number, ((letter, _), boots) in enumerate(zip(rounds[1:], made[1:], strict=True), 1):
        changes = tuple(
            _switched(name, state)
            for name, state in ((now, EntryState.ON), (letter, EntryState.OFF))
            if name != AS_FOUND
        )
        postings.append(Posting(number=number, changes=changes, posted_at=START, boots=boots))
        now = letter
    return Job(
        number=1,
        card=Card("1", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=made[0],
        postings=tuple(postings),
    )


def _boot(number, measure, value, kernel, worked):
    decimals = measure.terms.decimals
    return Boot(
        number=number,
        started_at=START + timedelta(hours=number),
        how=How.RECORDED,
        readings={measure: Reading(round(float(value), decimals))},
        context=Context(
            controls={"kernel stage": float(kernel[number])} if len(kernel) else {},
            worked=tuple(worked[number]) if worked else (),
        ),
    )


def _switched(name, state):
    old = EntryState.OFF if state is EntryState.ON else EntryState.ON
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=name,
        why="",
        entry_id=name,
        new_state=state,
        old_state=old,
    )


def compared(rounds, measure=Measure.SETTLED, kernel=()):
    """What the product says of the first state against the second, ``B``."""
    job = job_of(rounds, measure, kernel)
    letters = [letter for letter, _ in rounds]
    return compare_states(job, states_of(job), measure, letters.index(AS_FOUND), letters.index("B"))
