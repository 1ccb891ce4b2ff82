"""Bringing boots into a job's rounds: recordings, the stopwatch, typed figures."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from plucky_ledger.core.book.job import Job
from plucky_ledger.core.boots.boot import Boot, How, Timeline
from plucky_ledger.core.boots.marks import Mark, faults
from plucky_ledger.core.boots.readings import readings_of
from plucky_ledger.core.boots.without_set_aside import net_readings
from plucky_ledger.core.measures import Measure, Reading, Readings
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes
from plucky_ledger.recording.reader import RecordingFault
from plucky_ledger.store import entries as stored_entries
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import count, day_and_time, now

LARGEST_PACKED = 200_000_000
"""Bytes of a recording file that are read at all."""


@dataclass(frozen=True)
class Imported:
    """What became of a recording."""

    boot: int | None
    """Number of the boot in the ledger; None when it was there already."""
    told: str
    """One sentence for the technician."""


def import_recording(ledger: Ledger, job: Job, path: Path) -> Imported:
    """Import a recording file into the round of the job it belongs to.

    Raises:
        Refused: the file cannot be read or is no recording; nothing was changed.
        LedgerFault: the ledger could not be written.
    """
    recorded, data = read_recording_file(path)
    return keep_recorded(ledger, job, recorded, data)


def read_recording_file(path: Path) -> tuple[RecordedBoot, bytes]:
    """Read a recording file, with its bytes. Raises Refused like ``import_recording``."""
    try:
        if path.stat().st_size > LARGEST_PACKED:
            raise Refused(
                f"{path.name} is larger than {LARGEST_PACKED / 1e6:.0f} MB: this is not one "
                "boot. Nothing was changed."
            )
        data = path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror}. Nothing was changed.") from error
    try:
        return boot_from_bytes(data), data
    except RecordingFault as fault:
        raise Refused(f"{path.name} was not imported. {fault}") from fault


def keep_recorded(ledger: Ledger, job: Job, recorded: RecordedBoot, data: bytes) -> Imported:
    """Put a boot that was read from ``data`` into the book, unless it is there already."""
    known = stored.find_boot(ledger, job.number, recorded.boot_id)
    if known is not None:
        return Imported(
            None,
            f"This boot of {day_and_time(known.started_at)} is in the book already and was not "
            "counted twice. Restart the PC to record another.",
        )
    posting = round_at(job, recorded.boot.started_at)
    boot = recorded.boot
    aside = frozenset(stored_entries.asides(ledger, job.number))
    if aside:
        boot = replace(boot, readings=net_readings(boot.marks, recorded.timeline, aside))
    number = stored.add_boot(ledger, job.number, posting, boot, recorded.boot_id, data)
    if job.facts == Facts():
        stored.change_job(ledger, job.number, job.card, recorded.facts)
    return Imported(number, _told(job, recorded.boot, posting))


def round_at(job: Job, started_at: datetime) -> int | None:
    """Posting whose round a boot belongs to: the last one posted before the PC was started.

    Nothing counts until the PC has really been restarted.
    """
    before = [p for p in job.postings if p.posted_at is not None and p.posted_at <= started_at]
    return before[-1].number if before else None


def _told(job: Job, boot: Boot, posting: int | None) -> str:
    sentences = ["The boot is in the book."]
    current = job.last_posted
    if current is not None and posting != current.number:
        sentences.append(
            f"It began before “{current.particulars}” was posted, so it stands in the round "
            "before. Restart the PC, so that the changes count."
        )
    if boot.cut_short:
        sentences.append("Its recording was cut short; what came before is kept.")
    settled = boot.readings.get(Measure.SETTLED)
    if settled is not None and settled.censored:
        sentences.append(
            f"The PC had not settled when the recording ended: not before {settled.value:.0f} s."
        )
    sentences.extend(boot.context.notes)
    return " ".join(sentences)


def add_timed(ledger: Ledger, job: Job, marks: Mapping[Mark, float], started_at: datetime) -> int:
    """Add a boot timed with the stopwatch; returns its number.

    Raises:
        Refused: the marks cannot be right.
    """
    checked = checked_marks(marks)
    if len(checked) < 2:
        raise Refused("One mark alone is no time: mark at least the power button and one more.")
    boot = Boot(0, started_at, How.STOPWATCH, checked, readings_of(checked, None))
    return stored.add_boot(ledger, job.number, round_at(job, started_at), boot)


def add_typed(
    ledger: Ledger,
    job: Job,
    figures: Mapping[Measure, float],
    started_at: datetime | None = None,
) -> int:
    """Add a boot whose figures were read off the PC's own screen; returns its number.

    Raises:
        Refused: no figure, or one that cannot be.
    """
    if not figures:
        raise Refused("Type at least one figure; the fields left empty stay unknown.")
    for measure, value in figures.items():
        if not 0 <= value < 1e9:
            raise Refused(f"{measure.terms.title}: {value:g} cannot be. Type a figure from 0 up.")
    when = started_at or now()
    readings: Readings = {measure: Reading(value) for measure, value in figures.items()}
    boot = Boot(0, when, How.TYPED, {}, readings)
    return stored.add_boot(ledger, job.number, round_at(job, when), boot)


def correct_marks(ledger: Ledger, job: Job, boot: Boot, marks: Mapping[Mark, float]) -> None:
    """Correct the marks of a boot and work out its figures anew.

    Raises:
        Refused: the marks cannot be right, or the boot has none to correct.
    """
    if boot.how is How.TYPED:
        raise Refused("This boot was typed in as figures and has no marks. Type it anew instead.")
    checked = checked_marks(marks)
    timeline = timeline_of(ledger, boot)
    aside = frozenset(stored_entries.asides(ledger, job.number))
    corrected = replace(boot, marks=checked, readings=net_readings(checked, timeline, aside))
    stored.change_boot(ledger, "correct the marks of a boot", job.number, corrected)


def checked_marks(marks: Mapping[Mark, float]) -> dict[Mark, float]:
    """The marks, if they can be right."""
    found = faults(marks)
    if found:
        raise Refused(" ".join(found))
    return dict(marks)


def set_aside(ledger: Ledger, job: Job, boot: Boot, reason: str) -> None:
    """Leave a boot out of the account; it stays in the ledger.

    Raises:
        Refused: no reason given.
    """
    if not reason.strip():
        raise Refused("Say why the boot is set aside: the owner may ask.")
    changed = replace(boot, set_aside=reason.strip())
    stored.change_boot(ledger, "set a boot aside", job.number, changed)


def bring_back(ledger: Ledger, job: Job, boot: Boot) -> None:
    """Take a boot that was set aside into the account again."""
    changed = replace(boot, set_aside="")
    stored.change_boot(ledger, "bring a boot back", job.number, changed)


def recorded_boot(ledger: Ledger, boot: Boot) -> RecordedBoot | None:
    """Everything in a boot's recording; None for a boot without one."""
    data = stored.recording_of(ledger, boot.number)
    return boot_from_bytes(data) if data is not None else None


def timeline_of(ledger: Ledger, boot: Boot) -> Timeline:
    """What happened over time in a boot; empty for one timed by hand or typed in."""
    recorded = recorded_boot(ledger, boot)
    return recorded.timeline if recorded else Timeline()


def boots_in_words(boots: tuple[Boot, ...]) -> str:
    """Such as "5 boots, 1 set aside"."""
    aside = sum(not boot.counts for boot in boots)
    text = count(len(boots) - aside, "boot")
    return f"{text}, {aside} set aside" if aside else text
