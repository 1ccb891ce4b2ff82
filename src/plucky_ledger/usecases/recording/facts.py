"""What a PC has, read from it."""

import platform

from plucky_ledger.core.job.changes import ChangeKind
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.usecases.recording.pcs import is_this_pc, this_pc


def read_this_pc() -> tuple[WhichPc, Facts]:
    """Which PC this is, and what it has."""
    pc = this_pc()
    return pc.which, facts_from(pc.facts())


def name_of_this_pc() -> str:
    """What this PC calls itself; empty where it has no name."""
    return platform.node().partition(".")[0]


def value_now(job: Job, kind: ChangeKind) -> str:
    """What a typed change of this kind is about, read from a job's PC; empty where it cannot be."""
    if not is_this_pc(job):
        return ""
    from plucky_ledger.capture.sampling.values import value_of

    return value_of(kind)
