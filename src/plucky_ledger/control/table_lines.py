"""Lines of tables of timed jobs, switched by a mark that makes them a remark. crontab(5).

Of the system's tables only those of root's own that no other account can write: a line that a user
could put there would be carried on with root's name on it. A user's own table is read and replaced
as that user, by the daemon's own program.
"""

import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.writes import OWN_TABLE, File, FileWrite, content_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.files import only_changed_by
from plucky_ledger.linux.start_files.found import Reading, StartLine
from plucky_ledger.linux.start_files.tables import OFF_MARK, said_in, system_tables
from plucky_ledger.linux.users import ADMINISTRATOR, user_name

POSSIBLE = (EntryState.ON, EntryState.OFF)


@dataclass(frozen=True)
class TableLines:
    """The lines of some tables."""

    tables: "Callable[[], Iterator[_Table]]"
    """Reads them. Raises OSError."""
    administrators: bool
    """Whether only the administrator may write them."""

    @classmethod
    def of_the_system(cls, etc: Path, owner: int = ADMINISTRATOR) -> "TableLines":
        """The tables below ``etc``; ``owner`` is whose they have to be."""
        return cls(lambda: _of_the_system(etc, owner), administrators=True)

    @classmethod
    def of_a_user(cls) -> "TableLines":
        """The own table of who runs this."""
        return cls(_of_a_user, administrators=False)

    def look(self, entry_id: str) -> Switchable:
        """How a line is set. Raises OSError."""
        found = [line for table in self.tables() for line in table.lines(entry_id)]
        if not found:
            not_there = Reason(ReasonCode.LINE_NOT_THERE)
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=not_there)
        state = EntryState.OFF if all(line.off for line in found) else EntryState.ON
        return Switchable(
            entry_id=entry_id,
            state=state,
            possible=POSSIBLE,
            administrators=self.administrators,
        )

    def writes(self, entry_id: str, state: EntryState) -> list[FileWrite]:
        """The writes that set a line to a state.

        Raises:
            Refused: it cannot be set so, or is not there.
            OSError: what is there cannot be read.
        """
        tables = [table for table in self.tables() if table.lines(entry_id)]
        if state not in POSSIBLE or not tables:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=state.value)
        return [
            FileWrite(table.path, table.content, after, by_lines=True)
            for table in tables
            if (after := table.marked(entry_id, state is EntryState.OFF)) != table.content
        ]


def _of_the_system(etc: Path, owner: int) -> "Iterator[_Table]":
    for path in system_tables(Reading(), etc.parent):
        content = content_of(path)
        if not isinstance(content, File) or content.encoded:
            continue
        if only_changed_by(owner)(os.lstat(path)):
            yield _Table(str(path), content)


def _of_a_user() -> "Iterator[_Table]":
    content = content_of(Path(OWN_TABLE))
    if isinstance(content, File) and not content.encoded:
        yield _Table(OWN_TABLE, content, user_name())


@dataclass(frozen=True)
class _Table:
    path: str
    content: File
    user: str = ""
    """Whose own it is; empty for a system's, whose lines name a user."""

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
        line = said_in(text, "" if self.user else self.path, self.user)
        return line if line is not None and line.entry_id == entry_id else None
