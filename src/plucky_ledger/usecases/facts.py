"""What a PC has, read from it."""

from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.exchange.boots import facts_from
from plucky_ledger.usecases.pcs import this_pc


def read_this_pc() -> tuple[WhichPc, Facts]:
    """Which PC this is, and what it has."""
    pc = this_pc()
    return pc.which, facts_from(pc.facts())
