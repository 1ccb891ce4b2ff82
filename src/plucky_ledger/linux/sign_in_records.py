"""Records of starts and sign-ins that anybody may read. utmp(5).

They are 384 bytes long, and 400 where a long is kept as such: on arm64 and other newer processors.
"""

import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

NOW = Path("/run/utmp")
BOOT, PERSON = 2, 7
SHORT = struct.Struct("<hxxi32s4s32s256shhiii16s20s")
LONG = struct.Struct("<hxxi32s4s32s256shhqqq16s20s4x")
"""Type, process, line, id, user, host, two of exit, session, seconds, microseconds, address."""
MOST_BYTES = 64 << 20
EARLIEST, LATEST = 100_000_000, 253_000_000_000
"""Seconds of the epoch between which a record was written."""
MICROSECONDS = 1_000_000
HIGHEST_TYPE = 9


@dataclass(frozen=True)
class SignInRecord:
    """One record."""

    kind: int
    process: int
    terminal: str
    user: str
    host: str
    at: float
    """Seconds of the epoch."""


def records(path: Path) -> list[SignInRecord]:
    """All records of a file, as they stand there; none where it cannot be read."""
    try:
        with path.open("rb") as file:
            data = file.read(MOST_BYTES)
    except OSError:
        return []
    return max((list(_read(data, form)) for form in (SHORT, LONG)), key=len)


def people_here(path: Path = NOW, proc: Path = Path("/proc")) -> list[SignInRecord]:
    """Who is signed in, the first to come first; whose process is gone is so, too."""
    here = [one for one in records(path) if one.kind == PERSON and one.user]
    there = [one for one in here if os.path.isdir(proc / str(one.process))]
    return sorted(there, key=lambda one: one.at)


def _read(data: bytes, form: struct.Struct) -> Iterator[SignInRecord]:
    """Records of one length; what cannot be one is left out."""
    for record in form.iter_unpack(data[: len(data) - len(data) % form.size]):
        kind, process, line, _id, user, host, _, _, _, seconds, microseconds, *_ = record
        in_time = EARLIEST < seconds < LATEST and 0 <= microseconds < MICROSECONDS
        if 0 < kind <= HIGHEST_TYPE and in_time:
            at = seconds + microseconds / MICROSECONDS
            yield SignInRecord(kind, process, _text(line), _text(user), _text(host), at)


def _text(field: bytes) -> str:
    return field.partition(b"\0")[0].decode("utf-8", "replace")
