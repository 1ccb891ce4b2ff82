"""Live resource use of a PC: its recorder reads it once a second, and nothing is kept.

The recorder is a program of its own, so that what reading costs is seen apart and taken out.
"""

import tempfile
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.boots import boot_from
from plucky_ledger.recording.lines import (
    Header,
    Line,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    SampleLine,
)
from plucky_ledger.recording.reader import Recording
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.recording.pcs import is_this_pc, pc_of

KEPT_SECONDS = 15.0
"""How far back lines are kept as they came; what was before is one reading of each program."""
EVERY_SECONDS = 1.0
LONGEST_SECONDS = 3600.0
"""After an hour nobody is taken to look any more."""


class LiveLoad:
    """Takes the recorder's lines as they come, and is a reading at rest of the last seconds."""

    def __init__(self, ledger: Ledger, number: int) -> None:
        self._entries = entries_known(ledger, number)
        self._header: Header | None = None
        self._programs: dict[int, ProgramLine] = {}
        self._before: dict[int, tuple[float, ProgramRow]] = {}
        """The last reading of each program before the lines that are kept."""
        self._readings: deque[ProgramsLine] = deque()
        self._samples: deque[SampleLine] = deque()

    def take(self, lines: Sequence[Line]) -> None:
        """Take lines; what is too old is put together."""
        for line in lines:
            match line:
                case Header():
                    self._header = line
                case SampleLine():
                    self._samples.append(line)
                case ProgramLine():
                    self._programs[line.run] = line
                case ProgramsLine():
                    self._readings.append(line)
        if self._samples:
            self._put_together(self._samples[-1].seconds - KEPT_SECONDS)

    def _put_together(self, before: float) -> None:
        while len(self._samples) > 2 and self._samples[1].seconds <= before:
            self._samples.popleft()
        while self._readings and self._readings[0].seconds <= before:
            line = self._readings.popleft()
            self._before.update({row.run: (line.seconds, row) for row in line.rows})
            for run in line.ended:
                self._before.pop(run, None)
                self._programs.pop(run, None)

    @property
    def seconds(self) -> float:
        """When it was read last, since the kernel started; 0 before that."""
        return self._samples[-1].seconds if self._samples else 0.0

    def analysis(self) -> Analysis | None:
        """The last seconds; None before there are two samples."""
        header, samples = self._header, list(self._samples)
        if header is None or len(samples) < 2:
            return None
        start = samples[0].seconds
        rows = tuple(row for _seconds, row in self._before.values())
        recording = Recording(header=header)
        recording.samples = samples
        recording.programs = list(self._programs.values())
        recording.program_readings = [ProgramsLine(start, rows), *self._readings]
        found = boot_from(recording)
        return Analysis(
            replace(found.boot, how=How.AT_REST), replace(found.timeline, entries=self._entries)
        )


def watch(
    ledger: Ledger,
    number: int,
    going_on: Callable[[], bool],
    told: Callable[[Analysis], None],
) -> None:
    """Read a job's PC until ``going_on`` says no; each second ``told`` gets the last ones.

    Raises:
        Refused: it is neither the PC we run on nor a stand-in PC.
        Trouble: it cannot be read.
    """
    job = read_job(ledger, number)
    if job.pc.kind is not PcKind.STAND_IN and not is_this_pc(job):
        raise Refused(TroubleCode.NOW_IS_ELSEWHERE)
    live, last = LiveLoad(ledger, number), -EVERY_SECONDS

    def listen(lines: Sequence[Line]) -> None:
        nonlocal last
        live.take(lines)
        now = live.seconds
        if now - last >= EVERY_SECONDS and (analysis := live.analysis()) is not None:
            last = now
            told(analysis)

    with tempfile.TemporaryDirectory() as folder:
        pc_of(job).record_at_rest(Path(folder) / "now.jsonl.gz", LONGEST_SECONDS, listen, going_on)
