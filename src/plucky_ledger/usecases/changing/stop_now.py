"""Stop now: a trial before a change. It is kept nowhere, and the book is not touched."""

from collections.abc import Callable, Sequence

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.hints import is_guarded
from plucky_ledger.core.entries.kinds import FIRST_PERSON
from plucky_ledger.core.pc.stopping import Stopped, ToStop
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.hints import hints_about
from plucky_ledger.usecases.recording.pcs import is_this_pc
from plucky_ledger.usecases.recording.stand_ins import stand_in_of


def stop_now(
    ledger: Ledger,
    number: int,
    entry: StartupEntry | None,
    command: str = "",
    users: Sequence[int] = (),
    going_on: Callable[[], bool] = lambda: True,
) -> Stopped:
    """End a running entry of a job's PC, or the program of a command, and watch what follows.

    ``users`` are those that ran the program: one that no person runs is the system's.

    Raises:
        Refused: it is guarded, not running, somebody else's, or on another PC.
        Trouble: it could not be ended.
    """
    from plucky_ledger.control import administrator
    from plucky_ledger.control.stop import stop

    job = read_job(ledger, number)
    if job.pc.kind is not PcKind.STAND_IN and not is_this_pc(job):
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)
    if entry is not None and is_guarded(entry, hints_about([entry]).get(entry.entry_id, ())):
        raise Refused(TroubleCode.GUARDED_FROM_STOPPING, name=entry.name)
    program = unwrapped(command).program
    if entry is None and not any(user >= FIRST_PERSON for user in users):
        raise Refused(TroubleCode.GUARDED_FROM_STOPPING, name=unwrapped(command).name)
    if job.pc.kind is PcKind.STAND_IN:
        return stand_in_of(job).stop(entry.entry_id if entry is not None else command)
    target = ToStop(unwrapped(command).name, program=program)
    if entry is not None:
        path = entry.executable or unwrapped(entry.command).program
        target = ToStop(entry.name, entry.group, path)
    return stop(target, administrator.stop, going_on)
