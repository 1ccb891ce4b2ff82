"""One stick with FAT on it (no modes, no links) in two real PCs of different releases, in turns.

This machine's kernel may not know FAT: a program in user space does, here and in the PCs.
"""

import shutil
import subprocess
import time
from contextlib import contextmanager
from pathlib import Path

import pytest

from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.stick.archive import FILE, write_stick
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.recording.sticks import (
    STILL_COPIED_SECONDS,
    Known,
    look,
    on_a_stick,
    take_in_from,
)
from plucky_ledger.wording.stick import guide, words_of_the_stick
from tests.real_pc.disk import NotHere, kept_disk, run
from tests.real_pc.entries import STARTING
from tests.real_pc.pc import RealPc
from tests.real_pc.test_stick import (
    assert_it_is_whole,
    everything,
    look_on_no_longer,
    wait_until_recorded,
)
from tests.real_pc.use import switched_on

TOOLS = {"fusefat": "fusefat", "mkfs.vfat": "dosfstools"}
STICK, IMAGE, PROGRAM = "/media/fat", "/var/tmp/stick.img", "/opt/fat"
MEGABYTES = 40
OF_THE_SYSTEM = ("libc.so", "libm.so", "libpthread.so", "ld-linux", "linux-vdso")
COARSEST_SECONDS = 2.0
"""FAT tells no finer when a file was changed."""
EARLY_SECONDS = 8.0
OTHER_RELEASE = "trixie"


@pytest.fixture
def image(tmp_path):
    """A stick as it comes from the shop, with our program put on it."""
    missing = [package for tool, package in TOOLS.items() if shutil.which(tool) is None]
    if missing:
        run("apt-get", "-qq", "install", "-y", "--no-install-recommends", *missing)
    path = tmp_path / "stick.img"
    with path.open("wb") as file:
        file.truncate(MEGABYTES << 20)
    run("mkfs.vfat", "-F", "32", str(path))
    with mounted_here(path, tmp_path / "here") as folder:
        write_stick(folder, words_of_the_stick, guide(FILE))
    return path


@contextmanager
def mounted_here(image, folder, how="rw+"):
    """The stick is in the bench's PC meanwhile."""
    folder.mkdir(exist_ok=True)
    subprocess.run(["fusefat", "-o", how, image, folder], check=True, capture_output=True)
    try:
        yield folder
    finally:
        run("umount", str(folder))


class Bare:
    """A PC with nothing of ours, in which the stick is or is not."""

    def __init__(self, folder, suite, monkeypatch):
        monkeypatch.setenv("PLUCKY_LEDGER_REAL_PC_RELEASE", suite)
        self.disk = folder / suite
        run("cp", "-a", "--reflink=auto", str(kept_disk()), str(self.disk))
        self.pc = RealPc(self.disk)
        program = self.pc.path(PROGRAM)
        program.mkdir()
        fusefat = shutil.which("fusefat")
        needs = subprocess.run(["ldd", fusefat], check=True, capture_output=True, text=True).stdout
        libraries = [words[2] for words in map(str.split, needs.splitlines()) if len(words) > 3]
        for file in (fusefat, *libraries):
            if not Path(file).name.startswith(OF_THE_SYSTEM):
                shutil.copy(file, program)
        switched_on(self.pc)

    def put_in(self, image):
        shutil.copy(image, self.pc.path(IMAGE))
        self.pc.run("mkdir", "-p", STICK)
        mount = f"LD_LIBRARY_PATH={PROGRAM} {PROGRAM}/fusefat -o rw+,allow_other {IMAGE} {STICK}"
        self.pc.run("sh", "-c", f"{mount} > /dev/null 2>&1")

    def pull(self, image):
        """Without a word to the PC."""
        self.pc.run("pkill", "-KILL", "fusefat")
        self.pc.run("umount", "-l", STICK)
        shutil.copy(self.pc.path(IMAGE), image)

    def tried(self, *options, administrator=False):
        asked = ("sudo",) if administrator else ()
        return self.pc.tried(*asked, "sh", f"{STICK}/{FILE}", *options, user=True, timeout=400.0)

    def does(self, *options, administrator=False):
        done = self.tried(*options, administrator=administrator)
        assert done.returncode == 0, f"{options}: {done.stdout}{done.stderr}"
        return done.stdout

    def recorded_without_the_stick(self):
        """The armed boot, with the stick in another PC."""
        self.pc.restart()
        switched_on(self.pc)
        (recorded,) = wait_until_recorded(self.pc, 1)
        look_on_no_longer(self.pc, recorded)


@pytest.fixture
def two_pcs(tmp_path, monkeypatch, image):
    """Of two releases."""
    if not Path("/dev/fuse").exists():
        raise NotHere("file systems in user space are not to be had")
    own = kept_disk().name
    pcs = [Bare(tmp_path, suite, monkeypatch) for suite in (own, OTHER_RELEASE)]
    yield pcs
    for one in pcs:
        one.pc.cut_power()
        shutil.rmtree(one.disk)


@pytest.mark.long
def test_one_fat_stick_goes_from_pc_to_pc(two_pcs, image, tmp_path):
    before = [everything(one.pc) for one in two_pcs]
    for one in two_pcs:
        one.put_in(image)
        assert "On the stick now: 1" in one.does("--record-now", "6")
        assert "Nothing of a boot is missed" in one.does("--next-boots", "1", administrator=True)
        one.pull(image)
        one.recorded_without_the_stick()
    for one in two_pcs:
        one.put_in(image)
        assert_a_full_stick_loses_nothing(one)
        assert "On the stick now: 1" in one.does("--bring")
        assert "No recording waits" in one.does("--bring")
        one.pull(image)
    assert [everything(one.pc) for one in two_pcs] == before
    assert_the_bench_knows_two_pcs(image, tmp_path)


def assert_a_full_stick_loses_nothing(one):
    filler = f"{STICK}/filler"
    one.pc.tried("sh", "-c", f"head -c {MEGABYTES << 20} /dev/zero > {filler}")
    refused = one.tried("--bring")
    assert refused.returncode == 1
    assert "They stay on this PC" in refused.stdout
    one.pc.run("rm", filler)


def assert_the_bench_knows_two_pcs(image, tmp_path):
    """Each has its own job, with both of its recordings, once; the stick is only read."""
    time.sleep(STILL_COPIED_SECONDS + COARSEST_SECONDS)
    with (
        mounted_here(image, tmp_path / "bench", "ro") as folder,
        Ledger(tmp_path / "bench.ledger") as ledger,
    ):
        found = look(ledger, on_a_stick(folder), Known())
        assert [len(pc.new) for pc in found] == [2, 2]
        assert len({pc.machine for pc in found}) == 2
        assert [taken.boots for taken in take_in_from(ledger, found)] == [2, 2]
        assert look(ledger, on_a_stick(folder), Known()) == ()
        armed = [path for pc in found for path in pc.new if begins_with_the_boot(path)]
        assert len(armed) == 2
        for path in armed:
            assert_it_is_whole(path, STARTING)


def begins_with_the_boot(path):
    """Not with somebody who asked for it."""
    return boot_from_bytes(path.read_bytes()).timeline.samples.seconds[0] < EARLY_SECONDS
