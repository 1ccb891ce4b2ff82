"""Services of runit: a folder each, and links to those that are supervised. runsvdir(8), runsv(8).

Where the run levels' scripts are run as well, they are those that are no service.
"""

import os
import re
from dataclasses import replace
from pathlib import Path

from plucky_ledger.linux.init_systems import run_levels
from plucky_ledger.linux.init_systems.script import DOWN, InitScript, is_script, links_in
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
    # Services are supervised from when those scripts have been run.
    before = tuple(one.name for one in beside if one.on)
    return [*(replace(one, after=(*one.after, *before)) for one in found), *beside]


def supervised(root: Path) -> Path:
    """The folder of links to what is supervised."""
    places = [root / place for place in SUPERVISED]
    return next((place for place in places if place.is_dir()), places[0])


def _folders(services: Path, place: Path) -> list[Path]:
    """Folders of services, those that lie where they are supervised included."""
    here = [path for path in links_in(services) if path.is_dir()]
    there = [path for path in links_in(place) if path.is_dir() and not path.is_symlink()]
    return [*here, *there]


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
