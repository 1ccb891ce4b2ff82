"""Switching sign-in programs: the user's own override of a desktop entry, never the vendor's file.

Autostart Specification 0.5, Desktop Entry Specification 1.5.
"""

import os
import shlex
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.writes import (
    EVERYBODY_READS,
    NOTHING,
    Content,
    File,
    FileWrite,
    content_of,
    write_of,
)
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.desktop_entries import (
    DesktopEntry,
    is_read_alike,
    read_desktop_entry,
    with_values,
)
from plucky_ledger.linux.quoting import CannotBeQuoted, exec_words
from plucky_ledger.linux.sign_in_programs import off_because

ENABLED = "X-GNOME-Autostart-enabled"
"""A key by which desktops switch an entry off, beside the specification's Hidden."""
_NOTHING_THERE = {
    ReasonCode.PROGRAM_NOT_THERE,
    ReasonCode.NOTHING_TO_START,
    ReasonCode.NO_APPLICATION,
}
SECONDS, DELAYED = "X-PluckyLedger-Seconds", "X-PluckyLedger-Exec"
"""How long an entry is delayed, and its own command."""


@dataclass(frozen=True)
class SignInPrograms:
    """Where sign-in programs lie, the most important folder first: the user's own."""

    folders: tuple[Path, ...]
    desktops: tuple[str, ...]
    """What the desktop calls itself."""

    def look(self, name: str) -> Switchable:
        """State of a sign-in program, by its file name."""
        entry, delivered = self._entry(name), self._delivered(name)
        if entry is None:
            return Switchable(
                entry_id=name, state=None, possible=(), cannot=Reason(ReasonCode.NOT_FOUND_HERE)
            )
        if entry.fault is not None:
            return Switchable(entry_id=name, state=None, possible=(), cannot=entry.fault)
        possible = [EntryState.ON, EntryState.OFF, EntryState.LATER]
        off = off_because(entry, self.desktops)
        desktop_known = any(self.desktops)
        elsewhere = off is not None and off.code is ReasonCode.ONLY_FOR_DESKTOPS
        if (off is not None and off.code in _NOTHING_THERE) or (elsewhere and not desktop_known):
            possible = [EntryState.OFF]
        if desktop_known:
            possible.append(EntryState.OFF_HERE)
        vendors = None
        if delivered is not None and delivered.fault is None:
            possible.append(EntryState.AS_DELIVERED)
            vendors = self._state_of(delivered)
        return Switchable(
            entry_id=name, state=self._state_of(entry), possible=tuple(possible), delivered=vendors
        )

    def writes(self, name: str, state: EntryState, later_seconds: int) -> list[FileWrite]:
        """The writes that set a sign-in program to a state.

        Raises:
            Refused: it cannot be set so.
            OSError: what is there cannot be read.
        """
        entry, own = self._entry(name), self.folders[0] / name
        if entry is None or state not in self.look(name).possible:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=name, state=state.value)
        if self._is_surely(entry, state) and is_read_alike(_text_of(entry.path)):
            return []
        delivered = self._delivered(name)
        after: Content = NOTHING
        if state is not EntryState.AS_DELIVERED:
            after = self._overridden(entry, state, later_seconds)
            if delivered is not None and after == _file_of(delivered.path):
                after = NOTHING  # the override would say nothing else
        return write_of(own, after)

    def _is_surely(self, entry: DesktopEntry, state: EntryState) -> bool:
        """Whether it is set so whatever starts it: not everything that does knows ``ENABLED``, or
        other words for true.
        """
        said = entry.values.get("Hidden", "")
        if state is EntryState.OFF and (said or entry.values.get(ENABLED) == "false"):
            return said == "true"
        return self._state_of(entry) is state

    def _entry(self, name: str) -> DesktopEntry | None:
        """The file with the highest precedence."""
        return next(self._there(name, self.folders), None)

    def _delivered(self, name: str) -> DesktopEntry | None:
        """The vendor's, whatever the user's own says."""
        return next(self._there(name, self.folders[1:]), None)

    def _there(self, name: str, folders: Sequence[Path]) -> Iterator[DesktopEntry]:
        for folder in folders:
            if os.path.lexists(folder / name):
                yield read_desktop_entry(folder / name)

    def _state_of(self, entry: DesktopEntry) -> EntryState:
        if entry.is_true("Hidden") or entry.values.get(ENABLED) == "false":
            return EntryState.OFF
        off = off_because(entry, self.desktops)
        if off is not None:
            here = {ReasonCode.ONLY_FOR_DESKTOPS, ReasonCode.NOT_FOR_DESKTOPS}
            return EntryState.OFF_HERE if off.code in here else EntryState.OFF
        return EntryState.LATER if SECONDS in entry.values else EntryState.ON

    def _overridden(self, entry: DesktopEntry, state: EntryState, later_seconds: int) -> File:
        """The entry's file with the keys that set the state, everything else unchanged."""
        changed: dict[str, str | None] = {"Hidden": None, ENABLED: None}
        changed |= _own_command(entry)
        match state:
            case EntryState.OFF:
                changed["Hidden"] = "true"
            case EntryState.OFF_HERE:
                changed |= self._not_here(entry)
            case EntryState.LATER:
                changed |= self._here(entry) | _delayed(entry, changed, later_seconds)
            case _:
                changed |= self._here(entry)
        changed_text = with_values(_text_of(entry.path), changed)
        return File.of(changed_text.encode(), _file_of(entry.path).mode | EVERYBODY_READS & 0o600)

    def _not_here(self, entry: DesktopEntry) -> dict[str, str | None]:
        only = set(entry.listed("OnlyShowIn"))
        if only:
            left = [name for name in entry.listed("OnlyShowIn") if name not in self.desktops]
            return {"OnlyShowIn": _list_of(left)} if left else {"Hidden": "true"}
        return {"NotShowIn": _list_of([*entry.listed("NotShowIn"), *self.desktops])}

    def _here(self, entry: DesktopEntry) -> dict[str, str | None]:
        """OnlyShowIn and NotShowIn without what hides the entry on this desktop."""
        changed: dict[str, str | None] = {}
        only, never = entry.listed("OnlyShowIn"), entry.listed("NotShowIn")
        if only and not set(only) & set(self.desktops):
            changed["OnlyShowIn"] = _list_of([*only, *self.desktops[:1]])
        if set(never) & set(self.desktops):
            left = [name for name in never if name not in self.desktops]
            changed["NotShowIn"] = _list_of(left) if left else None
        return changed


def _own_command(entry: DesktopEntry) -> dict[str, str | None]:
    """The entry's own command instead of the delayed one."""
    own = entry.values.get(DELAYED)
    return {SECONDS: None, DELAYED: None, **({"Exec": own} if own is not None else {})}


def _delayed(
    entry: DesktopEntry, changed: Mapping[str, str | None], seconds: int
) -> dict[str, str | None]:
    """A command that waits first: what desktops know of delays differs, all can start a shell."""
    own = changed.get("Exec") or entry.values.get("Exec", "")
    plain = DesktopEntry(entry.path, {"Exec": own})
    try:
        words = plain.words
        if not words:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry.path.name, state="later")
        command = exec_words("/bin/sh", "-c", f"sleep {seconds}; exec {shlex.join(words)}")
    except (ValueError, CannotBeQuoted) as error:
        raise Refused(TroubleCode.CANNOT_BE_SET, name=entry.path.name, state="later") from error
    return {"Exec": command, DELAYED: own, SECONDS: str(seconds)}


def _list_of(names: Sequence[str]) -> str:
    return "".join(f"{name};" for name in dict.fromkeys(names))


def _text_of(path: Path) -> str:
    """The text of a file. Raises OSError."""
    return _file_of(path).data.decode("utf-8", "replace")


def _file_of(path: Path) -> File:
    """Content of a file, links followed. Raises OSError."""
    content = content_of(path.resolve())
    if not isinstance(content, File):
        raise FileNotFoundError(str(path))
    return content
