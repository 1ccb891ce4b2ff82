"""Arming the recorder for the next boots of a job's PC, and what waits to be picked up."""

import logging
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.capture.arming.arming import armed_for, trouble_of, why_not_recorded
from plucky_ledger.core.pc.arming import LOOKS_ON, Afterwards, Level
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording.pcs import pc_of

ENDING = ".jsonl.gz"
_TAKES_THE_ADMINISTRATOR = frozenset(
    {
        TroubleCode.NO_ADMINISTRATOR,
        TroubleCode.NOT_THE_ADMINISTRATOR,
        TroubleCode.INTERPRETER_OF_OTHERS,
    }
)
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class ArmedState:
    """How an arming stands."""

    boots_left: int
    waiting: tuple[Path, ...]
    """Finished recordings that are not in the book yet."""
    trouble: Trouble | None = None
    """What kept the last boot from being recorded; None where nothing did."""
    every: int = 0
    """In care: one boot in so many; 0 where it ends after the last."""
    hand_to: str = ""
    """Folder, or address of a ledger, that recordings are handed to; empty for none."""
    to_a_ledger: bool = False


def arm(
    ledger: Ledger,
    place: Workplace,
    number: int,
    boots: int,
    level: Level | None = None,
    then: Afterwards = LOOKS_ON,
) -> Level:
    """Arm the recorder for the next boots of a job's PC; returns how early it starts.

    Without a ``level`` that is as early as can be had: where nobody becomes the administrator, at
    sign-in. Raises Trouble; nothing is left then.
    """
    job = read_job(ledger, number)
    pc = pc_of(job)
    for wanted in pc.abilities.levels if level is None else ():
        try:
            pc.arm(place.armed(number), boots, wanted, job.card.label, then)
        except Trouble as trouble:
            if trouble.code not in _TAKES_THE_ADMINISTRATOR:
                raise
            log.info("not armed at the level %s: %s", wanted, trouble)
        else:
            return wanted
    level = Level.AUTOSTART if level is None else level
    pc.arm(place.armed(number), boots, level, job.card.label, then)
    return level


def restart(ledger: Ledger, number: int) -> None:
    """Restart a job's PC: everything that is open is closed. Raises Trouble."""
    pc_of(read_job(ledger, number)).restart()


def disarm(ledger: Ledger, place: Workplace, number: int) -> bool:
    """Remove every trace of an arming; False when it was not armed. Raises Trouble."""
    return pc_of(read_job(ledger, number)).disarm(place.armed(number))


def disarm_everything() -> bool:
    """Remove every trace of every arming of this PC, whichever job it was for. Raises Trouble."""
    from plucky_ledger.capture import administrator

    return administrator.disarm_everything(Folders.of_this_user())


def armed_state(place: Workplace, number: int) -> ArmedState:
    """Whether a job's PC is armed, and what was recorded."""
    folder = place.armed(number)
    there = armed_for(folder, Folders.of_this_user())
    try:
        waiting = sorted(path for path in folder.iterdir() if path.name.endswith(ENDING))
    except OSError:
        waiting = []
    if there is None:
        return ArmedState(0, tuple(waiting))
    arming, why = there.arming, why_not_recorded(there)
    if arming.every > 1:
        why = trouble_of(arming)  # most boots are not recorded, as it was wanted
    handed = arming.hand_to, bool(arming.hand_by)
    return ArmedState(arming.boots_left, tuple(waiting), why, arming.every, *handed)


def waiting_jobs(place: Workplace) -> list[int]:
    """Jobs for which armed recordings wait to be picked up, the newest recording first."""
    waiting = sorted(place.recordings.glob(f"armed-*/*{ENDING}"), key=_written_at, reverse=True)
    numbers = [path.parent.name.removeprefix("armed-") for path in waiting]
    return [int(number) for number in dict.fromkeys(numbers) if number.isdecimal()]


def _written_at(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def left_over(place: Workplace) -> int:
    """How many recordings were never taken into the book, as after a crash."""
    try:
        return sum(1 for path in place.recordings.iterdir() if path.name.endswith(ENDING))
    except OSError:
        return 0
