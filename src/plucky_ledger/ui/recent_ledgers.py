"""Ledgers that this user had open, the newest first."""

from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.theme import settings
from plucky_ledger.usecases.jobs.opening import Address, address_of

KEY = "ledgers"
MOST = 6


def recent_ledgers() -> list[Address]:
    """Those that are still there; a server is not asked."""
    kept = settings().value(KEY) or []
    named = [kept] if isinstance(kept, str) else list(kept)
    addresses = [address for address in map(_address, map(str, named)) if address is not None]
    there = [one for one in addresses if one.file is None or one.file.is_file()]
    return there[:MOST]


def remember_ledger(address: Address) -> None:
    """It is the newest."""
    if address.file is not None:
        address = address_of(Path(address.file).absolute())
    known = [other.text for other in recent_ledgers() if other != address]
    settings().setValue(KEY, [address.text, *known][:MOST])


def _address(named: str) -> Address | None:
    try:
        return address_of(named)
    except Trouble:
        return None
