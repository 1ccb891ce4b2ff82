"""Entries that a person switches: how they are set now, and the exact step that changes it."""

from collections.abc import Sequence

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.boot_lines import boot_lines


def looked_up_by_hand(entry_ids: Sequence[str]) -> dict[str, Switchable]:
    """How entries are set that nothing here switches, by their ids."""
    lines = {line.entry_id: line for line in boot_lines()}
    looked = {}
    for entry_id in entry_ids:
        line = lines.get(entry_id)
        if line is None:
            state, why = EntryState.OFF, Reason(ReasonCode.LINE_NOT_THERE)
        elif line.file:
            state = EntryState.ON
            why = Reason.of(ReasonCode.LINE_OF_A_FILE, file=line.file, line=line.line)
        else:
            state, why = EntryState.ON, Reason.of(ReasonCode.LINE_OF_OWN_TABLE, line=line.line)
        looked[entry_id] = Switchable(entry_id=entry_id, state=state, possible=(), cannot=why)
    return looked
