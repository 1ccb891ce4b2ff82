"""Processes that tests start: none outlives its test, however that ends.

They are known by a mark in the environment that they inherit, so also those that were let go of.
"""

import os
import signal
from contextlib import suppress
from pathlib import Path

MARK = "PLUCKY_LEDGER_TEST_RUN"


class StartedProcesses:
    """Those that inherited the mark of this run of the tests."""

    def __init__(self) -> None:
        os.environ[MARK] = f"{os.getpid()}"
        self._mark = f"{MARK}={os.getpid()}\0".encode()
        self._others: set[str] = set()
        """Seen before, and not ours."""

    def there(self) -> set[str]:
        """Numbers of those that are running."""
        ours = set()
        for number in os.listdir("/proc"):
            if not number.isdigit() or number in self._others or number == str(os.getpid()):
                continue
            if self._is_marked(number):
                ours.add(number)
            else:
                self._others.add(number)
        return ours

    def _is_marked(self, number: str) -> bool:
        try:
            return self._mark in Path(f"/proc/{number}/environ").read_bytes() + b"\0"
        except OSError:
            return False

    def end(self, but: set[str]) -> None:
        """End all that are there, except some."""
        for number in self.there() - but:
            with suppress(ProcessLookupError, PermissionError):
                os.kill(int(number), signal.SIGKILL)


def unwind_when_ended() -> None:
    """A run that is ended politely takes the way of one that is interrupted: fixtures clean up."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
