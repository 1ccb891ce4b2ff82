"""What runs as administrator at each boot of a night shift: waits for the recording, switches, and
restarts; whatever stops it, the PC ends as it began.
"""

import logging
import time
from collections.abc import Callable
from pathlib import Path

import msgspec

from plucky_ledger.capture.arming import take_away as disarm
from plucky_ledger.capture.restart import restart
from plucky_ledger.capture.starters import starter_of
from plucky_ledger.core.pc.arming import OWN_STARTER, Level
from plucky_ledger.core.reasons import ReasonCode
from plucky_ledger.core.trouble import Trouble
from plucky_ledger.linux.boot import boot_id
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, UNIT
from plucky_ledger.night.plan import MOST_CUT, Booted, NightPlan, keep_plan, read_plan
from plucky_ledger.night.starter import take_away
from plucky_ledger.night.states import bring_to, next_state, off_now, put_everything_back
from plucky_ledger.night.stops import why_stop

TIMES_USUAL = 3.0
"""A boot that takes so many times as long as usual did not come up."""
LONGEST_RECORDING_SECONDS = 330.0
"""The recorder ends by itself before this."""
LOOK_AGAIN_SECONDS = 1.0
THE_MANAGER = Address(SERVICE, PATH, MANAGER)
log = logging.getLogger(__name__)


def run(folders: Folders, proc: Path = Path("/proc")) -> int:
    """One boot of the night; returns the exit status."""
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(message)s")
    plan = read_plan(folders)
    if plan is None or (plan.ended and plan.restored):
        take_away(folders)
        return 0
    if plan.ended:
        return _restore(plan, folders)
    uptime = float((proc / "uptime").read_text().split()[0])
    if _came_up_late(plan, time.time() - uptime):
        return end_now(plan, ReasonCode.NIGHT_BOOT_NEVER_CAME, folders)
    boots = (*_those_before(plan), Booted(boot_id(proc), off_now(plan)))
    plan = keep_plan(msgspec.structs.replace(plan, boots=boots, restart_asked=0.0), folders)
    stop = _wait(plan, lambda: float((proc / "uptime").read_text().split()[0]))
    if stop is None and _is_through(plan):
        stop = ReasonCode.NIGHT_THROUGH
    return end_now(plan, stop, folders) if stop is not None else _next(plan, folders)


def _those_before(plan: NightPlan) -> tuple[Booted, ...]:
    """The boots so far; the last was cut off where nobody had it restarted."""
    if not plan.boots or plan.restart_asked:
        return plan.boots
    return (*plan.boots[:-1], msgspec.structs.replace(plan.boots[-1], cut=True))


def _is_through(plan: NightPlan) -> bool:
    planned = len(plan.series)
    return plan.recorded >= planned or len(plan.boots) >= planned + MOST_CUT


def _came_up_late(plan: NightPlan, started: float) -> bool:
    """Whether the boot before this one never came up, and somebody had to help it."""
    return bool(plan.restart_asked) and started - plan.restart_asked > max(
        TIMES_USUAL * plan.usual_seconds, 60.0
    )


def _wait(plan: NightPlan, uptime: Callable[[], float]) -> ReasonCode | None:
    """Until the boot is recorded; why the night shift is to stop, if it is."""
    longest = max(TIMES_USUAL * plan.usual_seconds, LONGEST_RECORDING_SECONDS)
    while _is_recording():
        if (stop := why_stop(plan, time.time())) is not None:
            return stop
        if uptime() > longest:
            return ReasonCode.NIGHT_BOOT_NEVER_CAME
        time.sleep(LOOK_AGAIN_SECONDS)
    return why_stop(plan, time.time())


def _is_recording() -> bool:
    """Whether the recorder of this boot is at work; no answer is no reason to restart."""
    try:
        with opened("SYSTEM") as bus:
            (unit,) = bus.call(
                THE_MANAGER, "LoadUnit", "s", (f"{OWN_STARTER}.service",), returns="o"
            )
            told = bus.properties(Address(SERVICE, str(unit), UNIT), {"ActiveState": "s"})
    except NoAnswer:
        return True
    return told.get("ActiveState") in {"active", "activating"}


def _next(plan: NightPlan, folders: Folders) -> int:
    """Switch to the next state and restart, unless every interval is narrow enough."""
    wanted = _wanted_next(plan)
    if wanted is None:
        return end_now(plan, ReasonCode.NIGHT_EXACT_ENOUGH, folders)
    try:
        bring_to(plan, wanted)
    except (Trouble, OSError) as trouble:
        log.warning("not switched: %s", trouble)
        return end_now(plan, ReasonCode.NIGHT_NOT_SWITCHED, folders)
    plan = keep_plan(msgspec.structs.replace(plan, restart_asked=time.time()), folders)
    try:
        restart()
    except Trouble as trouble:
        log.warning("not restarted: %s", trouble)
        return end_now(plan, ReasonCode.NIGHT_NOT_RESTARTED, folders)
    return 0


def _wanted_next(plan: NightPlan) -> tuple[str, ...] | None:
    """What is off in the next boot, by what was measured so far, or else by the series."""
    planned = plan.series[plan.recorded]
    try:
        return next_state(plan).off if plan.asks else planned
    except Trouble as trouble:
        log.warning("the series is gone on with: %s", trouble)
        return planned


def end_now(plan: NightPlan, reason: ReasonCode, folders: Folders) -> int:
    """Stop it and put everything back; returns the exit status."""
    log.info("the night shift ends: %s", reason.value)
    ended = msgspec.structs.replace(plan, ended=reason.value, ended_at=time.time())
    return _restore(keep_plan(ended, folders), folders)


def _restore(plan: NightPlan, folders: Folders) -> int:
    """Put everything back and leave no trace; what cannot be is tried again at the next start."""
    try:
        put_everything_back(plan)
        disarm(starter_of(Level.SYSTEM, folders))
    except (Trouble, OSError) as trouble:
        log.warning("not put back: %s", trouble)
        return 1
    keep_plan(msgspec.structs.replace(plan, restored=True), folders)
    take_away(folders)
    return 0
