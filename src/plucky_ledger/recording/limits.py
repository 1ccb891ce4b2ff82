"""Size limits of a recording: the recorder ends before them, and the reader refuses more.

A boot of some minutes is far below each; together they keep what any file takes in memory bounded.
"""

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.recording.lines import Line, ProgramLine, ProgramsLine, SampleLine

LONGEST_LINE = 2_000_000
"""Bytes. A line of readings for 20,000 program runs is about half of this."""
LARGEST_FILE = 64_000_000
"""Bytes after unpacking."""
MOST_LINES = 300_000
MOST_SAMPLES = 90_000
"""A day and more at one a second."""
MOST_PROGRAMS = 20_000
MOST_READINGS = 300_000
"""Of all programs."""
MOST_CELLS = 3_000_000
"""Programs times samples: so large is a table of the work of each at each instant."""
MOST_TEXT = 12_000_000
"""Bytes of all lines but samples and readings."""
NEARLY = 0.95
"""Share of a limit at which the recorder ends."""
MOST_TEXT_BEFORE_CLOSING = 5_000_000
"""Bytes of text at which the recorder ends: what is asked of others has to fit as well."""


class RecordingSize:
    """What a recording holds so far."""

    def __init__(self) -> None:
        self.lines = self.samples = self.programs = self.readings = 0
        self.bytes = self.text = 0

    def take(self, line: Line | None, size: int) -> None:
        """Count one line of ``size`` bytes; None is of a kind that a later version may know."""
        self.lines += 1
        self.bytes += size + 1
        if isinstance(line, SampleLine):
            self.samples += 1
        elif isinstance(line, ProgramsLine):
            self.readings += len(line.rows) + len(line.ended)
        elif line is not None:
            self.programs += isinstance(line, ProgramLine)
            self.text += size

    @property
    def is_nearly_full(self) -> bool:
        """Whether the recorder shall end, so that its closing lines still fit."""
        return self.text > MOST_TEXT_BEFORE_CLOSING or self.beyond(NEARLY) is not None

    def beyond(self, share: float = 1.0) -> tuple[TroubleCode, int] | None:
        """The first limit of which more than this share is used, with its number; None if none."""
        for held, most, code in (
            (self.bytes, LARGEST_FILE, TroubleCode.UNPACKED_TOO_LARGE),
            (self.lines, MOST_LINES, TroubleCode.TOO_MANY_LINES),
            (self.samples, MOST_SAMPLES, TroubleCode.TOO_MANY_SAMPLES),
            (self.programs, MOST_PROGRAMS, TroubleCode.TOO_MANY_PROGRAMS),
            (self.readings, MOST_READINGS, TroubleCode.TOO_MANY_READINGS),
            (self.programs * self.samples, MOST_CELLS, TroubleCode.TOO_MANY_AT_ONCE),
            (self.text, MOST_TEXT, TroubleCode.TOO_MUCH_TEXT),
        ):
            if held > share * most:
                return code, most
        return None
