"""Steps in a series of boots: where it went from one level to another, and how surely.

Binary segmentation: the split that parts the series best is kept where parts drawn at random part
it as well in fewer than three of a hundred cases (a permutation test), then both sides are split in
the same way (Scott and Knott, Biometrics 30:507, 1974; Vostrikova, Soviet Mathematics Doklady
24:55, 1981). Figures are logarithms, since boots scatter in proportion, and drawn in to what their
scatter allows, so that one slow boot is no step.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from plucky_ledger.core.boots.samples import Floats

FEWEST = 4
"""Boots on either side of a step."""
DRAWS = 499
CHANCE = 0.03
"""How often a series without a step may seem to have one, in one place."""
DRAWN_IN = 2.0
"""Scatters from the middle beyond which a figure counts no more."""
LEAST_SCATTER = 0.004
"""Of a logarithm: boots measured to the tenth of a second differ by as much."""
NORMAL_MAD = 1.4826
FIGURES_KEPT, ALIKE = 9, 1e-9
"""What parts a series as well in exact arithmetic does so whatever unit it is told in: rounding
decides nothing, neither between draws nor between places."""
DATE_CHANCE = 7.35
"""Twice the loss of likelihood up to which a date is possible: 95 % for the place of a step
(Siegmund, Annals of Statistics 16:1, 1988)."""
SEED = 20_261_126
NOTICEABLE = 0.02
"""Smaller steps, as a share of the level before, nobody would notice."""


@dataclass(frozen=True)
class Changepoint:
    """From one level to another, between two figures of the series."""

    at: int
    """Index of the first figure after it."""
    earliest: int
    """The first index at which it may have been, with 95 % certainty."""
    latest: int
    before: float
    """Typical figure before it."""
    after: float


def steps_in(values: Sequence[float]) -> tuple[Changepoint, ...]:
    """Steps in a series in the order of time; figures have to be above 0."""
    if len(values) < 2 * FEWEST:
        return ()
    logs = np.log(np.maximum(np.array(values, dtype=np.float64), 1e-9))
    places = _split(logs, 0, len(logs), np.random.default_rng(SEED))
    places = _noticeable(values, places)
    ends = [0, *places, len(values)]
    return tuple(
        _step(logs, values, ends[index], place, ends[index + 2])
        for index, place in enumerate(places)
    )


def _split(logs: Floats, begin: int, end: int, chance: "np.random.Generator") -> list[int]:
    """Places of the steps between two indices."""
    part = logs[begin:end]
    if len(part) < 2 * FEWEST:
        return []
    drawn_in, _scatter = _clipped(part)
    place, parted = _best(drawn_in[None])
    draws = chance.permuted(np.broadcast_to(drawn_in, (DRAWS, len(part))), axis=1)
    as_well = int((_best(draws)[1] >= parted[0] - ALIKE).sum())
    if (as_well + 1) / (DRAWS + 1) > CHANCE:
        return []
    at = begin + int(place[0])
    return [*_split(logs, begin, at, chance), at, *_split(logs, at, end, chance)]


def _clipped(part: Floats) -> tuple[Floats, float]:
    """Figures in units of their scatter about the middle, drawn in; and the scatter.

    It is that between neighbours, which a step does not widen.
    """
    between = np.abs(np.diff(part))
    scatter = max(float(np.median(between)) * NORMAL_MAD / np.sqrt(2), LEAST_SCATTER)
    apart = np.round((part - np.median(part)) / scatter, FIGURES_KEPT)
    return np.clip(apart, -DRAWN_IN, DRAWN_IN), scatter


def _best(rows: Floats) -> tuple[Floats, Floats]:
    """The place that parts each row best, and by how many standard errors of its means."""
    count = rows.shape[1]
    places = np.arange(FEWEST, count - FEWEST + 1)
    sums = np.cumsum(rows, axis=1)
    total = sums[:, -1:]
    left = sums[:, places - 1]
    apart = np.abs(left / places - (total - left) / (count - places))
    errors = apart * np.sqrt(places * (count - places) / count)
    best = np.round(errors, FIGURES_KEPT).argmax(axis=1)
    return places[best], errors[np.arange(len(rows)), best]


def _noticeable(values: Sequence[float], places: list[int]) -> list[int]:
    """Places where the level really changes; the smallest step goes first."""
    while places:
        ends = [0, *places, len(values)]
        levels = [median(values[begin:end]) for begin, end in itertools.pairwise(ends)]
        changes = [abs(after - before) / before for before, after in itertools.pairwise(levels)]
        least = min(range(len(changes)), key=changes.__getitem__)
        if changes[least] >= NOTICEABLE:
            return places
        places = [place for index, place in enumerate(places) if index != least]
    return places


def _step(logs: Floats, values: Sequence[float], begin: int, at: int, end: int) -> Changepoint:
    """One step between its neighbours, with the places where it may have been as well."""
    part, scatter = logs[begin:end], _clipped(logs[begin:end])[1]
    levels = (float(np.median(logs[begin:at])), float(np.median(logs[at:end])))
    lost = _loss(part, levels, scatter)
    possible = np.flatnonzero(lost <= lost.min() + DATE_CHANCE) + begin
    return Changepoint(
        at,
        min(int(possible[0]), at),
        max(int(possible[-1]), at),
        float(median(values[begin:at])),
        float(median(values[at:end])),
    )


def _loss(part: Floats, levels: tuple[float, float], scatter: float) -> Floats:
    """Twice the loss of likelihood for a step before each figure."""

    def off(level: float) -> Floats:
        return np.asarray(np.minimum(np.abs((part - level) / scatter), DRAWN_IN) ** 2)

    before = np.concatenate(([0.0], np.cumsum(off(levels[0]))))
    after = np.concatenate((np.cumsum(off(levels[1])[::-1])[::-1], [0.0]))
    return np.asarray((before + after)[:-1])
