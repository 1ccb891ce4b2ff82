"""Handing the statement over: as a page to look at, and as a file."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import get_args

import msgspec

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import refuse_no_file, save_file
from plucky_ledger.exchange.statement import (
    PAGE_WIDTH,
    Letterhead,
    Parts,
    StartPicture,
    Statement,
    as_html,
    as_pdf,
    pictures_svg,
    several_as_html,
)
from plucky_ledger.usecases.jobs.preferences import (
    StatementPart,
    keep_preferences,
    read_preferences,
    workshop_mark,
)

__all__ = [
    "PAGE_WIDTH",
    "Parts",
    "StartPicture",
    "Statement",
    "StatementPart",
    "StatementStyle",
    "as_html",
    "keep_style",
    "pictures_svg",
    "preferred_style",
    "save_page",
    "save_statement",
    "save_statements",
]
_MAKERS: Mapping[str, Callable[[str], bytes]] = {
    ".html": str.encode,
    ".htm": str.encode,
    ".pdf": as_pdf,
}


@dataclass(frozen=True)
class StatementStyle:
    """How statements are made here, as preferred."""

    letterhead: Letterhead
    parts: Parts
    language: str
    """Code of it; empty for the one in use."""


def preferred_style(
    language: str | None = None, leaves_out: Collection[str] | None = None
) -> StatementStyle:
    """As preferred, but for what is said here; reads files."""
    kept = read_preferences()
    left_out = kept.statement_leaves_out if leaves_out is None else leaves_out
    address = tuple(line.strip() for line in kept.address.splitlines() if line.strip())
    return StatementStyle(
        Letterhead(kept.workshop.strip(), address, workshop_mark(kept.mark)),
        Parts(*(part not in left_out for part in get_args(StatementPart))),
        kept.statement_language if language is None else language,
    )


def keep_style(language: str, leaves_out: frozenset[StatementPart]) -> None:
    """Make statements so from now on. Raises Trouble."""
    keep_preferences(
        msgspec.structs.replace(
            read_preferences(), statement_language=language, statement_leaves_out=leaves_out
        )
    )


def save_statement(statement: Statement, path: Path) -> None:
    """Save a statement; the file's ending says as what. Raises Trouble; what was there is kept."""
    save_page(lambda: as_html(statement), path)


def save_statements(statements: Sequence[Statement], title: str, path: Path) -> None:
    """Save statements on several PCs as one, headed by what came of each. Raises Trouble."""
    save_page(lambda: several_as_html(statements, title), path)


def save_page(html: Callable[[], str], path: Path) -> None:
    """Save a page as HTML or PDF, as the file's ending says. Raises Trouble."""
    make = _MAKERS.get(path.suffix.lower())
    if make is None:
        raise Refused(TroubleCode.ENDING_UNKNOWN, path=str(path), endings=".pdf, .html")
    refuse_no_file(path)
    save_file(make(html()), path)
