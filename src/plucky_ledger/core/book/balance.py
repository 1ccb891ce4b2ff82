"""One location estimate per round: the balance, kept in whole book units so that it adds up."""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.statistics.pseudo_median import pseudo_median
from plucky_ledger.core.values.measures import Measure, Reading


@dataclass(frozen=True)
class Balance:
    """The typical value of a measure in a round."""

    measure: Measure
    units: int
    """In the last decimal place the book is kept in (tenths of a second, whole MB…)."""
    boots: int
    """How many boots it rests on."""
    at_least: bool = False
    """A boot it rests on was censored: the true balance is this or more."""

    @property
    def value(self) -> float:
        """In the measure's unit."""
        return in_unit(self.units, self.measure)


def in_unit(units: int, measure: Measure) -> float:
    """Book units as a figure in the measure's unit."""
    return units / float(10**measure.terms.decimals)


def in_book_units(value: float, measure: Measure) -> int:
    """A figure in the measure's unit as whole book units."""
    return round(value * float(10**measure.terms.decimals))


def balance_of(measure: Measure, readings: Sequence[Reading]) -> Balance | None:
    """Balance of the boots that have a reading; None when none has."""
    if not readings:
        return None
    units = in_book_units(pseudo_median([reading.value for reading in readings]), measure)
    return Balance(
        measure=measure,
        units=units,
        boots=len(readings),
        at_least=any(reading.censored for reading in readings),
    )
