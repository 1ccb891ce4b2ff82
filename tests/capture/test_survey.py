"""Disk space: every file counted once, in the heap it belongs to."""

import os
import subprocess
import sys

import msgspec
import pytest

from plucky_ledger.capture.administrator import survey_of_the_system
from plucky_ledger.capture.hardware import survey as surveyed
from plucky_ledger.capture.hardware.survey import survey
from plucky_ledger.core.pc.room import CLEARING, Clearing, HeapKind, Survey
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux import administrator as of_linux
from plucky_ledger.wording.room import room_basis
from tests.helpers.users import needs_administrator

MEGABYTE = 10**6


@pytest.fixture
def drive(tmp_path, monkeypatch):
    """A drive below a folder; writes a file of so many megabytes."""
    monkeypatch.setattr(surveyed, "LEAST_BYTES", MEGABYTE)

    def write(path, megabytes):
        file = tmp_path / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(os.urandom(int(megabytes * MEGABYTE)))
        return file

    write.root = tmp_path
    return write


def found(drive, progress=lambda _files, _folder: True):
    told = survey(progress, drive.root, running="6.1.0-21")
    return told, {
        (heap.kind, heap.path.removeprefix(f"{drive.root}/")): heap for heap in told.heaps
    }


def test_each_file_is_counted_once_in_its_heap(drive):
    drive("var/cache/apt/archives/a.deb", 3)
    drive("var/log/journal/x.journal", 2)
    drive("home/desk/.local/share/Trash/files/old.iso", 4)
    drive("home/desk/.cache/thumbnails/large/1.png", 2)
    drive("home/desk/.cache/viewer/data", 5)
    drive("lib/modules/6.1.0-18/kernel.ko", 2)
    drive("lib/modules/6.1.0-21/kernel.ko", 2)
    drive("boot/vmlinuz-6.1.0-18", 1)
    drive("boot/vmlinuz-6.1.0-21", 1)
    scan = drive("home/desk/Scans/2026/a.tif", 6)
    os.link(scan, drive.root / "home/desk/Scans/again.tif")
    (drive.root / "home/desk/Scans/link.tif").symlink_to(scan)
    (drive.root / "home/desk/odd\udcff\nname").mkdir()
    told, heaps = found(drive)
    kinds = {kind: heap.size_bytes / MEGABYTE for (kind, _), heap in heaps.items()}
    for kind, megabytes in (
        (HeapKind.PACKAGE_CACHE, 3),
        (HeapKind.LOGS, 2),
        (HeapKind.BIN, 4),
        (HeapKind.THUMBNAILS, 2),
        (HeapKind.PROGRAM_CACHES, 5),
        (HeapKind.OLD_KERNELS, 3),
        (HeapKind.SYSTEM, 3),
    ):
        assert kinds[kind] == pytest.approx(megabytes, rel=0.02), kind
    scans = heaps[HeapKind.FOLDER, "home/desk/Scans"]
    assert scans.size_bytes == pytest.approx(6 * MEGABYTE, rel=0.02)
    assert told.whole
    assert sum(heap.size_bytes for heap in told.heaps) <= told.counted_bytes
    assert [heap.size_bytes for heap in told.heaps] == sorted(
        (heap.size_bytes for heap in told.heaps), reverse=True
    )


def test_it_can_be_stopped_and_tells_what_it_had(drive, monkeypatch):
    monkeypatch.setattr(surveyed, "TELL_EVERY", 5)
    for index in range(40):
        drive(f"srv/f{index}", 0.1)
    told, _heaps = found(drive, lambda files, _folder: files < 10)
    assert not told.whole
    assert 10 <= told.files < 40


def test_what_may_not_be_looked_into_is_counted(drive, monkeypatch):
    drive("home/desk/secret/a", 2)
    opened = surveyed._opened

    def refused(path):
        if str(path).endswith("secret"):
            raise PermissionError(13, "denied")
        return opened(path)

    monkeypatch.setattr(surveyed, "_opened", refused)
    told, _heaps = found(drive)
    assert told.unreadable == 1


def test_what_lies_deeper_than_the_longest_path_is_counted(drive, monkeypatch):
    """Sixty folders with names of two hundred characters, and a file at the bottom."""
    handle, name = os.open(drive.root, os.O_DIRECTORY), "é" * 100
    for _ in range(60):
        os.mkdir(name, dir_fd=handle)
        below = os.open(name, os.O_DIRECTORY, dir_fd=handle)
        os.close(handle)
        handle = below
    file = os.open("file", os.O_WRONLY | os.O_CREAT, dir_fd=handle)
    os.write(file, os.urandom(MEGABYTE))
    os.close(file)
    os.close(handle)
    told, _heaps = found(drive)
    assert (told.files, told.unreadable, told.too_deep) == (1, 0, 0)
    monkeypatch.setattr(surveyed, "LONGEST_PATH", 3_000)
    told, _heaps = found(drive)
    assert (told.files, told.too_deep) == (0, 1)
    assert "1 folder is nested too deep" in room_basis(told)


def test_a_name_that_is_no_text_is_told_as_one(drive):
    """So that the administrator's answer can be sent at all."""
    file = drive("srv/kept/file", 2)
    odd = os.fsencode(drive.root) + b"/srv/\xff\xfe\n"
    os.rename(file.parent, odd)
    told, _heaps = found(drive)
    assert any("\ufffd" in heap.path for heap in told.heaps)
    assert msgspec.json.decode(msgspec.json.encode(told), type=Survey) == told


SURVEYED = """
import sys
from pathlib import Path
from plucky_ledger.capture.hardware import survey as surveyed
from plucky_ledger.wording.room import room_basis
told = surveyed.survey(lambda *_: True, Path(sys.argv[1]), running="x")
print(told.files, told.again, told.elsewhere, told.unreadable, room_basis(told))
"""


@needs_administrator
def test_what_is_mounted_twice_counts_once_and_other_drives_are_named(drive):
    drive("srv/data/file", 2)
    for name in ("again", "other"):
        (drive.root / name).mkdir()
    mounted = (
        f"mount --bind {drive.root}/srv {drive.root}/again && "
        f"mount -t tmpfs none {drive.root}/other && touch {drive.root}/other/not-counted && "
        f"exec {sys.executable} -c '{SURVEYED}' {drive.root}"
    )
    done = subprocess.run(
        ["unshare", "-m", "sh", "-c", mounted], capture_output=True, text=True, check=False
    )
    if "mount" in done.stderr or done.stderr.startswith("unshare"):
        pytest.skip(f"nothing may be mounted here: {done.stderr.strip()}")
    assert done.stdout.startswith("1 1 1 0 "), done
    assert "counted once" in done.stdout
    assert "of another file system was left out" in done.stdout


def test_every_kind_of_heap_says_what_clearing_costs():
    assert set(CLEARING) == set(HeapKind)
    assert CLEARING[HeapKind.SYSTEM] is Clearing.NEVER


def test_the_administrator_tells_how_far_it_is_and_stops_when_nobody_wants_more(monkeypatch):
    """In a process of its own, as it is asked: the whole drive, but ended at the first word."""
    monkeypatch.setattr(of_linux, "_becoming", lambda: ["env"])
    told = []

    def progress(files, folder):
        told.append((files, folder))
        return False

    found = survey_of_the_system(progress)
    assert told[0][0] == surveyed.TELL_EVERY
    assert not found.whole
    assert found.files >= told[0][0]
    monkeypatch.setattr(of_linux, "_becoming", lambda: ["false"])
    with pytest.raises(Refused):
        survey_of_the_system(progress)
