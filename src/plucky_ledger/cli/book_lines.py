"""Lines of the book, named by their number on the terminal."""

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.trouble import Refused, TroubleCode


def boots_of_line(job: Job, line: int | None) -> tuple[Boot, ...]:
    """Boots of a line; of the last one recorded when none is named. Raises Refused."""
    if line is None:
        return next((boots for boots in reversed(job.rounds) if boots), ())
    _check(job, line)
    return job.rounds[line]


def posting_of_line(job: Job, line: int) -> Posting:
    """Posting of a line; the opening round has none. Raises Refused."""
    _check(job, line)
    if line == 0:
        raise Refused(TroubleCode.NO_SUCH_LINE, line=line, last=len(job.rounds) - 1)
    return job.postings[line - 1]


def _check(job: Job, line: int) -> None:
    if not 0 <= line < len(job.rounds):
        raise Refused(TroubleCode.NO_SUCH_LINE, line=line, last=len(job.rounds) - 1)
