"""Health data of drives from the PC's disk service, which any user may ask over D-Bus.

It is asked only where it runs: starting a service for it would change the PC that is measured.
"""

from collections.abc import Mapping
from typing import Any

import msgspec

from plucky_ledger.linux.bus import Address, Bus, NoAnswer, opened
from plucky_ledger.recording.condition import DriveHealthFacts

SERVICE = "org.freedesktop.UDisks2"
BLOCK, PARTITION = f"{SERVICE}.Block", f"{SERVICE}.Partition"
ATA, NVME = f"{SERVICE}.Drive.Ata", f"{SERVICE}.NVMe.Controller"
WITHIN_SECONDS = 3.0
ZERO_CELSIUS_KELVIN = 273.15
_TREE = "a{oa{sa{sv}}}"
Interfaces = Mapping[str, Mapping[str, tuple[str, Any]]]


def health_by_the_service(address: str = "SYSTEM") -> dict[str, DriveHealthFacts]:
    """Drives by name. Raises NoAnswer: there is no bus, or it does not answer; nothing where the
    service does not run.
    """
    the_bus = "org.freedesktop.DBus"
    with opened(address, WITHIN_SECONDS) as bus:
        asked = Address(the_bus, "/org/freedesktop/DBus", the_bus)
        if not bus.call(asked, "NameHasOwner", "s", (SERVICE,), returns="b")[0]:
            return {}
        root = Address(SERVICE, "/org/freedesktop/UDisks2", f"{the_bus}.ObjectManager")
        (objects,) = bus.call(root, "GetManagedObjects", returns=_TREE)
        return _drives(bus, objects)


def _drives(bus: Bus, objects: Mapping[str, Interfaces]) -> dict[str, DriveHealthFacts]:
    drives = {}
    for path, interfaces in objects.items():
        drive = objects.get(str(_value(interfaces, BLOCK, "Drive", "o")), {})
        if BLOCK not in interfaces or PARTITION in interfaces or not drive:
            continue
        name = path.rpartition("/")[2]
        health = _ata(name, drive) if ATA in drive else _nvme(name, drive)
        if health is not None and NVME in drive:
            health = msgspec.structs.replace(
                health, worn=_worn(bus, str(_value(interfaces, BLOCK, "Drive", "o")))
            )
        if health is not None:
            drives[name] = health
    return drives


def _ata(name: str, drive: Interfaces) -> DriveHealthFacts | None:
    if not _value(drive, ATA, "SmartUpdated", "t"):
        return None  # it was never asked
    bad, powered = _value(drive, ATA, "SmartNumBadSectors", "x"), "SmartPowerOnSeconds"
    return DriveHealthFacts(
        name,
        failing=_value(drive, ATA, "SmartFailing", "b"),
        bad_sectors=bad if bad is not None and 0 <= bad < 2**53 else None,
        hours=_bounded(_value(drive, ATA, powered, "t"), 3600),
        temperature_celsius=_celsius(_value(drive, ATA, "SmartTemperature", "d")),
    )


def _nvme(name: str, drive: Interfaces) -> DriveHealthFacts | None:
    if not _value(drive, NVME, "SmartUpdated", "t"):
        return None
    warnings = _value(drive, NVME, "SmartCriticalWarning", "as")
    return DriveHealthFacts(
        name,
        # A warning of heat is no sign of an end.
        failing=None if warnings is None else bool(set(warnings) - {"temperature"}),
        hours=_bounded(_value(drive, NVME, "SmartPowerOnHours", "t"), 1),
        temperature_celsius=_celsius(_value(drive, NVME, "SmartTemperature", "q")),
    )


def _worn(bus: Bus, path: str) -> float | None:
    """What the drive says it has used up of its life; None where it does not say."""
    drive = Address(SERVICE, path, NVME)
    try:
        (told,) = bus.call(drive, "SmartGetAttributes", "a{sv}", ({},), returns="a{sv}")
    except NoAnswer:  # the bus has logged why; the other drives are still to be told of
        return None
    kind, used = told.get("percent_used", ("", None))
    return used / 100 if kind == "y" else None


def _value(interfaces: Interfaces, interface: str, name: str, kind: str) -> Any:  # noqa: ANN401 as it is typed
    """A property, where it is of the type it should be."""
    told, value = interfaces.get(interface, {}).get(name, ("", None))
    return value if told == kind else None


def _bounded(amount: int | None, unit: int) -> int | None:
    return amount // unit if amount is not None and 0 < amount < 2**53 else None


def _celsius(kelvin: float | None) -> float | None:
    plausible = kelvin is not None and 200 < kelvin < 500
    return round(kelvin - ZERO_CELSIUS_KELVIN, 1) if plausible and kelvin is not None else None
