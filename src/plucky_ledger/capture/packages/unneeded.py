"""Packages that nobody needs any more: they came with others that are gone.

Worked out of what the package managers write down for everybody: dpkg's status and apt's list of
what it installed by itself (deb-control(5), apt-mark(8)), and the local database of the manager
that libalpm belongs to. Needed is what somebody asked for, what the system calls essential, and
everything those depend on, recommend or suggest, by whatever name it is provided.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

STATUS, BY_ITSELF = Path("var/lib/dpkg/status"), Path("var/lib/apt/extended_states")
SETTINGS = Path("etc/apt/apt.conf.d")
ALPM = Path("var/lib/pacman/local")
MOST_BYTES = 64 << 20
MOST_PACKAGES = 50_000
NEVER = ("linux-", "firmware-")
"""Kernels are kept by rules of their own."""
KIBIBYTE = 1024
_KEPT = re.compile(r'"(\^[^"]{1,200})"')
_NAME = re.compile(r"[^\s:<>=(|,]+")
_RELATIONS = ("Pre-Depends", "Depends", "Recommends", "Suggests")


@dataclass(frozen=True)
class Installed:
    """One installed package."""

    name: str
    size_bytes: int
    by_itself: bool
    """It came with another: nobody asked for it."""
    wants: tuple[str, ...]
    provides: tuple[str, ...] = ()


def unneeded_packages(root: Path = Path("/")) -> list[Installed]:
    """The largest first; nothing where the PC has no such database."""
    installed = _dpkg(root) or _alpm(root)
    providers: dict[str, list[Installed]] = {}
    for package in installed:
        for name in (package.name, *package.provides):
            providers.setdefault(name, []).append(package)
    kept = _kept_by_settings(root / SETTINGS)
    waiting = [one for one in installed if not one.by_itself or kept(one.name)]
    needed = {package.name for package in waiting}
    while waiting:
        for wanted in waiting.pop().wants:
            for package in providers.get(wanted, ()):
                if package.name not in needed:
                    needed.add(package.name)
                    waiting.append(package)
    left = [one for one in installed if one.name not in needed and not one.name.startswith(NEVER)]
    return sorted(left, key=lambda package: (-package.size_bytes, package.name))


def _kept_by_settings(folder: Path) -> Callable[[str], bool]:
    """Whether the manager's settings say that a package is never to go by itself (apt.conf(5))."""
    try:
        texts = [_text(path) for path in sorted(folder.iterdir())]
    except OSError:
        return lambda _name: False
    patterns = []
    for pattern in _KEPT.findall("".join(text for text in texts if "NeverAutoRemove" in text)):
        with suppress(re.error):
            patterns.append(re.compile(pattern))
    return lambda name: any(pattern.search(name) for pattern in patterns)


def _dpkg(root: Path) -> list[Installed]:
    by_itself = {
        stanza.get("Package", "")
        for stanza in _stanzas(root / BY_ITSELF)
        if stanza.get("Auto-Installed") == "1"
    }
    packages = {}
    for stanza in _stanzas(root / STATUS):
        name = stanza.get("Package", "")
        if not name or not stanza.get("Status", "").endswith(" installed"):
            continue
        kept = any(stanza.get(field) == "yes" for field in ("Essential", "Protected", "Important"))
        size = stanza.get("Installed-Size", "")
        packages[name] = Installed(
            name,
            int(size) * KIBIBYTE if size.isdigit() and len(size) < 12 else 0,
            name in by_itself and not kept,
            tuple(wanted for field in _RELATIONS for wanted in _names(stanza.get(field, ""))),
            tuple(_names(stanza.get("Provides", ""))),
        )
    return list(packages.values())


def _names(relations: str) -> Iterator[str]:
    """The packages of a list of relations, alternatives each, without their versions."""
    for part in re.split(r"[,|]", relations):
        if (found := _NAME.match(part.strip())) is not None:
            yield found[0]


def _stanzas(path: Path) -> Iterator[Mapping[str, str]]:
    """Paragraphs of fields; the lines that continue one are passed over."""
    stanza: dict[str, str] = {}
    count = 0
    for line in _text(path).splitlines():
        if not line:
            yield stanza
            stanza, count = {}, count + 1
            if count >= MOST_PACKAGES:
                return
        elif not line[0].isspace():
            field, _, value = line.partition(":")
            stanza[field] = value.strip()
    if stanza:
        yield stanza


def _alpm(root: Path) -> list[Installed]:
    try:
        folders = sorted((root / ALPM).iterdir())[:MOST_PACKAGES]
    except OSError:
        return []
    read = (_fields(_text(folder / "desc")) for folder in folders)
    return [
        Installed(
            fields["NAME"][0],
            int(size) if (size := (fields.get("SIZE") or ["0"])[0]).isdigit() else 0,
            fields.get("REASON") == ["1"],
            tuple(
                name
                for field in ("DEPENDS", "OPTDEPENDS")
                for line in fields.get(field, ())
                for name in _names(line)
            ),
            tuple(name for line in fields.get("PROVIDES", ()) for name in _names(line)),
        )
        for fields in read
        if fields.get("NAME")
    ]


def _fields(text: str) -> dict[str, list[str]]:
    """Blocks that begin with their name between percent signs, a value in each line."""
    fields: dict[str, list[str]] = {}
    for block in text.split("\n\n"):
        head, *values = block.strip().splitlines() or [""]
        if head.startswith("%") and head.endswith("%"):
            fields[head.strip("%")] = [value.strip() for value in values if value.strip()]
    return fields


def _text(path: Path) -> str:
    try:
        with path.open("rb") as file:
            return file.read(MOST_BYTES).decode("utf-8", "replace")
    except (OSError, ValueError):
        return ""
