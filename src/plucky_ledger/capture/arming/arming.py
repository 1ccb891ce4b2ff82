"""Armed recording: the recorder starts by itself at the next boots, then removes its own traces."""

import logging
import os
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

import msgspec

from plucky_ledger.capture.arming.care import begin_anew
from plucky_ledger.capture.arming.running_recorder import end_recorders, recorders_of
from plucky_ledger.capture.arming.starters import Arming, Starter, starter_of, starters
from plucky_ledger.core.pc.arming import MOST_BOOTS, NOTHING_AFTERWARDS, Afterwards, Level
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import (
    alone_in,
    make_folder,
    put_link,
    remove,
    remove_folder,
    write_whole,
)
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.quoting import CannotBeQuoted
from plucky_ledger.linux.this_boot import boot_id, seconds_up

STARTS_WITHIN_SECONDS = 120.0
"""Of a boot's life in which its recorder may still be about to start."""
log = logging.getLogger(__name__)


class NotArmed(Trouble):
    """It could not be armed or disarmed."""


@dataclass(frozen=True)
class Armed:
    """A starter that is there, and what it says."""

    starter: Starter
    arming: Arming


def arming_into(
    folder: Path,
    boots: int,
    label: str,
    folders: Folders,
    then: Afterwards = NOTHING_AFTERWARDS,
) -> Arming:
    """An arming of this user's for the next boots, whose recordings go to a folder.

    Raises:
        NotArmed: a level is armed already, or the folder cannot be made.
    """
    refuse_if_armed(folders)
    try:
        make_folder(folder)
    except OSError as error:
        raise NotArmed(
            TroubleCode.NOT_ARMED, path=str(folder), system=error.strerror or ""
        ) from error
    arming = Arming(
        boots,
        str(folder.absolute()),
        os.geteuid(),
        label,
        id=uuid4().hex,
        look_seconds=then.look_seconds,
        boots=boots,
        notices=then.notices,
    )
    if then.care is None:
        return arming
    care = then.care
    return msgspec.structs.replace(
        arming,
        every=care.every,
        skipped=care.every - 1,  # the next boot is the first
        keep=care.keep,
        hand_to=care.hand_to,
        hand_by=care.hand_by,
    )


def arm(arming: Arming, level: Level, folders: Folders) -> None:
    """Install what starts the recorder at the next boots.

    Raises:
        NotArmed: a level is armed already, or a file cannot be written; nothing is left then.
        NotCopied: what would run as administrator could be changed by others.
    """
    if not 1 <= arming.boots_left <= MOST_BOOTS:
        raise NotArmed(TroubleCode.BOOTS_OUT_OF_RANGE, most=MOST_BOOTS)
    starter = starter_of(level, folders)
    made = folders_to_make(starter)
    try:
        make_folder(starter.path.parent, starter.folder_mode)
        with alone_in(starter.path.parent):
            refuse_if_armed(folders)
            try:
                _install(starter, msgspec.structs.replace(arming, seen_boot=boot_id(), made=made))
            except (OSError, CannotBeQuoted, Trouble):
                # Before anybody else may arm: what is there then is no longer ours.
                with suppress(NotArmed):  # what cannot be removed could not be written either
                    take_away(starter)
                raise
    except (OSError, CannotBeQuoted, Trouble) as error:
        if isinstance(error, NotArmed) and error.code is TroubleCode.ARMED_ALREADY:
            raise
        _remove_folders(made)
        if isinstance(error, Trouble):
            raise
        if isinstance(error, CannotBeQuoted):
            raise NotArmed(TroubleCode.PATH_NOT_FIT, path=str(error)) from error
        at = str(error.filename2 or error.filename or starter.path)
        raise NotArmed(TroubleCode.NOT_ARMED, path=at, system=error.strerror or "") from error
    log.info("armed for %d boots: %s", arming.boots_left, starter.path)


def _install(starter: Starter, arming: Arming) -> None:
    """The starter itself comes last: it is armed as soon as that is there, whole."""
    text = starter.text(arming)
    if starter.own_copy is not None and starter.runs_a_copy:
        from plucky_ledger.capture.arming import own_copy

        own_copy.install(starter.own_copy)
    for link, target in starter.links.items():
        make_folder(link.parent, starter.folder_mode)
        put_link(link, target)
    if starter.line is not None:
        starter.line.put()
    write_whole(starter.path, text, mode=starter.mode)


def armed(folders: Folders) -> list[Armed]:
    """What is armed, for all that can be read here."""
    read = ((starter, starter.read()) for starter in starters(folders))
    return [Armed(starter, arming) for starter, arming in read if arming is not None]


def refuse_if_armed(folders: Folders) -> None:
    """Raises NotArmed where the recorder starts by itself already, at any level."""
    if already := armed(folders):
        raise NotArmed(TroubleCode.ARMED_ALREADY, label=already[0].arming.label)


def armed_for(folder: Path, folders: Folders) -> Armed | None:
    """The arming whose recordings go to this folder; None where there is none."""
    return next(
        (there for there in armed(folders) if there.arming.folder == str(folder.absolute())), None
    )


def take_away(starter: Starter) -> bool:
    """Remove every trace of a starter, and end the recorder that it has started: what that has is
    kept. False when there was none.

    Raises:
        NotArmed: a trace cannot be removed; it can be tried again.
    """
    arming, there, line = starter.read(), starter.traces, starter.line
    _remove_all((trace for trace in there if trace != starter.own_copy), remove)
    if line is not None and line.is_there:
        _remove_all([line.table], lambda _table: line.take_out())
    ended = end_recorders(starter.path)  # it may still load something of its copy
    _remove_all((trace for trace in there if trace == starter.own_copy), _remove_copy)
    _remove_folders(arming.made if arming is not None else ())
    if there:
        log.info("disarmed: %s", ", ".join(str(trace) for trace in there))
    return bool(there) or ended


def folders_to_make(starter: Starter) -> tuple[str, ...]:
    """Folders that arming will make, the outermost first."""
    above = {folder for leaf in starter.folders for folder in (leaf, *leaf.parents)}
    missing = [str(folder) for folder in above if not os.path.lexists(folder)]
    return tuple(sorted(missing, key=len))


def _remove_folders(made: Sequence[str]) -> None:
    """Folders that were made for a starter, where nothing else lies in them."""
    for folder in reversed(made):
        with suppress(OSError):
            remove_folder(Path(folder))


def _remove_all(traces: Iterable[Path], remove_one: Callable[[Path], object]) -> None:
    for trace in traces:
        try:
            remove_one(trace)
        except OSError as error:
            raise NotArmed(
                TroubleCode.TRACE_STAYS, path=str(trace), system=error.strerror or ""
            ) from error


def _remove_copy(copy: Path) -> None:
    from plucky_ledger.capture.arming import own_copy

    own_copy.remove(copy)


def count_down(starter: Starter, arming_id: str) -> int:
    """One boot has been recorded for this arming; at the last one it disarms itself, unless the PC
    is in care. Returns what is left; nothing is done to another arming, nor where somebody has
    disarmed meanwhile.

    Raises:
        NotArmed: a trace cannot be removed.
        OSError: the starter could not be written anew; it is as it was.
    """
    arming = starter.read()
    if arming is None or arming.id != arming_id:
        return 0
    if arming.every:
        begin_anew(starter, arming)
        return arming.boots_left
    if arming.boots_left <= 1:
        take_away(starter)
        return 0
    left = msgspec.structs.replace(
        arming, boots_left=arming.boots_left - 1, trouble="", facts={}, seen_boot=boot_id()
    )
    write_whole(starter.path, starter.text(left), mode=starter.mode)
    return left.boots_left


def note_trouble(starter: Starter, arming_id: str, trouble: Trouble) -> None:
    """Keep why a boot was not recorded for who looks: it stays armed. Raises OSError."""
    arming = starter.read()
    if arming is not None and arming.id == arming_id:
        facts = {
            name: fact for name, fact in trouble.facts.items() if not isinstance(fact, Trouble)
        }
        noted = msgspec.structs.replace(
            arming, trouble=trouble.code.value, facts=facts, seen_boot=boot_id()
        )
        write_whole(starter.path, starter.text(noted), mode=starter.mode)


def why_not_recorded(armed: Armed) -> Trouble | None:
    """What kept this boot, or the one before, from being recorded; None where nothing did.

    A boot later than the last that is known of, with no recorder at work, was armed for in vain.
    """
    told, seen = trouble_of(armed.arming), armed.arming.seen_boot
    if told is not None or seen in ("", boot_id()) or seconds_up() < STARTS_WITHIN_SECONDS:
        return told
    if recorders_of(armed.starter.path):
        return None
    return Trouble(TroubleCode.BOOT_NOT_RECORDED, level=armed.starter.level.value)


def trouble_of(arming: Arming) -> Trouble | None:
    """What kept the last boot from being recorded; None where nothing did, or nobody can tell."""
    try:
        code = TroubleCode(arming.trouble) if arming.trouble else None
    except ValueError:
        return None  # a later version may know it
    return Trouble(code).with_facts(**arming.facts) if code is not None else None
