"""The program on the real PC's disk, as a technician would install it: from its wheel, with pip."""

import shutil
import sys
from pathlib import Path

from tests.real_pc.disk import kept_disk, run

PROJECT = Path(__file__).parents[2]
IN_WHEELS = "/tmp/wheels"


def installed_disk(folder: Path) -> Path:
    """A copy of the kept disk with the program installed. Raises NotHere."""
    disk = folder / "disk"
    run("cp", "-a", "--reflink=auto", str(kept_disk()), str(disk))
    wheels = disk / IN_WHEELS.lstrip("/")
    run(sys.executable, "-m", "pip", "wheel", "--quiet", "--wheel-dir", str(wheels),
         "--constraint", str(PROJECT / "constraints.txt"), str(PROJECT))  # fmt: skip
    run("chroot", str(disk), "python3", "-m", "venv", "/opt/plucky")
    run("chroot", str(disk), "/opt/plucky/bin/pip", "install", "--quiet", "--no-index",
         "--find-links", IN_WHEELS, "plucky-ledger")  # fmt: skip
    (disk / "usr/local/bin/plucky-ledger").symlink_to("/opt/plucky/bin/plucky-ledger")
    shutil.rmtree(wheels)
    return disk
