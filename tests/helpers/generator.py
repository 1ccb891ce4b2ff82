"""The service manager's own generator for sign-in programs: of this machine's release, or from the
disk of the real PC of the release that $PLUCKY_LEDGER_REAL_PC_RELEASE names.
"""

import os
from pathlib import Path

GENERATOR = "usr/lib/systemd/user-generators/systemd-xdg-autostart-generator"
LIBRARIES = ("usr/lib/{}", "usr/lib/{}/systemd", "usr/lib/systemd")
LACKS = "it takes the service manager's generator"


def generator() -> list[str]:
    """The command that runs it, on the folders that follow; empty where there is none."""
    release = os.environ.get("PLUCKY_LEDGER_REAL_PC_RELEASE")
    if not release:
        own = Path("/") / GENERATOR
        return [str(own)] if own.exists() else []
    from tests.real_pc.disk import kept_disk

    disk = kept_disk()
    (loader,) = (disk / "usr/lib").glob("*-linux-gnu/ld-linux-*")
    folders = (str(disk / folder.format(loader.parent.name)) for folder in LIBRARIES)
    return [str(loader), "--library-path", ":".join(folders), str(disk / GENERATOR)]
