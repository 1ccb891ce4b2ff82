"""What the stick does on a PC: record it now, or its next boots; read its log; list what starts."""

import os
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.capture.arming.arming import arm as arm_at
from plucky_ledger.capture.arming.arming import armed, arming_into, take_away, why_not_recorded
from plucky_ledger.capture.arming.starters import starters
from plucky_ledger.capture.log.system_log import past_boots
from plucky_ledger.capture.real_pc import starts_here
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, BootClock, record
from plucky_ledger.capture.sampling.rest_watch import RestWatch
from plucky_ledger.capture.sampling.this_pc import ThisPc
from plucky_ledger.core.pc.arming import LOOK_SECONDS, Afterwards, Level
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.linux.users import acting_as, is_administrator
from plucky_ledger.recording.lines import EntryLine, Line, SampleLine
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.stick.kept import made_on_the_pc, person

LABEL = "stick"
"""Stands in the place of a job's label: the stick knows no jobs."""


@dataclass(frozen=True)
class Standing:
    """How an arming by a stick, or by the installed program, stands on this PC."""

    level: Level
    boots_left: int
    boots: int
    by_a_stick: bool
    trouble: Trouble | None = None
    """Why this boot, or the one before, was not recorded; None where nothing kept it from that."""


def record_now(seconds: float, told: Callable[[float], None]) -> Path:
    """Record this PC until it has settled, at most so long; ``told`` hears how long it has been.

    Ctrl+C ends it and keeps what there is. Raises Trouble.
    """
    folder = made_on_the_pc()
    path = folder / f"boot-{boot_id()}-{time.strftime('%Y%m%d-%H%M%S')}.jsonl.gz"
    clock = BootClock()
    clock.stop_on_signals()
    begun = clock.now()

    def hear(lines: Sequence[Line]) -> None:
        for line in lines:
            if isinstance(line, SampleLine):
                told(line.seconds - begun)

    with acting_as(person()):
        writer = RecordingWriter(path)
    with writer, closing(ThisPc()) as source:
        watch = RestWatch(os.cpu_count() or 1, begun)
        record(source, clock, writer, seconds, ADAPTIVE, hear, watch)
    return path


def arm(boots: int, notices: tuple[str, ...]) -> Level:
    """Have the next boots recorded, from as early as who asks can have it; returns the level.

    The PC gets a copy of the recorder of its own: the stick may be pulled. Raises Trouble.
    """
    folders = Folders.of_this_user()
    folder = made_on_the_pc()
    with acting_as(person()):
        arming = arming_into(folder, boots, LABEL, folders, Afterwards(LOOK_SECONDS, notices))
    level = Level.SYSTEM if is_administrator() else _users_level()
    arm_at(arming, level, folders)
    return level


def _users_level() -> Level:
    return Level.USER if starts_here(Level.USER) else Level.AUTOSTART


def standings() -> list[Standing]:
    """What is armed here, as far as who asks may see."""
    return [
        Standing(
            there.starter.level,
            there.arming.boots_left,
            there.arming.boots,
            there.arming.label == LABEL,
            why_not_recorded(there),
        )
        for there in armed(Folders.of_this_user())
    ]


def take_back() -> bool:
    """Remove every trace of an arming that who asks may remove; False where there was none.

    Raises Trouble where one stays, such as the administrator's.
    """
    found = [take_away(starter) for starter in starters(Folders.of_this_user())]
    return any(found)


def keep_past_boots(told: Callable[[int], None]) -> int:
    """Read the boots that the PC's own log knows, and keep them as recordings; returns how many.

    Raises Trouble where there is no such log, or it may not be read.
    """
    folder = made_on_the_pc()

    def progress(boots: int, _lines: int) -> bool:
        told(boots)
        return True

    boots = past_boots(progress)
    for boot in boots:
        path = folder / f"log-{boot.boot_id}.jsonl"
        try:
            with acting_as(person()):
                write_whole(path, boot.as_recording())
        except OSError as error:
            raise Trouble(
                TroubleCode.NOTHING_RECORDED, path=str(path), system=error.strerror or ""
            ) from error
    return len(boots)


def what_starts() -> Iterator[EntryLine]:
    """Every startup entry that this PC tells of, as who asks may see it."""
    with closing(ThisPc()) as source:
        source.sample()
        for line in source.closing_lines(lambda: True):
            if isinstance(line, EntryLine):
                yield line
