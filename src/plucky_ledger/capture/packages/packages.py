"""Who owns a file: asked of the package database the OS keeps, through its own query tools."""

import shutil
import subprocess
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

PATIENCE_SECONDS = 20
AT_ONCE = 200
"""Paths in one question."""


@dataclass(frozen=True)
class Package:
    """One installed package."""

    name: str
    version: str
    description: str
    """Its one-line summary."""


class PackageDatabase(Protocol):
    """What a PC's package database can be asked."""

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """Owning package of each path that has one."""
        ...

    def versions(self) -> Mapping[str, str]:
        """Version of every installed package, by its name."""
        ...


def packages_of_this_pc() -> PackageDatabase | None:
    """The database this PC has; None where it has none that is known."""
    if shutil.which("dpkg-query"):
        return Dpkg()
    return Rpm() if shutil.which("rpm") else None


class Dpkg:
    """The Debian family."""

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """See ``PackageDatabase``. Merged /usr: a file is also known by its path without /usr."""
        wanted = {spelling: path for path in paths for spelling in _spellings(path)}
        names: dict[str, str] = {}
        for part in _parts(list(wanted)):
            for line in _answer(["dpkg-query", "-S", "--", *part]).splitlines():
                owners, colon, path = line.partition(": ")
                if colon and path in wanted and not owners.startswith("diversion "):
                    names.setdefault(wanted[path], owners.split(",")[0].split(":")[0].strip())
        described = self._described(sorted(set(names.values())))
        return {path: described[name] for path, name in names.items() if name in described}

    def versions(self) -> Mapping[str, str]:
        """See ``PackageDatabase``. What was removed may still be known by its settings."""
        form = "-f=${db:Status-Status}\\t${binary:Package}\\t${Version}\\n"
        rows = [line.split("\t") for line in _answer(["dpkg-query", "-W", form]).splitlines()]
        return {row[1]: row[2] for row in rows if len(row) == 3 and row[0] == "installed"}

    @staticmethod
    def _described(names: Sequence[str]) -> dict[str, Package]:
        form = "-f=${Package}\\t${Version}\\t${binary:Summary}\\n"
        lines = [
            line.split("\t")
            for part in _parts(names)
            for line in _answer(["dpkg-query", "-W", form, "--", *part]).splitlines()
        ]
        return {row[0]: Package(row[0], row[1], row[2]) for row in lines if len(row) == 3}


class Rpm:
    """The rpm family."""

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """See ``PackageDatabase``. Each answer is one line, in the order of the questions."""
        packages: dict[str, Package] = {}
        form = "%{NAME}\\t%{VERSION}-%{RELEASE}\\t%{SUMMARY}\\n"
        for path in paths:
            for line in _answer(["rpm", "-qf", "--queryformat", form, "--", path]).splitlines():
                row = line.split("\t")
                if len(row) == 3:
                    packages.setdefault(path, Package(*row))
        return packages

    def versions(self) -> Mapping[str, str]:
        """See ``PackageDatabase``."""
        form = "%{NAME}\\t%{VERSION}-%{RELEASE}\\n"
        rows = [
            line.split("\t") for line in _answer(["rpm", "-qa", "--queryformat", form]).splitlines()
        ]
        return {row[0]: row[1] for row in rows if len(row) == 2}


def _spellings(path: str) -> tuple[str, ...]:
    if path.startswith("/usr/"):
        return (path, path.removeprefix("/usr"))
    return (path, f"/usr{path}")


def _parts(items: Sequence[str]) -> Iterable[Sequence[str]]:
    return (items[at : at + AT_ONCE] for at in range(0, len(items), AT_ONCE))


def _answer(command: Sequence[str]) -> str:
    """What a query tool says; files nobody owns make it end with an error, which is an answer."""
    try:
        done = subprocess.run(
            command,
            capture_output=True,
            timeout=PATIENCE_SECONDS,
            check=False,
            env={"LC_ALL": "C.UTF-8", "PATH": "/usr/sbin:/usr/bin:/sbin:/bin"},
        )
    except (OSError, subprocess.SubprocessError):
        return ""
    return done.stdout.decode("utf-8", "replace")
