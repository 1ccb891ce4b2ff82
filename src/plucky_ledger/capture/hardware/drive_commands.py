"""Health data of drives, read from them with the administrator's rights.

The drive's own tables by the kernel's pass-through: SMART READ DATA and READ THRESHOLDS of ATA
(INCITS 482, ACS-2; SCSI ATA PASS-THROUGH (16), INCITS 552), and the SMART log page of NVM Express
(base specification, log page 02h).
"""

import ctypes
import os
import struct
from collections.abc import Callable
from fcntl import ioctl
from pathlib import Path

from plucky_ledger.recording.condition import DriveHealthFacts

SG_IO, NVME_ADMIN = 0x2285, 0xC0484E41
READ_DATA, READ_THRESHOLDS = 0xD0, 0xD1
TABLE_BYTES = 512
TIMEOUT_MILLISECONDS = 3_000
HOURS, REALLOCATED, PENDING, UNCORRECTABLE = 9, 5, 197, 198
TEMPERATURES = (194, 190)
LIFE_LEFT = (231, 233, 202, 177, 173)
"""Attributes whose normalised value counts down from 100 as a solid-state drive wears."""
WARN_OF_MORE_THAN_HEAT = 0b11101
"""Bits of the NVMe critical warning; 2 says that it is too hot."""
ZERO_CELSIUS_KELVIN = 273

SPIN_UP, SEEK_ERRORS = 3, 7
"""Attributes of rotating drives alone, which do not wear so."""
FROM_DEVICE = -3
_HEADER = "@iiBBHIPPPIIiPBBBBHHiII0P"
"""struct sg_io_hdr of the kernel's <scsi/sg.h>."""

Command = Callable[[int, int, bytearray], None]
"""Sends a request with its structure to an open device. Raises OSError."""


def health_by_the_drive(
    name: str, devices: Path = Path("/dev"), command: Command | None = None
) -> DriveHealthFacts | None:
    """Ask one drive; None where it does not say."""
    send = command or ioctl
    try:
        device = os.open(devices / name, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError:
        return None
    try:
        if name.startswith("nvme"):
            return nvme_health(name, _nvme_log(device, send))
        data = _ata_table(device, READ_DATA, send)
        try:
            limits = _ata_table(device, READ_THRESHOLDS, send)
        except OSError:
            limits = bytes(TABLE_BYTES)  # newer drives have none any more
        return ata_health(name, data, limits)
    except OSError:
        return None
    finally:
        os.close(device)


def ata_health(name: str, data: bytes, limits: bytes) -> DriveHealthFacts | None:
    """What the tables of an ATA drive tell; None where that is no such table."""
    values, raw, failing = {}, {}, False
    for at in range(2, 362, 12):
        identity, flags, value = struct.unpack_from("<BHB", data, at)
        if identity:
            values[identity] = value
            raw[identity] = int.from_bytes(data[at + 5 : at + 11], "little")
            limit = limits[at + 1] if limits[at] == identity else 0
            failing = failing or bool(flags & 1 and 0 < value <= limit)
    if not values:
        return None
    bad = [raw[one] for one in (REALLOCATED, PENDING, UNCORRECTABLE) if one in raw]
    degrees = next((raw[one] & 0xFF for one in TEMPERATURES if one in raw), None)
    left = None
    if SPIN_UP not in values and SEEK_ERRORS not in values:
        left = next((values[one] for one in LIFE_LEFT if 0 < values.get(one, 0) <= 100), None)
    return DriveHealthFacts(
        name,
        failing=failing,
        bad_sectors=sum(min(one, 0xFFFFFFFF) for one in bad) if bad else None,
        worn=None if left is None else (100 - left) / 100,
        hours=(raw[HOURS] & 0xFFFFFFFF) if HOURS in raw else None,
        temperature_celsius=degrees,
    )


def nvme_health(name: str, log: bytes) -> DriveHealthFacts:
    """What the SMART log page of an NVMe drive tells."""
    warning, kelvin, used = log[0], int.from_bytes(log[1:3], "little"), log[5]
    hours, errors = (int.from_bytes(log[at : at + 16], "little") for at in (128, 160))
    return DriveHealthFacts(
        name,
        failing=bool(warning & WARN_OF_MORE_THAN_HEAT),
        bad_sectors=min(errors, 2**53),
        worn=used / 100,
        hours=min(hours, 2**53),
        temperature_celsius=kelvin - ZERO_CELSIUS_KELVIN if 200 < kelvin < 500 else None,
    )


def _ata_table(device: int, feature: int, send: Command) -> bytes:
    """One of the drive's tables. Raises OSError: it has none, or would not say."""
    table, sense = ctypes.create_string_buffer(TABLE_BYTES), ctypes.create_string_buffer(32)
    # Read in, one block, the length in the sector count; 4Fh C2h is the key of SMART.
    block = bytes((0x85, 4 << 1, 0x0E, 0, feature, 0, 1, 0, 0, 0, 0x4F, 0, 0xC2, 0, 0xB0, 0))
    buffer = ctypes.create_string_buffer(block, len(block))
    header = bytearray(
        struct.pack(
            _HEADER,
            ord("S"),
            FROM_DEVICE,
            len(block),
            len(sense),
            0,
            TABLE_BYTES,
            ctypes.addressof(table),
            ctypes.addressof(buffer),
            ctypes.addressof(sense),
            TIMEOUT_MILLISECONDS,
            *(0,) * 12,
        )
    )
    send(device, SG_IO, header)
    *_, status, _, _, _, host, driver, _, _, _ = struct.unpack(_HEADER, header)
    if status or host or driver or sum(table.raw) % 256:
        raise OSError("no table")  # the bytes of a table add up to nothing
    return table.raw


def _nvme_log(device: int, send: Command) -> bytes:
    log = ctypes.create_string_buffer(TABLE_BYTES)
    length = (TABLE_BYTES // 4 - 1) << 16
    command = bytearray(
        struct.pack(
            "=BBHIIIQQIIIIIIIIII",
            0x02,
            0,
            0,
            0xFFFFFFFF,
            0,
            0,
            0,
            ctypes.addressof(log),
            0,
            TABLE_BYTES,
            length | 0x02,
            0,
            0,
            0,
            0,
            0,
            TIMEOUT_MILLISECONDS,
            0,
        )
    )
    send(device, NVME_ADMIN, command)
    return log.raw
