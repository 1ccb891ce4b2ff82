"""Stand-in PCs with one fault each built in, and the same PC without any."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from enum import StrEnum

import msgspec

from plucky_ledger.recording.condition import (
    ConditionLine,
    DriveHealthFacts,
    FileSystemFacts,
    ModuleFacts,
)
from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.museum import DESKTOP, SIGN_IN_PROGRAMS, SYSTEM_SERVICES, USER
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import Compute, Entry, Hold, Program, Read, Sleep, Stay, Up

LIGHT = {"quaybell-helper", "ropewalk-messenger", "foghorn-notify"}
GIGABYTE = 10**9


class Fault(StrEnum):
    """What is wrong with a PC."""

    NONE = "none"
    SLOW_DRIVE = "slow drive"
    SLOW_PROCESSOR = "slow processor"
    SHORT_OF_MEMORY = "short of memory"
    SHORT_OF_ROOM = "short of room"
    FAILING_DRIVE = "failing drive"
    UP_FOR_WEEKS = "up for weeks"
    ONLY_SUSPENDED = "only suspended"
    HOT = "hot"
    HELD_DOWN = "held down by its power profile"
    WAITING_LOADER = "a loader that waits"
    WAITS_FOR_NOTHING = "waits for what never comes"
    MANY_FAILURES = "many failures"
    RESTARTING_SERVICE = "a service that restarts over and over"
    DYING_DRIVE = "a drive that says it is failing"
    UNCHECKED = "a file system that wants to be checked"
    TWO_GUARDS = "two programs that guard it"


HEALTHY = StandinPc(
    hardware=Hardware(
        cores=4,
        disk_megabytes_per_second=480.0,
        seek_seconds=0.0001,
        memory_megabytes=8192.0,
        rotating=False,
        disk_free_bytes=180 * GIGABYTE,
    ),
    loader_seconds=1.4,
    entries=(
        *(entry for entry in SYSTEM_SERVICES if not entry.guarded),
        DESKTOP,
        *(entry for entry in SIGN_IN_PROGRAMS if entry.entry_id in LIGHT),
    ),
    os_release="Breakwater Linux 12",
    cpu_model="four-core desktop processor, 2.4 GHz",
    kernel="6.1.0-21-desktop",
    condition=ConditionLine(
        maker="Breakwater Works",
        model="Jetty 400",
        modules=(ModuleFacts("DIMM A1", 8 * 2**30, "DDR4", 2400),),
        memory_slots=2,
        file_systems=(FileSystemFacts("/", "ext4", 500 * GIGABYTE, 180 * GIGABYTE, 1000, 900),),
        drives=(DriveHealthFacts("sda", "made-up drive", 0, 34.0),),
        swap_total_bytes=2 * GIGABYTE,
        swap_used_bytes=0,
        killed_for_memory=0,
        throttled=0,
        frequency_limit=1.0,
        power_profile="balanced",
    ),
)
"""A PC that nothing is wrong with."""


def pc_with(fault: Fault) -> StandinPc:
    """The healthy PC with one thing wrong."""
    return _FAULTS[fault](HEALTHY)


def _slow_drive(pc: StandinPc) -> StandinPc:
    slow = replace(pc.hardware, disk_megabytes_per_second=80.0, seek_seconds=0.011, rotating=True)
    busy = tuple(e for e in SIGN_IN_PROGRAMS if e.entry_id == "saltmarsh-backup")
    return replace(pc, hardware=slow, entries=(*pc.entries, *busy))


def _slow_processor(pc: StandinPc) -> StandinPc:
    hardware = replace(pc.hardware, cores=1, core_speed=0.6)
    return replace(pc, hardware=hardware, entries=(*pc.entries, _computing("harbourmap")))


def _short_of_memory(pc: StandinPc) -> StandinPc:
    holder = _program("chart-viewer", Read("charts", 40), Compute(0.6), Hold(420))
    hardware = replace(pc.hardware, memory_megabytes=1024.0)
    return replace(pc, hardware=hardware, entries=(*pc.entries, holder))


def _short_of_room(pc: StandinPc) -> StandinPc:
    full = FileSystemFacts("/", "ext4", 500 * GIGABYTE, 6 * GIGABYTE, 1000, 900)
    hardware = replace(pc.hardware, disk_free_bytes=6 * GIGABYTE)
    return replace(_told(pc, file_systems=(full,)), hardware=hardware)


def _told(pc: StandinPc, **condition: object) -> StandinPc:
    """The same PC telling other things of itself."""
    known = {name: getattr(pc.condition, name) for name in pc.condition.__struct_fields__}
    return replace(pc, condition=ConditionLine(**{**known, **condition}))


def _waits_for_nothing(pc: StandinPc) -> StandinPc:
    waits = _service("tide-gauge-link.service", "tide gauge link", Sleep(28.0))
    return replace(pc, entries=(*pc.entries, replace(waits, fails="failed: timeout")))


def _many_failures(pc: StandinPc) -> StandinPc:
    failing = tuple(
        replace(_service(f"{name}.service", name, Compute(0.05)), fails="failed: exit-code")
        for name in ("buoy-counter", "lock-lamp", "pump-watch", "slipway-scale")
    )
    return replace(pc, entries=(*pc.entries, *failing))


def _restarting(pc: StandinPc) -> StandinPc:
    again = _service("beacon-relay.service", "beacon relay", Compute(0.4), Sleep(2.0))
    return replace(pc, entries=(*pc.entries, replace(again, restarts=9, fails="failed: exit-code")))


def _two_guards(pc: StandinPc) -> StandinPc:
    (guard,) = (entry for entry in SYSTEM_SERVICES if entry.guarded)
    other = _service(
        "seawall-watch.service",
        "Seawall Watch",
        Read("wall-signatures", 120),
        Compute(2.5),
        Hold(240),
        Up(),
        Stay(8, 0.01),
    )
    other = replace(other, guarded=True, package="seawall-watch 2.1")
    return replace(pc, entries=(*pc.entries, guard, other))


def _computing(name: str) -> Entry:
    return _program(name, Read(name, 20), Compute(16.0), Hold(90))


def _program(name: str, *actions: Read | Compute | Hold) -> Entry:
    program = Program(name, f"/opt/{name}/run", (*actions, Up(), Stay(6, 0.008)), USER)
    return Entry(
        entry_id=name,
        name=name,
        program=program,
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{name}.desktop",
        at_sign_in=True,
        lag_seconds=0.8,
    )


def _service(
    entry_id: str, name: str, *actions: Read | Compute | Hold | Sleep | Up | Stay
) -> Entry:
    program = Program(entry_id.removesuffix(".service"), f"/usr/lib/{entry_id}", actions)
    return Entry(
        entry_id=entry_id,
        name=name,
        program=program,
        kind="system service",
        origin=f"/etc/systemd/system/{entry_id}",
        after=("message-bus.service",),
    )


_FAULTS: Mapping[Fault, Callable[[StandinPc], StandinPc]] = {
    Fault.NONE: lambda pc: pc,
    Fault.SLOW_DRIVE: _slow_drive,
    Fault.SLOW_PROCESSOR: _slow_processor,
    Fault.SHORT_OF_MEMORY: _short_of_memory,
    Fault.SHORT_OF_ROOM: _short_of_room,
    Fault.FAILING_DRIVE: lambda pc: _told(
        pc, drives=(DriveHealthFacts("sda", "made-up drive", 14, 41.0),)
    ),
    Fault.DYING_DRIVE: lambda pc: _told(
        pc, drives=(DriveHealthFacts("sda", "made-up drive", 0, 41.0, True, 212, hours=38_000),)
    ),
    Fault.UNCHECKED: lambda pc: _told(
        pc, file_systems=(msgspec.structs.replace(pc.condition.file_systems[0], errors=3),)
    ),
    Fault.UP_FOR_WEEKS: lambda pc: replace(pc, uptime_seconds=41 * 86_400.0),
    Fault.ONLY_SUSPENDED: lambda pc: replace(pc, start_kind="resume"),
    Fault.HOT: lambda pc: _told(pc, throttled=640),
    Fault.HELD_DOWN: lambda pc: _told(pc, frequency_limit=0.5, power_profile="low-power"),
    Fault.WAITING_LOADER: lambda pc: replace(pc, loader_seconds=10.8),
    Fault.WAITS_FOR_NOTHING: _waits_for_nothing,
    Fault.MANY_FAILURES: _many_failures,
    Fault.RESTARTING_SERVICE: _restarting,
    Fault.TWO_GUARDS: _two_guards,
}
