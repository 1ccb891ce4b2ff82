"""Desktop entry files: reading one, whatever is in it.

Desktop Entry Specification 1.5.
"""

import re
import shlex
import stat
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.values.reasons import Reason, ReasonCode

LARGEST_ENTRY = 65_536
"""Bytes; a larger file is no desktop entry."""


TRUE = frozenset({"true", "1", "yes", "y", "t", "on"})
"""The specification knows the first alone, old desktops the second, the service manager all."""
MAIN_GROUP = "[Desktop Entry]"
_BLANKS, _BYTE_ORDER_MARK = " \t\r", "\ufeff"
_GROUP = re.compile(r"\[[^\x00-\x1f\x7f\"'\\]+\]")
"""A group's header; a file with any other is refused by whoever starts what is in it."""
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
        """Whether a key says true, to anybody who starts what is in it: not all take every form."""
        return self.values.get(key, "").casefold() in TRUE


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
    values: dict[str, str] = {}
    group = ""
    for line in _lines(text):
        plain = line.strip(_BLANKS)
        if plain.startswith("[") and not _GROUP.fullmatch(plain):
            return _faulty(path, Reason(ReasonCode.NO_DESKTOP_ENTRY))
        if plain.startswith("["):
            group = plain
        elif group == MAIN_GROUP and plain and not plain.startswith("#"):
            key, _, value = plain.partition("=")
            values[key.rstrip(_BLANKS)] = value.lstrip(_BLANKS)
        elif plain and not group and not plain.startswith("#"):
            break  # only comments may come before the first group
    if group != MAIN_GROUP and not values:
        return _faulty(path, Reason(ReasonCode.NO_DESKTOP_ENTRY))
    return DesktopEntry(path, values)


def _lines(text: str) -> list[str]:
    """A line ends at a line feed and nowhere else, whatever other characters end one elsewhere."""
    return text.removeprefix(_BYTE_ORDER_MARK).split("\n")


def with_values(text: str, values: Mapping[str, str | None]) -> str:
    """A desktop entry's text with some values of its main group set, or taken out where None.

    Everything else stays as it is, comments and order included, but for what one reader takes for
    the end of a line and another does not: that would make ours mean something else to one of them.
    """
    lines: list[str] = []
    kept = {key: value for key, value in values.items() if value is not None}
    there = frozenset(_keys_of_the_main_group(text))
    within = False
    for line in map(_read_alike, _lines(text)):
        plain = line.strip(_BLANKS)
        if plain.startswith("["):
            within = plain == MAIN_GROUP
        key = plain.partition("=")[0].rstrip(_BLANKS)
        if not (within and key in values):
            lines.append(line)
        elif key in kept:
            lines.append(_value_line(key, kept.pop(key)))
        if plain == MAIN_GROUP:
            new = [key for key in kept if key not in there]
            lines.extend(_value_line(key, kept.pop(key)) for key in new)
    return "\n".join(lines)


def is_read_alike(text: str) -> bool:
    """Whether every reader ends each of its lines where the others do."""
    return all(_read_alike(line) == line for line in _lines(text))


def _keys_of_the_main_group(text: str) -> Iterator[str]:
    group = ""
    for line in _lines(text):
        plain = line.strip(_BLANKS)
        group = plain if plain.startswith("[") else group
        if group == MAIN_GROUP and plain:
            yield plain.partition("=")[0].rstrip(_BLANKS)


def _value_line(key: str, value: str) -> str:
    return _read_alike(f"{key}={value}")


def _read_alike(line: str) -> str:
    """The same line, so that every reader takes it for one.

    The service manager ends lines at a carriage return as well, and goes on with the next line
    after a backslash: systemd.syntax(7).
    """
    plain = line.rstrip("\r")
    ends = line[len(plain) :]
    if (len(plain) - len(plain.rstrip("\\"))) % 2:
        plain = plain[:-1]
    return plain.replace("\r", " ") + ends
