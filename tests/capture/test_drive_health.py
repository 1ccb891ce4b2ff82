"""What drives and file systems say of themselves: to the administrator, and to the disk service."""

import ctypes
import shutil
import struct
import subprocess

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from jeepney import HeaderFields, new_error, new_method_return

from plucky_ledger.capture.hardware.drive_commands import (
    NVME_ADMIN,
    READ_THRESHOLDS,
    SG_IO,
    ata_health,
    health_by_the_drive,
    nvme_health,
)
from plucky_ledger.capture.hardware.drive_service import (
    ATA,
    BLOCK,
    NVME,
    SERVICE,
    health_by_the_service,
)
from plucky_ledger.capture.hardware.superblock import check_due, errors_counted
from plucky_ledger.recording.condition import DriveHealthFacts
from tests.helpers.bus import Answering, private_bus

NOW = 1_790_000_000.0
ROOT = "/org/freedesktop/UDisks2"


def table(*attributes):
    """A SMART table: identity, flags, value, raw of each, or identity and limit."""
    data = bytearray(512)
    for at, attribute in enumerate(attributes):
        begin = 2 + 12 * at
        if len(attribute) == 2:
            data[begin : begin + 2] = bytes(attribute)
        else:
            identity, flags, value, raw = attribute
            data[begin : begin + 5] = struct.pack("<BHBB", identity, flags, value, value)
            data[begin + 5 : begin + 11] = raw.to_bytes(6, "little")
    data[511] = -sum(data) % 256
    return bytes(data)


WORN = table(
    (5, 0x33, 100, 3),
    (9, 0x32, 90, 12_345),
    (177, 0x13, 12, 900),
    (194, 0x22, 66, 34 + (70 << 32)),
    (197, 0x12, 100, 2),
)
ROTATING = table((3, 0x27, 98, 4_000), (5, 0x33, 4, 1_900), (231, 0x22, 38, 0))
LIMITS = table((5, 36), (3, 21))


def test_the_tables_of_drives():
    told = ata_health("sda", WORN, bytes(512))
    assert told == DriveHealthFacts(
        "sda", failing=False, bad_sectors=5, worn=0.88, hours=12_345, temperature_celsius=34
    )
    told = ata_health("sdb", ROTATING, LIMITS)
    assert not ata_health("sdb", ROTATING, bytes(512)).failing
    assert told.failing is False  # limits stand in the same order as the attributes
    told = ata_health("sdb", ROTATING, table((3, 21), (5, 36)))
    assert (told.failing, told.bad_sectors, told.worn) == (True, 1_900, None)
    log = bytearray(512)
    log[0], log[1:3], log[5] = 0b110, (315).to_bytes(2, "little"), 104
    log[128:136], log[160] = (9_000).to_bytes(8, "little"), 7
    assert nvme_health("nvme0n1", bytes(log)) == DriveHealthFacts(
        "nvme0n1", failing=True, bad_sectors=7, worn=1.04, hours=9_000, temperature_celsius=42
    )
    log[0] = 0b10
    assert nvme_health("nvme0n1", bytes(log)).failing is False  # too hot is no sign of an end


@given(st.binary(min_size=512, max_size=512), st.binary(min_size=512, max_size=512))
def test_any_table_can_be_written_down(data, limits):
    for told in (ata_health("sda", data, limits), nvme_health("nvme0n1", data)):
        if told is not None:
            assert msgspec.json.decode(msgspec.json.encode(told), type=DriveHealthFacts) == told


def test_drives_are_asked_by_the_kernels_pass_through(tmp_path):
    """The structures are those of <scsi/sg.h> and <linux/nvme_ioctl.h>: the kernel goes by them."""
    asked = []

    def kernel(_device, request, structure):
        asked.append(request)
        if request == SG_IO:
            length, address, block = (
                struct.unpack_from(kind, structure, at)[0]
                for kind, at in (("I", 12), ("P", 16), ("P", 24))
            )
            feature = ctypes.string_at(block, 16)[4]
            if feature == READ_THRESHOLDS:
                raise OSError(5, "no such table")
            ctypes.memmove(address, WORN, length)
        else:
            (address,), (length,) = (
                struct.unpack_from("Q", structure, 24),
                struct.unpack_from("I", structure, 36),
            )
            assert (structure[0], length, len(structure)) == (2, 512, 72)
            ctypes.memmove(address, bytes(5) + b"\x32" + bytes(506), length)

    for name in ("sda", "nvme0n1"):
        (tmp_path / name).touch()
    assert health_by_the_drive("sda", tmp_path, kernel).bad_sectors == 5
    assert health_by_the_drive("nvme0n1", tmp_path, kernel).worn == 0.5
    assert asked == [SG_IO, SG_IO, NVME_ADMIN]
    assert health_by_the_drive("sdb", tmp_path, kernel) is None
    assert health_by_the_drive("sda", tmp_path) is None  # a file is no drive


class DiskService(Answering):
    """Two drives, one of them with a partition, and one that says odd things."""

    def __init__(self, address):
        super().__init__(address, SERVICE)

    def _answer(self, message):
        member = message.header.fields[HeaderFields.member]
        path = message.header.fields[HeaderFields.path]
        if member == "SmartGetAttributes" and path.endswith("two"):
            return new_method_return(message, "a{sv}", ({"percent_used": ("y", 31)},))
        if member != "GetManagedObjects":
            return new_error(message, "org.freedesktop.DBus.Error.UnknownMethod")

        def block(drive, **more):
            return {BLOCK: {"Drive": ("o", f"{ROOT}/drives/{drive}")}, **more}

        objects = {
            f"{ROOT}/block_devices/nvme1n1": block("silent"),
            f"{ROOT}/block_devices/sda": block("one", **{f"{SERVICE}.PartitionTable": {}}),
            f"{ROOT}/block_devices/sda1": block("one", **{f"{SERVICE}.Partition": {}}),
            f"{ROOT}/block_devices/nvme0n1": block("two"),
            f"{ROOT}/block_devices/sdc": block("odd"),
            f"{ROOT}/block_devices/loop0": {BLOCK: {"Drive": ("o", "/")}},
            f"{ROOT}/drives/one": {
                ATA: {
                    "SmartUpdated": ("t", 1),
                    "SmartFailing": ("b", True),
                    "SmartNumBadSectors": ("x", 41),
                    "SmartPowerOnSeconds": ("t", 7_200_000),
                    "SmartTemperature": ("d", 311.15),
                }
            },
            f"{ROOT}/drives/two": {
                NVME: {
                    "SmartUpdated": ("t", 1),
                    "SmartCriticalWarning": ("as", ["temperature"]),
                    "SmartPowerOnHours": ("t", 500),
                    "SmartTemperature": ("q", 0),
                }
            },
            f"{ROOT}/drives/silent": {NVME: {"SmartUpdated": ("t", 1)}},
            f"{ROOT}/drives/odd": {
                ATA: {
                    "SmartUpdated": ("t", 1),
                    "SmartFailing": ("s", "no"),
                    "SmartNumBadSectors": ("x", -1),
                }
            },
        }
        return new_method_return(message, "a{oa{sa{sv}}}", (objects,))


def test_the_disk_service_is_asked_where_it_runs():
    with private_bus() as address:
        assert health_by_the_service(address) == {}
        service = DiskService(address)
        try:
            told = health_by_the_service(address)
        finally:
            service.close()
    assert told["sda"] == DriveHealthFacts(
        "sda", failing=True, bad_sectors=41, hours=2_000, temperature_celsius=38.0
    )
    assert told["nvme0n1"] == DriveHealthFacts("nvme0n1", failing=False, hours=500, worn=0.31)
    assert told["sdc"] == DriveHealthFacts("sdc")
    assert told["nvme1n1"] == DriveHealthFacts("nvme1n1")  # one that does not answer costs no other
    assert set(told) == {"sda", "nvme0n1", "nvme1n1", "sdc"}


@pytest.fixture
def file_system(tmp_path):
    """A real file system in a file, as its own tools make and set it; says whether it is due."""
    make, tune = shutil.which("mke2fs"), shutil.which("tune2fs")
    if not (make and tune):
        pytest.skip("mke2fs and tune2fs are in the package e2fsprogs")
    path = tmp_path / "volume"
    path.write_bytes(bytes(8 << 20))
    subprocess.run([make, "-q", "-t", "ext4", path], check=True)

    def due(*settings):
        subprocess.run([tune, *settings, path], check=True, stdout=subprocess.DEVNULL)
        return check_due(path, NOW)

    return due


def test_a_file_system_says_when_it_wants_to_be_checked(file_system, tmp_path):
    assert file_system("-c", "0", "-i", "0") is False
    assert file_system("-c", "20", "-C", "19") is False
    assert file_system("-C", "20") is True
    assert file_system("-c", "0", "-i", "10d", "-T", "20260101") is True
    assert file_system("-i", "0") is False
    assert file_system("-E", "force_fsck") is True
    (tmp_path / "other").write_bytes(bytes(4096))
    assert check_due(tmp_path / "other", NOW) is None
    assert check_due(tmp_path / "none", NOW) is None
    counted = tmp_path / "sys/fs/ext4/sda1/errors_count"
    counted.parent.mkdir(parents=True)
    counted.write_text("4\n")
    assert errors_counted("/dev/sda1", tmp_path) == 4
    counted.write_text("-1\n")
    assert errors_counted("/dev/sda1", tmp_path) is None
