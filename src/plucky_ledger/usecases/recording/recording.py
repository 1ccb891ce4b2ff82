"""Recording a boot of a job's PC, and taking the recording into its book."""

import logging
from collections.abc import Callable, Sequence
from pathlib import Path

from plucky_ledger.core.pc.abilities import RecordHow
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.files import make_folder
from plucky_ledger.recording.lines import Line
from plucky_ledger.recording.pc import Pc
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording.boots import Imported, import_recording
from plucky_ledger.usecases.recording.pcs import pc_of

log = logging.getLogger(__name__)


def new_recording(place: Workplace) -> Path:
    """A path for a recording in the workplace. Raises Refused where nothing can be written."""
    try:
        make_folder(place.recordings)
    except OSError as error:
        raise Refused(
            TroubleCode.NOTHING_RECORDED, path=str(place.recordings), system=error.strerror or ""
        ) from error
    return place.recordings / f"boot-{now():%Y%m%d-%H%M%S-%f}.jsonl.gz"


def record(
    pc: Pc,
    path: Path,
    seconds: float,
    listener: Callable[[Sequence[Line]], None],
    going_on: Callable[[], bool],
) -> Trouble | None:
    """Record a PC to ``path`` for so long, or until ``going_on`` says no.

    Returns what ended it early, if anything did: what was recorded until then is kept.

    Raises:
        Trouble: nothing was recorded.
    """
    try:
        pc.record(path, pc.abilities.seconds or seconds, listener, going_on)
    except Trouble as trouble:
        log.warning("recording to %s ended early: %s", path, trouble)
        if not path.exists():
            raise
        return trouble
    return None


def take_over(ledger: Ledger, number: int, path: Path, recorded_on: WhichPc) -> Imported:
    """Take a recording that was just made into a job's book; the file has then done its work.

    Raises:
        Trouble: it could not be; the file is kept.
    """
    imported = import_recording(ledger, number, path, recorded_on)
    path.unlink(missing_ok=True)
    return imported


def pc_to_record(ledger: Ledger, number: int) -> Pc:
    """The PC of a job, ready to be recorded in the state the book says it is in.

    Raises:
        Refused: it is another PC than this one.
    """
    pc = pc_of(read_job(ledger, number))
    if pc.abilities.record is RecordHow.NOT_HERE:
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)
    return pc
