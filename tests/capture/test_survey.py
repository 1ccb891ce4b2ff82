"""What takes the room: every file counted once, in the heap it belongs to."""

import os

import pytest

from plucky_ledger.capture import survey as surveyed
from plucky_ledger.capture.administrator import survey_of_the_system
from plucky_ledger.capture.survey import survey
from plucky_ledger.core.pc.room import CLEARING, Clearing, HeapKind
from plucky_ledger.core.trouble import Refused
from plucky_ledger.linux import administrator as of_linux

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
        (HeapKind.PACKAGE_CACHE, 3), (HeapKind.LOGS, 2), (HeapKind.BIN, 4),
        (HeapKind.THUMBNAILS, 2), (HeapKind.PROGRAM_CACHES, 5), (HeapKind.OLD_KERNELS, 3),
        (HeapKind.SYSTEM, 3),
    ):  # fmt: skip
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
    walk = os.scandir

    def refused(path):
        if str(path).endswith("secret"):
            raise PermissionError(13, "denied")
        return walk(path)

    monkeypatch.setattr(os, "scandir", refused)
    told, _heaps = found(drive)
    assert told.unreadable == 1


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
