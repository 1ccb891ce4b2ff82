"""Conditions that stop a night shift: the time of day, the battery, heat, or a request."""

import os
from pathlib import Path

from plucky_ledger.capture.sampling.this_pc import power_source
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import homes
from plucky_ledger.night.plan import STOP_WISHED, NightPlan

TOO_HOT = 92_000
"""Thousandths of a degree; processors throttle themselves from about 100 °C on."""
THERMAL = Path("/sys/class/thermal")


def why_stop(plan: NightPlan, now: float, thermal: Path = THERMAL) -> ReasonCode | None:
    """Why the night shift is to stop now; None where it may go on."""
    if plan.until and now >= plan.until:
        return ReasonCode.NIGHT_IS_OVER
    if os.path.lexists(stop_file(plan.user)):
        return ReasonCode.NIGHT_STOPPED
    if power_source() == "battery":
        return ReasonCode.NIGHT_ON_BATTERY
    return ReasonCode.NIGHT_TOO_HOT if _hottest(thermal) > TOO_HOT else None


def stop_file(user: int) -> Path:
    """Whether the file that requests the end is there. Its content is not read."""
    return Folders.of({}, homes().get(user, Path("/"))).state / STOP_WISHED


def _hottest(thermal: Path) -> int:
    temperatures = [0]
    for zone in thermal.glob("thermal_zone*/temp"):
        try:
            temperatures.append(int(zone.read_text()))
        except (OSError, ValueError):
            continue  # a sensor that tells nothing
    return max(temperatures)
