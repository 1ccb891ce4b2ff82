"""PCs whose services an init system starts: recorded, charged, switched and put back."""

import os
import shutil
import time

import pytest

from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.kinds import id_of_script
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.reading.analyses import Analyses
from tests.real_pc.disk import USER
from tests.real_pc.install import installed_disk
from tests.real_pc.pc import RealPc
from tests.real_pc.scripts import DESK, FOGHORN, LANTERNPRINT, TIDECLOCK
from tests.real_pc.use import SHARE, ledger_command, recordings

RECORDED_WITHIN_SECONDS = 330.0
HANDED_WITHIN_SECONDS = 420.0
DROP = f"/home/{USER}/drop"
SETTINGS = ("init.d", "rc*.d", "runlevels/*", "sv/*", "runit/runsvdir/*")
MADE_BY_ITSELF = (".depend.", "supervise", "getty-")


@pytest.fixture(params=["sysvinit", "openrc", "runit"])
def pc(tmp_path, request):
    """One that is switched on, and off in the end."""
    pc = RealPc(installed_disk(tmp_path, request.param))
    pc.switch_on()
    yield pc
    pc.cut_power()
    shutil.rmtree(pc.disk)


@pytest.mark.long
def test_a_pc_without_a_service_manager(pc, tmp_path):
    pc.wait_until_up()
    at_first = settings(pc)
    job = ledger_command(pc, "take-in", "--this-pc", "--new", "Other PC").strip()
    ledger_command(pc, "arm", job, "--system", "--boots", "1", "--look-on", "0")
    assert settings(pc) != at_first
    restarted(pc)
    wait_until_recorded(pc)
    assert settings(pc) == at_first, "every trace of the arming is gone"
    ledger_command(pc, "pick-up", job)
    assert_it_is_known(pc, tmp_path, job)
    assert runs(pc, LANTERNPRINT)
    ledger_command(pc, "decide", job, id_of_script(LANTERNPRINT), "off")
    ledger_command(pc, "post", job)
    restarted(pc)
    assert not runs(pc, LANTERNPRINT)
    ledger_command(pc, "put-back", "--everything")
    assert settings(pc) == at_first, "put back byte for byte"
    restarted(pc)
    assert runs(pc, LANTERNPRINT)


@pytest.mark.long
def test_one_in_care_without_a_service_manager(pc):
    pc.wait_until_up()
    at_first = settings(pc)
    pc.run("runuser", "-u", USER, "--", "mkdir", DROP)
    job = ledger_command(pc, "take-in", "--this-pc", "--new", "Other PC").strip()
    options = ("--every", "1", "--keep", "1", "--hand-to", DROP, "--level", "system")
    ledger_command(pc, "care", job, *options)
    armed = set(settings(pc))
    assert armed > set(at_first)
    for boots in (1, 2):
        restarted(pc)
        wait_until_handed(pc, boots)
        assert set(settings(pc)) == armed, "it stays, and keeps count in a file of its own"
        assert len(recordings(pc)) == 1
    ledger_command(pc, "care", job, "--end")
    assert settings(pc) == at_first
    restarted(pc)
    assert not recorders(pc)


def assert_it_is_known(pc, tmp_path, job):
    copy = tmp_path / "copy.ledger"
    (ledger_file,) = pc.path(SHARE).glob("*.ledger")
    copy.write_bytes(ledger_file.read_bytes())
    with Ledger(copy) as ledger:
        number = find_job(ledger, job)
        (boot,) = read_job(ledger, number).boots
        analysis = Analyses().of(ledger, number, boot)
    assert boot.context.user == USER
    assert boot.marks[Mark.SYSTEM_UP] > 0
    assert boot.marks[Mark.SIGN_IN_SHOWN] < boot.marks[Mark.SIGNED_IN]
    entries = {entry.entry_id: entry for entry in analysis.timeline.entries}
    assert entries[id_of_script(FOGHORN)].off_because is not None
    for name in (TIDECLOCK, LANTERNPRINT, DESK):
        entry = entries[id_of_script(name)]
        assert entry.off_because is None
        assert not entry.part_of_system
    assert entries[id_of_script("bootlogs")].part_of_system
    assert analysis.attribution is not None
    work = analysis.attribution.work
    for name, seconds in ((TIDECLOCK, 3.0), (LANTERNPRINT, 2.0)):
        done = work[Owner(OwnerKind.ENTRY, id_of_script(name))].cpu_seconds[-1]
        assert done == pytest.approx(seconds, rel=0.15), name
    cpu, _read = analysis.attribution.explained_share(boot.marks[Mark.SIGNED_IN] + 10.0)
    assert cpu >= 0.9


def restarted(pc):
    pc.restart()
    pc.switch_on()
    pc.wait_until_up()


def runs(pc, name):
    """Whether its program runs, which may need a moment to start."""
    deadline = time.monotonic() + 20.0
    while time.monotonic() < deadline:
        if pc.tried("pgrep", "-f", f"/usr/local/sbin/{name}").stdout.strip():
            return True
        time.sleep(1.0)
    return False


def wait_until_recorded(pc):
    deadline = time.monotonic() + RECORDED_WITHIN_SECONDS
    while time.monotonic() < deadline:
        if recordings(pc) and not recorders(pc):
            return
        time.sleep(2.0)
    pytest.fail(f"{recordings(pc)} {pc.tried('ps', '-ef').stdout}")


def wait_until_handed(pc, boots):
    deadline = time.monotonic() + HANDED_WITHIN_SECONDS
    while len(handed := list(pc.path(DROP).glob("*/*.gz"))) < boots:
        assert time.monotonic() < deadline, (handed, pc.tried("ps", "-ef").stdout)
        time.sleep(2.0)
    time.sleep(3.0)  # the newest are kept once all are handed on


def recorders(pc):
    return pc.tried("pgrep", "-f", "lib/plucky-ledger/recorder").stdout.strip()


def settings(pc):
    """What the init system is told by, with every link and every byte."""
    etc = pc.path("/etc")
    paths = [path for pattern in SETTINGS for path in etc.glob(f"{pattern}/**/*")]
    found = {path: None for path in paths if not any(one in str(path) for one in MADE_BY_ITSELF)}
    for path in (*found, etc / "inittab"):
        if path.is_symlink():
            found[path] = os.readlink(path)
        elif path.is_file():
            found[path] = path.read_bytes()
    return found
