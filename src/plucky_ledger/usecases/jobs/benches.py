"""Several benches at one ledger: a job is one bench's at a time; the others look on."""

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger


def hold_job(ledger: Ledger, number: int) -> Trouble | None:
    """Have a job to oneself; why it can only be looked at, where another bench has it."""
    if ledger.read_only_because is not None:
        return ledger.read_only_because
    try:
        ledger.hold(number)
    except LedgerFault as fault:
        return fault
    return None
