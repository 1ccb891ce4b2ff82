"""Stop now: ending a running program or service, politely, then firmly, and watching what follows.

A service is ended by its manager, anything else by a signal. Nothing of it is kept.
"""

import os
import re
import signal
import time
from collections.abc import Callable, Iterable
from contextlib import suppress

from plucky_ledger.control.running import LARGEST_BYTES, PROC, RunningProcess, processes
from plucky_ledger.control.service_manager import THE_MANAGER
from plucky_ledger.control.session_guard import carriers
from plucky_ledger.core.entries.kinds import is_service
from plucky_ledger.core.pc.stopping import OBSERVED_SECONDS, Stopped, ToStop
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.bus import NoAnswer, opened
from plucky_ledger.linux.files import read_bounded
from plucky_ledger.linux.users import is_administrator

POLITE_SECONDS = 5.0
LOOK_AGAIN_SECONDS = 0.2
USERS_UNITS = re.compile(r"/user@\d+\.service/")
A_SERVICE = re.compile(r"[\w:.\\@-]+\.service")
FIRST_PROCESS = 1


def stop(
    wanted: ToStop,
    administrator_stops: Callable[[str], None],
    going_on: Callable[[], bool] = lambda: True,
) -> Stopped:
    """End a program or service, and watch whether it is started again. ``administrator_stops`` ends
    a service of the system.

    Raises:
        Refused: it is not running, belongs to somebody else, or carries a session.
        Trouble: its manager could not end it, or it would not end.
    """
    running = processes()
    before = _of(wanted, running)
    if not before:
        raise Refused(TroubleCode.NOT_RUNNING, name=wanted.name)
    if not carriers(running).isdisjoint(process.pid for process in before):
        raise Refused(TroubleCode.CARRIES_THE_SESSION, name=wanted.name)
    freed = sum(_held(process.pid) for process in before)
    forced = _end(wanted, before, administrator_stops)
    again_after, again = _watch(wanted, before, going_on)
    by = _started_by(again) if again else ""
    return Stopped(
        name=wanted.name,
        processes=len(before),
        freed_bytes=freed,
        forced=forced,
        came_back_seconds=again_after,
        started_again_by=by,
    )


def _of(wanted: ToStop, running: Iterable[RunningProcess]) -> list[RunningProcess]:
    return [
        process
        for process in running
        if process.pid not in {os.getpid(), FIRST_PROCESS}
        and (
            _is_in(process.group, wanted.group)
            if wanted.group
            else bool(wanted.program) and process.program == wanted.program
        )
    ]


def _is_in(group: str, wanted: str) -> bool:
    return group == wanted or group.startswith(f"{wanted}/")


def _held(pid: int) -> float:
    """Unique memory (USS) of a process in bytes; 0 where it may not be read."""
    try:
        text = read_bounded(PROC / str(pid) / "smaps_rollup", LARGEST_BYTES).decode()
    except OSError:
        return 0.0
    found = re.findall(r"^(?:Private_Clean|Private_Dirty):\s+(\d+) kB", text, re.MULTILINE)
    return sum(float(kilobytes) for kilobytes in found) * 1024


def _end(
    wanted: ToStop, running: list[RunningProcess], administrator_stops: Callable[[str], None]
) -> int:
    unit = wanted.group.rpartition("/")[2]
    if A_SERVICE.fullmatch(unit):
        if USERS_UNITS.search(f"{wanted.group}/"):
            stop_unit(unit, "SESSION")
        else:
            administrator_stops(unit)
        return 0
    if not is_administrator() and any(process.user != os.geteuid() for process in running):
        raise Refused(TroubleCode.NOT_YOURS_TO_STOP, name=wanted.name)
    _signal(running, signal.SIGTERM)
    deadline = time.monotonic() + POLITE_SECONDS
    while (left := _still(running)) and time.monotonic() < deadline:
        time.sleep(LOOK_AGAIN_SECONDS)
    _signal(left, signal.SIGKILL)
    return len(left)


def stop_unit(unit: str, bus_address: str) -> None:
    """Stop a service by its service manager. Raises Trouble."""
    if not A_SERVICE.fullmatch(unit):
        raise Refused(TroubleCode.NOT_RUNNING, name=unit)
    try:
        with opened(bus_address) as bus:
            bus.call(THE_MANAGER, "StopUnit", "ss", (unit, "replace"), returns="o")
    except NoAnswer as silence:
        raise Trouble(TroubleCode.MANAGER_SILENT, because=(silence.reason,)) from silence


def _signal(running: Iterable[RunningProcess], number: signal.Signals) -> None:
    for process in running:
        with suppress(ProcessLookupError, PermissionError):
            os.kill(process.pid, number)


def _still(running: Iterable[RunningProcess]) -> list[RunningProcess]:
    """Those that are the same processes still; one that has ended and waits to be read is not."""
    now = {(p.pid, p.started_ticks): p for p in processes()}
    return [p for p in running if (p.pid, p.started_ticks) in now and not _is_over(p.pid)]


def _is_over(pid: int) -> bool:
    try:
        text = read_bounded(PROC / str(pid) / "stat", LARGEST_BYTES).decode("utf-8", "replace")
    except OSError:
        return True
    return text[text.rindex(")") + 2 : text.rindex(")") + 3] in "ZX"


def _watch(
    wanted: ToStop, before: list[RunningProcess], going_on: Callable[[], bool]
) -> tuple[float | None, RunningProcess | None]:
    """Seconds until a new process of it was seen, and that process; None where none came."""
    identities = {(process.pid, process.started_ticks) for process in before}
    begun = time.monotonic()
    while (passed := time.monotonic() - begun) < OBSERVED_SECONDS and going_on():
        for process in _of(wanted, processes()):
            if (process.pid, process.started_ticks) not in identities and not _is_over(process.pid):
                return passed, process
        time.sleep(LOOK_AGAIN_SECONDS)
    return None, None


def _started_by(process: RunningProcess) -> str:
    """The unit it runs in now, or the program that started it."""
    unit = process.group.rpartition("/")[2]
    if is_service(unit) and process.parent <= FIRST_PROCESS:
        return unit
    parent = next((one for one in processes() if one.pid == process.parent), None)
    return parent.name if parent is not None else unit
