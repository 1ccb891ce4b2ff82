"""Whether a person is using the PC: signed in, and typing.

Keys of keyboards are seen as the kernel tells them (linux/input.h), those of a terminal by when it
was last read from. Which key it was is not looked at.
"""

import logging
import os
import struct
import time
from contextlib import suppress
from pathlib import Path

from plucky_ledger.linux.bus import NoAnswer, opened
from plucky_ledger.linux.sessions import sessions_of_people

DEV = Path("/dev")
_EVENT = struct.Struct("@llHHi")
"""One input event: seconds, microseconds, type, code, value."""
_KEY, _PRESSED = 1, 1
_READ_AT_ONCE = 64
log = logging.getLogger(__name__)


class Keyboards:
    """All input devices with keys, read from now on."""

    def __init__(self, dev: Path = DEV) -> None:
        self._handles = []
        for path in sorted((dev / "input").glob("event*")):
            with suppress(OSError):
                handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
                self._handles.append(handle)

    def pressed(self) -> bool:
        """Whether a key was pressed since the last call."""
        pressed = [
            _pressed(handle) for handle in self._handles
        ]  # every device is read, so that none holds back old events
        return any(pressed)

    def close(self) -> None:
        """Close the devices."""
        while self._handles:
            os.close(self._handles.pop())


def _pressed(handle: int) -> bool:
    found = False
    with suppress(OSError):  # nothing there, or unplugged
        while data := os.read(handle, _EVENT.size * _READ_AT_ONCE):
            whole = data[: len(data) // _EVENT.size * _EVENT.size]
            events = _EVENT.iter_unpack(whole)
            found |= any((kind, value) == (_KEY, _PRESSED) for *_, kind, _code, value in events)
    return found


class AtThePc:
    """Detects whether a person uses the PC, from its creation on."""

    def __init__(self, dev: Path = DEV, bus_address: str = "SYSTEM") -> None:
        self._dev, self._bus_address = dev, bus_address
        self._keyboards = Keyboards(dev)
        self._since = time.time()

    def somebody(self) -> bool:
        """Whether somebody is signed in and has pressed a key since."""
        pressed = self._keyboards.pressed()
        try:
            terminals = self._signed_in()
        except NoAnswer:
            return False
        return (pressed and bool(terminals)) or any(
            self._was_read(name, since) for name, since in terminals if name
        )

    def close(self) -> None:
        """Close what was opened."""
        self._keyboards.close()

    def _signed_in(self) -> list[tuple[str, float]]:
        """Terminal, empty for none, and beginning of each session of a person. Raises NoAnswer."""
        with opened(self._bus_address) as bus:
            return [(session.terminal, session.began) for session in sessions_of_people(bus)]

    def _was_read(self, terminal: str, since: float) -> bool:
        """Whether somebody typed at a terminal after its session began; no other file is asked."""
        path = Path(os.path.normpath(self._dev / terminal.removeprefix("/dev/")))
        if self._dev not in path.parents:
            return False
        try:
            read_at = os.stat(path).st_atime
        except OSError:
            return False
        return read_at > max(since, self._since)
