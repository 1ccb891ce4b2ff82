"""Lines of the OS journal, read through its own reader: bounded, and ended at any moment."""

import os
import select
import shutil
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from plucky_ledger.core.values.trouble import Trouble, TroubleCode

CHUNK = 1 << 16
LONGEST_LINE = 65_536
LONGEST_SECONDS = 30.0
LOOK_AGAIN_SECONDS = 0.2
"""How soon the wish to stop is noticed while the journal says nothing."""


class NoJournal(Trouble):
    """The journal cannot be read."""


@contextmanager
def journal_lines(going_on: Callable[[], bool], *arguments: str) -> Iterator[Iterator[bytes]]:
    """Lines of the journal as they come, until ``going_on`` says no or time is up.

    The reading program is ended whatever happens.
    """
    program = shutil.which("journalctl")
    if program is None:
        raise NoJournal(TroubleCode.NO_JOURNAL)
    process = subprocess.Popen(
        [program, "--no-pager", "--quiet", "--output=json", *arguments],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )
    assert process.stdout is not None
    try:
        deadline = time.monotonic() + LONGEST_SECONDS
        yield _bounded_lines(process.stdout.fileno(), deadline, going_on)
    finally:
        process.kill()
        process.stdout.close()
        process.wait()


def _bounded_lines(
    descriptor: int, deadline: float, going_on: Callable[[], bool]
) -> Iterator[bytes]:
    """Lines up to a length, in limited time; the rest of a longer line is passed over."""
    poll = select.poll()
    poll.register(descriptor, select.POLLIN)
    rest, too_long = b"", False
    while time.monotonic() < deadline and going_on():
        if not poll.poll(LOOK_AGAIN_SECONDS * 1000):
            continue
        chunk = os.read(descriptor, CHUNK)
        if not chunk:
            return
        *whole, rest = (rest + chunk).split(b"\n")
        for line in whole:
            if not too_long and len(line) <= LONGEST_LINE:
                yield line
            too_long = False
        if len(rest) > LONGEST_LINE:
            rest, too_long = b"", True
