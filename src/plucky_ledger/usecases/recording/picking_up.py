"""Picking up: finished armed recordings become boots of the job's book."""

import logging

from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused, Trouble
from plucky_ledger.exchange.boots import RecordedBoot
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording.arming import armed_state
from plucky_ledger.usecases.recording.boots import (
    RecordingFile,
    keep_file,
    read_recording_file,
    set_boot_aside,
)
from plucky_ledger.usecases.recording.night_report import book_state, close_night
from plucky_ledger.usecases.recording.pcs import this_pc

log = logging.getLogger(__name__)


def pick_up(ledger: Ledger, place: Workplace, number: int) -> list[Reason | Trouble]:
    """Take finished armed recordings into a job's book; returns what there is to say of them, and
    what kept the last boot from being recorded.

    One that is still being written has no end record yet and is left for later; so is one that is
    no recording, which is named. One whose recorder still looks on is taken, and again at its end.
    """
    state = armed_state(place, number)
    said: list[Reason | Trouble] = [state.trouble] if state.trouble else []
    for path in state.waiting:
        try:
            file = read_recording_file(path)
            if _being_written(file.recorded):
                continue
            said.extend(_taken(ledger, number, file))
            if _goes_on(file.recorded):
                continue  # picked up once more when the slow look is over
            path.unlink()
            log.info("picked up %s for job %d", path, number)
        except Refused as refusal:
            log.warning("not picked up: %s", refusal)
            said.append(refusal)
    if state.waiting:
        close_night(ledger, number)
    return said


def _taken(ledger: Ledger, number: int, file: RecordingFile) -> tuple[Reason, ...]:
    """A finished recording into the book; one of a night shift into the round of its state."""
    aside = book_state(ledger, number, file.recorded.boot, file.recorded.boot_id)
    imported = keep_file(ledger, number, file, this_pc().which)
    if aside and imported.boot is not None:
        set_boot_aside(ledger, number, imported.boot, aside)
    return imported.remarks


def _being_written(recorded: RecordedBoot) -> bool:
    """Whether it belongs to this boot and its recorder may still be at work."""
    return recorded.boot.cut_short and recorded.boot_id == boot_id()


def _goes_on(recorded: RecordedBoot) -> bool:
    """The same for its slow look."""
    return recorded.goes_on and recorded.boot_id == boot_id()
