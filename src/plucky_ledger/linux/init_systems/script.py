"""One script that an init system starts, and what it says of itself."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

NAME = r"[A-Za-z0-9][\w.+@-]*"
_IS_NAME = re.compile(NAME, re.ASCII)
_HEADER = re.compile(r"### BEGIN INIT INFO\n(.*?)### END INIT INFO", re.DOTALL)
_FIELD = re.compile(r"^#\s+([\w-]+):[ \t]*(.*)$", re.MULTILINE)
_SET = re.compile(r"""^[ \t]*(?:export[ \t]+)?(\w+)=["']?([^\s"';]+)["']?[ \t]*$""", re.MULTILINE)
_USED = re.compile(r"\$\{?(\w+)\}?")
_STARTED = re.compile(r"""--exec[= ]+["']?([^\s"';]+)""")
_NAMED = ("DAEMON", "command", "EXEC")
"""Variables that by custom name the program; those of OpenRC's and Debian's own frames do."""
_NOT_A_SCRIPT = (".dpkg-old", ".dpkg-new", ".dpkg-dist", ".dpkg-bak", ".rpmsave", ".rpmnew")


@dataclass(frozen=True, kw_only=True)
class InitScript:
    """One script, or one folder of a service, as it is set."""

    name: str
    file: str
    """What is run: the script itself."""
    title: str = ""
    """What it says it is."""
    program: str = ""
    """The program that it starts, as far as the script tells; empty where it does not."""
    provides: tuple[str, ...] = ()
    """Other names by which scripts wait for it."""
    after: tuple[str, ...] = ()
    """Names of what has to be there before; of scripts, and of what they provide."""
    pulls: tuple[str, ...] = ()
    """Names of what it has started itself, whether that is set to start or not."""
    early: bool = False
    """It is run before the run level is entered, with file systems and devices."""
    starts: tuple[Path, ...] = ()
    """Links that have it started."""
    held: tuple[Path, ...] = ()
    """Links and files that keep it from being started."""

    @property
    def on(self) -> bool:
        """Whether it starts with the PC."""
        return bool(self.starts) and not any(path.name == DOWN for path in self.held)


DOWN = "down"
"""File in a service's folder that keeps it from being started. runsv(8)."""


@dataclass(frozen=True)
class Header:
    """What an init script says of itself: Linux Standard Base 3.1, "Comment Conventions for Init
    Scripts".
    """

    fields: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, text: str) -> "Header":
        """The header of a script; without a field where it has none."""
        found = _HEADER.search(text)
        return cls(dict(_FIELD.findall(found[1])) if found else {})

    @property
    def title(self) -> str:
        """What it says it is, in one line."""
        return self.fields.get("Short-Description", "").strip()

    @property
    def after(self) -> tuple[str, ...]:
        """Names of what has to be there before it."""
        said = f"{self.fields.get('Required-Start', '')} {self.fields.get('Should-Start', '')}"
        return tuple(name for name in said.split() if not name.startswith("$"))

    @property
    def provides(self) -> tuple[str, ...]:
        """Names by which others wait for it."""
        return tuple(self.fields.get("Provides", "").split())

    @property
    def levels(self) -> frozenset[str]:
        """The run levels that it wants to be started in."""
        return frozenset(self.fields.get("Default-Start", "").split())


def links_in(folder: Path) -> list[Path]:
    """What lies in a folder of links, by name, wherever it leads."""
    try:
        return sorted(folder.iterdir())
    except OSError:
        return []


def is_script(path: Path) -> bool:
    """Whether a file of such a folder can be a script, by its name."""
    return bool(_IS_NAME.fullmatch(path.name)) and not path.name.endswith(_NOT_A_SCRIPT)


def program_in(text: str) -> str:
    """The program that a script starts, with its full path; empty where it does not say."""
    variables = dict(reversed(_SET.findall(text)))  # what is set first counts
    started = _STARTED.search(text)
    told = [started[1]] if started else []
    told += [variables[name] for name in _NAMED if name in variables]
    for word in told:
        program = _USED.sub(lambda used: variables.get(used[1], ""), word)
        program = _USED.sub(lambda used: variables.get(used[1], ""), program)
        if program.startswith("/"):
            return program
    return ""
