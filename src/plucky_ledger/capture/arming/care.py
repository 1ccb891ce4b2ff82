"""A PC in care: the recorder stays, records one boot in several, keeps the newest recordings and
hands copies of them on. What it does in the folders it does as the user whose they are.
"""

import logging
import os
import time
from pathlib import Path

import msgspec

from plucky_ledger.capture.arming.starters import Arming, Starter
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.files import copy_whole, write_whole
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.linux.users import acting_as
from plucky_ledger.recording.pc_folder import ABOUT, about_this_pc, name_of_this_pc

BEGINNING, ENDING = "boot-", ".jsonl.gz"
WHOLE_AFTER_SECONDS = 4.0
"""A file that was written later is taken for one that is still on its way."""
HANDED_WITHIN_SECONDS = 120.0
log = logging.getLogger(__name__)


def is_its_turn(starter: Starter, arming: Arming) -> bool:
    """Whether this boot is to be recorded; of a PC in care one in several is. Raises OSError where
    that cannot be written down.
    """
    if not arming.every:
        return True
    if arming.seen_boot == boot_id():  # it was counted already, or is the one it was armed in
        return False
    if arming.skipped + 1 >= arming.every:
        return True
    _write(starter, msgspec.structs.replace(arming, skipped=arming.skipped + 1))
    return False


def begin_anew(starter: Starter, arming: Arming) -> None:
    """Write down that the boot was recorded: the next are not, until it is one's turn.

    Raises OSError.
    """
    _write(starter, msgspec.structs.replace(arming, skipped=0, trouble="", facts={}))


def _write(starter: Starter, arming: Arming) -> None:
    text = starter.text(msgspec.structs.replace(arming, seen_boot=boot_id()))
    write_whole(starter.path, text, mode=starter.mode)


def look_after(arming: Arming, stays_on: bool) -> None:
    """Hand on what was not yet, and keep the newest recordings. What cannot be done now is done
    after the next boot that is recorded: a PC that is going down (not ``stays_on``) has no time to
    wait for a server.
    """
    if arming.hand_by and stays_on:
        _hand_to_a_ledger(arming)
    with acting_as(arming.user):
        recordings = _newest_first(Path(arming.folder))
        if arming.hand_to and not arming.hand_by:
            _hand_on(recordings, Path(arming.hand_to))
        for old in recordings[arming.keep :]:
            try:
                old.unlink()
            except OSError as error:
                log.warning("%s stays: %s", old, error)


def _newest_first(folder: Path) -> list[Path]:
    try:
        with os.scandir(folder) as there:
            found = [
                (entry.stat(follow_symlinks=False).st_mtime, folder / entry.name)
                for entry in there
                if entry.name.startswith(BEGINNING)
                and entry.name.endswith(ENDING)
                and entry.is_file(follow_symlinks=False)
            ]
    except OSError as error:
        log.warning("%s cannot be looked through: %s", folder, error)
        return []
    return [path for _, path in sorted(found, reverse=True)]


def _hand_on(recordings: list[Path], target: Path) -> None:
    """Copies of those that are not there yet, in a folder that says which PC they are of; a share
    that is not mounted has no such place.
    """
    folder = target / name_of_this_pc()
    try:
        if not target.is_dir():
            return
        folder.mkdir(exist_ok=True)
        _say_whose(folder)
        for recording in recordings:
            if not (folder / recording.name).exists():
                copy_whole(recording, folder / recording.name)
                log.info("%s is handed on", recording.name)
    except OSError as error:
        log.warning("what is left is handed on later: %s", error)


def _hand_to_a_ledger(arming: Arming) -> None:
    """Whoever works on that ledger takes what is new from the folder, as the user whose it is."""
    from plucky_ledger.linux.as_user import run_as  # few recorders do, and none at its start

    try:
        with acting_as(arming.user):
            _say_whose(Path(arming.folder))
        time.sleep(WHOLE_AFTER_SECONDS)
        ended = run_as(arming.user, arming.hand_by, HANDED_WITHIN_SECONDS)
    except (OSError, Trouble) as error:
        log.warning("what is new is handed on later: %s", error)
        return
    if ended.status:
        log.warning("what is new is handed on later: %s", ended.said or "it took too long")


def _say_whose(folder: Path) -> None:
    """Write down which PC a folder of recordings is of. Raises OSError."""
    about, facts = folder / ABOUT, about_this_pc()
    if not about.exists() or about.read_bytes() != facts:
        write_whole(about, facts)
