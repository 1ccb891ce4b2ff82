"""One location estimate per round: the balance, kept in whole book units so that it adds up."""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.job.job import Job, readings_in
from plucky_ledger.core.job.pc_states import PcStates, states_of
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


def balance_of_round(job: Job, states: PcStates, measure: Measure, index: int) -> Balance | None:
    """Balance of the state a round was recorded in; None when no boot of the round has a reading.

    ``index`` counts the rounds of the job, 0 for the opening.
    """
    if not readings_in(job.rounds[index], measure):
        return None
    return balance_of(measure, readings_in(states.boots(job, index), measure))


def balances_of(job: Job, measure: Measure) -> list[Balance]:
    """The balances of the book alone, line by line, with nothing compared."""
    states = states_of(job)
    found = (balance_of_round(job, states, measure, index) for index in range(len(job.rounds)))
    return [balance for balance in found if balance is not None]


def staircase(balances: Sequence[Balance]) -> tuple[float, ...]:
    """Balances one after the other as heights from 0 to 1, the largest being 1."""
    most = max((balance.value for balance in balances), default=0.0) or 1.0
    return tuple(balance.value / most for balance in balances)
