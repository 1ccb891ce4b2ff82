"""What simulated programs do, step by step, and what makes them start."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Sleep:
    """Do nothing for a while, as when waiting for a network answer."""

    seconds: float


@dataclass(frozen=True)
class Compute:
    """CPU work on a core of reference speed, split evenly over threads."""

    cpu_seconds: float
    threads: int = 1


@dataclass(frozen=True)
class Read:
    """Read a file; what the page cache holds already costs nothing."""

    file: str
    megabytes: float
    scattered: bool = False
    """In small pieces all over the disk."""


@dataclass(frozen=True)
class Write:
    """Write to the disk."""

    megabytes: float


@dataclass(frozen=True)
class Hold:
    """Take memory and keep it."""

    megabytes: float


@dataclass(frozen=True)
class Await:
    """Wait for a named event."""

    event: str


@dataclass(frozen=True)
class Tell:
    """Let a named event happen."""

    event: str


@dataclass(frozen=True)
class Up:
    """Done starting; whoever is ordered after may begin."""


@dataclass(frozen=True)
class Spawn:
    """Start another program and go on."""

    program: "Program"


@dataclass(frozen=True)
class Stay:
    """Run on for ever, with a little work every so often."""

    every_seconds: float = 5.0
    cpu_seconds: float = 0.01


Action = Sleep | Compute | Read | Write | Hold | Await | Tell | Up | Spawn | Stay


@dataclass(frozen=True)
class Program:
    """A program as a list of actions; it ends after the last one."""

    name: str
    command: str
    actions: tuple[Action, ...]
    user_id: int = 0


@dataclass(frozen=True, kw_only=True)
class Entry:
    """What starts by itself on the stand-in PC."""

    entry_id: str
    name: str
    program: Program | None
    """None when it was left behind: its program no longer exists."""
    kind: str
    origin: str
    after: tuple[str, ...] = ()
    """Entry ids it is ordered after."""
    at_sign_in: bool = False
    lag_seconds: float = 0.0
    """After being asked to start and free to."""
    timer_seconds: float | None = None
    """Started by a timer, this long after the services began; nobody waits for it."""
    wrapped_by: str = ""
    """What stands before the program in the start command, such as a shell."""
    package: str = ""
    """Package that owns the program, with its version; empty when none does."""
    description: str = ""
    """What the package says of itself."""
    part_of_system: bool = False
    guarded: bool = False

    gone: str = ""
    """Start command of a program that no longer exists."""
    fails: str = ""
    """How it ends when it is through, in the service manager's words; empty: well."""
    restarts: int = 0
    """How often it is started anew when it ends."""

    @property
    def command(self) -> str:
        """What its start command says, without what stands before it."""
        return self.program.command if self.program else self.gone

    @property
    def owner(self) -> str:
        return "user" if self.at_sign_in else "system"
