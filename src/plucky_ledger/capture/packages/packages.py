"""Interface to a package manager, and the managers a PC may have.

A manager is one module with everything that is asked of it. What it does not tell stays empty.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar, Protocol

from plucky_ledger.recording.history import PackageRow

ROOT = Path("/")


@dataclass(frozen=True)
class Package:
    """One package, as it describes itself."""

    name: str
    version: str
    description: str
    """Its one-line summary."""


@dataclass(frozen=True)
class Installed:
    """One installed package, and what it needs."""

    name: str
    size_bytes: int
    by_itself: bool
    """Installed automatically, as a dependency of another."""
    wants: tuple[str, ...]
    """What it depends on, recommends or suggests."""
    provides: tuple[str, ...] = ()
    """Virtual package names it provides, besides its own."""


class PackageManager(Protocol):
    """What a PC's package manager can be asked."""

    caches: ClassVar[tuple[str, ...]]
    """Folders below the root that hold packages it fetched."""

    @property
    def is_here(self) -> bool:
        """Whether this PC uses it."""
        ...

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """Owning package of each path that has one."""
        ...

    def versions(self) -> Mapping[str, str]:
        """Version of every installed package, by its name."""
        ...

    def log(self, most: int) -> list[PackageRow]:
        """What was installed, updated and removed, the oldest first; about the newest so many."""
        ...

    def installed(self) -> list[Installed]:
        """Every installed package with what it needs; empty where nobody may read that."""
        ...

    def never_unneeded(self) -> Callable[[str], bool]:
        """Whether its settings say that a package of this name is never to go by itself."""
        ...


def managers(root: Path = ROOT) -> tuple[PackageManager, ...]:
    """All supported managers, for the PC whose files lie below ``root``."""
    from plucky_ledger.capture.packages.alpm import Alpm
    from plucky_ledger.capture.packages.dpkg import Dpkg
    from plucky_ledger.capture.packages.rpm import Rpm

    return (Dpkg(root), Rpm(root), Alpm(root))


def manager_of_this_pc() -> PackageManager | None:
    """The manager this PC uses; None where it is not supported."""
    return next((manager for manager in managers() if manager.is_here), None)
