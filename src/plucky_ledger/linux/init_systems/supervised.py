"""Services of runit: a folder each, and links to those that are supervised. runsvdir(8), runsv(8).

Where the run levels' scripts are run as well, they are those that are no service.
"""

import os
import re
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

from plucky_ledger.linux.init_systems import run_levels
from plucky_ledger.linux.init_systems.script import DOWN, InitScript, is_script
from plucky_ledger.linux.start_files.found import Reading

SERVICES = "etc/sv"
SUPERVISED = ("etc/runit/runsvdir/default", "var/service", "service", "etc/service")
"""Where links to services may lie; the first that is there counts."""
RUN = "run"
_LAST = re.compile(r"^\s*exec\s+(?!\d?>|<)([^#\n]+)", re.MULTILINE)
_PULLS = re.compile(r"^\s*sv\s+(?:start|check)\s+([\w.-]+)", re.MULTILINE)
_ASIDE = re.compile(r"\s*\d?>.*")


def scripts(reading: Reading, root: Path) -> list[InitScript]:
    """Every service, and every script of the run levels beside them."""
    place = supervised(root)
    found = [
        _service(reading, folder, place)
        for folder in _folders(root / SERVICES, place)
        if is_script(folder) and os.access(folder / RUN, os.X_OK)
    ]
    names = {service.name for service in found}
    beside = [one for one in run_levels.scripts(reading, root) if one.name not in names]
    return _one_after_the_other(beside, found)


def _one_after_the_other(scripts: list[InitScript], services: list[InitScript]) -> list[InitScript]:
    """Scripts each after the one before, in the order of their links, and services after them all:
    so they are started.
    """
    run = sorted((one for one in scripts if one.on), key=_place)
    after = [replace(one, after=(before.name,)) for before, one in pairwise(run)]
    off = [one for one in scripts if not one.on]
    if run:
        services = [replace(one, after=(*one.after, run[-1].name)) for one in services]
    return [*services, *run[:1], *after, *off]


def _place(script: InitScript) -> tuple[bool, str]:
    return not script.early, min(link.name for link in script.starts)


def supervised(root: Path) -> Path:
    """The folder of links to what is supervised."""
    places = [root / place for place in SUPERVISED]
    return next((place for place in places if place.is_dir()), places[0])


def _folders(services: Path, place: Path) -> list[Path]:
    """Folders of services, those that lie where they are supervised included."""
    here = [path for path in _listed(services) if path.is_dir()]
    there = [path for path in _listed(place) if path.is_dir() and not path.is_symlink()]
    return [*here, *there]


def _listed(folder: Path) -> list[Path]:
    try:
        return sorted(folder.iterdir())
    except OSError:
        return []


def _service(reading: Reading, folder: Path, place: Path) -> InitScript:
    text = reading.text(folder / RUN)
    commands = _LAST.findall(text)
    link, down = place / folder.name, folder / DOWN
    pulled = tuple(_PULLS.findall(text))
    return InitScript(
        name=folder.name,
        file=str(folder / RUN),
        program=_ASIDE.sub("", commands[-1]).strip() if commands else "",
        after=pulled,
        pulls=pulled,
        starts=(link,) if os.path.lexists(link) else (),
        held=(down,) if os.path.lexists(down) else (),
    )
