"""Hooks: scripts and rules that other parts of the system run when something happens.

interfaces(5), NetworkManager-dispatcher(8), systemd.generator(7), udev(7), modules-load.d(5),
initramfs-tools(7), pam_exec(8).
"""

import os
import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.start_files.found import How, Looked, Reading, StartLine

SCRIPTS = (
    "etc/network/if-pre-up.d/*",
    "etc/network/if-up.d/*",
    "etc/NetworkManager/dispatcher.d/*",
    "etc/NetworkManager/dispatcher.d/pre-up.d/*",
    "etc/networkd-dispatcher/*.d/*",
    "etc/dhcp/dhclient-*-hooks.d/*",
    "etc/ppp/ip-up.d/*",
    "etc/update-motd.d/*",
    "etc/initramfs-tools/scripts/*/*",
    "etc/systemd/system-generators/*",
    "etc/systemd/user-generators/*",
    "etc/systemd/system-environment-generators/*",
    "etc/systemd/user-environment-generators/*",
    "usr/local/lib/systemd/system-generators/*",
    "usr/local/lib/systemd/user-generators/*",
    "usr/lib/NetworkManager/dispatcher.d/*",
    "usr/lib/NetworkManager/dispatcher.d/pre-up.d/*",
    "usr/lib/networkd-dispatcher/*.d/*",
    "usr/lib/systemd/system-generators/*",
    "usr/lib/systemd/user-generators/*",
    "usr/lib/systemd/system-environment-generators/*",
    "usr/lib/systemd/user-environment-generators/*",
)
DEVICE_RULES = ("etc/udev/rules.d/*.rules", "usr/lib/udev/rules.d/*.rules")
MODULES = ("etc/modules", "etc/modules-load.d/*.conf", "usr/lib/modules-load.d/*.conf")
OF_PACKAGES = "usr/lib"
"""Where packages put theirs: one of the same name below /etc is taken in its place, by all that run
them.
"""
OF_THE_MANAGER = re.compile(r"(?:systemd|user-environment)-[\w-]+-generator|\d\d-systemd-[\w-]+")
"""Generators that are the service manager itself."""
OF_UDEV = re.compile(
    r"(?:.*/)?(?:udevadm|loginctl|systemctl|systemd-[\w-]+|"
    r"(?:ata|scsi|cdrom|v4l|fido|dmi_memory)_id|mtd_probe)\b.*"
)
"""Programs that its own rules run."""
SIGN_IN_RULES = ("etc/pam.d/*",)
_RUNS = re.compile(r'(?:(?:RUN|PROGRAM)(?:\{program\})?|IMPORT\{program\})\s*\+?={1,2}\s*"([^"]+)"')
_SIGN_IN = re.compile(r"\s*-?\w+\s+\S.*?pam_exec\.so\s+(?:[a-z_]+(?:=\S+)?\s+)*(/\S.*)")
UDEV_PROGRAMS = "/usr/lib/udev/"
"""Where a rule's program lies that names no folder."""


def of_the_system(root: Path) -> Looked:
    """Every hook of the administrator's and of packages that put theirs among them."""
    reading = Reading()
    return reading.looked(
        StartSource.HOOKS,
        [*_scripts(reading, root), *_rules(reading, root), *_modules(reading, root)],
    )


def _scripts(reading: Reading, root: Path) -> Iterator[StartLine]:
    for path in _in_force(reading, root, SCRIPTS):
        if os.access(path, os.X_OK) and not OF_THE_MANAGER.fullmatch(path.name):
            reading.files += 1
            yield _hook(path, str(path), str(path), How.SCRIPT)


def _in_force(reading: Reading, root: Path, patterns: Sequence[str]) -> Iterator[Path]:
    """The files of some folders, those of packages where none of the same name hides them."""
    for path in reading.matching(root, patterns):
        if _is_of_a_package(path, root):
            own = root / "etc" / path.relative_to(root / OF_PACKAGES)
            if os.path.lexists(own):
                continue
        yield path


def _is_of_a_package(path: Path, root: Path) -> bool:
    return path.is_relative_to(root / OF_PACKAGES)


def _rules(reading: Reading, root: Path) -> Iterator[StartLine]:
    for patterns, form in ((DEVICE_RULES, _RUNS), (SIGN_IN_RULES, _SIGN_IN)):
        for path in _in_force(reading, root, patterns):
            for line in reading.text(path).replace("\\\n", " ").splitlines():
                if line.lstrip().startswith("#"):
                    continue
                for said in form.finditer(line):
                    if said[1]:
                        command = said[1].strip()
                        found = command if command.startswith("/") else UDEV_PROGRAMS + command
                        if not (_is_of_a_package(path, root) and OF_UDEV.fullmatch(found)):
                            yield _hook(path, found, line.strip(), How.LINE)


def _modules(reading: Reading, root: Path) -> Iterator[StartLine]:
    for path in _in_force(reading, root, MODULES):
        for line in reading.text(path).splitlines():
            if line.strip() and line.strip()[0] not in "#;":
                yield _hook(path, "", line.strip(), How.LINE)


def _hook(path: Path, command: str, line: str, how: How) -> StartLine:
    return StartLine(
        kind=EntryKind.HOOK,
        file=str(path),
        user="",
        of_system=True,
        command=command,
        line=line,
        how=how,
    )
