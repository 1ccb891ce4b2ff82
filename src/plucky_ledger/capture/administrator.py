"""What only the administrator may do for recording: arming the system's level, reading its log."""

import os
from collections.abc import Mapping

import msgspec

from plucky_ledger.capture.arming.arming import NotArmed, arm, take_away
from plucky_ledger.capture.arming.starters import Arming, starter_of, starters
from plucky_ledger.capture.hardware.condition import condition_lines
from plucky_ledger.capture.hardware.survey import Progress, survey
from plucky_ledger.capture.log.system_log import past_boots
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.administrator import (
    answered,
    follow_the_administrator,
    tell_who_asked,
    who_asks,
)
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import acting_as, homes, is_administrator
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import bounded

ARM, DISARM, PAST_BOOTS, INSPECT, SURVEY = "arm", "disarm", "past-boots", "inspect", "survey"
TAKE_AN_ORDER = frozenset({ARM})


def arm_the_system(arming: Arming) -> None:
    """Arm at the system's level. Raises Trouble; nothing is left then."""
    answered(carry_out, ARM, msgspec.json.encode(arming))


def disarm_the_system() -> None:
    """Remove every trace at the system's level. Raises Trouble."""
    answered(carry_out, DISARM)


def past_boots_of_the_system() -> list[bytes]:
    """Past boots of the log that is not for everybody's eyes, as recordings. Raises Trouble."""
    try:
        return [
            text.encode()
            for text in msgspec.json.decode(answered(carry_out, PAST_BOOTS), type=list[str])
        ]
    except msgspec.DecodeError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error


def condition_of_the_pc() -> ConditionLine:
    """The state of the PC with what only the administrator may see of it. Raises Trouble."""
    try:
        return msgspec.json.decode(answered(carry_out, INSPECT), type=ConditionLine)
    except msgspec.DecodeError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error


def survey_of_the_system(progress: Progress) -> Survey:
    """What takes the room, wherever it lies. Raises Trouble."""
    decoder = msgspec.json.Decoder(tuple[int, str])

    def told(line: bytes) -> bool:
        return progress(*decoder.decode(line))

    try:
        answer = follow_the_administrator(told, SURVEY)
        return msgspec.json.decode(answer, type=Survey)
    except msgspec.DecodeError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error


def disarm_everything(folders: Folders) -> bool:
    """Remove every trace of every arming; False where there was none.

    That is what lies in this user's folders and at the system's level; the administrator looks
    into the folders of all users, as each of them.

    Raises:
        Trouble: a trace stays; all others are removed all the same.
    """
    removed, stays = False, []
    places = [(os.geteuid(), folders)]
    if is_administrator():
        places += [(user, Folders.of({}, home)) for user, home in homes().items()]
    for user, theirs in places:
        try:
            with acting_as(user):
                removed = _disarm_user(theirs) or removed
        except NotArmed as trouble:
            stays.append(trouble)
    system = starter_of(Level.SYSTEM, folders)
    if system.traces:
        removed = True
        if is_administrator():
            take_away(system)
        else:
            disarm_the_system()
    if stays:
        raise stays[0]
    return removed


def _disarm_user(folders: Folders) -> bool:
    users = [starter for starter in starters(folders) if starter.level is not Level.SYSTEM]
    removed = [take_away(starter) for starter in users]
    return any(removed)


def carry_out(request: str, order: bytes, environment: Mapping[str, str]) -> bytes:
    """Do what is requested, as the administrator; returns the answer for who asked.

    Raises:
        Trouble: it could not be done.
        ValueError: that is no order.
    """
    folders = Folders.of_this_user()
    if request == ARM:
        arming = msgspec.json.decode(order, type=Arming)
        who = who_asks(environment)
        arm(
            # Whoever asked cannot have it written as somebody else.
            msgspec.structs.replace(arming, user=who) if who is not None else arming,
            Level.SYSTEM,
            folders,
        )
        return b""
    if request == DISARM:
        take_away(starter_of(Level.SYSTEM, folders))
        return b""
    if request == PAST_BOOTS:
        recordings = [boot.as_recording().decode() for boot in past_boots()]
        return msgspec.json.encode(recordings)
    if request == INSPECT:
        *_, condition = condition_lines(lambda: True)
        return msgspec.json.encode(condition)
    if request == SURVEY:
        return msgspec.json.encode(survey(_tell_how_far))
    raise ValueError("nothing the administrator does")


def _tell_how_far(files: int, folder: str) -> bool:
    return tell_who_asked(msgspec.json.encode((files, bounded(folder))))
