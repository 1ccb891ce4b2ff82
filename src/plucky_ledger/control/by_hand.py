"""Entries that a person switches: how they are set now, and the exact step that changes it."""

from collections.abc import Callable, Mapping, Sequence

from plucky_ledger.core.entries.kinds import another_person
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.folders import SYSTEM_BUS
from plucky_ledger.linux.start_files.bus_files import OWN, SHARED
from plucky_ledger.linux.start_files.found import How, StartLine
from plucky_ledger.linux.start_files.fstab import FSTAB, fstab_lines
from plucky_ledger.linux.start_files.sources import ROOT, start_lines

OWN_BUS_FILES = f"~/{OWN}"
SYSTEM_BUS_FILES = f"/{SHARED[0]}/{SYSTEM_BUS}"
STEPS: Mapping[How, Callable[[StartLine], Reason]] = {
    How.LINE: lambda line: Reason.of(ReasonCode.LINE_OF_A_FILE, file=line.file, line=line.line),
    How.OWN_TABLE: lambda line: Reason.of(
        ReasonCode.LINE_OF_OWN_TABLE, user=line.user, line=line.line
    ),
    How.SCRIPT: lambda line: Reason.of(ReasonCode.SCRIPT_OF_A_FOLDER, file=line.file),
    How.BUS: lambda line: Reason.of(
        ReasonCode.FILE_OF_THE_BUS,
        file=line.file,
        folder=SYSTEM_BUS_FILES if line.of_system else OWN_BUS_FILES,
    ),
}


def looked_up_by_hand(entry_ids: Sequence[str]) -> dict[str, Switchable]:
    """How entries are set that nothing here switches, by their ids."""
    lines = {entry_id: line for entry_id, line in start_lines().items() if not line.off}
    steps = {entry_id: STEPS[line.how](line) for entry_id, line in lines.items()}
    for unit, line in fstab_lines(ROOT).items():
        steps[unit] = Reason.of(ReasonCode.LINE_OF_FSTAB, file=f"/{FSTAB}", line=line)
    for entry_id in entry_ids:
        if person := another_person(entry_id):
            steps[entry_id] = Reason.of(ReasonCode.OF_ANOTHER_PERSON, person=person)
    return {entry_id: _switchable(entry_id, steps.get(entry_id)) for entry_id in entry_ids}


def _switchable(entry_id: str, step: Reason | None) -> Switchable:
    return Switchable(
        entry_id=entry_id,
        state=EntryState.ON if step is not None else None,
        possible=(),
        cannot=step or Reason(ReasonCode.LINE_NOT_THERE),
    )
