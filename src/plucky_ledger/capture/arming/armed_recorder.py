"""The armed recorder: records one boot, counts down, and removes its traces at the last.

What it has to say goes to its unit's log: nobody sits at the PC yet.
"""

import logging
import os
import time
from contextlib import closing, suppress
from pathlib import Path

from plucky_ledger.capture.arming.arming import NotArmed, count_down, note_trouble, take_away
from plucky_ledger.capture.arming.care import is_its_turn, look_after
from plucky_ledger.capture.arming.starters import Arming, Starter, users_starter
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, IN_CARE, BootClock, record
from plucky_ledger.capture.sampling.rest_watch import RestWatch
from plucky_ledger.capture.sampling.slow_look import look_on
from plucky_ledger.capture.sampling.this_pc import ThisPc
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.linux.init_systems.running import init_system
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.linux.users import acting_as, is_administrator
from plucky_ledger.recording.deferred_writer import DeferredWriter
from plucky_ledger.recording.writer import RecordingStopped, RecordingWriter

LIMIT_SECONDS = 300.0
"""Longest recording of one boot, settled or not."""
log = logging.getLogger(__name__)


def record_from_a_copy(starter: Path, own_copy: Path) -> int:
    """Record this boot from an own copy, as administrator or as the user whose it is; returns the
    exit status.
    """
    if is_administrator():
        return _record_armed(Starter(Level.SYSTEM, starter, own_copy, init_system()))
    return _record_armed(users_starter(starter, own_copy))


def record_for_the_user(starter: Path) -> int:
    """Record this boot as the user whose starter this is; returns the exit status."""
    return _record_armed(users_starter(starter))


def _record_armed(starter: Starter) -> int:
    """Started twice in one boot, the second steps back: the recording exists already.

    Only the arming that started it is counted down: there may be another by the time it ends.
    """
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(message)s")
    arming = starter.read()
    try:
        if arming is None:
            log.warning("%s cannot be read and is removed", starter.path)
            take_away(starter)
            return 0
        if not is_its_turn(starter, arming):
            log.info("it is not this boot's turn")
            return 0
        stays_on = _record(starter, arming)
        if arming.every:
            look_after(arming, stays_on)
    except RecordingStopped as stopped:
        log.error("%s", stopped)
        if stopped.code is not TroubleCode.RECORDING_EXISTS:
            assert arming is not None
            with suppress(OSError):  # the disk it lies on may be the one that is full
                note_trouble(starter, arming.id, stopped)
        return 1
    except (NotArmed, OSError) as trouble:
        log.error("%s", trouble)
        return 1
    return 0


def _record(starter: Starter, arming: Arming) -> bool:
    """Record this boot; returns whether the PC stays on, or is going down already."""
    clock = BootClock()
    clock.stop_on_signals()
    source = ThisPc(armed=True)
    watch = RestWatch(os.cpu_count() or 1, clock.now())
    path = Path(arming.folder) / f"boot-{boot_id() or int(time.time())}.jsonl.gz"
    looked_after = {ReasonCode.WAS_AT_REST} if arming.look_seconds else set[ReasonCode]()

    def opened() -> RecordingWriter:
        with acting_as(arming.user):
            return RecordingWriter(path)

    with closing(DeferredWriter(opened)) as writer, closing(source):
        pace = IN_CARE if arming.every else ADAPTIVE
        reason = record(source, clock, writer, LIMIT_SECONDS, pace, None, watch, looked_after)
        log.info("%s: %d samples in %s (%s)", starter.level, writer.samples, path, reason)
        from plucky_ledger.linux.notifications import notify  # the last boot takes our copy away

        left = count_down(starter, arming.id)
        log.info("%d boots left", left)
        if words := arming.notice(left, watch.calm_since):
            notify(words, arming.user)
        if reason in looked_after:
            _look_on(source, clock, writer, arming.look_seconds)
    return clock.may_ask()


def _look_on(source: ThisPc, clock: BootClock, writer: DeferredWriter, seconds: float) -> None:
    """The boot is recorded and counted: what ends the look early costs only the rest of it."""
    try:
        reason = look_on(source, clock, writer, seconds)
        log.info("looked on until %s", reason)
    except RecordingStopped as stopped:
        log.warning("%s", stopped)
