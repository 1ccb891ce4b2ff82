"""Handing the statement over: as a page to look at, and as a file."""

from pathlib import Path

from plucky_ledger.exchange.saving import save_file
from plucky_ledger.exchange.statement import Statement, as_html, as_pdf, picture_svg

__all__ = ["Statement", "as_html", "picture_svg", "save_statement"]
HTML_ENDINGS = frozenset({".html", ".htm"})


def save_statement(statement: Statement, path: Path) -> None:
    """Save a statement; the file's ending says as what. Raises Trouble; what was there is kept."""
    is_html = path.suffix.lower() in HTML_ENDINGS
    save_file(as_html(statement).encode() if is_html else as_pdf(statement), path)
