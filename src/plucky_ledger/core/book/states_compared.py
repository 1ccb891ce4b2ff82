"""Comparison of two states of a job's PC, from all their boots."""

import math
from collections.abc import Sequence

from plucky_ledger.core.book.also_differed import also_differed
from plucky_ledger.core.book.verdict import Shift, held_against, judged
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job, State
from plucky_ledger.core.job.pc_states import PcStates
from plucky_ledger.core.statistics.comparison import BootPoint, estimate
from plucky_ledger.core.statistics.controls import (
    IN_MACHINE_TIME,
    Exponent,
    drift_between,
    exponent_of,
    speed_of,
    usable,
)
from plucky_ledger.core.statistics.mixture import fit
from plucky_ledger.core.values.measures import Measure


def having(boots: Sequence[Boot], measure: Measure) -> list[Boot]:
    """The boots in the account that have a reading of a measure, in their order."""
    return [
        boot
        for boot in boots
        if boot.counts and measure in boot.readings and math.isfinite(boot.readings[measure].value)
    ]


def compare_states(
    job: Job, states: PcStates, measure: Measure, before: int, after: int
) -> Shift | None:
    """The shift between the states of two rounds (by their indices).

    None where either has no boot with a reading, or they are the same state.
    """
    states_compared = states.of_round[before], states.of_round[after]
    if states_compared[0] == states_compared[1]:
        return None
    sides = tuple(having(states.boots(job, index), measure) for index in (before, after))
    if not sides[0] or not sides[1]:
        return None
    every = sorted((*sides[0], *sides[1]), key=lambda boot: (boot.started_at, boot.number))
    names = usable(sides, measure) if measure in IN_MACHINE_TIME else ()
    rest = _others(job, states, measure, before, after)
    order = {id(boot): float(place) for place, boot in enumerate(every)}
    points = [
        [_point(boot, measure, names, order.get(id(boot), 0.0)) for boot in side]
        for side in (*sides, *rest)
    ]
    exponent = exponent_within((*sides, *rest), measure, names) if names else None
    drift = drift_between(sides[0], sides[1], names)
    found = estimate(measure, (points[0], points[1]), points[2:], exponent)
    readings = [[boot.readings[measure] for boot in side] for side in sides]
    shift = judged(measure, readings[0], readings[1], found, drift)
    return held_against(shift, also_differed(sides[0], sides[1], entries_changed(*states_compared)))


def entries_changed(before: State, after: State) -> frozenset[str]:
    """Ids of the entries by which two states differ."""
    return frozenset(key[0] for key in before ^ after)


def _others(
    job: Job, states: PcStates, measure: Measure, before: int, after: int
) -> list[list[Boot]]:
    """Boots of the job's other states, each state once, those that never settled left out."""
    seen = {states.of_round[before], states.of_round[after]}
    others = []
    for index, state in enumerate(states.of_round):
        if state not in seen:
            seen.add(state)
            boots = having(states.boots(job, index), measure)
            others.append([boot for boot in boots if not boot.readings[measure].censored])
    return [other for other in others if other]


def _point(boot: Boot, measure: Measure, names: Sequence[str], order: float) -> BootPoint:
    speed = speed_of(boot, names) if names and _has(boot, names) else 0.0
    return BootPoint(boot.readings[measure].value, order, speed)


def _has(boot: Boot, names: Sequence[str]) -> bool:
    return all(boot.context.controls.get(name, 0.0) > 0 for name in names)


def exponent_within(
    groups: Sequence[Sequence[Boot]], measure: Measure, names: Sequence[str]
) -> Exponent:
    """Exponent of the controls for the whole job, from boots within their states; outlying boots
    count for less.
    """
    states = []
    for group in groups:
        boots = [boot for boot in group if _has(boot, names)]
        logs = tuple(math.log(max(boot.readings[measure].value, 1e-3)) for boot in boots)
        mixture = fit((logs,)) if len(boots) > 1 else None
        if mixture is not None:
            weights = mixture.own[0].weights
            speeds = [speed_of(boot, names) for boot in boots]
            states.append(list(zip(speeds, logs, weights, strict=True)))
    return exponent_of(states)
