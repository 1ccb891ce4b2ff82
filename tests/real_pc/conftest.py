"""A real PC with the program installed from its wheel, one for all tests that need it.

Skipped, with the reason, where none can be had; with PLUCKY_LEDGER_REAL_PC_NEEDED set that fails.
"""

import os
import shutil

import pytest

from tests.real_pc.disk import NotHere
from tests.real_pc.install import installed_disk
from tests.real_pc.pc import RealPc


@pytest.fixture(scope="session")
def real_pc(tmp_path_factory):
    """The PC, off at first, and off in the end."""
    try:
        disk = installed_disk(tmp_path_factory.mktemp("real-pc"))
    except NotHere as reason:
        if os.environ.get("PLUCKY_LEDGER_REAL_PC_NEEDED"):
            raise
        pytest.skip(f"no real PC here: {reason}")
    pc = RealPc(disk)
    yield pc
    pc.switch_off()
    shutil.rmtree(disk, ignore_errors=True)
