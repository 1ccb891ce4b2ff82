"""The [Install] section of a unit file: which units pull it in once it is enabled.

systemd.unit(5), "[INSTALL] SECTION OPTIONS" and "SPECIFIERS".
"""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.linux.files import read_bounded

LARGEST_BYTES = 1 << 20
BLANKS = " \t"
_BLANK, _LINE_END = re.compile(r"[ \t]+"), re.compile(r"[\n\r\0]")
WANTS = {"WantedBy": "wants", "RequiredBy": "requires", "UpheldBy": "upholds"}


@dataclass(frozen=True, kw_only=True)
class Install:
    """The parsed section: lists split, specifiers expanded."""

    links: tuple[str, ...] = ()
    """Where switching it on puts links, from the folder of the units: ``x.target.wants/y``."""
    aliases: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    """Units that are switched together with it."""
    unknown: str = ""
    """A specifier that cannot be resolved; empty where all were."""
    bus_name: str = ""
    """Name that its service takes on the bus."""
    starts: str = ""
    """Unit that a timer starts, where it says so; empty for the one of its own name."""

    @property
    def says_anything(self) -> bool:
        """Whether it can be switched on and off by links."""
        return bool(self.links or self.aliases or self.also)


def install_of(name: str, files: Iterable[Path]) -> Install:
    """What a unit's file and the drop-ins after it say. Raises OSError."""
    values: dict[str, list[str]] = {}
    for file in files:
        _read(read_bounded(file, LARGEST_BYTES, follow=True).decode("utf-8", "replace"), values)
    specifiers = _specifiers(name)
    bus_name, starts = (["", *values.pop(key, [])][-1] for key in ("BusName", "Unit"))
    words = {
        key: [_expanded(word, specifiers) for word in listed] for key, listed in values.items()
    }
    said = {key: [word for word in listed if "%" not in word] for key, listed in words.items()}
    return Install(
        links=tuple(
            f"{target}.{kind}/{name}" for key, kind in WANTS.items() for target in said.get(key, ())
        ),
        aliases=tuple(said.get("Alias", ())),
        also=tuple(other for other in said.get("Also", ()) if other != name),
        bus_name=bus_name,
        starts=starts,
        unknown=next((w for listed in words.values() for w in listed if "%" in w), ""),
    )


def _read(text: str, values: dict[str, list[str]]) -> None:
    section = ""
    for line in logical_lines(text):
        if line.startswith("["):
            section = line
        key, found, value = line.partition("=")
        key = key.strip(BLANKS)
        if not found or not _is_of_interest(section, key):
            continue
        words = [word for word in _BLANK.split(value) if word]
        values[key] = [*values.get(key, ()), *words] if words else []


def logical_lines(text: str) -> Iterator[str]:
    """Lines of a unit file as its manager takes them: a backslash at the end goes on with the next
    line that is no comment. Only line feed, carriage return and NUL end one. systemd.syntax(7).
    """
    begun = ""
    for line in _LINE_END.split(text):
        if line.lstrip(BLANKS).startswith(("#", ";")):
            continue
        begun += line
        if (len(begun) - len(begun.rstrip("\\"))) % 2:
            begun = f"{begun[:-1]} "
            continue
        yield begun.strip(BLANKS)
        begun = ""
    yield begun.strip(BLANKS)


def _is_of_interest(section: str, key: str) -> bool:
    return section == "[Install]" or (section, key) in _OTHERS_OF_INTEREST


_OTHERS_OF_INTEREST = frozenset({("[Service]", "BusName"), ("[Timer]", "Unit")})


def _specifiers(name: str) -> Mapping[str, str]:
    stem = name.rpartition(".")[0]
    prefix, _, instance = stem.partition("@")
    return {"%n": name, "%N": stem, "%p": prefix, "%i": instance}


def _expanded(word: str, known: Mapping[str, str]) -> str:
    for specifier, text in known.items():
        word = word.replace(specifier, text)
    return word
