"""A real PC with the program installed from its wheel, one for all tests that need it.

Skipped, with the reason, where none can be had; with PLUCKY_LEDGER_REAL_PC_NEEDED set that fails.
"""

import os
import shutil

import pytest

from tests.real_pc.disk import NotHere
from tests.real_pc.install import installed_disk
from tests.real_pc.pc import RealPc


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(call):
    """Wherever it is found out that no real PC can be had: skipped, or the one failure."""
    if call.excinfo is None or not isinstance(call.excinfo.value, NotHere):
        return (yield)
    reason = f"no real PC here: {call.excinfo.value}"
    if os.environ.get("PLUCKY_LEDGER_REAL_PC_NEEDED"):
        pytest.exit(reason, returncode=1)
    else:
        with pytest.raises(pytest.skip.Exception) as call.excinfo:
            pytest.skip(reason)
    return (yield)


@pytest.fixture(autouse=True)
def no_process_left_behind():
    """The PC stays on from one test to the next; it goes off in the end."""


@pytest.fixture(scope="session")
def real_pc(tmp_path_factory):
    """The PC, off at first, and off in the end."""
    disk = installed_disk(tmp_path_factory.mktemp("real-pc"))
    pc = RealPc(disk)
    yield pc
    pc.switch_off()
    shutil.rmtree(disk, ignore_errors=True)
