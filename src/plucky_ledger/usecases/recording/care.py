"""What is wanted of the recorder that stays on a PC, tried before it is armed."""

import os
import sys
from pathlib import Path

import plucky_ledger
from plucky_ledger.core.pc.arming import Care
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.as_user import run_as
from plucky_ledger.store.address import Address, address_of
from plucky_ledger.usecases.jobs.workplace import Workplace

ANSWERS_WITHIN_SECONDS = 60.0


def is_address(hand_to: str) -> bool:
    """Whether recordings are to go into a ledger rather than a folder."""
    return "://" in hand_to


def care_handing_to(place: Workplace, every: int, keep: int, hand_to: str) -> Care:
    """Care that hands recordings to a folder, to a ledger by its address, or to nobody (empty).

    What hands them to a ledger is run once, as it will be after a boot: nobody is asked for a
    password then.

    Raises:
        Trouble: it is no address of a ledger.
        Refused: recordings cannot be handed there, with what was said.
    """
    if not is_address(hand_to):
        return Care(every, keep, str(Path(hand_to).absolute()) if hand_to else "")
    address = address_of(hand_to)
    if plucky_ledger.CARRIED:
        raise Refused(TroubleCode.CARE_NEEDS_THE_PROGRAM)
    command = _command(place, address)
    ended = run_as(os.geteuid(), command, ANSWERS_WITHIN_SECONDS)
    if ended.status and not ended.said:
        raise Refused(
            TroubleCode.CARE_HANDS_ON_TOO_SLOWLY,
            address=address.text,
            seconds=round(ANSWERS_WITHIN_SECONDS),
        )
    if ended.status:
        raise Refused(TroubleCode.CARE_CANNOT_HAND_ON, address=address.text, system=ended.said)
    return Care(every, keep, address.text, command)


def _command(place: Workplace, address: Address) -> tuple[str, ...]:
    """Takes what is new from the folders of armed recordings that say which PC they are of."""
    gently = ("nice", "-n", "19")
    program = (sys.executable, "-m", "plucky_ledger", "import")
    told = ("--drop", str(place.recordings.absolute()), "--ledger", address.text)
    return (*gently, *program, *told)
