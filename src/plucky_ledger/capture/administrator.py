"""What only the administrator may do, done by a process of theirs that does that and nothing else.

An ordinary user who may become administrator is asked once, by the system's own means.
"""

import logging
import os
import shutil
import subprocess
import sys
from collections.abc import Mapping, Sequence

import msgspec

from plucky_ledger.capture.arming import NotArmed, arm, take_away
from plucky_ledger.capture.journal import past_boots
from plucky_ledger.capture.starters import Arming, starter_of, starters
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.trouble import Fact, Refused, Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import acting_as, homes, is_administrator

ARM, DISARM, PAST_BOOTS = "arm", "disarm", "past-boots"
IN_TROUBLE = 3
"""Exit status: what is the matter stands in the output."""
WITHIN_SECONDS = 300.0
"""How long somebody may take to be the administrator."""
SUDO_ANSWERS_WITHIN = 5.0
_WHO_ASKS = ("PKEXEC_UID", "SUDO_UID")
log = logging.getLogger(__name__)


class _Told(msgspec.Struct, frozen=True):
    """Trouble on its way from the administrator's process to ours."""

    code: str
    facts: dict[str, Fact]


def arm_the_system(arming: Arming) -> None:
    """Arm at the system's level. Raises Trouble; nothing is left then."""
    _do(ARM, msgspec.json.encode(arming).decode())


def disarm_the_system() -> None:
    """Remove every trace at the system's level. Raises Trouble."""
    _do(DISARM)


def past_boots_of_the_system() -> list[bytes]:
    """Past boots of the log that is not for everybody's eyes, as recordings. Raises Trouble."""
    try:
        return [text.encode() for text in msgspec.json.decode(_do(PAST_BOOTS), type=list[str])]
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


def _do(*wish: str) -> bytes:
    """What the administrator answers."""
    if is_administrator():
        return carry_out(wish, {})
    command = [*_becoming(), sys.executable, "-I", "-m", "plucky_ledger", "administer", *wish]
    log.info("asking the administrator: %s", wish[0])
    try:
        answer = subprocess.run(
            command, stdout=subprocess.PIPE, check=False, timeout=WITHIN_SECONDS
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error
    if answer.returncode == IN_TROUBLE:
        raise _trouble_of(answer.stdout)
    if answer.returncode != 0:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR)
    return answer.stdout


def _becoming() -> list[str]:
    """The program that makes us the administrator.

    It asks somebody at the PC, on a screen or here, where nobody has to be asked not even that.
    """
    sudo = shutil.which("sudo")
    if sudo and _may_at_once(sudo):
        return [sudo, "-n"]
    programs = ["pkexec"]
    if os.isatty(0):
        on_a_screen = any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY"))
        programs.insert(len(programs) if on_a_screen else 0, "sudo")
    for program in programs:
        if path := shutil.which(program):
            return [path]
    raise Refused(TroubleCode.NO_ADMINISTRATOR)


def _may_at_once(sudo: str) -> bool:
    """Whether nobody has to be asked; a sign-in server that does not answer is no yes."""
    try:
        tried = subprocess.run(
            [sudo, "-n", "true"], capture_output=True, check=False, timeout=SUDO_ANSWERS_WITHIN
        )
    except (OSError, subprocess.TimeoutExpired):
        return False
    return tried.returncode == 0


def _trouble_of(answer: bytes) -> Trouble:
    try:
        told = msgspec.json.decode(answer, type=_Told)
        return NotArmed(TroubleCode(told.code)).with_facts(**told.facts)
    except (msgspec.DecodeError, ValueError):
        return Refused(TroubleCode.NOT_THE_ADMINISTRATOR)


def carry_out(wish: Sequence[str], environment: Mapping[str, str]) -> bytes:
    """Do what is wished, as the administrator; returns the answer for who asked.

    Raises:
        Trouble: it could not be done.
        ValueError: that is no wish.
    """
    folders = Folders.of_this_user()
    match list(wish):
        case ["arm", text]:
            arming = msgspec.json.decode(text, type=Arming)
            who = next((environment[name] for name in _WHO_ASKS if name in environment), "")
            arm(
                # Whoever asked cannot have it written as somebody else.
                msgspec.structs.replace(arming, user=int(who)) if who else arming,
                Level.SYSTEM,
                folders,
            )
        case ["disarm"]:
            take_away(starter_of(Level.SYSTEM, folders))
        case ["past-boots"]:
            recordings = [boot.as_recording().decode() for boot in past_boots()]
            return msgspec.json.encode(recordings)
        case _:
            raise ValueError(f"{' '.join(wish)}: nothing the administrator does")
    return b""


def told_as_json(trouble: Trouble) -> bytes:
    """Trouble for the process that asked."""
    facts = {name: fact for name, fact in trouble.facts.items() if not isinstance(fact, Trouble)}
    return msgspec.json.encode(_Told(trouble.code.value, facts))
