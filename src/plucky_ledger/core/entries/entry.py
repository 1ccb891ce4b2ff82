"""A startup entry: anything that starts by itself at boot or sign-in."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.identity import Identity
from plucky_ledger.core.values.reasons import Reason


class EntryKind(StrEnum):
    """What starts an entry."""

    SIGN_IN_PROGRAM = "sign_in_program"
    SYSTEM_SERVICE = "system_service"
    USER_SERVICE = "user_service"
    TIMER = "timer"
    BOOT_LINE = "boot_line"
    """A line of a table of timed jobs that says @reboot."""
    SHELL_LINE = "shell_line"
    """A line of a file that a shell or a session reads at sign-in."""
    DESKTOP_LINE = "desktop_line"
    """A line of a desktop's own file."""
    HOOK = "hook"
    """A script or rule that another part of the system runs when something happens."""
    INIT_SCRIPT = "init_script"
    """A script, or a service's folder, of an init system without a service manager."""
    BUS_PROGRAM = "bus_program"
    """Started by the message bus when somebody calls its name."""
    MOUNT = "mount"
    """A file system, or swap, that is put in place at the start."""
    SESSION = "session"
    """What the session itself starts, such as the desktop."""
    SIGN_IN = "sign_in"
    """All of a user's services together, where the log tells no more."""
    TYPED = "typed"
    """Typed in on a PC that can run nothing of ours."""
    UNKNOWN = "unknown"


class EntryOwner(StrEnum):
    """Whose an entry is."""

    SYSTEM = "system"
    USER = "user"
    UNKNOWN = "unknown"


@dataclass(frozen=True, kw_only=True)
class StartupEntry:
    """Anything that starts by itself at boot or sign-in."""

    entry_id: str
    """Stable over boots: the name of its unit or desktop entry."""
    name: str
    owner: EntryOwner
    kind: EntryKind
    origin: str = ""
    """The file that makes it start."""
    command: str = ""
    part_of_system: bool = False
    guarded: bool = False
    left_behind: bool = False
    """Its program no longer exists."""
    group: str = ""
    """Control group its processes run in."""
    off_because: Reason | None = None
    """Why it does not start, as it is set; None when it does."""
    executable: str = ""
    """Full path of the program it really runs, wrappers taken off; empty where not found."""
    package: str = ""
    """Package that owns the program: name and version."""
    description: str = ""
    """What the package, or the entry itself, says of it."""
    file_state: str = ""
    """How its service manager says it is set, such as "enabled"; empty where none does."""
    beside: tuple[str, ...] = ()
    """Commands that its unit runs before and after the main one."""
    drop_ins: tuple[str, ...] = ()
    """Files that others added to its unit."""
    schedule: tuple[Reason, ...] = ()
    """When its timers start it; empty without one."""

    @property
    def identity(self) -> Identity:
        """By what its program is known again on another PC."""
        return Identity(
            package=package_name(self.package),
            executable=self.executable or unwrapped(self.command).program,
            entry_id=self.entry_id,
        )


def package_name(package: str) -> str:
    """Name of a package without its version."""
    return package.split(" ", 1)[0]
