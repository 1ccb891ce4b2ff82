"""What is read out of a picture to somebody who does not see it."""

from dataclasses import dataclass

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import Dot
from plucky_ledger.wording.figures import plain
from plucky_ledger.wording.language import say


@dataclass(frozen=True)
class SpokenRow:
    """A row of a picture in words."""

    name: str
    cells: tuple[str, ...] = ()
    """Each a figure with its unit, or what it is."""


def spoken_dot(dot: Dot, measure: Measure) -> str:
    """One boot of a dot strip."""
    value = spoken_amount(plain(dot.value, measure), measure)
    if dot.censored:
        value = say("{amount} or more", amount=value)
    return say("{value}, set aside", value=value) if dot.aside else value


def spoken_amount(amount: str, measure: Measure) -> str:
    """An amount of a measure with its unit, which a heading says to the eye."""
    unit = measure.terms.unit
    return f"{amount} {unit}" if unit else say("{n} processes", n=amount)
