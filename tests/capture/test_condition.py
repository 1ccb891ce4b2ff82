"""What state a PC is in, from tables a PC could give, hostile ones among them."""

import json

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.hardware import condition
from plucky_ledger.capture.hardware.condition import condition_lines
from plucky_ledger.capture.hardware.drive_log import drives_by_link, errors_in
from plucky_ledger.recording.condition import ConditionLine

MEMORY_TABLE = """\
E:MEMORY_ARRAY_NUM_DEVICES=4
E:MEMORY_ARRAY_MAX_CAPACITY=34359738368
E:MEMORY_DEVICE_0_LOCATOR=DIMM A1
E:MEMORY_DEVICE_0_SIZE=4294967296
E:MEMORY_DEVICE_0_TYPE=DDR4
E:MEMORY_DEVICE_0_CONFIGURED_SPEED_MTS=2400
E:MEMORY_DEVICE_1_PRESENT=0
E:MEMORY_DEVICE_1_LOCATOR=DIMM A2
"""


@pytest.fixture
def pc(tmp_path):
    """A PC's own files, below a folder; writes one and returns the folder."""

    def write(path, text):
        file = tmp_path / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text)
        return tmp_path

    return write


def told(root):
    lines = list(condition_lines(lambda: True, root))
    assert lines[0] == msgspec.json.decode(msgspec.json.encode(lines[0]), type=ConditionLine)
    return lines[0]


def test_everything_a_pc_lets_anybody_read(pc):
    pc("sys/class/dmi/id/sys_vendor", "Breakwater Works\n")
    pc("sys/class/dmi/id/product_name", "To be filled by O.E.M.\n")
    pc("run/udev/data/+dmi:id", MEMORY_TABLE)
    pc("proc/self/mounts", "/dev/sda1 / ext4 rw 0 0\n/dev/loop3 /snap squashfs ro 0 0\n")
    pc("proc/meminfo", "MemTotal: 4000000 kB\nSwapTotal: 2000000 kB\nSwapFree: 500000 kB\n")
    pc("proc/swaps", "Filename Type Size Used\n/dev/sda2 partition 2000000 1500000\n")
    pc("proc/vmstat", "pswpout 10\nworkingset_refault_file 30\noom_kill 2\n")
    pc("sys/block/sda/device/model", "MADE-UP 500\n")
    pc("sys/block/sda/device/hwmon/hwmon2/temp1_input", "41000\n")
    pc("sys/block/loop0/size", "8\n")
    pc("sys/devices/system/cpu/cpu0/thermal_throttle/package_throttle_count", "17\n")
    pc("sys/devices/system/cpu/cpu0/cpufreq/scaling_max_freq", "1200000\n")
    pc("proc/cmdline", "BOOT_IMAGE=/vmlinuz root=UUID=1-2-3 ro quiet rd.luks.uuid=luks-9 nosmt\n")
    pc("usr/bin/dracut", "")
    root = pc("sys/devices/system/cpu/cpu0/cpufreq/cpuinfo_max_freq", "2400000\n")
    line = told(root)
    assert (line.maker, line.model) == ("Breakwater Works", "")
    (module,) = line.modules
    assert (module.slot, module.size_bytes, module.type, module.megatransfers) == (
        "DIMM A1",
        4 * 2**30,
        "DDR4",
        2400,
    )
    assert (line.memory_slots, line.most_memory_bytes) == (4, 32 * 2**30)
    assert [one.mount for one in line.file_systems] == ["/"]
    assert line.file_systems[0].type == "ext4"
    assert line.swap_used_bytes == 1_500_000 * 1024
    assert (line.swap_compressed, line.killed_for_memory) == (False, 2)
    assert line.reread_bytes == 3 * line.swapped_out_bytes > 0
    (drive,) = line.drives
    assert (drive.name, drive.model, drive.temperature_celsius) == ("sda", "MADE-UP 500", 41.0)
    assert (line.throttled, line.frequency_limit) == (17, 0.5)
    assert line.kernel_parameters == "ro quiet nosmt"
    assert line.start_up_made_by == "dracut"


def test_a_pc_that_tells_nothing_is_no_fault(tmp_path):
    assert told(tmp_path) == ConditionLine()


def test_the_administrator_sends_commands_to_drives_inside_the_pc_alone(pc, monkeypatch):
    """The bridge of one on a USB port may not bear them."""
    asked = []
    monkeypatch.setattr(condition, "is_administrator", lambda: True)
    monkeypatch.setattr(condition, "health_by_the_drive", asked.append)
    for name, port in (("sda", "pci0/ata1"), ("sdb", "pci0/usb2/2-1")):
        root = pc(f"sys/devices/{port}/{name}/device/model", "MADE-UP\n")
        (root / "sys/block").mkdir(exist_ok=True)
        (root / "sys/block" / name).symlink_to(root / "sys/devices" / port / name)
    lines = list(condition_lines(lambda: False, root))
    assert [drive.name for drive in lines[-1].drives] == ["sda", "sdb"]
    assert asked == ["sda"]


HOSTILE = st.text(st.characters(codec="utf-8"), max_size=200) | st.sampled_from(
    [
        "9" * 400,
        "-5",
        "\0\0",
        "SwapTotal: x kB\nSwapFree: 1 kB\n",
        "/dev/a\n/dev/b \\777 ext4",
        "E:MEMORY_DEVICE_9999999999_SIZE=1\nE:MEMORY_DEVICE_0_SIZE=99999999999999999999",
        "E:MEMORY_ARRAY_NUM_DEVICES=123456789\n",
        "oom_kill " + "8" * 16,
        "\N{ARABIC-INDIC DIGIT TWO}",
    ]
)


@given(HOSTILE)
def test_hostile_tables_break_nothing(tmp_path_factory, text):
    root = tmp_path_factory.mktemp("pc")
    for path in (
        "proc/meminfo",
        "proc/swaps",
        "proc/vmstat",
        "proc/self/mounts",
        "run/udev/data/+dmi:id",
        "sys/class/dmi/id/sys_vendor",
        "sys/firmware/acpi/platform_profile",
        "sys/block/sda/device/hwmon/hwmon0/temp1_input",
        "sys/devices/system/cpu/cpu0/thermal_throttle/core_throttle_count",
        "sys/devices/system/cpu/cpu0/cpufreq/cpuinfo_max_freq",
        "sys/devices/system/cpu/cpu0/cpufreq/scaling_max_freq",
    ):
        file = root / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text)
    told(root)


def logged(message, transport="kernel"):
    return json.dumps({"MESSAGE": message, "_TRANSPORT": transport}).encode()


def test_errors_of_drives_are_counted_where_the_kernel_itself_says_so(tmp_path):
    real = tmp_path / "devices/pci/ata3/host2/block/sdb"
    real.mkdir(parents=True)
    blocks = tmp_path / "block"
    blocks.mkdir()
    (blocks / "sdb").symlink_to(real)
    lines = [
        logged("blk_update_request: I/O error, dev sda, sector 1234 op 0x0:(READ)"),
        logged("EXT4-fs error (device sda1): ext4_lookup: deleted inode"),
        logged("ata3.00: failed command: READ FPDMA QUEUED"),
        logged("ata3: hard resetting link"),
        logged("nvme0: I/O 23 QID 4 timeout, aborting"),
        logged("I/O error, dev sda, sector 1", transport="syslog"),
        logged("usb 1-1: new high-speed device"),
        b"\xff\xfe no line of a journal",
        json.dumps({"MESSAGE": [1, 2], "_TRANSPORT": "kernel"}).encode(),
    ]
    assert errors_in(lines, drives_by_link(blocks)) == {"sda": 2, "sdb": 2, "nvme0": 1}
