"""What a manager's properties say of a boot and of each unit, as lines of a recording."""

import shlex
from collections.abc import Iterable, Mapping

import msgspec

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import (
    KINDS,
    id_of_unit,
    is_desktop_entry,
    is_mount,
    service_kind,
)
from plucky_ledger.core.entries.switching import LATER_TIMER
from plucky_ledger.core.pc.arming import NO_ENTRIES
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.properties import BESIDE_IT, MAIN_COMMAND, Properties
from plucky_ledger.recording.lines import (
    ActivityLine,
    EntryLine,
    Line,
    MarkLine,
    Said,
    StageLine,
    bounded,
    said,
)

SOURCE = "service manager"
MICROSECONDS = 1e-6
NOT_COUNTED = 2**64 - 1
"""What the manager says for a figure it does not keep."""
VENDOR_FOLDERS = ("/lib/systemd/", "/usr/lib/systemd/", "/run/systemd/")
"""Units the distribution ships or generates: parts of the system."""
OWN_SCRIPTS = ("/etc/", "/usr/local/", "/opt/")
"""Where programs lie that are no part of the system, whoever wrote the unit that runs them."""
EVERYBODYS = ("/etc/", "/usr/")
"""Where desktop entries lie that start for whoever signs in."""
VOLUMES, AGENTS = "systemd-cryptsetup@", "systemd-ask-password-"
"""Units that open encrypted volumes, and those that put their questions to people."""
LONGEST_UNLOCKING_SECONDS = 4.0
"""A key is made of a passphrase in two seconds or so, on all cores."""
FSTAB, ROOT_MOUNT = "/etc/fstab", "-.mount"
"""What makes units of a table of file systems, and the one without which there is no system."""
LONG_MOUNT_SECONDS = 0.5
MOST_BESIDE = 64
SIGN_IN_SCREEN = "display-manager.service"
ONESHOT = "oneshot"
_UP_AND_END = ("ActiveEnter", "ActiveExit", "InactiveEnter")


def boot_lines(manager: Properties) -> list[Line]:
    """Marks and stages from the manager's properties (timestamps in µs, 0 for not known).

    The firmware and loader timestamps say how long before the kernel they began.
    """
    firmware, loader = instant(manager, "Firmware"), instant(manager, "Loader")
    initrd, userspace = instant(manager, "InitRD"), instant(manager, "Userspace")
    finish = instant(manager, "Finish")
    lines: list[Line] = []
    if firmware:
        lines.append(MarkLine("power on", -firmware, SOURCE))
        lines.append(StageLine("firmware", -firmware, -(loader or 0.0)))
    if loader:
        lines.append(StageLine("loader", -loader, 0.0))
    if userspace:
        lines.append(StageLine("kernel", 0.0, initrd or userspace))
        if initrd:
            lines.append(StageLine("initrd", initrd, userspace))
    if finish:
        lines.append(MarkLine("system up", finish, SOURCE))
    return lines


def unit_lines(
    units: Iterable[Properties],
    manager: Properties,
    owner: str,
    timed: Mapping[str, tuple[Said, ...]] | None = None,
) -> list[Line]:
    """An entry for every service that was to start at this boot, and what it did.

    ``timed`` says when each timer starts its unit.
    """
    begun = instant(manager, "UnitsLoadFinish") or instant(manager, "Userspace") or 0.0
    names = {}
    described = []
    skipped = []
    targets: dict[str, Properties] = {}
    for unit in units:
        name = str(unit.get("Id", ""))
        if name.endswith(".target"):
            targets[name] = unit
        elif is_mount(name) and not _worth_telling(unit):
            continue
        elif (
            name
            and entry_id(unit, "system") not in NO_ENTRIES
            and (instant(unit, "InactiveExit") or unit.get("Result") not in (None, "success"))
        ):
            names[name] = entry_id(unit, owner)
            described.append(unit)
        elif name and unit.get("WantedBy") and instant(unit, "Condition"):
            skipped.append(unit)
    lines: list[Line] = [
        msgspec.structs.replace(
            _entry(unit, owner, timed or {}), off=said(ReasonCode.CONDITIONS_NOT_MET)
        )
        for unit in skipped
        if not unit.get("ConditionResult", True)
    ]
    for unit in described:
        lines.append(_entry(unit, owner, timed or {}))
        after = tuple(
            sorted(names[name] for name in _ordered_after(unit, targets) if name in names)
        )
        lines.append(_activity(unit, owner, begun, after))
        if SIGN_IN_SCREEN in unit.get("Names", ()) and (shown := instant(unit, "ActiveEnter")):
            lines.append(MarkLine("sign-in shown", shown, SOURCE))
    return lines


def passphrase_lines(units: Iterable[Properties]) -> list[Line]:
    """When a passphrase was asked for and given: the longest wait for one.

    A volume's unit runs from the question until it is open; that somebody was asked shows in an
    agent that puts questions to people having started meanwhile. What the unit computed itself is
    the machine's, and comes after the answer.
    """
    every = list(units)
    agents = [
        at
        for unit in every
        if str(unit.get("Id", "")).startswith(AGENTS) and (at := instant(unit, "InactiveExit"))
    ]
    waits = [(0.0, 0.0)]
    for unit in every:
        begin, up = instant(unit, "InactiveExit"), instant(unit, "ActiveEnter")
        if not str(unit.get("Id", "")).startswith(VOLUMES) or begin is None or up is None:
            continue
        asked = min((at for at in agents if begin <= at <= up), default=up)
        own = min(scaled(unit, "CPUUsageNSec", 1e-9) or 0.0, LONGEST_UNLOCKING_SECONDS)
        waits.append((asked, max(asked, round(up - own, 3))))
    asked, given = max(waits, key=lambda wait: wait[1] - wait[0])
    if given <= asked:
        return []
    return [
        MarkLine("passphrase asked", asked, SOURCE),
        MarkLine("passphrase given", given, SOURCE),
    ]


def entry_id(unit: Properties, owner: str) -> str:
    """Stable over boots: a sign-in program by its desktop entry, a user's unit marked as such."""
    source = str(unit.get("SourcePath", ""))
    if is_desktop_entry(source):
        return bounded(source.rpartition("/")[2])
    name = bounded(str(unit["Id"]))
    return id_of_unit(name, owner == "system")


def _entry(unit: Properties, owner: str, timed: Mapping[str, tuple[Said, ...]]) -> EntryLine:
    source, fragment = str(unit.get("SourcePath", "")), str(unit.get("FragmentPath", ""))
    sign_in = is_desktop_entry(source)
    timers = [str(name) for name in unit.get("TriggeredBy", ()) if str(name).endswith(".timer")]
    by_timer = any(not name.startswith(LATER_TIMER) for name in timers)
    service = EntryKind.TIMER if by_timer else service_kind(owner == "system")
    mount = is_mount(str(unit["Id"]))
    kind = EntryKind.SIGN_IN_PROGRAM if sign_in else EntryKind.MOUNT if mount else service
    listed = mount and source == FSTAB and str(unit["Id"]) != ROOT_MOUNT
    return EntryLine(
        entry=entry_id(unit, owner),
        name=bounded(str(unit.get("Description") or unit["Id"])),
        owner="system" if sign_in and source.startswith(EVERYBODYS) else owner,
        starts=KINDS[kind].recorded_as,
        origin=bounded(_origin(unit)),
        command=bounded(_command(unit)),
        part_of_system=not (sign_in or listed or _is_own(unit))
        and fragment.startswith(VENDOR_FOLDERS),
        left_behind=str(unit.get("LoadState", "")) == "not-found",
        group=bounded(str(unit.get("ControlGroup", ""))),
        timers=tuple(rule for name in timers for rule in timed.get(name, ())),
        file_state=bounded(str(unit.get("UnitFileState", ""))),
        beside=_beside(unit),
        drop_ins=tuple(bounded(str(path)) for path in unit.get("DropInPaths", ()))[:MOST_BESIDE],
    )


def _origin(unit: Properties) -> str:
    """The file that makes it start; the script, where one of the system's units only runs it."""
    source, fragment = str(unit.get("SourcePath", "")), str(unit.get("FragmentPath", ""))
    script = unwrapped(_command(unit)).program
    if fragment.startswith(VENDOR_FOLDERS) and script.startswith(OWN_SCRIPTS):
        return source or script
    return source or fragment


def _worth_telling(mount: Properties) -> bool:
    """Whether somebody wants a mount at the start, or it held the start up.

    What has no file of its own was mounted by hand, or by a program for itself.
    """
    source, fragment = str(mount.get("SourcePath", "")), str(mount.get("FragmentPath", ""))
    if source == FSTAB or (fragment and not fragment.startswith(VENDOR_FOLDERS)):
        return True
    begin, up = instant(mount, "InactiveExit"), instant(mount, "ActiveEnter")
    return bool(fragment) and (up or 0.0) - (begin or 0.0) >= LONG_MOUNT_SECONDS


def _is_own(unit: Properties) -> bool:
    """Whether it runs a script of the PC's own, by whichever unit: an init script, ``rc.local``,
    what a file added to the unit.
    """
    added = _beside(unit) if unit.get("DropInPaths") else ()
    commands = (_command(unit), *added)
    return any(unwrapped(command).program.startswith(OWN_SCRIPTS) for command in commands)


def _command(unit: Properties) -> str:
    starts = unit.get(MAIN_COMMAND) or ()
    return _joined(starts[0][1]) if starts else ""


def _beside(unit: Properties) -> tuple[str, ...]:
    """What it runs besides: its conditions' commands, those before and after the main one, and
    a oneshot's further ones.
    """
    starts = [*(unit.get(MAIN_COMMAND) or ())[1:]]
    for name in BESIDE_IT:
        starts += unit.get(name) or ()
    return tuple(bounded(_joined(start[1])) for start in starts[:MOST_BESIDE])


def _joined(words: Iterable[object]) -> str:
    return shlex.join(str(word) for word in words)


def _ordered_after(unit: Properties, targets: Mapping[str, Properties]) -> set[str]:
    """Units it is ordered after, those behind a target included: a target only stands for them."""
    names: set[str] = set()
    waiting = [str(name) for name in unit.get("After", ())]
    while waiting:
        name = waiting.pop()
        if name in names:
            continue
        names.add(name)
        if name in targets:
            waiting.extend(str(other) for other in targets[name].get("After", ()))
    return names


def _activity(unit: Properties, owner: str, begun: float, after: tuple[str, ...]) -> ActivityLine:
    begin = instant(unit, "InactiveExit")
    up, ended = _up_and_end(unit, begin)
    result = str(unit.get("Result", "success"))
    return ActivityLine(
        entry=entry_id(unit, owner),
        waiting_from=min(begun, begin) if begin else None,
        starting_from=begin,
        up_at=up,
        ended_at=ended,
        result="" if result == "success" else f"failed: {bounded(result)}",
        after=after,
        cpu_seconds=scaled(unit, "CPUUsageNSec", 1e-9),
        memory_bytes=counted(unit, "MemoryCurrent"),
        bytes_read=counted(unit, "IOReadBytes"),
        restarts=counted(unit, "NRestarts"),
    )


def _up_and_end(unit: Properties, begin: float | None) -> tuple[float | None, float | None]:
    """When it was up, and when it was no longer.

    The manager keeps the newest of each: one from before the beginning is of an earlier run. A
    oneshot that does not stay active is never up for the manager; it is done when it is inactive
    again, and what is ordered after it may begin then.
    """
    if begin is None:
        return None, None
    up, left, ended = (
        at if at is not None and at >= begin else None
        for at in (instant(unit, name) for name in _UP_AND_END)
    )
    if up is not None:
        return up, next((end for end in (left, ended) if end is not None and end > up), None)
    if ended is not None and unit.get("Type") == ONESHOT and unit.get("Result") == "success":
        return ended, ended
    return None, ended


def instant(properties: Properties, name: str) -> float | None:
    """Seconds since the kernel started; None for never."""
    value = counted(properties, f"{name}TimestampMonotonic")
    return round(value * MICROSECONDS, 3) if value else None


def counted(properties: Properties, name: str) -> int | None:
    """A whole number that the manager keeps; None where it does not."""
    value = properties.get(name)
    if not isinstance(value, int) or value in (NOT_COUNTED, 2**63) or value > 2**53:
        return None
    return value


def scaled(properties: Properties, name: str, factor: float) -> float | None:
    """The same in another unit."""
    value = counted(properties, name)
    return None if value is None else value * factor
