"""The service manager over D-Bus: when the system was up, and how long each stage took."""

from typing import Any

from plucky_ledger.recording.lines import Line, MarkLine, NoteLine, StageLine

MANAGER_BUS = "org.freedesktop.systemd1"
MANAGER_PATH = "/org/freedesktop/systemd1"
MANAGER_INTERFACE = "org.freedesktop.systemd1.Manager"
SOURCE = "service manager"
ANSWER_WITHIN_SECONDS = 5.0
MICROSECONDS = 1e-6


def boot_times() -> list[Line]:
    """Marks and stages the service manager tells of; a note with the reason where it cannot."""
    try:
        properties = _manager_properties()
    except (OSError, KeyError, ValueError) as error:
        return [
            NoteLine(
                "The service manager did not answer on this PC, so the system up mark is not "
                f"known ({type(error).__name__})."
            )
        ]
    return lines_from(properties)


def _manager_properties() -> dict[str, Any]:
    from jeepney import DBusAddress, Properties
    from jeepney.io.blocking import open_dbus_connection
    from jeepney.wrappers import unwrap_msg

    address = DBusAddress(MANAGER_PATH, bus_name=MANAGER_BUS, interface=MANAGER_INTERFACE)
    try:
        with open_dbus_connection(bus="SYSTEM") as connection:
            reply = connection.send_and_get_reply(
                Properties(address).get_all(), timeout=ANSWER_WITHIN_SECONDS
            )
            found = unwrap_msg(reply)[0]
    except Exception as error:  # jeepney's errors share no base class
        raise OSError(str(error)) from error
    return {name: value for name, (_signature, value) in found.items()}


def lines_from(properties: dict[str, Any]) -> list[Line]:
    """Marks and stages from the manager's properties (timestamps in µs, 0 for not known).

    The firmware and loader timestamps say how long before the kernel they began.
    """

    def seconds(stage: str) -> float:
        return round(int(properties.get(f"{stage}TimestampMonotonic", 0)) * MICROSECONDS, 3)

    firmware, loader = seconds("Firmware"), seconds("Loader")
    initrd, userspace, finish = seconds("InitRD"), seconds("Userspace"), seconds("Finish")
    lines: list[Line] = []
    if firmware:
        lines.append(MarkLine("power on", -firmware, SOURCE))
        lines.append(StageLine("firmware", -firmware, -loader))
    if loader:
        lines.append(StageLine("loader", -loader, 0.0))
    if userspace:
        lines.append(StageLine("kernel", 0.0, initrd or userspace))
        if initrd:
            lines.append(StageLine("initrd", initrd, userspace))
    if finish:
        lines.append(MarkLine("system up", finish, SOURCE))
    return lines
