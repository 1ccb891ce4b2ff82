"""The demo's PC: the ticket desk of the Gullwing Maritime Museum. All of it is invented."""

from dataclasses import replace

from plucky_ledger.recording.condition import (
    ConditionLine,
    DriveHealthFacts,
    FileSystemFacts,
    ModuleFacts,
)
from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import (
    Action,
    Compute,
    Entry,
    Hold,
    Program,
    Read,
    Sleep,
    Spawn,
    Stay,
    Tell,
    Up,
    Write,
)

TOOLKIT = Read("shared-toolkit", 64)
"""Libraries most desktop programs load; the first to come pays for reading them."""
USER = 1000


def _service(
    entry_id: str,
    name: str,
    *actions: Action,
    after: tuple[str, ...] = (),
    system: bool = True,
    guarded: bool = False,
) -> Entry:
    command = f"/usr/lib/{entry_id.removesuffix('.service')}"
    return Entry(
        entry_id=entry_id,
        name=name,
        program=Program(entry_id.removesuffix(".service"), command, (*actions, Stay(8, 0.006))),
        kind="system service",
        origin=f"/usr/lib/systemd/system/{entry_id}",
        after=after,
        part_of_system=system,
        guarded=guarded,
    )


def _sign_in(
    entry_id: str, name: str, command: str, lag: float, *actions: Action, stays: bool = True
) -> Entry:
    rest = (Stay(5, 0.012),) if stays else ()
    return Entry(
        entry_id=entry_id,
        name=name,
        program=Program(entry_id, command, (*actions, Up(), *rest), USER),
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{entry_id}.desktop",
        at_sign_in=True,
        lag_seconds=lag,
    )


_SYSTEM_SERVICES = (
    _service(
        "device-setup.service", "device setup", Compute(1.6, 2), Read("firmware", 18, True), Up()
    ),
    _service(
        "message-bus.service",
        "message bus",
        Compute(0.3),
        Read("bus", 4),
        Hold(5),
        Up(),
        after=("device-setup.service",),
    ),
    _service(
        "log-keeper.service", "log keeper", Read("old-log", 12, True), Compute(0.4), Hold(18), Up()
    ),
    _service(
        "harbour-guard.service",
        "Harbour Guard",
        Read("guard-signatures", 190),
        Compute(4.2, 2),
        Hold(395),
        Up(),
        Compute(2.0),
        after=("device-setup.service",),
        system=False,
        guarded=True,
    ),
    _service(
        "wireless-setup.service",
        "wireless setup",
        Compute(0.5),
        Sleep(3.4),
        Compute(0.3),
        Hold(22),
        Up(),
        after=("harbour-guard.service",),
    ),
    _service(
        "time-sync.service",
        "time sync",
        Sleep(2.5),
        Compute(0.1),
        Up(),
        after=("wireless-setup.service",),
    ),
    _service(
        "print-spooler.service",
        "print spooler",
        Read("spooler", 14),
        Compute(0.5),
        Hold(14),
        Up(),
        after=("message-bus.service",),
    ),
    _service(
        "pilotcard-reader.service",
        "Pilotcard Reader",
        Read("card-driver", 22, True),
        Compute(1.1),
        Sleep(1.2),
        Hold(18),
        Up(),
        after=("message-bus.service",),
        system=False,
    ),
    _service(
        "sign-in-screen.service",
        "sign-in screen",
        Read("greeter", 40),
        Compute(1.6),
        Hold(80),
        Tell("sign-in shown"),
        Up(),
        after=("wireless-setup.service",),
    ),
)

DESKTOP = Entry(
    entry_id="desktop-shell",
    name="desktop shell",
    program=Program(
        "desktop-shell",
        "/usr/bin/desktop-shell",
        (
            TOOLKIT,
            Read("desktop", 70, scattered=True),
            Compute(3.4, 2),
            Hold(260),
            Tell("desktop shown"),
            Up(),
            Read("menus", 22, scattered=True),
            Compute(1.2),
            Tell("ready"),
            Stay(2, 0.015),
        ),
        USER,
    ),
    kind="session",
    origin="/usr/share/xsessions/desktop.desktop",
    at_sign_in=True,
    part_of_system=True,
)

LANTERNPRINT_WORKER = Program(
    "lanternprint-spool",
    "/opt/lanternprint/spool --warm",
    (Read("label-fonts", 72, scattered=True), Compute(2.0), Hold(60), Stay(6, 0.01)),
    USER,
)

_SIGN_IN_PROGRAMS = (
    _sign_in(
        "tideclock-sync",
        "TideClock Sync",
        "/opt/tideclock/sync --background",
        1.6,
        TOOLKIT,
        Read("tideclock", 60),
        Sleep(2.0),
        Compute(5.0, 2),
        Hold(88),
    ),
    _sign_in(
        "lanternprint-agent",
        "Lanternprint Agent",
        "/opt/lanternprint/agent --tray",
        0.8,
        TOOLKIT,
        Read("lanternprint", 60, scattered=True),
        Spawn(LANTERNPRINT_WORKER),
        Compute(4.1),
        Hold(120),
    ),
    _sign_in(
        "brassrail-till",
        "Brassrail Till",
        "/opt/brassrail/till --desk 2",
        2.6,
        TOOLKIT,
        Read("till-database", 100, scattered=True),
        Compute(8.0, 2),
        Hold(240),
    ),
    _sign_in(
        "foghorn-notify",
        "Foghorn Notify",
        "/opt/foghorn/notify",
        3.2,
        TOOLKIT,
        Read("foghorn", 48, scattered=True),
        Compute(5.5),
        Hold(71),
    ),
    _sign_in(
        "deckhand-updater",
        "Deckhand Updater",
        "/opt/deckhand/updater --quiet",
        4.0,
        TOOLKIT,
        Read("update-catalogue", 70, scattered=True),
        Compute(7.0),
        Write(60),
        Compute(3.0),
        Hold(96),
    ),
    _sign_in(
        "saltmarsh-backup",
        "Saltmarsh Backup",
        "/opt/saltmarsh/backup --scan",
        1.2,
        Read("backup-index", 92, scattered=True),
        Compute(6.0, 2),
        Read("whole-disk", 104, scattered=True),
        Compute(3.0),
        Hold(312),
    ),
    _sign_in(
        "gullwatch-indexer",
        "Gullwatch Indexer",
        "/opt/gullwatch/indexer",
        2.0,
        Read("photo-store", 45, scattered=True),
        Compute(6.0),
        Hold(130),
    ),
    _sign_in(
        "ropewalk-messenger",
        "Ropewalk Messenger",
        "/opt/ropewalk/messenger --hidden",
        2.2,
        TOOLKIT,
        Read("ropewalk", 30, scattered=True),
        Compute(3.5),
        Hold(190),
    ),
    _sign_in(
        "quaybell-helper",
        "Quaybell Helper",
        "/opt/quaybell/helper",
        3.6,
        Read("quaybell", 8),
        Compute(0.5),
        Hold(36),
    ),
    Entry(
        entry_id="windlass-toolbar",
        name="Windlass Toolbar",
        program=None,
        kind="sign-in program",
        origin="/home/desk/.config/autostart/windlass-toolbar.desktop",
        at_sign_in=True,
        lag_seconds=4.2,
        gone="/opt/windlass/toolbar --dock",
    ),
)

_PACKAGES = {
    "tideclock-sync": ("tideclock 2.0", "keeps the office calendar in step"),
    "lanternprint-agent": ("lanternprint 11.0", "label printer helper"),
    "brassrail-till": ("brassrail 7.3", "the till of the ticket desk"),
    "foghorn-notify": ("foghorn 1.1", "news pop-ups"),
    "saltmarsh-backup": ("saltmarsh-backup 4.2", "whole-disk copy"),
    "gullwatch-indexer": ("gullwatch 3.1", "photo search"),
    "ropewalk-messenger": ("ropewalk 5.5", "office messages"),
    "quaybell-helper": ("quaybell 3.5", ""),
    "harbour-guard.service": ("harbour-guard 9.4", "security: looks through files"),
    "pilotcard-reader.service": ("pilotcard 2.2", "card reader driver"),
}
"""Owning package and what it says of itself. Deckhand Updater came without a package."""


def _packaged(entry: Entry) -> Entry:
    package, description = _PACKAGES.get(entry.entry_id, ("", ""))
    return replace(entry, package=package, description=description)


SYSTEM_SERVICES = tuple(_packaged(entry) for entry in _SYSTEM_SERVICES)
SIGN_IN_PROGRAMS = tuple(_packaged(entry) for entry in _SIGN_IN_PROGRAMS)

_CONDITION = ConditionLine(
    maker="Breakwater Works",
    model="Ferry 210",
    modules=(ModuleFacts("DIMM 1", 4 * 2**30, "DDR3", 1600),),
    memory_slots=2,
    most_memory_bytes=16 * 2**30,
    file_systems=(
        FileSystemFacts("/", "ext4", 492_000_000_000, 61_000_000_000, 30_000_000, 29_100_000),
    ),
    drives=(DriveHealthFacts("sda", "made-up drive, 500 GB", 0, 37.0),),
    swap_total_bytes=2 * 10**9,
    swap_used_bytes=0,
    killed_for_memory=0,
    throttled=0,
    frequency_limit=1.0,
    power_profile="balanced",
)
"""Both PCs of the museum were bought together."""

TICKET_DESK = StandinPc(
    hardware=Hardware(),
    entries=(*SYSTEM_SERVICES, DESKTOP, *SIGN_IN_PROGRAMS),
    os_release="Breakwater Linux 12",
    cpu_model="four-core desktop processor, 2.4 GHz",
    kernel="6.1.0-21-desktop",
    comes_back=frozenset({"deckhand-updater"}),
    condition=_CONDITION,
)

GIFT_SHOP = StandinPc(
    hardware=Hardware(cores=2, memory_megabytes=4096.0),
    entries=(
        *SYSTEM_SERVICES,
        DESKTOP,
        *(
            entry
            for entry in SIGN_IN_PROGRAMS
            if entry.entry_id
            in {
                "lanternprint-agent",
                "ropewalk-messenger",
                "foghorn-notify",
                "quaybell-helper",
                "deckhand-updater",
            }
        ),
    ),
    os_release="Breakwater Linux 12",
    cpu_model="two-core desktop processor, 2.1 GHz",
    kernel="6.1.0-21-desktop",
    condition=_CONDITION,
)
"""Another PC of the museum, done the week before."""
