"""Past boots read back from the PC's own journal: an opening round that exists at once."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.recording.boots import keep_recorded
from plucky_ledger.usecases.recording.pcs import pc_of


@dataclass(frozen=True)
class ReadBack:
    """What became of the boots in the journal."""

    added: int
    known: int
    """Those that were in the book already."""


def read_past_boots(
    ledger: Ledger,
    number: int,
    progress: Callable[[int, int], bool],
    as_administrator: bool = False,
) -> list[bytes]:
    """Past boots of a job's PC as recordings, newest first.

    ``progress`` is told how many boots and lines were read; False stops. What not everybody may
    read is read ``as_administrator``, who is asked for.

    Raises:
        Trouble: they cannot be read.
    """
    return pc_of(read_job(ledger, number)).past_boots(progress, as_administrator)


def keep_past_boots(ledger: Ledger, number: int, recordings: Sequence[bytes]) -> ReadBack:
    """Put past boots into the rounds of a job they belong to, each once."""
    which = pc_of(read_job(ledger, number)).which
    added = 0
    for data in recordings:
        kept = keep_recorded(ledger, number, boot_from_bytes(data), data, which)
        added += kept.boot is not None
    return ReadBack(added, len(recordings) - added)
