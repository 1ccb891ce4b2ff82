"""The kinds of startup entries, one row each: how recordings and ids spell it, who switches it.

A new kind is a row here, its reader in ``capture/services``, its switcher in ``control`` and its
words in ``wording``; nothing else tests how an id is spelt.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.entries.entry import EntryKind

OF_TABLE = "table:"
"""Marks a line of a table of timed jobs."""
OF_BUS = "bus:"
"""Marks a program that a message bus starts itself."""
OF_SCRIPT = "init:"
"""Marks a script of an init system."""
OF_FILE = "file:"
"""Marks a line of another file, or a script, that starts a program."""
OF_USER = "user:"
"""Marks what is the user's own: a unit of their service manager, where the system's may have one of
the same name, a line of their table, a program that the bus of their session starts.
"""
OF_PERSON = "person:"
"""Marks what another person's sign-in starts: their name comes next, then the id as theirs."""

FIRST_PERSON = 1000
"""User ids from here on are of people."""


class Switcher(StrEnum):
    """What switches an entry on and off."""

    SYSTEM_MANAGER = "system_manager"
    USER_MANAGER = "user_manager"
    DESKTOP_ENTRIES = "desktop_entries"
    TABLES = "tables"
    """Lines of tables of timed jobs, the system's or the user's own."""
    BUS_FILES = "bus_files"
    """Files that tell a message bus what it may start."""
    OTHER_PEOPLE = "other_people"
    """What switches it for another person, run as them."""
    INIT_SCRIPTS = "init_scripts"
    """Links of an init system to its scripts."""
    BY_HAND = "by_hand"
    """A person, by the exact steps that are told."""


class Family(StrEnum):
    """Which kinds are looked at together."""

    ANY = "any"
    SIGN_IN = "sign_in"
    SERVICES = "services"
    TIMERS = "timers"
    TYPED = "typed"


@dataclass(frozen=True, kw_only=True)
class KindRow:
    """What is known of one kind."""

    kind: EntryKind
    recorded_as: str = ""
    """How recordings spell it; empty where no recording has it."""
    family: Family = Family.SIGN_IN
    every_start: bool = False
    """It is there at every start; of others only its service manager says so."""
    waits_for_order: bool = True
    """It starts once what it is ordered after is up; what a clock starts does not wait."""
    hosted: bool = False
    """Its programs run in the control group of the service that starts them, not in their own."""
    given_more: bool = False
    """What runs it gives it arguments that no file tells."""


KINDS: Mapping[EntryKind, KindRow] = {
    row.kind: row
    for row in (
        KindRow(kind=EntryKind.SIGN_IN_PROGRAM, recorded_as="sign-in program", every_start=True),
        KindRow(
            kind=EntryKind.SYSTEM_SERVICE, recorded_as="system service", family=Family.SERVICES
        ),
        KindRow(kind=EntryKind.USER_SERVICE, recorded_as="user service", family=Family.SERVICES),
        KindRow(
            kind=EntryKind.TIMER,
            recorded_as="timer",
            family=Family.TIMERS,
            waits_for_order=False,
        ),
        KindRow(
            kind=EntryKind.BOOT_LINE,
            recorded_as="boot line",
            family=Family.TIMERS,
            waits_for_order=False,
            hosted=True,
        ),
        KindRow(
            kind=EntryKind.SHELL_LINE,
            recorded_as="shell line",
            waits_for_order=False,
            hosted=True,
        ),
        KindRow(
            kind=EntryKind.DESKTOP_LINE,
            recorded_as="desktop line",
            waits_for_order=False,
            hosted=True,
        ),
        KindRow(
            kind=EntryKind.HOOK,
            recorded_as="hook",
            family=Family.SERVICES,
            waits_for_order=False,
            hosted=True,
            given_more=True,
        ),
        KindRow(
            kind=EntryKind.INIT_SCRIPT,
            recorded_as="init script",
            family=Family.SERVICES,
            every_start=True,
        ),
        KindRow(
            kind=EntryKind.BUS_PROGRAM,
            recorded_as="bus program",
            family=Family.SERVICES,
            waits_for_order=False,
            hosted=True,
        ),
        KindRow(kind=EntryKind.MOUNT, recorded_as="mount", family=Family.SERVICES),
        KindRow(kind=EntryKind.SESSION, recorded_as="session"),
        KindRow(kind=EntryKind.SIGN_IN, recorded_as="sign-in"),
        KindRow(kind=EntryKind.TYPED, family=Family.TYPED),
        KindRow(kind=EntryKind.UNKNOWN),
    )
}
OF_THE_SYSTEM = frozenset({EntryKind.SYSTEM_SERVICE, EntryKind.INIT_SCRIPT})
"""What has to be up for the system to be up."""
_SERVICE, _DESKTOP_ENTRY = ".service", ".desktop"


def service_kind(of_system: bool) -> EntryKind:
    """A service of the system's manager, or of the user's."""
    return EntryKind.SYSTEM_SERVICE if of_system else EntryKind.USER_SERVICE


def id_of_unit(name: str, of_system: bool) -> str:
    """Id of the entry that is a unit, of the system's manager or the user's."""
    return name if of_system else f"{OF_USER}{name}"


def id_of_script(name: str) -> str:
    """Id of the entry that is a script of an init system."""
    return f"{OF_SCRIPT}{name}"


def switched_by(entry_id: str) -> Switcher:
    """What switches an entry, by its id."""
    if file_name(entry_id).startswith(OF_TABLE):
        return Switcher.TABLES
    if file_name(entry_id).startswith(OF_BUS):
        return Switcher.BUS_FILES
    if entry_id.startswith(OF_SCRIPT):
        return Switcher.INIT_SCRIPTS
    if is_of_another(entry_id):
        by_hand = switched_by(id_as_theirs(entry_id)) is Switcher.BY_HAND
        return Switcher.BY_HAND if by_hand else Switcher.OTHER_PEOPLE
    if entry_id.startswith(OF_FILE) or is_mount(entry_id):
        return Switcher.BY_HAND
    if is_desktop_entry(entry_id):
        return Switcher.DESKTOP_ENTRIES
    return Switcher.USER_MANAGER if entry_id.startswith(OF_USER) else Switcher.SYSTEM_MANAGER


def is_users_own(entry_id: str) -> bool:
    """Whether the user can switch it without the administrator, by its id."""
    return entry_id.startswith(OF_USER) or switched_by(entry_id) is Switcher.DESKTOP_ENTRIES


def is_desktop_entry(file_or_id: str) -> bool:
    """Whether this names a desktop entry, such as a sign-in program's."""
    return file_or_id.endswith(_DESKTOP_ENTRY)


def is_service(unit: str) -> bool:
    """Whether this names a unit that is a service."""
    return unit.endswith(_SERVICE)


def id_of_another(person: str, entry_id: str) -> str:
    """Id of an entry that another person's sign-in starts."""
    return f"{OF_PERSON}{person}:{entry_id}"


def is_of_another(entry_id: str) -> bool:
    """Whether it is marked as what another person's sign-in starts, whoever that may be."""
    return entry_id.startswith(OF_PERSON)


def another_person(entry_id: str) -> str:
    """Name of the other person whose sign-in starts it, by its id; empty for any other entry."""
    return entry_id.removeprefix(OF_PERSON).partition(":")[0] if is_of_another(entry_id) else ""


def id_as_theirs(entry_id: str) -> str:
    """The id that it has for that person; any other as it is."""
    if not is_of_another(entry_id):
        return entry_id
    return entry_id.removeprefix(OF_PERSON).partition(":")[2]


def is_mount(unit: str) -> bool:
    """Whether this names a unit that puts a file system, or swap, in place."""
    return unit.endswith((".mount", ".swap"))


def file_name(entry_id: str) -> str:
    """Name of its unit or desktop entry; of anything else its id without whose it is."""
    return entry_id.removeprefix(OF_USER)


def unit_of(entry_id: str) -> str:
    """Name of the control group that an entry's processes run in, as far as its id tells."""
    return file_name(entry_id).removesuffix(_DESKTOP_ENTRY)


def bare_name(entry_id: str) -> str:
    """What is left of its id for a person to read: without what marks the kind.

    "user:rope-sync.service" is "rope-sync".
    """
    name = file_name(entry_id).removeprefix(OF_SCRIPT)
    return name.removesuffix(_SERVICE).removesuffix(_DESKTOP_ENTRY)
