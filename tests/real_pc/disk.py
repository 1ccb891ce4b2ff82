"""The disk of the real PC: Debian with the services of a small desktop, and our startup entries.

    python -m tests.real_pc.disk

It is of the release that this machine runs, or of the one that $PLUCKY_LEDGER_REAL_PC_RELEASE names
("trixie", "sid"), from the same archive. Built once and kept outside the tree, at
$PLUCKY_LEDGER_REAL_PC or in /var/tmp. A PC is switched on from a copy, so that what one run does to
it is not there in the next.
"""

import hashlib
import os
import platform
import shutil
import subprocess
import sys
from pathlib import Path

from filelock import FileLock

from tests.real_pc import entries, scripts

PLACE = Path(os.environ.get("PLUCKY_LEDGER_REAL_PC", "/var/tmp/plucky-ledger-real-pc"))
TOOLS = {"mmdebstrap": "mmdebstrap", "systemd-nspawn": "systemd-container"}
MANAGED = "systemd"
STARTED_BY = {
    MANAGED: ("systemd", "systemd-sysv", "libpam-systemd", "dbus-user-session"),
    "sysvinit": ("sysvinit-core", "initscripts", "orphan-sysvinit-scripts"),
    "openrc": ("openrc", "sysvinit-core", "initscripts", "orphan-sysvinit-scripts"),
    "runit": ("runit-init", "runit-services", "initscripts", "orphan-sysvinit-scripts"),
}
"""What starts the services, and the packages that takes; its own sign-in manager comes with it."""
SIGN_IN_MANAGER = ("elogind", "libpam-elogind")
"""Where no service manager brings one."""
PACKAGES = (
    "dbus",
    "polkitd",
    "pkexec",
    "udev",
    "python3",
    "python3-venv",
    "sudo",
    "procps",
    "cron",
    "openssh-server",
    "avahi-daemon",
    "at-spi2-core",
    "xdg-user-dirs",
    "tzdata",
    "locales",
    # What the window needs of the system.
    "libegl1",
    "libgl1",
    "libxkbcommon0",
    "libfontconfig1",
    "libglib2.0-0",
    "fonts-dejavu-core",
)
CALLED_BEFORE = {"bullseye": {"polkitd": "policykit-1", "pkexec": "policykit-1"}}
"""Packages that had other names in an older release. The program cannot be installed there, the
stick runs.
"""
USER, USER_ID = "bench", 1000
LANGUAGES = ("de_DE", "fr_FR", "tr_TR", "ja_JP")
MAY_BECOME_ROOT = f"etc/sudoers.d/{USER}"
ROOTS_PATH = "Defaults secure_path=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin\n"
"""As Debian has set it up to 13; sudo has no such path of its own since."""
LOG_SHOWN = 600


class NotHere(Exception):
    """No real PC can be had on this machine; says why."""


def kept_disk(started_by: str = MANAGED) -> Path:
    """The disk with this init system, built where it is missing or instructions are new.

    Raises:
        NotHere: with the reason.
    """
    if os.geteuid() != 0:
        raise NotHere("a real PC takes root")
    suite = _suite()
    name = suite if started_by == MANAGED else f"{suite}-{started_by}"
    disk, stamp = PLACE / name, PLACE / f"{name}-built-from"
    wanted = _instructions(name)
    PLACE.mkdir(parents=True, exist_ok=True)
    with FileLock(PLACE / "lock"):
        _get_tools()
        if not stamp.exists() or stamp.read_text() != wanted:
            stamp.unlink(missing_ok=True)
            shutil.rmtree(disk, ignore_errors=True)
            _build(disk, suite, started_by)
            stamp.write_text(wanted)
    return disk


def _suite() -> str:
    """The release to build. Raises NotHere."""
    return os.environ.get("PLUCKY_LEDGER_REAL_PC_RELEASE") or _own_suite()


def _own_suite() -> str:
    """The release that this machine runs: its own sources serve it. Raises NotHere."""
    known = platform.freedesktop_os_release()
    if known.get("ID") != "debian" or "VERSION_CODENAME" not in known:
        raise NotHere(f"it takes a release of Debian, and this is {known.get('PRETTY_NAME')}")
    return known["VERSION_CODENAME"]


def _instructions(name: str) -> str:
    files = (Path(__file__), Path(entries.__file__), Path(scripts.__file__))
    text = b"".join(file.read_bytes() for file in files)
    return hashlib.sha256(name.encode() + text).hexdigest()


def _get_tools() -> None:
    missing = [package for tool, package in TOOLS.items() if shutil.which(tool) is None]
    if missing and shutil.which("apt-get") is None:
        raise NotHere(f"it takes {' and '.join(missing)}")
    if missing:
        run("apt-get", "-qq", "update")
        run("apt-get", "-qq", "install", "-y", "--no-install-recommends", "arch-test", *missing)


def _build(disk: Path, suite: str, started_by: str) -> None:
    managed = started_by == MANAGED
    wanted = (*STARTED_BY[started_by], *(() if managed else SIGN_IN_MANAGER), *PACKAGES)
    packages = [CALLED_BEFORE.get(suite, {}).get(name, name) for name in wanted]
    run(
        "mmdebstrap",
        "--quiet",
        "--variant=minbase",
        f"--include={','.join(packages)}",
        '--aptopt=APT::Install-Recommends "false"',
        suite,
        str(disk),
        "-",
        given=_sources(suite),
    )
    for language in LANGUAGES:
        made = f"/usr/lib/locale/{language}.utf8"
        run("chroot", str(disk), "localedef", "-i", language, "-f", "UTF-8", made)
    (disk / "etc/hostname").write_text("ticketdesk\n")
    (disk / "etc/hosts").write_text("127.0.0.1 localhost ticketdesk\n")
    (disk / "var/log/journal").mkdir(exist_ok=True)
    run("chroot", str(disk), "useradd", "-m", "-u", str(USER_ID), "-s", "/bin/bash", USER)
    (disk / MAY_BECOME_ROOT).write_text(f"{ROOTS_PATH}{USER} ALL=(ALL) NOPASSWD: ALL\n")
    if managed:
        entries.write(disk)
    else:
        scripts.write(disk, started_by)
    run("chroot", str(disk), "chown", "-R", f"{USER}:{USER}", f"/home/{USER}")


def _sources(suite: str) -> str:
    """Where this machine gets its own packages from, or those of another release from the same
    archive. Raises NotHere.
    """
    apt, own = Path("/etc/apt"), _own_suite()
    for file in (*apt.glob("sources.list.d/*"), apt / "sources.list"):
        text = file.read_text() if file.is_file() else ""
        if own in text and "/debian" in text and file.suffix in {".sources", ".list"}:
            if suite == own:
                return text
            archive = next(word for word in text.split() if word.endswith("/debian"))
            # A copy of the archive may be older than a changing release says it may be used.
            return f"deb [check-valid-until=no] {archive} {suite} main\n"
    raise NotHere(f"this machine's packages are not from {own}")


def run(*command: str, given: str = "") -> None:
    """Run a command to its end. Raises NotHere with what it complained of."""
    done = subprocess.run(command, input=given, capture_output=True, text=True, check=False)
    if done.returncode:
        raise NotHere(f"{command[0]} failed: {done.stderr[-LOG_SHOWN:].strip()}")


if __name__ == "__main__":
    sys.stdout.write(f"{kept_disk()}\n")
