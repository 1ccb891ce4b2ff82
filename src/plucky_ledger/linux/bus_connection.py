"""A D-Bus connection with limits on time and message size, at its opening and for each byte."""

import time

from jeepney import Message
from jeepney.bus import get_bus
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import DBusConnectionBase, prep_socket

MOST_BYTES = 16_000_000
"""Of one message: the answers of a thousand units are about one."""


class TooLarge(Exception):
    """A message claims to be larger than any that is asked for."""


class Connection(DBusConnectionBase):
    """Sends and receives messages."""

    def __init__(self, address: str, seconds: float) -> None:
        """Raises TimeoutError where the bus does not greet within so many seconds."""
        super().__init__(prep_socket(get_bus(address), timeout=seconds))
        self.sock.settimeout(seconds)
        try:
            self._greet(time.monotonic() + seconds)
        except BaseException:
            self.close()
            raise

    def _greet(self, deadline: float) -> None:
        self.send(message_bus.Hello(), next(self.outgoing_serial))
        self._receive(deadline)

    def send(self, message: Message, serial: int) -> None:
        """Send a message. Raises TimeoutError where the bus does not take it."""
        data, _ = self._serialise(message, serial)
        self.sock.sendall(data)

    def receive(self, *, timeout: float) -> Message:
        """The next message. Raises TimeoutError."""
        return self._receive(time.monotonic() + timeout)

    def _receive(self, deadline: float) -> Message:
        while True:
            message = self.parser.get_next_message()
            if message is not None:
                return message
            if (self.parser.next_msg_size or 0) > MOST_BYTES:
                raise TooLarge(str(self.parser.next_msg_size))
            left = deadline - time.monotonic()
            if left <= 0:
                raise TimeoutError
            data, descriptors = self._read_some_data(timeout=left)
            self.parser.add_data(data, fds=descriptors)


def connect(address: str, seconds: float) -> Connection:
    """A connection to the bus at ``address``, or to the "SYSTEM" or "SESSION" bus."""
    return Connection(address, seconds)
