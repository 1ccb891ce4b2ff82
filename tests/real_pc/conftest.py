"""A real PC with the program installed from its wheel, switched on once for all tests that need it.

Skipped, with the reason, where none can be had; with PLUCKY_LEDGER_REAL_PC_NEEDED set that fails.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.real_pc.disk import NotHere, kept_disk
from tests.real_pc.pc import RealPc, copy_of

PROJECT = Path(__file__).parents[2]
IN_WHEELS = "/tmp/wheels"


@pytest.fixture(scope="session")
def disk(tmp_path_factory):
    """A disk with the program installed."""
    try:
        folder = tmp_path_factory.mktemp("real-pc")
        copy = copy_of(kept_disk(), folder)
        _install(copy)
    except NotHere as reason:
        if os.environ.get("PLUCKY_LEDGER_REAL_PC_NEEDED"):
            raise
        pytest.skip(f"no real PC here: {reason}")
    yield copy
    shutil.rmtree(copy, ignore_errors=True)


@pytest.fixture(scope="session")
def real_pc(disk):
    """The PC, off at first, and off in the end."""
    pc = RealPc(disk)
    yield pc
    pc.switch_off()


def _install(disk: Path) -> None:
    """As a technician would with pip, from wheels that lie on the disk."""
    wheels = disk / IN_WHEELS.lstrip("/")
    _run(sys.executable, "-m", "pip", "wheel", "--quiet", "--wheel-dir", str(wheels),
         "--constraint", str(PROJECT / "constraints.txt"), str(PROJECT))  # fmt: skip
    pip = ("chroot", str(disk), "/opt/plucky/bin/pip", "install", "--quiet", "--no-index")
    _run("chroot", str(disk), "python3", "-m", "venv", "/opt/plucky")
    _run(*pip, "--find-links", IN_WHEELS, "plucky-ledger")
    (disk / "usr/local/bin/plucky-ledger").symlink_to("/opt/plucky/bin/plucky-ledger")
    shutil.rmtree(wheels)


def _run(*command: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode:
        raise NotHere(f"{command[0]} failed: {done.stderr[-600:].strip()}")
