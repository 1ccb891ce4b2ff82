"""Entries that a person switches: how they are set now, and the exact step that changes it."""

from collections.abc import Sequence

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.boot_lines import BootLine, boot_lines


def looked_up_by_hand(entry_ids: Sequence[str]) -> dict[str, Switchable]:
    """How entries are set that nothing here switches, by their ids."""
    lines = {line.entry_id: line for line in boot_lines()}
    looked = {}
    for entry_id in entry_ids:
        line = lines.get(entry_id)
        looked[entry_id] = Switchable(
            entry_id=entry_id,
            state=EntryState.ON if line is not None else None,
            possible=(),
            cannot=_step(line),
        )
    return looked


def _step(line: BootLine | None) -> Reason:
    if line is None:
        return Reason(ReasonCode.LINE_NOT_THERE)
    if line.of_system:
        return Reason.of(ReasonCode.LINE_OF_A_FILE, file=line.file, line=line.line)
    return Reason.of(ReasonCode.LINE_OF_OWN_TABLE, user=line.user, line=line.line)
