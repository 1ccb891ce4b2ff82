"""A real PC with the program installed from its wheel, one for all tests of a process that need it.

Skipped, with the reason, where none can be had; with PLUCKY_LEDGER_REAL_PC_NEEDED set that fails.
"""

import os
import shutil

import pytest
from filelock import FileLock

from tests.real_pc.disk import NotHere, kept_disk, run
from tests.real_pc.install import installed_disk
from tests.real_pc.pc import RealPc

FAILED = pytest.StashKey[bool]()
"""Whether a test has failed, for what tidies up behind it."""
NEEDED = bool(os.environ.get("PLUCKY_LEDGER_REAL_PC_NEEDED"))


def pytest_sessionstart(session):
    """Where it is needed and cannot be had, that is said once, before several processes try."""
    if NEEDED and not hasattr(session.config, "workerinput"):
        try:
            kept_disk()
        except NotHere as reason:
            pytest.exit(f"no real PC here: {reason}", returncode=1)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    """Wherever else it is found out that no real PC can be had: skipped, unless it is needed."""
    item.stash[FAILED] = item.stash.get(FAILED, False) or call.excinfo is not None
    if not NEEDED and call.excinfo is not None and isinstance(call.excinfo.value, NotHere):
        reason = f"no real PC here: {call.excinfo.value}"
        with pytest.raises(pytest.skip.Exception) as call.excinfo:
            pytest.skip(reason)
    return (yield)


@pytest.fixture(autouse=True)
def no_process_left_behind():
    """The PC stays on from one test to the next; it goes off in the end."""


@pytest.fixture(scope="session")
def installed_once(tmp_path_factory, worker_id):
    """The disk that every process has a copy of."""
    base = tmp_path_factory.getbasetemp()
    folder = (base if worker_id == "master" else base.parent) / "installed"
    with FileLock(folder.with_suffix(".lock")):
        if not folder.exists():
            half = folder.with_name("half-installed")
            shutil.rmtree(half, ignore_errors=True)
            half.mkdir()
            installed_disk(half)
            half.rename(folder)
    return folder / "disk"


@pytest.fixture(scope="session")
def real_pc(tmp_path_factory, installed_once):
    """The PC, off at first, and off in the end."""
    disk = tmp_path_factory.mktemp("real-pc") / "disk"
    run("cp", "-a", "--reflink=auto", str(installed_once), str(disk))
    pc = RealPc(disk)
    yield pc
    pc.switch_off()
    shutil.rmtree(disk, ignore_errors=True)


@pytest.fixture(scope="module")
def at_ease(real_pc):
    """What starts computes next to nothing meanwhile: each start takes the test machine ten seconds
    otherwise, where nobody looks at that work.
    """
    program = real_pc.path("/usr/local/bin/startup-work")
    as_it_is = program.read_text()
    assert as_it_is.count("wanted.compute") == 1
    program.write_text(as_it_is.replace("wanted.compute", "wanted.compute / 20"))
    yield
    program.write_text(as_it_is)
