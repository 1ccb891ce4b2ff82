"""Programs set aside: what only runs because of the measuring, such as a remote-help session."""

from collections.abc import Iterable
from dataclasses import replace

from plucky_ledger.core.book.job import Job
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.without_set_aside import net_readings
from plucky_ledger.store import entries as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.boots import recorded_boot
from plucky_ledger.usecases.jobs import Refused


def set_program_aside(ledger: Ledger, job: Job, program: str, reason: str) -> None:
    """Leave a program, and what it starts, out of the account of all the job's recorded boots.

    Raises:
        Refused: no reason given.
    """
    if not reason.strip():
        raise Refused("Say why the program is set aside: the owner may ask.")
    wanted = {**stored.asides(ledger, job.number), program: reason.strip()}
    label = f"set {program} aside"
    stored.write_asides(ledger, label, job.number, wanted, _anew(ledger, job, wanted))


def bring_program_back(ledger: Ledger, job: Job, program: str) -> None:
    """Take a program that was set aside into the account again."""
    wanted = {
        name: why for name, why in stored.asides(ledger, job.number).items() if name != program
    }
    label = f"bring {program} back"
    stored.write_asides(ledger, label, job.number, wanted, _anew(ledger, job, wanted))


def _anew(ledger: Ledger, job: Job, aside: Iterable[str]) -> list[Boot]:
    """The job's recorded boots with their figures worked out anew."""
    names = frozenset(aside)
    found = []
    for boots in job.rounds:
        for boot in boots:
            recorded = recorded_boot(ledger, boot)
            if recorded is not None and recorded.timeline.samples is not None:
                readings = net_readings(boot.marks, recorded.timeline, names)
                found.append(replace(boot, readings=readings))
    return found
