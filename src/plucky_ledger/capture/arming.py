"""Armed recording: the recorder starts by itself at the next boots, then removes its own traces."""

import logging
import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import msgspec

from plucky_ledger.capture.starters import Arming, Starter, starter_of, starters
from plucky_ledger.core.pc.arming import MOST_BOOTS, Level
from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import make_folder, put_link, remove, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.quoting import CannotBeQuoted

log = logging.getLogger(__name__)


class NotArmed(Trouble):
    """It could not be armed or disarmed."""


@dataclass(frozen=True)
class Armed:
    """A starter that is there, and what it says."""

    starter: Starter
    arming: Arming


def arming_into(folder: Path, boots: int, label: str, folders: Folders) -> Arming:
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
    return Arming(boots, str(folder.absolute()), os.geteuid(), label)


def arm(arming: Arming, level: Level, folders: Folders) -> None:
    """Install what starts the recorder at the next boots.

    Raises:
        NotArmed: a level is armed already, or a file cannot be written; nothing is left then.
        NotCopied: what would run as administrator could be changed by others.
    """
    if not 1 <= arming.boots_left <= MOST_BOOTS:
        raise NotArmed(TroubleCode.BOOTS_OUT_OF_RANGE, most=MOST_BOOTS)
    refuse_if_armed(folders)
    starter = starter_of(level, folders)
    try:
        _install(starter, arming)
    except (OSError, CannotBeQuoted, Trouble) as error:
        with suppress(NotArmed):  # what cannot be removed could not be written either
            take_away(starter)
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
    readable = 0o755 if starter.level is Level.SYSTEM else 0o700
    if starter.own_copy is not None:
        from plucky_ledger.capture import own_copy

        own_copy.install(starter.own_copy)
    make_folder(starter.path.parent, readable)
    if starter.link is not None:
        make_folder(starter.link.parent, readable)
        put_link(starter.link, starter.path)
    write_whole(starter.path, text, mode=starter.mode)


def armed(folders: Folders) -> list[Armed]:
    """What is armed, for all that can be read here."""
    known = ((starter, starter.read()) for starter in starters(folders))
    return [Armed(starter, arming) for starter, arming in known if arming is not None]


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
    """Remove every trace of a starter; False when there was none.

    Raises:
        NotArmed: a trace cannot be removed; it can be tried again.
    """
    there = starter.traces
    for trace in there:
        try:
            _remove(trace, trace == starter.own_copy)
        except OSError as error:
            raise NotArmed(
                TroubleCode.TRACE_STAYS, path=str(trace), system=error.strerror or ""
            ) from error
    if there:
        log.info("disarmed: %s", ", ".join(str(trace) for trace in there))
    return bool(there)


def _remove(trace: Path, is_own_copy: bool) -> None:
    if not is_own_copy:
        remove(trace)
        return
    from plucky_ledger.capture import own_copy

    own_copy.remove(trace)


def count_down(starter: Starter) -> int:
    """One boot has been recorded; at the last one it disarms itself. Returns what is left.

    Raises:
        NotArmed: a trace cannot be removed.
        OSError: the starter could not be written anew; it is as it was.
    """
    arming = starter.read()
    if arming is None or arming.boots_left <= 1:
        take_away(starter)
        return 0
    left = msgspec.structs.replace(arming, boots_left=arming.boots_left - 1, trouble="", facts={})
    write_whole(starter.path, starter.text(left), mode=starter.mode)
    return left.boots_left


def note_trouble(starter: Starter, trouble: Trouble) -> None:
    """Keep why a boot was not recorded for who looks: it stays armed. Raises OSError."""
    arming = starter.read()
    if arming is not None:
        facts = {
            name: fact for name, fact in trouble.facts.items() if not isinstance(fact, Trouble)
        }
        noted = msgspec.structs.replace(arming, trouble=trouble.code.value, facts=facts)
        write_whole(starter.path, starter.text(noted), mode=starter.mode)


def trouble_of(arming: Arming) -> Trouble | None:
    """What kept the last boot from being recorded; None where nothing did, or nobody can tell."""
    try:
        code = TroubleCode(arming.trouble) if arming.trouble else None
    except ValueError:
        return None  # a later version may know it
    return Trouble(code).with_facts(**arming.facts) if code is not None else None
