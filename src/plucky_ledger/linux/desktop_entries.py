"""Desktop entry files: reading one, whatever is in it.

Desktop Entry Specification 1.5.
"""

import configparser
import shlex
import stat
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.reasons import Reason, ReasonCode

LARGEST_ENTRY = 65_536
"""Bytes; a larger file is no desktop entry."""


MAIN_GROUP = "[Desktop Entry]"
_FIELD_CODES = frozenset(f"%{code}" for code in "fFuUdDnNickvm")


@dataclass(frozen=True)
class DesktopEntry:
    """One desktop entry file as found; ``fault`` says why it cannot be one."""

    path: Path
    values: Mapping[str, str]
    fault: Reason | None = None

    @property
    def program(self) -> str:
        """The program its Exec line starts: the first word, quotes and escapes taken off."""
        try:
            words = self.words
        except ValueError:
            return self.values.get("Exec", "").split(" ", maxsplit=1)[0]
        return words[0] if words else ""

    @property
    def words(self) -> list[str]:
        """The words of its Exec line, quotes and escapes taken off, with nothing to open.

        Raises ValueError where the quotes do not match.
        """
        words = shlex.split(self.values.get("Exec", "").replace("\\\\", "\\"))
        return [word.replace("%%", "%") for word in words if word not in _FIELD_CODES]

    def listed(self, key: str) -> tuple[str, ...]:
        """Values of a key that holds a list."""
        return tuple(part for part in self.values.get(key, "").split(";") if part)

    def is_true(self, key: str) -> bool:
        """Whether a key says true."""
        return self.values.get(key) == "true"


def read_desktop_entry(path: Path) -> DesktopEntry:
    """The values of a desktop entry's main group; never raises for what is in the file."""
    try:
        # Only a plain file is read: a pipe would hang, a link may point in a circle.
        if not stat.S_ISREG(path.stat().st_mode):
            return _faulty(path, Reason(ReasonCode.NOT_A_PLAIN_FILE))
        with path.open("rb") as file:
            data = file.read(LARGEST_ENTRY + 1)
    except OSError as error:
        return _faulty(path, Reason.of(ReasonCode.UNREADABLE, system=error.strerror or ""))
    if len(data) > LARGEST_ENTRY:
        return _faulty(path, Reason(ReasonCode.TOO_LARGE))
    if b"\0" in data:
        return _faulty(path, Reason(ReasonCode.NOT_A_TEXT))
    return _parsed(path, data.decode("utf-8", "replace"))


def _faulty(path: Path, fault: Reason) -> DesktopEntry:
    return DesktopEntry(path, {}, fault)


def _parsed(path: Path, text: str) -> DesktopEntry:
    reader = configparser.RawConfigParser(
        strict=False, delimiters=("=",), comment_prefixes=("#",), allow_no_value=True
    )
    reader.optionxform = str  # type: ignore[assignment, method-assign]
    try:
        # Leading blanks would make a line the continuation of the one before.
        reader.read_string("\n".join(line.strip() for line in text.splitlines()))
        values = {key: value or "" for key, value in reader.items("Desktop Entry")}
    except configparser.Error:
        return _faulty(path, Reason(ReasonCode.NO_DESKTOP_ENTRY))
    return DesktopEntry(path, values)


def with_values(text: str, values: Mapping[str, str | None]) -> str:
    """A desktop entry's text with some values of its main group set, or taken out where None.

    Everything else stays as it is, comments and order included.
    """
    lines: list[str] = []
    wanted, within = dict(values), False
    for line in text.splitlines(keepends=True):
        if line.lstrip().startswith("["):
            if within:
                lines.extend(_value_lines(wanted))
                wanted = {}
            within = line.strip() == MAIN_GROUP and bool(wanted)
        key = line.partition("=")[0].strip()
        if not (within and "=" in line and key in values):
            lines.append(line if line.endswith("\n") else f"{line}\n")
        elif (value := wanted.pop(key, None)) is not None:
            lines.append(f"{key}={value}\n")
    if within:
        lines.extend(_value_lines(wanted))
    return "".join(lines)


def _value_lines(values: Mapping[str, str | None]) -> list[str]:
    return [f"{key}={value}\n" for key, value in values.items() if value is not None]
