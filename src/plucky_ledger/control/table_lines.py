"""Lines of the system's tables of timed jobs, switched by a mark that makes them a remark.

Only tables of root's own that no other account can write: a line that a user could put there would
be carried on with root's name on it. crontab(5).
"""

import os
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.writes import File, FileWrite, content_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.start_files.found import Reading, StartLine
from plucky_ledger.linux.start_files.tables import OFF_MARK, said_in, system_tables
from plucky_ledger.linux.users import ADMINISTRATOR

POSSIBLE = (EntryState.ON, EntryState.OFF)


@dataclass(frozen=True)
class TableLines:
    """The tables below ``etc``."""

    etc: Path
    owner: int = ADMINISTRATOR
    """Whose the tables have to be."""

    def look(self, entry_id: str) -> Switchable:
        """How a line is set. Raises OSError."""
        found = [line for table in self._tables() for line in table.lines(entry_id)]
        if not found:
            not_there = Reason(ReasonCode.LINE_NOT_THERE)
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=not_there)
        state = EntryState.OFF if all(line.off for line in found) else EntryState.ON
        return Switchable(entry_id=entry_id, state=state, possible=POSSIBLE, administrators=True)

    def writes(self, entry_id: str, state: EntryState) -> list[FileWrite]:
        """The writes that set a line to a state.

        Raises:
            Refused: it cannot be set so, or is not there.
            OSError: what is there cannot be read.
        """
        tables = [table for table in self._tables() if table.lines(entry_id)]
        if state not in POSSIBLE or not tables:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=state.value)
        return [
            FileWrite(str(table.path), table.content, after)
            for table in tables
            if (after := table.marked(entry_id, state is EntryState.OFF)) != table.content
        ]

    def _tables(self) -> Iterator["_Table"]:
        for path in system_tables(Reading(), self.etc.parent):
            content = content_of(path)
            if isinstance(content, File) and not content.encoded and self._is_roots(path):
                yield _Table(path, content)

    def _is_roots(self, path: Path) -> bool:
        status = os.lstat(path)
        for_others = stat.S_IWGRP | stat.S_IWOTH
        return status.st_uid == self.owner and not status.st_mode & for_others


@dataclass(frozen=True)
class _Table:
    path: Path
    content: File

    @property
    def _texts(self) -> list[str]:
        return self.content.text.split("\n")

    def lines(self, entry_id: str) -> list[StartLine]:
        """Those that are the entry, switched off or not."""
        return [line for text in self._texts if (line := self._line(text, entry_id))]

    def marked(self, entry_id: str, off: bool) -> File:
        """The table with the entry's lines switched off, or on."""
        mark = OFF_MARK if off else ""
        texts = [
            f"{mark}{text.removeprefix(OFF_MARK)}" if self._line(text, entry_id) else text
            for text in self._texts
        ]
        return File("\n".join(texts), self.content.mode)

    def _line(self, text: str, entry_id: str) -> StartLine | None:
        line = said_in(text, str(self.path), "")
        return line if line is not None and line.entry_id == entry_id else None
