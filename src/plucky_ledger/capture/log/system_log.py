"""The OS journal: past boots with their startup totals, and how the boot before this one ended."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import islice
from typing import Any

import msgspec

from plucky_ledger.capture.log.journal_stream import NoJournal, journal_lines
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import KINDS, is_service
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.recording.lines import (
    FORMAT,
    VERSION,
    ActivityLine,
    ContextLine,
    EndLine,
    EntryLine,
    Header,
    Line,
    MarkLine,
    PcFacts,
    StageLine,
    bounded,
)

STARTUP_FINISHED = "b07a249cd024414a82dd00cd181378ff"
USER_STARTUP_FINISHED = "eed00a68ffd84e31882105fd973abdd1"
UNIT_STARTING = "7d4958e842da4a758f6c1cdc7b36dcc5"
UNIT_STARTED = "39f53479d3a045ac8e11786248231fbf"
UNIT_FAILED = "be02cf6855d2428ba40df7e9d022f03d"
SLEEP_ENDED = "8811e6df2a8e40f58a94cea26f8ebf14"
"""Message ids of the service manager's catalogue; they never change."""
MESSAGES = (
    STARTUP_FINISHED,
    USER_STARTUP_FINISHED,
    UNIT_STARTING,
    UNIT_STARTED,
    UNIT_FAILED,
    SLEEP_ENDED,
)
FINISHED = (STARTUP_FINISHED, USER_STARTUP_FINISHED)
"""From process 1 both say so: the second where there is no kernel stage, as in a container."""
FIELDS = (
    "MESSAGE_ID,UNIT,_BOOT_ID,_PID,_EXE,MESSAGE,FIRMWARE_USEC,LOADER_USEC,KERNEL_USEC,INITRD_USEC,"
    "USERSPACE_USEC,JOB_RESULT,JOB_TYPE"
)
MOST_LINES = 400_000
MOST_BOOTS = 40
MOST_UNITS = 3_000
MOST_WAKES = 5_000
LATEST_WALL = 253_000_000_000 * 10**6
"""Microseconds of the epoch, towards the end of the year 9999: no date has a later one."""
LONGEST_STAGE = 86_400 * 10**6
"""Microseconds."""
MANAGERS = ("/usr/lib/systemd/", "/lib/systemd/")
"""Where the programs of the service manager lie."""
SOURCE = "log"
MICROSECONDS = 1e-6


@dataclass(kw_only=True)
class LoggedBoot:
    """What the log says of one boot. Seconds since the kernel started."""

    boot_id: str
    started_at: float
    """Wall clock when the kernel started, seconds of the epoch in UTC."""
    kernel: float | None = None
    """How long each stage took; None where it is not in the log."""
    initrd: float | None = None
    userspace: float | None = None
    firmware: float | None = None
    loader: float | None = None
    resumed: bool = False
    """The PC slept during this boot."""
    user_services: tuple[float, float] | None = None
    """When the first user's service manager began and had started everything."""
    units: dict[str, tuple[float | None, float | None, str]] = field(default_factory=dict)
    """Unit → starting at, started at, what went wrong."""

    def lines(self) -> list[Line]:
        """The same as lines of a recording."""
        lines: list[Line] = [MarkLine("kernel started", 0.0, SOURCE)]
        if self.firmware:
            lines.append(MarkLine("power on", -self.firmware, SOURCE))
            lines.append(StageLine("firmware", -self.firmware, -(self.loader or 0.0)))
        if self.loader:
            lines.append(StageLine("loader", -self.loader, 0.0))
        begun = (self.kernel or 0.0) + (self.initrd or 0.0)
        if self.kernel:
            lines.append(StageLine("kernel", 0.0, self.kernel))
        if self.initrd:
            lines.append(StageLine("initrd", self.kernel or 0.0, begun))
        if self.userspace is not None:
            lines.append(MarkLine("system up", round(begun + self.userspace, 3), SOURCE))
        if self.user_services is not None:
            begin, end = self.user_services
            sign_in = KINDS[EntryKind.SIGN_IN].recorded_as
            lines.append(EntryLine("user services", "user's services", "user", sign_in))
            lines.append(ActivityLine("user services", None, begin, end))
        service = KINDS[EntryKind.SYSTEM_SERVICE].recorded_as
        for unit, (starting, started, failed) in self.units.items():
            lines.append(EntryLine(unit, unit, "system", service, part_of_system=True))
            lines.append(
                ActivityLine(unit, None, starting or started, started, None, bounded(failed))
            )
        return lines

    def as_recording(self) -> bytes:
        """The same as the bytes of a recording without samples."""
        started = datetime.fromtimestamp(self.started_at, UTC).isoformat()
        lines: list[Line] = [
            Header(
                FORMAT,
                VERSION,
                "plucky-ledger",
                self.boot_id,
                started,
                "UTC",
                PcFacts(),
                "read from the log",
            ),
            ContextLine(start_kind="resume" if self.resumed else ""),
            *self.lines(),
        ]
        lines.append(EndLine(len(lines), 0, ReasonCode.READ_FROM_JOURNAL.value))
        return b"".join(msgspec.json.encode(line) + b"\n" for line in lines)


Progress = Callable[[int, int], bool]
"""Told how many boots and lines were read; False stops."""


def past_boots(progress: Progress = lambda _boots, _lines: True) -> list[LoggedBoot]:
    """Boots the journal still knows, newest first.

    One stream, filtered by the journal itself, read line by line; bounded in lines, boots and time.

    Raises:
        NoJournal: there is no journal, or it may not be read.
    """
    filters = [f"MESSAGE_ID={number}" for number in MESSAGES]
    matches = " + ".join(filters).split(" ")
    read = (0, 0)

    def report(boots: int, lines: int) -> bool:
        nonlocal read
        read = boots, lines
        return progress(boots, lines)

    def going_on() -> bool:
        return progress(*read)

    with journal_lines(going_on, "--reverse", f"--output-fields={FIELDS}", *matches) as stream:
        boots = boots_from(stream, report)
    if not boots:
        code = TroubleCode.JOURNAL_NOT_FOR_USERS
        raise NoJournal(TroubleCode.NO_BOOT_IN_JOURNAL if is_administrator() else code)
    return boots


def boots_from(
    stream: Iterable[bytes], progress: Progress = lambda _boots, _lines: True
) -> list[LoggedBoot]:
    """Boots from journal lines in any order; what is no line of a journal is passed over."""
    boots: dict[str, LoggedBoot] = {}
    finished: set[str] = set()
    decoder = msgspec.json.Decoder(dict[str, Any])
    for count, raw in enumerate(stream, 1):
        if count > MOST_LINES or (count % 500 == 0 and not progress(len(finished), count)):
            break
        entry = _decoded(decoder, raw)
        boot_id = _text(entry, "_BOOT_ID")
        instant = _number(entry, "__MONOTONIC_TIMESTAMP")
        if not boot_id or instant is None:
            continue
        if boot_id not in boots and len(boots) >= MOST_BOOTS:
            break
        boot = boots.setdefault(boot_id, LoggedBoot(boot_id=_dashed(boot_id), started_at=0.0))
        _take(boot, entry, instant * MICROSECONDS)
        wall = _number(entry, "__REALTIME_TIMESTAMP")
        finish = _text(entry, "MESSAGE_ID") in FINISHED and _from_first_process(entry)
        if wall is not None and instant <= wall <= LATEST_WALL and finish:
            # Taken late in the boot, when a clock that was wrong at first has been set.
            boot.started_at = (wall - instant) * MICROSECONDS
            finished.add(boot_id)
    return [boot for boot_id, boot in boots.items() if boot_id in finished]


def _take(boot: LoggedBoot, entry: Mapping[str, Any], instant: float) -> None:
    """Take one message, if it is from who alone can know: anybody may write one into the log."""
    number = _text(entry, "MESSAGE_ID")
    if number in FINISHED and _from_first_process(entry):
        for stage in ("firmware", "loader", "kernel", "initrd", "userspace"):
            length = _number(entry, f"{stage.upper()}_USEC")
            if length and length <= LONGEST_STAGE:
                setattr(boot, stage, round(length * MICROSECONDS, 3))
        if boot.kernel is None and boot.userspace is not None:
            # Without a kernel stage of its own, as in a container: whatever came before.
            boot.kernel = round(max(0.0, instant - boot.userspace), 3)
    elif number == USER_STARTUP_FINISHED and _from_the_managers_programs(entry):
        took = (_number(entry, "USERSPACE_USEC") or 0) * MICROSECONDS
        if boot.user_services is None or instant < boot.user_services[1]:
            boot.user_services = (round(max(0.0, instant - took), 3), round(instant, 3))
    elif number == SLEEP_ENDED and _from_the_managers_programs(entry):
        boot.resumed = True
    elif _from_first_process(entry):
        _take_unit(boot, number, entry, round(instant, 3))


def _from_first_process(entry: Mapping[str, Any]) -> bool:
    """What begins with an underscore was written by the log itself, whoever sent the message."""
    return _text(entry, "_PID") == "1"


def _from_the_managers_programs(entry: Mapping[str, Any]) -> bool:
    return _text(entry, "_EXE").startswith(MANAGERS)


def _take_unit(boot: LoggedBoot, number: str, entry: Mapping[str, Any], instant: float) -> None:
    """Only the first start of a unit belongs to the boot; the stream may run backwards."""
    unit = bounded(_text(entry, "UNIT"))
    if not is_service(unit) or (unit not in boot.units and len(boot.units) >= MOST_UNITS):
        return
    starting, started, failed = boot.units.get(unit, (None, None, ""))
    if number == UNIT_STARTING:
        starting = instant if starting is None else min(starting, instant)
    elif number == UNIT_STARTED:
        started = instant if started is None else min(started, instant)
    elif number == UNIT_FAILED:
        failed = f"failed: {_text(entry, 'JOB_RESULT') or 'start'}"
    boot.units[unit] = (starting, started, failed)


def wakes(going_on: Callable[[], bool]) -> tuple[float, ...]:
    """When the PC woke up from sleep, as far back as the log goes: seconds of the epoch, oldest
    first. Raises NoJournal.
    """
    with journal_lines(
        going_on,
        "--output-fields=MESSAGE_ID",
        "_PID=1",
        f"MESSAGE_ID={SLEEP_ENDED}",
        "--reverse",
        f"--lines={MOST_WAKES}",
    ) as stream:
        return wakes_in(stream)


def wakes_in(stream: Iterable[bytes]) -> tuple[float, ...]:
    """The same from lines of the journal."""
    decoder = msgspec.json.Decoder(dict[str, Any])
    instants = (_number(_decoded(decoder, raw), "__REALTIME_TIMESTAMP") for raw in stream)
    return tuple(
        sorted(
            {
                round(wall * MICROSECONDS, 3)
                for wall in islice(instants, MOST_WAKES)
                if wall is not None and 0 < wall < LATEST_WALL
            }
        )
    )


def start_kind() -> str:
    """How this boot came about, as a recording names it; empty when the journal does not tell."""
    try:
        with journal_lines(
            lambda: True,
            "--boot=-1",
            "--lines=200",
            "--reverse",
            "--output-fields=UNIT,MESSAGE_ID",
            "_PID=1",
        ) as stream:
            return kind_of_end(stream)
    except NoJournal:
        return ""


def kind_of_end(stream: Iterable[bytes]) -> str:
    """How the boot whose last lines these are ended, as the kind of start that followed."""
    decoder = msgspec.json.Decoder(dict[str, Any])
    for count, raw in enumerate(stream):
        if count > 200:
            break
        unit = _text(_decoded(decoder, raw), "UNIT")
        if unit in {"reboot.target", "systemd-reboot.service", "kexec.target"}:
            return "restart"
        if unit in {"poweroff.target", "systemd-poweroff.service", "halt.target"}:
            return "cold start"
    return ""


def _decoded(decoder: "msgspec.json.Decoder[dict[str, Any]]", raw: bytes) -> dict[str, Any]:
    try:
        return decoder.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return {}


def _text(entry: Mapping[str, Any], name: str) -> str:
    """A field that is text; empty where it is missing, not text or there more than once."""
    value = entry.get(name)
    return value if isinstance(value, str) else ""


def _number(entry: Mapping[str, Any], name: str) -> int | None:
    text = _text(entry, name)
    return int(text) if text.isascii() and text.isdigit() and len(text) < 20 else None


def _dashed(boot_id: str) -> str:
    """The boot id as the kernel writes it."""
    parts = (boot_id[:8], boot_id[8:12], boot_id[12:16], boot_id[16:20], boot_id[20:])
    return "-".join(parts) if len(boot_id) == 32 else bounded(boot_id)
