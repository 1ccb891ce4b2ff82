"""Scripts of OpenRC: /etc/init.d, and links in the folders of its run levels. openrc-run(8)."""

import re
from pathlib import Path

from plucky_ledger.linux.init_systems import run_levels
from plucky_ledger.linux.init_systems.run_levels import MACHINERY, SCRIPTS
from plucky_ledger.linux.init_systems.script import (
    Header,
    InitScript,
    is_script,
    links_in,
    program_in,
)
from plucky_ledger.linux.start_files.found import Reading

LEVELS = "etc/runlevels"
EARLY = ("sysinit", "boot")
ENTERED = "default"
STARTED_IN = (*EARLY, ENTERED)
_TITLE = re.compile(r"^description=[\"']?([^\"'\n]+)", re.MULTILINE)
_AFTER = re.compile(r"^\s*(?:need|use|want|after)\s+([^\n#]+)", re.MULTILINE)
_PROVIDES = re.compile(r"^\s*provide\s+([^\n#]+)", re.MULTILINE)
_PULLS = re.compile(r"^\s*(?:need|want)\s+([^\n#]+)", re.MULTILINE)
_RUN_BY = "openrc-run"


def scripts(reading: Reading, root: Path) -> list[InitScript]:
    """Every script that starts with the PC, or could."""
    links: dict[str, list[Path]] = {}
    for level in STARTED_IN:
        for link in links_in(root / LEVELS / level):
            links.setdefault(link.name, []).append(link)
    elsewhere = {
        link.name
        for level in ("shutdown", "off", "reboot", "single", "recovery", "nonetwork")
        for link in links_in(root / LEVELS / level)
    }
    found = []
    for path in reading.listed(root / SCRIPTS):
        own = links.get(path.name, [])
        text = reading.text(path)
        could = is_script(path) and path.name not in MACHINERY and _could_start(text)
        if own or (could and path.name not in elsewhere):
            found.append(_script(path, text, own))
    return found


def _could_start(text: str) -> bool:
    """Whether a script is a service, and no part of what stops a PC."""
    header = Header.of(text)
    if header.fields:
        return bool(header.levels & set(run_levels.LEVELS))
    return _RUN_BY in text.partition("\n")[0]


def _script(path: Path, text: str, links: list[Path]) -> InitScript:
    header, title = Header.of(text), _TITLE.search(text)
    required = tuple(header.fields.get("Required-Start", "").split())
    return InitScript(
        name=path.name,
        file=str(path),
        title=header.title or (title[1].strip() if title else ""),
        program=program_in(text),
        provides=(*header.provides, *_names(_PROVIDES, text)),
        after=header.after or _names(_AFTER, text),
        pulls=tuple(name for name in required if name[0] != "$") or _names(_PULLS, text),
        early=bool(links) and all(link.parent.name in EARLY for link in links),
        starts=tuple(links),
    )


def _names(form: re.Pattern[str], text: str) -> tuple[str, ...]:
    return tuple(name for line in form.findall(text) for name in line.split())
