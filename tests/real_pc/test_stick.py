"""The stick on real PCs that have nothing of ours: records, arms, is pulled, and brings it home."""

import os
import shutil
import time

import pytest

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.stick.archive import FILE, write_stick
from plucky_ledger.stick.kept import QUIET_SECONDS
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.recording.boots import import_recording
from plucky_ledger.wording.stick import guide, words_of_the_stick
from tests.real_pc import scripts
from tests.real_pc.disk import MANAGED, USER_ID, kept_disk, run
from tests.real_pc.entries import STARTING
from tests.real_pc.pc import RealPc
from tests.real_pc.use import switched_on

STICK = "/media/stick"
ON_THE_PC = "/home/bench/.local/share/plucky-ledger/from-stick"
RECORDED_WITHIN_SECONDS = 330.0
MOST_CPU_SHARE = 0.02
"""Of one core, in the long run: what the installed recorder may take as well."""


class Stick:
    """Is in the PC, or is not."""

    def __init__(self, pc):
        self.pc, self.folder = pc, pc.path(STICK)
        write_stick(self.folder, words_of_the_stick, guide(FILE))
        shutil.chown(self.folder, USER_ID, USER_ID)

    def does(self, *options, administrator=False):
        """What its program prints on the PC."""
        asked = ("sudo",) if administrator else ()
        return self.pc.run(*asked, "sh", f"{STICK}/{FILE}", *options, user=True, timeout=400.0)

    def pull(self):
        self.folder.rename(self.folder.with_name("pulled"))

    def put_in(self):
        self.folder.with_name("pulled").rename(self.folder)

    @property
    def recordings(self):
        return sorted(self.folder.rglob("*.jsonl*"), key=lambda path: path.stat().st_mtime)


@pytest.fixture
def bare_pc(tmp_path, request):
    """One on which nothing of ours was ever installed."""
    disk = tmp_path / "disk"
    run("cp", "-a", "--reflink=auto", str(kept_disk(request.param)), str(disk))
    pc = RealPc(disk)
    yield pc
    pc.cut_power()
    shutil.rmtree(disk)


def waits_on_the_pc(pc):
    return sorted(pc.path(ON_THE_PC).glob("*.jsonl*"))


def wait_until_recorded(pc, boots):
    """So many recordings are finished, whatever is looked at after that."""
    deadline = time.monotonic() + RECORDED_WITHIN_SECONDS
    while True:
        whole = [path for path in waits_on_the_pc(pc) if is_finished(path)]
        if len(whole) == boots:
            return whole
        assert time.monotonic() < deadline, waits_on_the_pc(pc)
        time.sleep(1.0)


def look_on_no_longer(pc, recorded):
    """A boot that settled is looked on, slowly: whoever does not wait for that ends it."""
    if boot_from_bytes(recorded.read_bytes()).goes_on:
        pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
        time.sleep(QUIET_SECONDS)


def is_finished(path):
    recorded = boot_from_bytes(path.read_bytes())
    return not recorded.boot.cut_short


def everything(pc):
    """Where an arming may leave something, but for what was there before."""
    folders = ("etc", "var/lib", "home/bench/.config", "home/bench/.local")
    found = (path for folder in folders for path in pc.path(folder).rglob("*plucky*"))
    return {str(path.relative_to(pc.disk)) for path in found}


@pytest.mark.usefixtures("at_ease")
def test_a_boot_by_the_stick_on_a_pc_that_has_the_program_too(real_pc):
    """Its own copy does not get in the way of the installed program's."""
    switched_on(real_pc)
    before = everything(real_pc)
    stick = Stick(real_pc)
    assert "On the stick now: 1" in stick.does("--record-now", "8")
    assert "brassbell-notifier" in stick.does("--list")
    assert "Nothing of a boot is missed" in stick.does("--next-boots", "1", administrator=True)
    stick.pull()
    real_pc.restart()
    switched_on(real_pc)
    (recorded,) = wait_until_recorded(real_pc, 1)
    stick.put_in()
    if boot_from_bytes(recorded.read_bytes()).goes_on:  # a PC that never came to rest is not
        assert "No recording waits" in stick.does("--bring")
    look_on_no_longer(real_pc, recorded)
    assert "On the stick now: 1" in stick.does("--bring")
    *_, boot = stick.recordings
    assert_it_is_whole(boot, STARTING)
    assert everything(real_pc) == before
    shutil.rmtree(stick.folder)


@pytest.mark.long
@pytest.mark.parametrize("bare_pc", [MANAGED], indirect=True)
def test_on_a_pc_with_nothing_of_ours(bare_pc, tmp_path):
    switched_on(bare_pc)
    before = everything(bare_pc)
    stick = Stick(bare_pc)
    stick.does("--record-now", "30")
    (now,) = stick.recordings
    samples = boot_from_bytes(now.read_bytes()).timeline.samples
    assert samples.own_cpu_seconds[-1] < MOST_CPU_SHARE * 30 + 1.0
    assert "Nothing was to be recorded here" in stick.does("--take-back")
    stick.does("--next-boots", "2", administrator=True)
    bare_pc.restart()
    switched_on(bare_pc)
    wait_until_recorded(bare_pc, 1)
    stick.pull()
    bare_pc.restart()
    switched_on(bare_pc)
    assert len(wait_until_recorded(bare_pc, 2)) == 2
    stick.put_in()
    bare_pc.restart()
    switched_on(bare_pc)
    assert everything(bare_pc) == before | {ON_THE_PC.strip("/").rpartition("/")[0]}
    assert "On the stick now: 2" in stick.does("--bring")
    assert everything(bare_pc) == before
    for boot in stick.recordings[1:]:
        assert_it_is_whole(boot, STARTING)
    assert_the_bench_takes_it(stick.recordings[1:], tmp_path)
    assert_from_sign_in_and_cut_off(bare_pc, stick, before)
    assert "Boots read from the log" in stick.does("--past-boots", administrator=True)
    assert len([path for path in stick.recordings if path.name.startswith("log-")]) > 2
    assert_nothing_is_lost_on_a_full_stick(bare_pc, stick)


def assert_from_sign_in_and_cut_off(pc, stick, before):
    """Armed by the person alone; the power goes in the middle of the first boot."""
    assert "begins at the sign-in" in stick.does("--next-boots", "2")
    pc.restart()
    pc.switch_on()
    deadline = time.monotonic() + RECORDED_WITHIN_SECONDS
    while not waits_on_the_pc(pc) and time.monotonic() < deadline:
        time.sleep(0.5)
    time.sleep(6.0)
    pc.cut_power()
    switched_on(pc)
    wait_until_recorded(pc, 1)
    told = stick.does("--take-back")
    assert "Every trace is removed" in told
    assert "On the stick now: 2" in stick.does("--bring")
    assert everything(pc) == before
    cut = [path for path in stick.recordings if boot_from_bytes(path.read_bytes()).boot.cut_short]
    assert len(cut) == 1


def assert_nothing_is_lost_on_a_full_stick(pc, stick):
    """Nor on one that may only be read."""
    before = set(stick.recordings)
    stick.does("--record-now", "5")
    (recorded,) = set(stick.recordings) - before
    kept = pc.path(ON_THE_PC) / recorded.name
    pc.run("mkdir", "-p", ON_THE_PC, user=True)
    shutil.move(recorded, kept)
    os.chown(kept, USER_ID, USER_ID)
    pc.run("mkdir", "/media/full")
    pc.run("mount", "-t", "tmpfs", "-o", f"size=300k,uid={USER_ID}", "tmpfs", "/media/full")
    pc.run("cp", f"{STICK}/{FILE}", "/media/full/")
    pc.run("sh", "-c", "head -c 60000 /dev/zero > /media/full/filler || true")
    for _ in range(2):
        done = pc.tried("sh", f"/media/full/{FILE}", "--bring", user=True)
        assert done.returncode == 1
        assert "They stay on this PC" in done.stdout
        assert kept.exists()
        pc.run("mount", "-o", "remount,ro,size=2m", "/media/full")
    assert "On the stick now: 1" in stick.does("--bring")
    assert set(stick.recordings) == before | {recorded}


@pytest.mark.long
@pytest.mark.parametrize("bare_pc", ["sysvinit"], indirect=True)
def test_on_a_pc_without_a_service_manager(bare_pc):
    bare_pc.switch_on()
    bare_pc.wait_until_up()
    before = everything(bare_pc)
    stick = Stick(bare_pc)
    stick.does("--next-boots", "1", administrator=True)
    bare_pc.restart()
    bare_pc.switch_on()
    bare_pc.wait_until_up()
    wait_until_recorded(bare_pc, 1)
    bare_pc.restart()
    bare_pc.switch_on()
    bare_pc.wait_until_up()
    stick.does("--bring")
    (boot,) = stick.recordings
    assert_it_is_whole(boot, {f"init:{name}" for name in (scripts.TIDECLOCK, scripts.LANTERNPRINT)})
    assert everything(bare_pc) == before


def assert_it_is_whole(path, starting):
    recorded = boot_from_bytes(path.read_bytes())
    assert not recorded.boot.cut_short
    assert {Mark.SYSTEM_UP, Mark.SIGNED_IN} <= set(recorded.boot.marks)
    assert {entry.entry_id for entry in recorded.timeline.entries} >= set(starting)
    assert {one.entry_id for one in recorded.timeline.activities} >= set(starting)
    assert len(recorded.timeline.runs) > 20


def assert_the_bench_takes_it(paths, tmp_path):
    """Each is a boot of the job, once."""
    with Ledger(tmp_path / "bench.ledger") as ledger:
        number = take_in(ledger, Card("", "Stick PC"), Facts())
        for path in paths:
            import_recording(ledger, number, path)
        boots = read_job(ledger, number).boots
    assert len(boots) == len(paths)
    assert all(boot.marks[Mark.SYSTEM_UP] > 0 for boot in boots)
