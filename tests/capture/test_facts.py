"""What a PC has, from texts a PC could give, and the stopwatch that times one."""

import os

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.hardware import facts
from plucky_ledger.core.boots.marks import PERSON_MARKS, Mark
from plucky_ledger.core.boots.stopwatch import Stopwatch


@pytest.mark.parametrize(
    ("cpuinfo", "model"),
    [
        (
            "processor\t: 0\nmodel\t\t: 142\nmodel name\t: Some  CPU @ 2.40GHz\n",
            "Some CPU @ 2.40GHz",
        ),
        ("processor : 0\nHardware : Quay board\n", "Quay board"),
        ("cpu model : Harbour 24K\n", "Harbour 24K"),
        ("", ""),
    ],
)
def test_the_cpu_model_has_another_key_in_each_family(cpuinfo, model):
    assert facts._cpu_model(cpuinfo) == model


def made_up_blocks(folder, monkeypatch):
    """A drive with a partition, a volume stacked on it, and a loop that is no drive."""
    drive, partition, volume, loop = (folder / n for n in ("sda", "sda/sda1", "dm-0", "loop0"))
    for path in (drive / "queue", drive / "device", partition, volume / "slaves", loop):
        path.mkdir(parents=True)
    (drive / "size").write_text("1000000\n")
    (drive / "queue" / "rotational").write_text("0\n")
    (partition / "partition").write_text("1\n")
    (volume / "slaves" / "sda1").symlink_to(partition)
    (folder / "sda1").symlink_to(partition)
    monkeypatch.setattr(facts, "BLOCKS", folder)
    monkeypatch.setattr(facts, "BLOCK_CLASS", folder)


def test_free_space_belongs_to_the_drive_under_partition_and_volume(tmp_path, monkeypatch):
    made_up_blocks(tmp_path / "block", monkeypatch)
    assert facts._drives_under("sda1") == ["sda"]
    assert facts._drives_under("dm-0") == ["sda"]
    (drive,) = facts._drives()
    assert (drive.name, drive.rotating, drive.size_bytes) == ("sda", False, 512_000_000)
    mounts = f"/dev/sda1 {tmp_path} ext4 rw 0 0\n/dev/sda1 / ext4 rw 0 0\ntmpfs /tmp tmpfs rw 0 0\n"
    space = os.statvfs(tmp_path)
    free = facts._free_by_drive(mounts)
    assert free["sda"] == pytest.approx(space.f_bavail * space.f_frsize, rel=0.05)


def test_a_drive_that_a_host_makes_is_virtual_whatever_the_processor_says(monkeypatch):
    monkeypatch.setattr(facts, "_text", lambda path: "" if "cpuinfo" in str(path) else "0\n")
    monkeypatch.setattr(facts, "real_drives", lambda _blocks: {b"sda", b"vda"})
    monkeypatch.setattr(facts, "_number", lambda _path: 1000)
    assert [(drive.name, drive.virtual) for drive in facts._drives()] == [
        ("sda", False),
        ("vda", True),
    ]


@given(st.text(max_size=80))
def test_odd_mount_tables_break_nothing(text):
    facts._free_by_drive(text)
    facts._free_by_drive(f"/dev/x {text} ext4")


@given(st.lists(st.sampled_from(["press", "back", "wait"]), max_size=30))
def test_the_stopwatch_only_ever_holds_marks_in_order(actions):
    now = [100.0]
    watch = Stopwatch(lambda: now[0])
    for action in actions:
        now[0] += 1.5
        if action == "press":
            expected = watch.next_mark
            assert watch.press() is expected
        elif action == "back":
            before = len(watch.marks)
            watch.take_back()
            assert len(watch.marks) == max(0, before - 1)
        marks = watch.marks
        assert list(marks) == list(PERSON_MARKS[: len(marks)])
        assert list(marks.values()) == sorted(marks.values())
        assert marks.get(Mark.POWER_ON, 0.0) == 0.0
        assert watch.elapsed >= max(marks.values(), default=0.0)
