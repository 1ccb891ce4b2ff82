"""Scripts of run levels: /etc/init.d, with links named S and K. init(8), update-rc.d(8)."""

import re
from collections.abc import Iterator
from pathlib import Path

from plucky_ledger.linux.init_systems.script import (
    NAME,
    Header,
    InitScript,
    is_script,
    links_in,
    program_in,
)
from plucky_ledger.linux.start_files.found import Reading

SCRIPTS = "etc/init.d"
EARLY = "S"
LEVELS = (EARLY, "2", "3", "4", "5")
"""Those that a PC goes through when it starts; the others are for stopping it."""
LINK = re.compile(rf"([SK])(\d\d)({NAME})", re.ASCII)
_LEVEL = re.compile(r"^[\w]*:(\d):initdefault:", re.MULTILINE)
MACHINERY = frozenset({"rc", "rcS", "README", "skeleton", "functions"})
"""What lies among the scripts and is none."""


def scripts(reading: Reading, root: Path) -> list[InitScript]:
    """Every script that starts with the PC, or could."""
    links = _links(root)
    entered = default_level(reading, root)
    return [
        script
        for path in reading.listed(root / SCRIPTS)
        if is_script(path) and path.name not in MACHINERY
        if (script := _script(path, reading.text(path), links.get(path.name, []), entered))
    ]


def default_level(reading: Reading, root: Path) -> str:
    """The run level that the PC enters. inittab(5)."""
    found = _LEVEL.search(reading.text(root / "etc/inittab"))
    return found[1] if found else "2"


def is_ordered(root: Path, name: str) -> bool:
    """Whether what orders the scripts knows this one: it starts no other. insserv(8)."""
    texts = [Reading().text(root / SCRIPTS / file) for file in (".depend.boot", ".depend.start")]
    known = {name for text in texts for name in text.partition("\n")[0].split()}
    return name in known or not any(texts)


def level_of(link: Path) -> str:
    """The run level that a link belongs to."""
    return link.parent.name.removeprefix("rc").removesuffix(".d")


def _links(root: Path) -> dict[str, list[Path]]:
    """The links of each script, by its name."""
    found: dict[str, list[Path]] = {}
    for level in LEVELS:
        for link in links_in(root / f"etc/rc{level}.d"):
            if (told := LINK.fullmatch(link.name)) is not None:
                found.setdefault(told[3], []).append(link)
    return found


def _script(path: Path, text: str, links: list[Path], entered: str) -> InitScript | None:
    """None for a script that no start of the PC runs, such as one that halts it."""
    header = Header.of(text)
    wanted = header.levels & set(LEVELS)
    starting = list(_starting(links))
    if not links and not wanted:
        return None
    if links and not starting and header.fields and not wanted:
        return None  # what is only run when the PC goes down
    runs = [link for link in starting if level_of(link) in {EARLY, entered}]
    levels = {level_of(link) for link in runs} or wanted
    return InitScript(
        name=path.name,
        file=str(path),
        title=header.title,
        program=program_in(text),
        provides=header.provides,
        after=header.after,
        early=levels == {EARLY},
        starts=tuple(starting) if runs else (),
        held=tuple(link for link in links if link not in starting),
    )


def _starting(links: list[Path]) -> Iterator[Path]:
    for link in links:
        if link.name.startswith("S"):
            yield link
