"""Handing the statement over: as a page to look at, and as a file."""

from collections.abc import Callable, Mapping
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import save_file
from plucky_ledger.exchange.statement import Statement, as_html, as_pdf, picture_svg

__all__ = ["Statement", "as_html", "picture_svg", "save_statement"]
_MAKERS: Mapping[str, Callable[[Statement], bytes]] = {
    ".html": lambda statement: as_html(statement).encode(),
    ".htm": lambda statement: as_html(statement).encode(),
    ".pdf": as_pdf,
}


def save_statement(statement: Statement, path: Path) -> None:
    """Save a statement; the file's ending says as what. Raises Trouble; what was there is kept."""
    make = _MAKERS.get(path.suffix.lower())
    if make is None:
        raise Refused(TroubleCode.ENDING_UNKNOWN, path=str(path), endings=".pdf, .html")
    save_file(make(statement), path)
