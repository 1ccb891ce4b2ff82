"""Properties of the service manager's and the login manager's objects that are read.

Each with its D-Bus type, by org.freedesktop.systemd1(5) and org.freedesktop.login1(5): one of
another type is taken for not told.
"""

from collections.abc import Mapping
from typing import Any

SERVICE = "org.freedesktop.systemd1"
PATH = "/org/freedesktop/systemd1"
MANAGER = f"{SERVICE}.Manager"
UNIT, UNIT_SERVICE, TIMER = f"{SERVICE}.Unit", f"{SERVICE}.Service", f"{SERVICE}.Timer"
LOGIN, LOGIN_PATH = "org.freedesktop.login1", "/org/freedesktop/login1"
LOGIN_MANAGER, LOGIN_SESSION, LOGIN_SEAT = f"{LOGIN}.Manager", f"{LOGIN}.Session", f"{LOGIN}.Seat"

_TEXTS = (
    "Id",
    "Description",
    "LoadState",
    "FragmentPath",
    "SourcePath",
    "ControlGroup",
    "Result",
    "Class",
    "Name",
    "Type",
    "UnitFileState",
    "TTY",
)
_LISTS = ("Environment", "Names", "After", "WantedBy", "TriggeredBy", "DropInPaths")
_COUNTS = ("CPUUsageNSec", "MemoryCurrent", "IOReadBytes", "TimestampMonotonic", "Timestamp")
_INSTANTS = (
    "Firmware",
    "Loader",
    "InitRD",
    "Userspace",
    "Finish",
    "UnitsLoadFinish",
    "InactiveExit",
    "ActiveEnter",
    "ActiveExit",
    "InactiveEnter",
    "Condition",
)
MAIN_COMMAND = "ExecStart"
BESIDE_IT = ("ExecCondition", "ExecStartPre", "ExecStartPost")
"""Commands that a service runs before and after its main one."""
STARTS = (MAIN_COMMAND, *BESIDE_IT)

TYPES: Mapping[str, str] = {
    **dict.fromkeys(_TEXTS, "s"),
    **dict.fromkeys(_LISTS, "as"),
    **dict.fromkeys(_COUNTS, "t"),
    **{f"{name}TimestampMonotonic": "t" for name in _INSTANTS},
    "ConditionResult": "b",
    "CanGraphical": "b",
    "NRestarts": "u",
    **dict.fromkeys(STARTS, "a(sasbttttuii)"),
    "Seat": "(so)",
    "TimersCalendar": "a(sst)",
    "TimersMonotonic": "a(stt)",
}

Properties = Mapping[str, Any]
"""Values of the types above, by name; what was not told is missing."""
