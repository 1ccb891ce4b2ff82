"""The PC we run on, as something that can be asked and told."""

import logging
import os
import selectors
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import msgspec

from plucky_ledger.capture import administrator
from plucky_ledger.capture.arming.arming import (
    NotArmed,
    arm,
    armed_for,
    arming_into,
    take_away,
)
from plucky_ledger.capture.arming.restart import restart, what_a_restart_ends
from plucky_ledger.capture.hardware import facts
from plucky_ledger.capture.log.system_log import Progress, past_boots
from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.arming import Afterwards, Level
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import init_system
from plucky_ledger.linux.machine_identity import machine_identity
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import Line, PcFacts
from plucky_ledger.recording.pc import GoingOn, Listener, Pc

MANAGERS = {Level.SYSTEM: "/run/systemd/system", Level.USER: "/run/user/{user}/systemd"}
"""What is there while a service manager runs that would start the recorder. sd_booted(3)."""
LOOK_AGAIN_SECONDS = 0.2
"""How soon the wish to stop is noticed while the recorder says nothing."""
CHUNK = 1 << 16
log = logging.getLogger(__name__)


class RealPc(Pc):
    """The PC we run on. The recorder is a program of its own: what it costs is its
    own, and it goes on without us.

    What it lacks is told as trouble with a reason when it is asked for.
    """

    def __init__(self, folders: Folders | None = None) -> None:
        self._folders = folders or Folders.of_this_user()

    @property
    def abilities(self) -> Abilities:
        """What it can do: all, but for a level that nothing starts the recorder at, and for past
        boots where no service manager keeps a log of them.
        """
        levels = tuple(level for level in Level if starts_here(level))
        kept = init_system() is None
        return Abilities(record=RecordHow.AT_ONCE, levels=levels, past_boots=kept, facts=True)

    @property
    def which(self) -> WhichPc:
        """Which PC this is."""
        return WhichPc(PcKind.REAL, machine_identity())

    @property
    def boot_id(self) -> str:
        """The kernel's name for the boot it is in."""
        return boot_id()

    def facts(self) -> PcFacts:
        """What it has."""
        return facts.facts_of_this_pc()

    def record(self, path: Path, seconds: float, listener: Listener, going_on: GoingOn) -> None:
        """Record it to a new file for so long, or until ``going_on`` says no.

        Raises:
            Trouble: the recorder could not be started, or ended by itself with a reason.
        """
        command = [
            sys.executable,
            "-m",
            "plucky_ledger",
            "record",
            "--for",
            f"{seconds:g}",
            "--out",
            str(path),
            "--echo",
        ]
        with tempfile.TemporaryFile() as complaints:
            try:
                process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=complaints)
            except OSError as error:
                raise Trouble(
                    TroubleCode.RECORDER_NOT_STARTED, system=error.strerror or ""
                ) from error
            log.info("recording to %s", path)
            with process:
                _follow(process, listener, going_on)
            if process.returncode != 0:
                complaints.seek(0)
                complained = complaints.read().decode("utf-8", "replace").strip().splitlines()
                log.warning("recorder ended with %d: %s", process.returncode, complained)
                raise Trouble(TroubleCode.RECORDER_ENDED, told=complained[-1] if complained else "")

    def past_boots(self, progress: Progress, as_administrator: bool = False) -> list[bytes]:
        """Boots its journal still knows as recordings, newest first. Raises Trouble."""
        if as_administrator and not is_administrator():
            return administrator.past_boots_of_the_system()
        return [boot.as_recording() for boot in past_boots(progress)]

    def arm(self, folder: Path, boots: int, level: Level, label: str, then: Afterwards) -> None:
        """Make the recorder start with its next boots. Raises Trouble; nothing is left then."""
        if not starts_here(level):
            raise NotArmed(TroubleCode.NOTHING_STARTS_IT, level=level.value)
        arming = arming_into(folder, boots, label, self._folders, then)
        if level is Level.SYSTEM and not is_administrator():
            administrator.arm_the_system(arming)
        else:
            arm(arming, level, self._folders)

    def survey(
        self, progress: Callable[[int, str], bool], as_administrator: bool = False
    ) -> Survey:
        """What takes the room on its drive, as far as who looks may look. Raises Trouble."""
        from plucky_ledger.capture.hardware.survey import survey

        if as_administrator and not is_administrator():
            return administrator.survey_of_the_system(progress)

        return survey(progress)

    def inspect(self) -> ConditionLine:
        """Its state as the administrator sees it, who is asked for. Raises Trouble."""
        return administrator.condition_of_the_pc()

    def restart(self) -> None:
        """Restart it: everything that is open is closed. Raises Trouble."""
        restart()

    def restart_ends(self) -> tuple[Reason, ...]:
        """What else a restart would end, or is held up by, as far as the PC says."""
        return what_a_restart_ends()

    def disarm(self, folder: Path) -> bool:
        """Remove every trace of an arming; False when it was not armed. Raises Trouble."""
        there = armed_for(folder, self._folders)
        if there is None:
            return False
        if there.starter.level is Level.SYSTEM and not is_administrator():
            administrator.disarm_the_system()
            return True
        return take_away(there.starter)


def starts_here(level: Level) -> bool:
    """Whether there is something that would start the recorder at this level."""
    there = MANAGERS.get(level)
    if there is None or os.path.isdir(there.format(user=os.getuid())):
        return True
    return level is Level.SYSTEM and init_system() is not None


def _follow(
    process: "subprocess.Popen[bytes]", listener: Listener, going_on: Callable[[], bool]
) -> None:
    """Hand on what the recorder says until it ends; ask it to end when that is wished."""
    stream = process.stdout
    assert stream is not None
    decoder = msgspec.json.Decoder(Line)
    rest = b""
    asked_to_end = False
    with selectors.DefaultSelector() as selector:
        selector.register(stream, selectors.EVENT_READ)
        while True:
            if not asked_to_end and not going_on():
                process.send_signal(signal.SIGINT)  # stop and keep, but do ask
                asked_to_end = True
            if not selector.select(LOOK_AGAIN_SECONDS):
                continue
            data = os.read(stream.fileno(), CHUNK)
            if not data:
                return
            *whole, rest = (rest + data).split(b"\n")
            listener([decoder.decode(line) for line in whole if line])
