"""Making changes and undoing them as transactions: journal first, then one write after the other,
each verified.

Whatever interrupts it, the next change rolls back what is incomplete: a PC is as it was or as
requested, and in between only until then.
"""

import logging
import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

import msgspec

from plucky_ledger.control.journal_of_changes import (
    CUT_OFF,
    ChangeStage,
    EntryChange,
    JournalOfChanges,
    RecordedChange,
)
from plucky_ledger.control.writes import ChangedSince, FileWrite, carry_out, sweep
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode

log = logging.getLogger(__name__)

TellManager = Callable[[], None]
Chosen = Callable[[RecordedChange, EntryChange], bool]


def make(
    journal: JournalOfChanges, plan: Callable[[], RecordedChange], tell_manager: TellManager
) -> RecordedChange:
    """Make the changes that ``plan`` comes to; what a cut off attempt has left is put back before.

    A plan without a write changes nothing, and is not written down.

    Raises:
        Trouble: something could not be written; everything is as it was before.
    """
    try:
        with journal.locked():
            _put_back(journal, _cut_off, tell_manager)
            journal.set_damaged_beside()
            change = plan()
            if not any(entry.writes for entry in change.entries):
                return change
            return _make(journal, change, tell_manager)
    except OSError as error:
        raise _not_written(TroubleCode.NOT_SWITCHED, error, journal.folder) from error


def _make(
    journal: JournalOfChanges, change: RecordedChange, tell_manager: TellManager
) -> RecordedChange:
    path = journal.begin(change)
    try:
        for entry in change.entries:
            for write in entry.writes:
                carry_out(write)
        tell_manager()
        done = msgspec.structs.replace(
            change,
            entries=tuple(
                msgspec.structs.replace(entry, stage=ChangeStage.DONE) for entry in change.entries
            ),
        )
        journal.keep(path, done)
    except (ChangedSince, OSError) as error:
        with suppress(OSError):  # then the next change does it
            for entry in reversed(change.entries):
                _undo(entry.writes, after_a_cut=True)
            journal.forget(path)
        tell_manager()
        if isinstance(error, ChangedSince):
            raise Trouble(TroubleCode.CHANGED_MEANWHILE, path=error.path) from error
        raise
    log.info("switched: %s", ", ".join(f"{e.entry} {e.after}" for e in change.entries))
    return done


def put_back(
    journal: JournalOfChanges,
    chosen: Chosen,
    tell_manager: TellManager,
    *,
    leave_changed_again: bool = False,
) -> list[EntryChange]:
    """Undo the chosen changes, the newest first, and whatever was cut off. Returns what was undone.

    What somebody else has written to since is left as it is; ``by_others`` names it. An entry that
    cannot be put back keeps no other from it. With ``leave_changed_again`` an entry that was
    changed again since by what is not chosen stays as it is now; otherwise nothing is undone then.

    Raises:
        Refused: an entry was changed again since by what is not chosen.
        Trouble: something could not be written; what could be is put back, and it can be tried
            again.
    """
    if not journal.read() and not journal.left_out:
        return []
    try:
        with journal.locked():
            again = _changed_again(journal.read(), chosen)
            if again and not leave_changed_again:
                raise Refused(TroubleCode.CHANGED_AGAIN, name=again[0].name)
            journal.set_damaged_beside()
            return _put_back(
                journal,
                lambda change, entry: (
                    _cut_off(change, entry) or (chosen(change, entry) and entry not in again)
                ),
                tell_manager,
            )
    except OSError as error:
        raise _not_written(TroubleCode.NOT_PUT_BACK, error, journal.folder) from error


def _put_back(
    journal: JournalOfChanges, chosen: Chosen, tell_manager: TellManager
) -> list[EntryChange]:
    """Raises the first OSError in the end, when all the others are put back."""
    undone: list[EntryChange] = []
    failed: list[OSError] = []
    for path, change in reversed(journal.read()):
        undone += _go_back(journal, path, change, chosen, failed)
    if undone:
        with _failing_into(failed):
            _remove_own_folders(journal)
        tell_manager()
        log.info("put back: %s", ", ".join(entry.entry for entry in undone))
    if failed:
        raise failed[0]
    return undone


def _go_back(
    journal: JournalOfChanges,
    path: Path,
    change: RecordedChange,
    chosen: Chosen,
    failed: list[OSError],
) -> list[EntryChange]:
    """Undo the chosen entries of one change, the last first.

    Where the journal cannot be written, as on a full disk, the PC is put back all the same: undoing
    what is undone already changes nothing.
    """
    undone = []
    for index, entry in reversed(list(enumerate(change.entries))):
        if entry.stage is ChangeStage.PUT_BACK or not chosen(change, entry):
            continue
        with _failing_into(failed):
            if entry.stage is ChangeStage.DONE:
                change = change.at_stage(index, ChangeStage.GOING_BACK)
                journal.keep(path, change)
        with _failing_into(failed):
            by_others = _undo(entry.writes, entry.stage in CUT_OFF)
            change = change.at_stage(index, ChangeStage.PUT_BACK, by_others)
            undone.append(change.entries[index])
            journal.keep(path, change)
    return undone


@contextmanager
def _failing_into(failed: list[OSError]) -> Iterator[None]:
    """Log what could not be written, and go on."""
    try:
        yield
    except OSError as error:
        log.warning("cannot be written: %s", error)
        failed.append(error)


def _undo(writes: Sequence[FileWrite], after_a_cut: bool) -> str:
    """Undo writes, the last first; returns a path that another program has written to since, if
    any.
    """
    by_others = ""
    for write in reversed(writes):
        if after_a_cut:
            sweep(write)
        try:
            carry_out(write.undone)
        except ChangedSince as changed:
            log.warning("left as others wrote it: %s", changed.path)
            by_others = changed.path
    return by_others


def _remove_own_folders(journal: JournalOfChanges) -> None:
    """Remove the folders that were created for what is put back, once they are empty. A folder that
    is already gone is forgotten: whoever creates it again owns it.
    """
    changes = journal.read()
    made = {
        write.path: write
        for _, change in changes
        for entry in change.entries
        for write in entry.writes
        if entry.stage is ChangeStage.PUT_BACK and write.makes_folder
    }
    for folder in sorted(made, key=len, reverse=True):
        if os.path.isdir(folder):
            carry_out(made[folder].undone)
    gone = frozenset(folder for folder in made if not os.path.isdir(folder))
    for path, change in changes:
        if (left := change.without_folders(gone)) != change:
            journal.keep(path, left)


def _cut_off(_change: RecordedChange, entry: EntryChange) -> bool:
    return entry.stage in CUT_OFF


def _changed_again(
    changes: Sequence[tuple[Path, RecordedChange]], chosen: Chosen
) -> list[EntryChange]:
    """Selected entries that a later change, which is not selected, changed again."""
    later: set[str] = set()
    again = []
    for _, change in reversed(changes):
        for entry in change.entries:
            if entry.stage is not ChangeStage.DONE:
                continue
            if not chosen(change, entry):
                later.add(entry.entry)
            elif entry.entry in later:
                again.append(entry)
    return again


def _not_written(code: TroubleCode, error: OSError, folder: Path) -> Trouble:
    at = str(error.filename2 or error.filename or folder)
    return Trouble(code, path=at, system=error.strerror or "")
