"""What runs as administrator at each boot of a night shift: waits for the recording, switches, and
restarts; whatever stops it, the PC ends as it began.
"""

import logging
import time
from collections.abc import Callable
from pathlib import Path

import msgspec

from plucky_ledger.capture.arming.restart import held_up_by, restart
from plucky_ledger.capture.arming.starters import starter_of
from plucky_ledger.core.pc.arming import OWN_STARTER, Level
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.hardware_clock import keeps_local_time
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, UNIT
from plucky_ledger.linux.this_boot import boot_id, seconds_up
from plucky_ledger.night import notice
from plucky_ledger.night.ending import abandon, end_now, restore
from plucky_ledger.night.people import AtThePc
from plucky_ledger.night.plan import MOST_CUT, MOST_UNRECORDED, Booted, NightPlan
from plucky_ledger.night.plan_file import keep_plan, read_plan
from plucky_ledger.night.state_switching import bring_to, next_state, off_now
from plucky_ledger.night.stops import why_stop

TIMES_USUAL = 3.0
"""A boot that takes this many times the expected seconds counts as failed."""
LONGEST_RECORDING_SECONDS = 330.0
"""The recorder ends by itself before this."""
LEAST_SECONDS = 120.0
"""Shortest length of a boot: the time a person has to end the night shift."""
HELD_UP_SECONDS = 600.0
"""How long a restart waits for what holds it up."""
LOOK_AGAIN_SECONDS = 1.0
HOUR_SECONDS = 3_600.0
THE_MANAGER = Address(SERVICE, PATH, MANAGER)
log = logging.getLogger(__name__)


class Ends(Exception):
    """The night shift has to end, for this reason."""

    def __init__(self, reason: ReasonCode, by: str = "") -> None:
        super().__init__(reason)
        self.reason, self.by = reason, by


def run(folders: Folders, proc: Path = Path("/proc")) -> int:
    """One boot of the night; returns the exit status: 0 where all is as it should be."""
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(message)s")
    plan = read_plan(folders)
    if plan is None:
        return 0 if abandon(folders) else 1
    if plan.ended:
        return 0 if restore(plan, folders).restored else 1
    try:
        _one_boot(plan, folders, proc)
    except Ends as end:
        reason, by = end.reason, end.by
    except Trouble as trouble:
        log.warning("%s", trouble)
        reason, by = ReasonCode.NIGHT_NOT_SWITCHED, ""
    except Exception:
        log.exception("a fault of this program")
        reason, by = ReasonCode.NIGHT_FAILED, ""
    else:
        return 0
    latest = read_plan(folders) or plan
    return 0 if end_now(latest, reason, folders, by).restored else 1


def _one_boot(plan: NightPlan, folders: Folders, proc: Path) -> None:
    """One boot, from its start to the next restart. Raises Ends and Trouble."""
    this_boot = boot_id(proc)
    started = time.time() - seconds_up(proc)
    if _came_up_late(plan, started, folders):
        raise Ends(ReasonCode.NIGHT_BOOT_NEVER_CAME)
    boots = (*_those_before(plan), Booted(this_boot, off_now(plan)))
    plan = keep_plan(msgspec.structs.replace(plan, boots=boots, restart_asked=0.0), folders)
    somebody = AtThePc()
    if plan.notice:
        notice.show(plan.notice, plan.user)
    try:
        _wait_for_the_recording(plan, lambda: seconds_up(proc), somebody)
        plan = keep_plan(_with_the_recording(plan, folders, this_boot), folders)
        if plan.unrecorded >= MOST_UNRECORDED:
            raise Ends(ReasonCode.NIGHT_NOT_RECORDED)
        if _is_through(plan):
            raise Ends(ReasonCode.NIGHT_THROUGH)
        _go_on(plan, folders, somebody)
    finally:
        somebody.close()
        notice.hide()


def _those_before(plan: NightPlan) -> tuple[Booted, ...]:
    """The boots so far; the last was cut off where nobody had it restarted."""
    if not plan.boots or plan.restart_asked:
        return plan.boots
    return (*plan.boots[:-1], msgspec.structs.replace(plan.boots[-1], cut=True))


def _is_through(plan: NightPlan) -> bool:
    planned = len(plan.series)
    return plan.recorded >= planned or len(plan.boots) >= planned + MOST_CUT


def _came_up_late(plan: NightPlan, started: float, folders: Folders) -> bool:
    """Whether the previous boot failed to come up, so that a person had to restart the PC.

    A hardware clock that keeps local time is an hour off right after a change of summer time.
    """
    if not plan.restart_asked:
        return False
    most = max(TIMES_USUAL * plan.usual_seconds, 60.0)
    after = started - plan.restart_asked
    an_hour_off = keeps_local_time(folders.etc) and abs(after - HOUR_SECONDS) <= most
    return after > most and not an_hour_off


def _refuse_to_stay(plan: NightPlan, somebody: AtThePc) -> None:
    """Raises Ends where something or somebody wants the night shift stopped."""
    if (stop := why_stop(plan, time.time())) is not None:
        raise Ends(stop)
    if somebody.somebody():
        raise Ends(ReasonCode.NIGHT_SOMEBODY_CAME)


def _wait_for_the_recording(
    plan: NightPlan, uptime: Callable[[], float], somebody: AtThePc
) -> None:
    """Wait until the boot is recorded, and for at least ``LEAST_SECONDS``. Raises Ends."""
    longest = max(TIMES_USUAL * plan.usual_seconds, LONGEST_RECORDING_SECONDS)
    least = time.monotonic() + LEAST_SECONDS
    while (recording := _is_recording()) or time.monotonic() < least:
        _refuse_to_stay(plan, somebody)
        if recording and uptime() > longest:
            raise Ends(ReasonCode.NIGHT_BOOT_NEVER_CAME)
        time.sleep(LOOK_AGAIN_SECONDS)
    _refuse_to_stay(plan, somebody)


def _is_recording() -> bool:
    """Whether the recorder of this boot is at work; no answer is no reason to restart."""
    try:
        with opened("SYSTEM") as bus:
            (unit,) = bus.call(
                THE_MANAGER, "LoadUnit", "s", (f"{OWN_STARTER}.service",), returns="o"
            )
            properties = bus.properties(Address(SERVICE, str(unit), UNIT), {"ActiveState": "s"})
    except NoAnswer:
        return True
    return properties.get("ActiveState") in {"active", "activating"}


def _with_the_recording(plan: NightPlan, folders: Folders, this_boot: str) -> NightPlan:
    """The plan with whether this boot was recorded to its end, by what the recorder counted down.

    Raises Ends where somebody has disarmed it.
    """
    arming = starter_of(Level.SYSTEM, folders).read()
    is_last = plan.recorded >= len(plan.series)  # with this one
    if arming is None and not is_last:
        raise Ends(ReasonCode.NIGHT_DISARMED)
    whole = arming is None or (arming.seen_boot == this_boot and not arming.trouble)
    now = msgspec.structs.replace(plan.boots[-1], recorded=whole)
    return msgspec.structs.replace(plan, boots=(*plan.boots[:-1], now))


def _go_on(plan: NightPlan, folders: Folders, somebody: AtThePc) -> None:
    """Switch to the next state and restart, unless every interval is narrow enough.

    Raises Ends and Trouble.
    """
    following = _wanted_next(plan)
    if following is None:
        raise Ends(ReasonCode.NIGHT_EXACT_ENOUGH)
    bring_to(plan, following)
    _wait_for_others(plan, somebody)
    keep_plan(msgspec.structs.replace(plan, restart_asked=time.time()), folders)
    try:
        restart()
    except Trouble as trouble:
        log.warning("not restarted: %s", trouble)
        raise Ends(ReasonCode.NIGHT_NOT_RESTARTED) from trouble


def _wait_for_others(plan: NightPlan, somebody: AtThePc) -> None:
    """Wait until nothing inhibits a restart. Raises Ends after ``HELD_UP_SECONDS``."""
    deadline = time.monotonic() + HELD_UP_SECONDS
    while held_up := _held_up(plan):
        _refuse_to_stay(plan, somebody)
        if time.monotonic() > deadline:
            raise Ends(ReasonCode.NIGHT_HELD_UP, held_up)
        time.sleep(LOOK_AGAIN_SECONDS)
    _refuse_to_stay(plan, somebody)


def _held_up(plan: NightPlan) -> str:
    """The program that inhibits a restart; empty where none does. No answer is no reason to
    restart.
    """
    try:
        found = held_up_by(plan.user)
    except NoAnswer as silence:
        return str(silence.reason.code)
    names = [one.who for one in found if not (one.only_delays and one.who in plan.accepts)]
    return ", ".join(names)


def _wanted_next(plan: NightPlan) -> tuple[str, ...] | None:
    """Entries off in the next boot: by what was measured so far, or else by the series."""
    planned = plan.series[plan.recorded]
    try:
        return next_state(plan).off if plan.asks else planned
    except Trouble as trouble:
        log.warning("the series is gone on with: %s", trouble)
        return planned
