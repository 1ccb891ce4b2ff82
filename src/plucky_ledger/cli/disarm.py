"""Disarming by the job's label alone, without the ledger: quick, and where that is broken, too."""

from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.capture.arming import armed_under, disarm
from plucky_ledger.usecases.workplace import Workplace, default_ledger


def disarm_quickly(arguments: Sequence[str]) -> bool:
    """Disarm for ``JOB [--ledger FILE]``; False leaves it to the command itself.

    It is left to the command where nothing is armed under that label, where the ledger is no file
    or the arguments say anything else. Raises Trouble.
    """
    match list(arguments):
        case [label]:
            ledger = default_ledger()
        case [label, "--ledger", named] if "://" not in named:
            ledger = Path(named)
        case _:
            return False
    folder = armed_under(Workplace.beside(ledger).recordings, label)
    return folder is not None and disarm(folder)
