"""Desktops' and window managers' own files: what they start besides the common sign-in programs."""

import re
from collections.abc import Iterator, Mapping
from functools import partial
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.start_files.found import How, Looked, Reading, StartLine, Taker
from plucky_ledger.linux.start_files.shell_files import at_home, commands_in

_EXEC = re.compile(r"\s*exec(?:_always)?\s+(?:--no-startup-id\s+)?(.+)")
_EXEC_IS = re.compile(r"\s*exec(?:-once)?\s*=\s*(.+)")
_AT = re.compile(r"\s*@?([^\s#@].*)")


def _matching(form: re.Pattern[str], text: str) -> Iterator[tuple[str, str]]:
    for line in text.splitlines():
        if (said := form.fullmatch(line)) is not None:
            yield said[1].strip().strip('"'), line.strip()


FILES: Mapping[str, Taker] = {
    "openbox/autostart": commands_in,
    "labwc/autostart": commands_in,
    "herbstluftwm/autostart": commands_in,
    "bspwm/bspwmrc": commands_in,
    "qtile/autostart.sh": commands_in,
    "plasma-workspace/env/*.sh": commands_in,
    "i3/config": partial(_matching, _EXEC),
    "sway/config": partial(_matching, _EXEC),
    "sway/config.d/*": partial(_matching, _EXEC),
    "hypr/hyprland.conf": partial(_matching, _EXEC_IS),
    "lxsession/*/autostart": partial(_matching, _AT),
}
"""Below the folders for settings, a person's and the system's, and how each is read."""
NOT_SHARED: Mapping[str, Taker] = {name: FILES[name] for name in ("i3/config", "sway/config")}
"""Those of the system that lie in its settings folder itself."""
BESIDE: Mapping[str, Taker] = {".fluxbox/startup": commands_in, ".i3/config": FILES["i3/config"]}
"""Below a person's home."""
SCRIPTS = ("autostart-scripts/*", "plasma-workspace/autostart-scripts/*")
"""Folders in which every file is run."""


def of_the_person(home: Path, settings: Path) -> Looked:
    """A person's own; ``settings`` is their folder for settings."""
    reading = Reading()
    lines = [*_found(reading, settings, FILES, home), *_found(reading, home, BESIDE, home)]
    lines += [
        _line(path, False, str(path), str(path), How.SCRIPT)
        for path in reading.matching(settings, SCRIPTS)
    ]
    return reading.looked(StartSource.OWN_DESKTOP_FILES, lines)


def of_the_system(root: Path) -> Looked:
    """Those that count where a person has none."""
    reading = Reading()
    lines = [
        *_found(reading, root / "etc/xdg", FILES, None),
        *_found(reading, root / "etc", NOT_SHARED, None),
    ]
    return reading.looked(StartSource.SYSTEMS_DESKTOP_FILES, lines)


def _found(
    reading: Reading, folder: Path, files: Mapping[str, Taker], home: Path | None
) -> Iterator[StartLine]:
    """``home`` is of the person whose files these are; None for the system's."""
    for pattern, take in files.items():
        for path in reading.matching(folder, (pattern,)):
            for command, line in take(reading.text(path)):
                started = at_home(command, str(home or ""))
                yield _line(path, home is None, started, line, How.LINE)


def _line(path: Path, of_system: bool, command: str, line: str, how: How) -> StartLine:
    return StartLine(
        kind=EntryKind.DESKTOP_LINE,
        file=str(path),
        user="",
        of_system=of_system,
        command=command,
        line=line,
        how=how,
    )
