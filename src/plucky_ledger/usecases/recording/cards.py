"""Boots timed by hand and written on a card: the card to print, and what stands on it taken in."""

from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.card import CARD_ROWS, SEEN, CardRow, card_row
from plucky_ledger.core.boots.readings import readings_of
from plucky_ledger.core.job.rounds import round_of
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.card import Card, card_html
from plucky_ledger.store import boots as stored
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.reading.statements import save_page

__all__ = [
    "CARD_ROWS",
    "SEEN",
    "Card",
    "CardRow",
    "card_html",
    "read_card",
    "save_card",
    "take_in_card",
]


def save_card(card: Card, path: Path) -> None:
    """Save a card to print; the file's ending says as what. Raises Trouble."""
    save_page(lambda: card_html(card), path)


def read_card(rows: Sequence[Sequence[str]]) -> tuple[CardRow | None, ...]:
    """What stands in each row; None for one that is empty."""
    today = now().astimezone().date()
    return tuple(card_row(cells, today) for cells in rows)


def take_in_card(ledger: Ledger, number: int, rows: Sequence[CardRow | None]) -> int:
    """Put the boots of a card into the book, in one step; returns how many those are.

    A boot without a time of day began now.

    Raises:
        Refused: there is none.
    """
    good = [row for row in rows if row is not None and row.fault is None]
    if not good:
        raise Refused(TroubleCode.NO_FIGURE)
    with step(ledger, StepCode.ADD_CARD, number, boots=len(good)) as session:
        job = read_job(session, number)
        for row in good:
            boot = Boot(
                number=0,
                started_at=row.started_at or now(),
                how=How.STOPWATCH,
                marks=row.marks,
                readings=readings_of(row.marks, None, None),
            )
            posting = round_of(job, "", boot.started_at, now())
            stored.add_boot(session, number, posting, boot)
    return len(good)
