"""Programs that a message bus starts itself, switched by a file of the same name that comes before
the package's and starts nothing. D-Bus Specification, "Message Bus Starting Services (Activation)".
"""

import re
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.writes import NOTHING, Content, File, FileWrite, content_of, write_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.start_files.bus_files import SECTION, called, delivered
from plucky_ledger.linux.start_files.found import StartLine

POSSIBLE = (EntryState.ON, EntryState.OFF)
STARTS_NOTHING = "/bin/false"
_NAME = r"[A-Za-z_-][\w-]*(?:\.[A-Za-z_-][\w-]*)+"
"""A well-known name on a bus."""
_MASK = re.compile(rf"\[{SECTION}\]\nName={_NAME}\nExec={STARTS_NOTHING}\n", re.ASCII)
FILE_NAME = re.compile(r"[\w.-]+\.service", re.ASCII)


@dataclass(frozen=True)
class BusFiles:
    """The files of one bus."""

    masks: Path
    """The folder that comes before the packages'."""
    of_system: bool
    root: Path = Path("/")

    def look(self, entry_id: str) -> Switchable:
        """How a program is set. Raises OSError."""
        line = delivered(self.root, self.of_system).get(entry_id)
        there = content_of(self._mask(line)) if line is not None else NOTHING
        if line is None or not (there == NOTHING or is_mask(there)):
            not_there = Reason(ReasonCode.LINE_NOT_THERE)
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=not_there)
        return Switchable(
            entry_id=entry_id,
            state=EntryState.ON if there == NOTHING else EntryState.OFF,
            possible=POSSIBLE,
            administrators=self.of_system,
        )

    def writes(self, entry_id: str, state: EntryState) -> list[FileWrite]:
        """The writes that set a program to a state.

        Raises:
            Refused: it cannot be set so, or is not there.
            OSError: what is there cannot be read.
        """
        line = delivered(self.root, self.of_system).get(entry_id)
        if line is None or state not in self.look(entry_id).possible:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=state.value)
        if state is EntryState.ON:
            return write_of(self._mask(line), NOTHING)
        name = called(Path(line.file).read_text("utf-8", "replace"))
        mask = File(f"[{SECTION}]\nName={name}\nExec={STARTS_NOTHING}\n")
        if not is_mask(mask):
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=state.value)
        return write_of(self._mask(line), mask)

    def _mask(self, line: StartLine) -> Path:
        return self.masks / Path(line.file).name


def is_mask(content: Content) -> bool:
    """Whether this is a file that has a bus start nothing."""
    return (
        isinstance(content, File)
        and not content.encoded
        and _MASK.fullmatch(content.text) is not None
    )
