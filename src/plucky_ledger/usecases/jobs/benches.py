"""Several benches at one ledger: a job is one bench's at a time; the others look on."""

import time
from collections.abc import Callable
from typing import TypeVar

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger

T = TypeVar("T")


TRIES, WAIT_SECONDS = 4, 0.1


def tried_again(ledger: Ledger, work: Callable[[Ledger], T]) -> T:
    """Take a step; again where the server says that another was in the way, which leaves nothing.

    Raises what the step raises.
    """
    for _ in range(TRIES - 1):
        try:
            return work(ledger)
        except LedgerFault as fault:
            if fault.code is not TroubleCode.LEDGER_BUSY or ledger.address.file is not None:
                raise
            time.sleep(WAIT_SECONDS)
    return work(ledger)


def hold_job(ledger: Ledger, number: int) -> Trouble | None:
    """Have a job to oneself; why it can only be looked at, where another bench has it."""
    if ledger.read_only_because is not None:
        return ledger.read_only_because
    try:
        ledger.hold(number)
    except LedgerFault as fault:
        return fault
    return None
