"""Opening a ledger, for both front ends; a damaged one as far as it can be read."""

import logging
from pathlib import Path
from typing import TYPE_CHECKING

from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.files import copy_whole
from plucky_ledger.store.address import Address, address_of
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import CLOSE_WITHIN_SECONDS, Ledger
from plucky_ledger.usecases.jobs.shelf import look_through

if TYPE_CHECKING:
    import tempfile

__all__ = ["Address", "Ledger", "address_of", "open_ledger"]
log = logging.getLogger(__name__)


def open_ledger(address: str | Path | Address) -> Ledger:
    """The ledger at a path or database URL, made where there is none.

    Raises:
        Trouble: it is none, damaged, of a newer version, or out of reach. Untouched then.
    """
    return Ledger(address)


def open_as_far_as_readable(address: str | Path | Address) -> Ledger:
    """The same; a damaged one as a copy of what can be read, which can only be looked at.

    Raises:
        Trouble: nothing of it can be read.
    """
    try:
        ledger = Ledger(address)
    except LedgerFault as fault:
        return _salvaged(address_of(address), fault)
    try:
        look_through(ledger)
    except LedgerFault as fault:
        ledger.close()
        return _salvaged(address_of(address), fault)
    return ledger


def _salvaged(address: Address, fault: LedgerFault) -> Ledger:
    path = address.file
    if fault.code is not TroubleCode.LEDGER_DAMAGED or path is None:
        raise fault
    import tempfile

    from plucky_ledger.store.repair import salvage

    folder = tempfile.TemporaryDirectory(prefix="plucky-ledger-")
    try:
        copy = Path(folder.name) / "readable.ledger"
        rows = sum(salvage(path, copy).values())
        log.warning("%s is damaged; %d rows are lost", path, rows)
        because = LedgerFault(TroubleCode.LEDGER_SALVAGED, path=str(path), rows=rows)
        return _ReadableCopy(copy, because, folder)
    except BaseException:
        folder.cleanup()
        raise


class _ReadableCopy(Ledger):
    """What could be read of a damaged ledger; gone when it is closed."""

    def __init__(
        self, path: Path, because: Trouble, folder: "tempfile.TemporaryDirectory[str]"
    ) -> None:
        super().__init__(path, because)
        self._folder = folder

    def close(self, seconds: float = CLOSE_WITHIN_SECONDS) -> None:
        """Let go of the copy and remove it."""
        super().close(seconds)
        self._folder.cleanup()


def is_salvaged(ledger: Ledger) -> bool:
    """Whether this is only what could be read of a damaged ledger."""
    return isinstance(ledger, _ReadableCopy)


def save_repaired(ledger: Ledger, path: Path) -> None:
    """Save what could be read of a damaged ledger as a ledger that can be written in.

    Raises:
        Trouble: there is a file already, or it could not be written.
    """
    _save_repaired(ledger.path, path)


def repair(damaged: Path, path: Path) -> int:
    """Save what can be read of a ledger as another; returns how many damaged rows are lost.

    Raises:
        Trouble: nothing can be read, there is a file already, or it could not be written.
    """
    import tempfile

    from plucky_ledger.store.repair import salvage

    with tempfile.TemporaryDirectory(prefix="plucky-ledger-") as folder:
        copy = Path(folder) / "readable.ledger"
        rows = sum(salvage(damaged, copy).values())
        _save_repaired(copy, path)
    return rows


def _save_repaired(copy: Path, path: Path) -> None:
    if path.exists() or path.is_symlink():
        raise Refused(TroubleCode.FILE_EXISTS, path=str(path))
    try:
        copy_whole(copy, path)
    except OSError as error:
        raise Trouble(
            TroubleCode.FILE_NOT_WRITTEN, path=str(path), system=error.strerror or ""
        ) from error
