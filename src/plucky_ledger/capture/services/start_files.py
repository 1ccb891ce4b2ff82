"""Lines of files that start programs, as lines of a recording."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.start_files.found import Looked, StartLine
from plucky_ledger.recording.lines import EntryLine, SourceLine, bounded, said

MOST_REFUSED = 20


def lines_of(looked: Sequence[Looked]) -> Iterator[EntryLine | SourceLine]:
    """An entry for every line, and what came of looking at each source."""
    for one in looked:
        yield from map(_entry, one.lines)
        yield SourceLine(
            source=one.source.value,
            files=one.files,
            entries=len(one.lines),
            refused=tuple(map(bounded, one.refused[:MOST_REFUSED])),
        )


def _entry(line: StartLine) -> EntryLine:
    name = unwrapped(line.command).name if line.command else line.line
    return EntryLine(
        entry=bounded(line.entry_id),
        name=bounded(name or Path(line.file).name),
        owner="system" if line.of_system else "user",
        starts=KINDS[line.kind].recorded_as,
        origin=bounded(line.file),
        command=bounded(line.command),
        off=said(ReasonCode.SWITCHED_OFF) if line.off else None,
    )
