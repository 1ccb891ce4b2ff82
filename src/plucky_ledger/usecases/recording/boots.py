"""Bringing boots into a job's rounds, correcting them, and setting them aside."""

import logging
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from sqlalchemy.orm import Session

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.marks import Mark, faults
from plucky_ledger.core.boots.readings import readings_of
from plucky_ledger.core.boots.worked import with_figures
from plucky_ledger.core.job.entry_states import entry_states
from plucky_ledger.core.job.inventory import came_back, inventory_of, unposted_changes
from plucky_ledger.core.job.job import Job, boot_of
from plucky_ledger.core.job.rounds import clock_was_ahead, round_of
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc
from plucky_ledger.core.values.measures import Measure, Reading, is_sensible
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes
from plucky_ledger.exchange.chosen_file import read_chosen
from plucky_ledger.recording.limits import LARGEST_FILE
from plucky_ledger.recording.reader import RecordingFault
from plucky_ledger.store import boots as stored
from plucky_ledger.store import decisions as stored_decisions
from plucky_ledger.store import entries as stored_entries
from plucky_ledger.store.jobs import read_job, write_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.recording.figures import worked_out

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Imported:
    """What became of a recording."""

    boot: int | None
    """Number of the boot in the ledger; None when it was there already."""
    remarks: tuple[Reason, ...]
    """What there is to say about it."""


@dataclass(frozen=True)
class RecordingFile:
    """A recording file that was read."""

    path: Path
    recorded: RecordedBoot
    data: bytes


def import_recording(
    ledger: Ledger, number: int, path: Path, recorded_on: WhichPc = THIS_OR_ANOTHER
) -> Imported:
    """Import a recording file into the round of the job it belongs to.

    ``recorded_on`` is the PC that made it, where that is known.

    Raises:
        Refused: the file cannot be read or is no recording; nothing was changed.
        Trouble: the ledger could not be written.
    """
    return keep_file(ledger, number, read_recording_file(path), recorded_on)


def keep_file(
    ledger: Ledger, number: int, file: RecordingFile, recorded_on: WhichPc = THIS_OR_ANOTHER
) -> Imported:
    """Put the boot of a file that was read into the book. Raises Trouble."""
    imported = keep_recorded(ledger, number, file.recorded, file.data, recorded_on)
    path = file.path
    log.info("%s into job %d: %s", path, number, [remark.code.value for remark in imported.remarks])
    return imported


def read_recording_file(path: Path) -> RecordingFile:
    """Read a recording file, once for whatever is asked of it.

    Raises:
        Refused: it cannot be read or is no recording.
    """
    data = read_chosen(path, LARGEST_FILE)
    try:
        return RecordingFile(path, boot_from_bytes(data), data)
    except RecordingFault as fault:
        raise Refused(TroubleCode.NOT_IMPORTED, name=path.name, fault=fault) from fault


def keep_recorded(
    ledger: Ledger,
    number: int,
    recorded: RecordedBoot,
    data: bytes,
    recorded_on: WhichPc = THIS_OR_ANOTHER,
) -> Imported:
    """Put a boot that was read from ``data`` into the book, unless it is there already."""
    try:
        with step(ledger, StepCode.ADD_BOOT, number, how=recorded.boot.how) as session:
            return _kept(session, number, recorded, data, recorded_on)
    except _KnownAlready as known:
        if _looked_on_since(ledger, number, known.boot, data):
            return Imported(None, (Reason(ReasonCode.LOOKED_ON),))
        if recorded.goes_on:
            return Imported(None, ())
        when = known.boot.started_at.isoformat()
        return Imported(None, (Reason.of(ReasonCode.KNOWN_BOOT, started_at=when),))


def _looked_on_since(ledger: Ledger, number: int, boot: Boot, data: bytes) -> bool:
    """Whether a boot of the book was looked at longer than it knew; its figures have that then.

    It is nobody's step, and is not undone.
    """
    with ledger.writing(number) as session:
        if not stored.add_to_recording(session, boot.number, data):
            return False
        aside = stored_decisions.asides(session, number)
        stored.write_boot(session, worked_out(session, boot, aside))
    ledger.written[number] += 1
    log.info("boot %d was looked at on", boot.number)
    return True


class _KnownAlready(Exception):
    """The boot is in the book: the step that would have added it is not taken."""

    def __init__(self, boot: Boot) -> None:
        super().__init__()
        self.boot = boot


def _kept(
    session: Session, number: int, recorded: RecordedBoot, data: bytes, recorded_on: WhichPc
) -> Imported:
    number_in_job = stored.find_boot(session, number, recorded.boot_id)
    if number_in_job is not None:
        raise _KnownAlready(number_in_job)
    job = read_job(session, number)
    boot = recorded.boot
    posting = round_of(job, recorded.boot_id, boot.started_at, now())
    aside = frozenset(stored_decisions.asides(session, number))
    if aside:
        boot = with_figures(Analysis(boot, recorded.timeline, aside))
    boot = _with_noticed(session, job, boot, recorded, posting)
    added = stored.add_boot(session, number, posting, boot, recorded.boot_id, data)
    facts = recorded.facts if job.facts == Facts() else job.facts
    pc = recorded_on if job.pc == THIS_OR_ANOTHER else job.pc
    if (facts, pc) != (job.facts, job.pc):
        write_job(session, replace(job, facts=facts, pc=pc))
    return Imported(added, _remarks(job, boot, posting, recorded.damaged_line))


def _with_noticed(
    session: Session, job: Job, boot: Boot, recorded: RecordedBoot, posting: int | None
) -> Boot:
    """The boot with what changed on the PC without being posted; what it has is kept for the next.

    A boot of a round before the newest says nothing of how the PC is now.
    """
    current = job.last_posted.number if job.last_posted is not None else None
    entries = recorded.timeline.entries
    if posting != current or not entries:
        return boot
    states = entry_states(job)
    before = stored_entries.inventory(session, job.number)
    found = inventory_of(entries, recorded.facts, recorded.packages)
    stored_entries.write_inventory(session, job.number, found)
    worked = {one.entry_id for one in boot.context.worked}
    back = came_back(entries, recorded.timeline.activities, states, before, worked)
    context = replace(boot.context, noticed=(*back, *unposted_changes(before, found, states)))
    return replace(boot, context=context)


def _remarks(
    job: Job, boot: Boot, posting: int | None, damaged_line: int | None
) -> tuple[Reason, ...]:
    at_rest = ReasonCode.READ_AT_REST if boot.how is How.AT_REST else ReasonCode.IN_THE_BOOK
    remarks = [Reason(at_rest)]
    current = job.last_posted
    if current is not None and posting != current.number:
        remarks.append(Reason(ReasonCode.BEFORE_POSTING))
    if current is not None and clock_was_ahead(current, now()):
        remarks.append(Reason(ReasonCode.CLOCK_WAS_AHEAD))
    if damaged_line is not None:
        remarks.append(Reason.of(ReasonCode.KEPT_DAMAGED, line=damaged_line))
    elif boot.cut_short:
        remarks.append(Reason(ReasonCode.KEPT_CUT_SHORT))
    settled = boot.readings.get(Measure.SETTLED)
    if settled is not None and settled.censored:
        remarks.append(Reason.of(ReasonCode.NOT_BEFORE, seconds=settled.value))
    if settled is None and boot.is_start and Measure.LOAD_AT_REST in boot.readings:
        remarks.append(Reason(ReasonCode.CALM_WHEN_FIRST_SEEN))
    return (*remarks, *boot.context.noticed, *boot.context.notes)


def add_timed(
    ledger: Ledger, number: int, marks: Mapping[Mark, float], started_at: datetime
) -> int:
    """Add a boot timed with the stopwatch; returns its number.

    Raises:
        Refused: the marks cannot be right.
    """
    checked = checked_marks(marks)
    if len(checked) < 2:
        raise Refused(TroubleCode.ONE_MARK_ALONE)
    boot = Boot(
        number=0,
        started_at=started_at,
        how=How.STOPWATCH,
        marks=checked,
        readings=readings_of(checked, None, None),
    )
    return _add_unrecorded(ledger, number, boot)


def add_typed(
    ledger: Ledger,
    number: int,
    figures: Mapping[Measure, float],
    started_at: datetime | None = None,
) -> int:
    """Add a boot whose figures were read off the PC's own screen; returns its number.

    Raises:
        Refused: no figure, or one that cannot be.
    """
    if not figures:
        raise Refused(TroubleCode.NO_FIGURE)
    for measure, value in figures.items():
        if value < 0 or not is_sensible(value):
            raise Refused(TroubleCode.FIGURE_CANNOT_BE, measure=measure, value=value)
    readings = {measure: Reading(value) for measure, value in figures.items()}
    return _add_unrecorded(
        ledger,
        number,
        Boot(number=0, started_at=started_at or now(), how=How.TYPED, marks={}, readings=readings),
    )


def _add_unrecorded(ledger: Ledger, number: int, boot: Boot) -> int:
    with step(ledger, StepCode.ADD_BOOT, number, how=boot.how) as session:
        job = read_job(session, number)
        posting = round_of(job, "", boot.started_at, now())
        return stored.add_boot(session, number, posting, boot)


def correct_marks(
    ledger: Ledger, number: int, boot_number: int, marks: Mapping[Mark, float]
) -> None:
    """Correct the marks of a job's boot and work out its figures anew.

    Raises:
        Refused: the marks cannot be right, or the boot has none to correct.
    """
    checked = checked_marks(marks)
    with step(ledger, StepCode.CORRECT_MARKS, number) as session:
        boot = _boot(session, number, boot_number)
        if boot.how is How.TYPED and stored.recording_of(session, boot_number) is None:
            raise Refused(TroubleCode.TYPED_HAS_NO_MARKS)
        aside = stored_decisions.asides(session, number)
        stored.write_boot(session, worked_out(session, replace(boot, marks=checked), aside))


def checked_marks(marks: Mapping[Mark, float]) -> dict[Mark, float]:
    """The marks, if they can be right. Raises Refused."""
    wrong = faults(marks)
    if wrong:
        raise Refused(TroubleCode.MARKS_CANNOT_BE, because=wrong)
    return dict(marks)


def set_boot_aside(ledger: Ledger, number: int, boot_number: int, reason: str) -> None:
    """Leave a job's boot out of the account; it stays in the ledger.

    Raises:
        Refused: no reason given.
    """
    if not reason.strip():
        raise Refused(TroubleCode.NO_REASON_FOR_BOOT)
    with step(ledger, StepCode.SET_BOOT_ASIDE, number) as session:
        boot = _boot(session, number, boot_number)
        stored.write_boot(session, replace(boot, set_aside=reason.strip()))


def bring_boot_back(ledger: Ledger, number: int, boot_number: int) -> None:
    """Take a boot that was set aside into the account again."""
    with step(ledger, StepCode.BRING_BOOT_BACK, number) as session:
        boot = _boot(session, number, boot_number)
        stored.write_boot(session, replace(boot, set_aside=""))


def _boot(session: Session, number: int, boot_number: int) -> Boot:
    boot = boot_of(read_job(session, number), boot_number)
    if boot is None:
        raise Refused(TroubleCode.ROW_GONE)
    return boot
