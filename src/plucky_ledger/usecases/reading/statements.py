"""Handing the statement over: as a page to look at, and as a file."""

from collections.abc import Callable, Mapping
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import save_file
from plucky_ledger.exchange.statement import Letterhead, Statement, as_html, as_pdf, pictures_svg
from plucky_ledger.usecases.jobs.preferences import read_preferences, workshop_mark

__all__ = ["Statement", "as_html", "letterhead", "pictures_svg", "save_statement"]
_MAKERS: Mapping[str, Callable[[Statement], bytes]] = {
    ".html": lambda statement: as_html(statement).encode(),
    ".htm": lambda statement: as_html(statement).encode(),
    ".pdf": as_pdf,
}


def letterhead() -> Letterhead:
    """Name, address and mark of the workshop, as preferred; reads files."""
    kept = read_preferences()
    address = tuple(line.strip() for line in kept.address.splitlines() if line.strip())
    return Letterhead(kept.workshop.strip(), address, workshop_mark(kept.mark))


def save_statement(statement: Statement, path: Path) -> None:
    """Save a statement; the file's ending says as what. Raises Trouble; what was there is kept."""
    make = _MAKERS.get(path.suffix.lower())
    if make is None:
        raise Refused(TroubleCode.ENDING_UNKNOWN, path=str(path), endings=".pdf, .html")
    save_file(make(statement), path)
