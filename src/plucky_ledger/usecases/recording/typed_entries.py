"""Startup entries typed in, for a PC that can run nothing of ours."""

from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import entries as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step

LONGEST_LIST = 500
"""Entries that can be typed in for one PC."""
LONGEST_NAME, LONGEST_COMMAND = 200, 2000


def typed_entries(ledger: Ledger, number: int) -> tuple[StartupEntry, ...]:
    """What was typed in for a job."""
    with ledger.session() as session:
        return stored.typed_entries(session, number)


def type_entries(ledger: Ledger, number: int, text: str) -> int:
    """Take entries from lines of text, name and start command parted by a bar or a tab.

    Returns how many; the lines replace what was typed before.

    Raises:
        Refused: too many lines.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > LONGEST_LIST:
        raise Refused(TroubleCode.LIST_TOO_LONG, most=LONGEST_LIST)
    entries = {entry.entry_id: entry for entry in map(_entry, lines)}
    with step(ledger, StepCode.TYPE_ENTRIES, number, entries=len(entries)) as session:
        stored.write_typed_entries(session, number, list(entries.values()))
    return len(entries)


def _entry(line: str) -> StartupEntry:
    name, _, command = line.replace("\t", "|").partition("|")
    return StartupEntry(
        entry_id=f"typed:{name.strip().casefold()[:LONGEST_NAME]}",
        name=name.strip()[:LONGEST_NAME],
        owner=EntryOwner.USER,
        kind=EntryKind.TYPED,
        command=command.strip()[:LONGEST_COMMAND],
    )
