"""Basis of a line's figure: the boots of its state, and the state it was compared with."""

from dataclasses import dataclass

from plucky_ledger.core.book.balance import Balance
from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.verdict import Shift
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.values.measures import Measure


@dataclass(frozen=True, kw_only=True)
class LineBasis:
    """What the balance of one line of the book rests on."""

    measure: Measure
    balance: Balance | None
    """None where no boot has the measure."""
    boots: tuple[Boot, ...]
    """All boots of its state of the PC, whenever they were recorded, those set aside among them."""
    own: int
    """How many of them are of the line's own round."""
    shift: Shift | None
    """Against the state it is compared with."""
    likely: tuple[float, ...]
    """How likely each boot that counts and has a reading went wrong, 0 to 1; empty where nothing
    was compared."""


def line_basis(job: Job, measure: Measure, line: int) -> LineBasis:
    """What a line of a job's book rests on; that of the balance at the foot is the last line's."""
    lines = keep_book(job, measure).lines
    index = min(line, len(lines) - 1)
    known, states = lines[index], states_of(job)
    return LineBasis(
        measure=measure,
        balance=known.balance,
        boots=states.boots(job, index),
        own=len(known.boots),
        shift=known.shift,
        likely=known.shift.wrong[1] if known.shift is not None else (),
    )
