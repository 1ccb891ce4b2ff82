"""Who is at work in a ledger: it is let go of when they are done."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.errors import LedgerFault

BREAK_OFF_WITHIN_SECONDS = 0.15
"""How long those who are broken off are waited for; then they let go of the ledger themselves."""
LOOK_AGAIN_SECONDS = 0.02


class AtWork:
    """Transactions that are under way, and how they are broken off."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._changed = threading.Condition()
        self._transactions = 0
        self._over = False
        self._then: Callable[[], None] | None = None
        self.broken_off = False
        """No statement is run any more, and nothing saved."""
        self.interrupts: dict[int, Callable[[], object]] = {}
        """Breaks off what a connection is doing, by the connection's identity."""

    @contextmanager
    def begun(self) -> Iterator[None]:
        """A transaction. Raises LedgerFault where the ledger has been closed."""
        with self._changed:
            if self._over:
                raise LedgerFault(TroubleCode.LEDGER_CLOSED, path=self._name)
            self._transactions += 1
        try:
            yield
        finally:
            with self._changed:
                self._transactions -= 1
                self._changed.notify_all()
                self._let_go_when_over()

    def end(self, seconds: float, then: Callable[[], None]) -> bool:
        """Let nobody begin, and wait for those at work; False where they had to be broken off.

        ``then`` is done as soon as nobody is at work: before this returns, where those broken off
        end at once.
        """
        with self._changed:
            if self._over:
                return not self.broken_off
            self._over, self._then = True, then
            whole = self._changed.wait_for(self._nobody, seconds)
            self.broken_off = not whole
            deadline = time.monotonic() + BREAK_OFF_WITHIN_SECONDS
            while self._transactions and time.monotonic() < deadline:
                for interrupt in tuple(self.interrupts.values()):
                    interrupt()
                self._changed.wait(LOOK_AGAIN_SECONDS)
            self._let_go_when_over()
            return whole

    def refuse_when_broken_off(self, *_what: object) -> None:
        """Run no further statement. Raises LedgerFault."""
        if self.broken_off:
            raise LedgerFault(TroubleCode.LEDGER_CLOSED, path=self._name)

    def _let_go_when_over(self) -> None:
        if self._over and not self._transactions and self._then is not None:
            then, self._then = self._then, None
            then()

    def _nobody(self) -> bool:
        return self._transactions == 0
