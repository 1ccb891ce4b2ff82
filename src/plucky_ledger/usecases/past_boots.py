"""Past boots read back from the OS log: an opening round that exists at once."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

import msgspec

from plucky_ledger.capture.journal import LoggedBoot, NoLog, past_boots
from plucky_ledger.core.book.job import Job
from plucky_ledger.core.boots.boot import How
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.lines import FORMAT, VERSION, ContextLine, EndLine, Header, PcFacts
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.boots import keep_recorded
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import count


@dataclass(frozen=True)
class ReadBack:
    """What became of the boots in the log."""

    added: int
    known: int

    @property
    def told(self) -> str:
        """One sentence for the technician."""
        known = f"; {count(self.known, 'boot')} were in the book already" if self.known else ""
        return (
            f"{count(self.added, 'past boot')} read back from the log{known}. The log knows when "
            "the system was up and when its services started, not what they used."
        )


def read_past_boots(progress: Callable[[int, int], bool]) -> list[LoggedBoot]:
    """Boots in this PC's log, newest first.

    Raises:
        Refused: the log cannot be read.
    """
    try:
        return past_boots(progress)
    except NoLog as reason:
        raise Refused(str(reason)) from reason


def keep_past_boots(ledger: Ledger, job: Job, boots: Sequence[LoggedBoot]) -> ReadBack:
    """Put logged boots into the rounds they belong to, each once."""
    added = 0
    for logged in boots:
        data = as_recording(logged)
        kept = keep_recorded(ledger, stored.job(ledger, job.number), boot_from_bytes(data), data)
        added += kept.boot is not None
    return ReadBack(added, len(boots) - added)


def as_recording(logged: LoggedBoot) -> bytes:
    """A logged boot as the bytes of a recording without samples."""
    started = datetime.fromtimestamp(logged.started_at, UTC)
    lines: list[object] = [
        Header(
            FORMAT, VERSION, "plucky-ledger", logged.boot_id, started.isoformat(), "UTC",
            PcFacts(), str(How.LOG),
        ),
        ContextLine(start_kind="resume" if logged.resumed else ""),
        *logged.lines(),
    ]  # fmt: skip
    lines.append(EndLine(len(lines), 0, "read from the log"))
    return b"".join(msgspec.json.encode(line) + b"\n" for line in lines)
