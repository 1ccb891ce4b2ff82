"""The card to time a PC by hand, as a page to print."""

from dataclasses import dataclass

from plucky_ledger.exchange.statement import template


@dataclass(frozen=True, kw_only=True)
class Card:
    """Everything that stands on it."""

    language: str
    title: str
    about: str
    """Which job and PC."""
    steps: tuple[str, ...]
    """What to do, in order."""
    headings: tuple[str, ...]
    rows: int
    remark: str


def card_html(card: Card) -> str:
    """The card as one HTML page without anything outside it."""
    return template("card.html").render(card=card)
