"""Programs set aside: what only runs because of the measuring, such as a remote-help session."""

from collections.abc import Mapping

from sqlalchemy.orm import Session

from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.boots import write_boot
from plucky_ledger.store.decisions import asides, write_asides
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.recording.figures import worked_out


def programs_aside(ledger: Ledger, number: int) -> dict[str, str]:
    """Programs set aside in a job, with the reason."""
    with ledger.session() as session:
        return asides(session, number)


def set_program_aside(ledger: Ledger, number: int, program: str, reason: str) -> None:
    """Leave a program, and what it starts, out of the account of all the job's recorded boots.

    Raises:
        Refused: no reason given.
    """
    if not reason.strip():
        raise Refused(TroubleCode.NO_REASON_FOR_PROGRAM)
    with step(ledger, StepCode.SET_PROGRAM_ASIDE, number, program=program) as session:
        aside = {**asides(session, number), program: reason.strip()}
        _write(session, number, aside)


def bring_program_back(ledger: Ledger, number: int, program: str) -> None:
    """Take a program that was set aside into the account again."""
    with step(ledger, StepCode.BRING_PROGRAM_BACK, number, program=program) as session:
        aside = asides(session, number)
        _write(session, number, {name: why for name, why in aside.items() if name != program})


def _write(session: Session, number: int, wanted: Mapping[str, str]) -> None:
    """Write what is set aside, and the job's recorded boots with their figures worked out anew."""
    write_asides(session, number, wanted)
    for boot in read_job(session, number).boots:
        write_boot(session, worked_out(session, boot, wanted))
