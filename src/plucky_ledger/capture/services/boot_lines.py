"""Lines that say @reboot as lines of a recording."""

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.linux.boot_lines import BootLine, boot_lines
from plucky_ledger.recording.lines import EntryLine, bounded


def boot_line_entries() -> list[EntryLine]:
    """An entry for every such line that may be read."""
    return [_entry(line) for line in boot_lines()]


def _entry(line: BootLine) -> EntryLine:
    return EntryLine(
        entry=bounded(line.entry_id),
        name=bounded(unwrapped(line.command).name or line.command),
        owner="system" if line.of_system else "user",
        starts=KINDS[EntryKind.BOOT_LINE].recorded_as,
        origin=bounded(line.file),
        command=bounded(line.command),
    )
