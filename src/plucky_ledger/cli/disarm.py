"""Disarming by the job's label alone, without the ledger: quick, and where that is broken, too."""

from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.capture.arming.arming import armed, take_away
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.linux.folders import Folders
from plucky_ledger.usecases.jobs.workplace import Workplace, default_ledger


def disarm_quickly(arguments: Sequence[str]) -> bool:
    """Disarm for ``JOB [--ledger FILE]``; False leaves it to the command itself.

    It is left to the command where nothing is armed under that label, where it takes the
    administrator, where the ledger is no file or the arguments say anything else. Raises Trouble.
    """
    match list(arguments):
        case [label] if not label.startswith("-"):
            ledger = default_ledger()
        case [label, "--ledger", named] if "://" not in named:
            ledger = Path(named)
        case _:
            return False
    recordings = Workplace.beside(ledger).recordings.absolute()
    for one in armed(Folders.of_this_user()):
        ours = one.arming.label == label and Path(one.arming.folder).parent == recordings
        if ours and one.starter.level is not Level.SYSTEM:
            return take_away(one.starter)
    return False
