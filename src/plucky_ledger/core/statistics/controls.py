"""Control variables: how fast the machine itself was in each boot.

The kernel stage, and a fixed piece of work timed at rest, are out of reach of every startup entry.
Where they changed, the PC, its cooling or its host did. Figures are adjusted for them: ln(figure) =
state + b · ln(control). One exponent b serves the whole job: the regression slope within its
states, shrunk towards what captured PCs gave. It is never 1 by assumption, and no test of the
shift decides whether it is used: the interval would be too narrow whenever the test is passed by
chance. A control that says more of itself than of the machine is left out.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean, median

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.values.measures import Measure

CONTROLS = ("kernel stage", "fixed work")
USUAL_EXPONENT, EXPONENT_SPREAD = 0.6, 0.15
"""Prior of the exponent: mean and standard deviation over captured PCs."""
BOOT_SPREAD = 0.04
"""Usual standard deviation of boots about their state, on the logarithm."""
MOVED = 0.04
"""Change of the controls, on the logarithm, below which the machine counts as unchanged in what is
said of it."""
ODD = 0.25
"""Distance of a boot's control from the others', on the logarithm, from which on the boot is named.
"""
IN_MACHINE_TIME = frozenset(
    {
        Measure.READY,
        Measure.SETTLED,
        Measure.SYSTEM_UP,
        Measure.CPU_WORK,
        Measure.LOAD_AT_REST,
    }
)
"""Measures in machine time: proportional to the speed of the machine."""
READ_TO_SECONDS, READ_TO_WHOLE_SECONDS = 0.001, 1.0
"""How exactly controls are read; some systems tell whole seconds alone."""
EXACT_ENOUGH = 0.02
"""A control has to be read to within this share of itself."""
CALM = 0.05
"""Scatter of figures, on the logarithm, that no control is blamed for."""
TOO_MUCH = 2.5
"""A control that scatters so many times as much as the figures says more of itself: the machine's
speed moves both, and the figures by more than half as much."""


@dataclass(frozen=True)
class Drift:
    """How much slower (above 1) or faster the machine itself was in the later state's boots."""

    control: str
    ratio: float
    """Typical control after, divided by before."""


@dataclass(frozen=True)
class Exponent:
    """Exponent b with which the figures of a job follow its controls."""

    value: float
    error: float
    """Standard error."""


@dataclass(frozen=True)
class LeftOut:
    """A control that is worth nothing here."""

    control: str
    scatter: float | None
    """Relative standard deviation within the states; None where it is too short to be read."""


def usable(groups: Sequence[Sequence[Boot]], measure: Measure) -> tuple[str, ...]:
    """Names of the controls that all boots of these states have, and that are worth it."""
    out = {left.control for left in left_out(groups, measure)}
    return tuple(name for name in _had_by_all(groups) if name not in out)


def left_out(groups: Sequence[Sequence[Boot]], measure: Measure) -> tuple[LeftOut, ...]:
    """Controls that would add more to the figures in ``measure`` than they take out of them: too
    short to be read exactly, or scattering more than what they correct.
    """
    found = []
    for name in _had_by_all(groups):
        values = [[boot.context.controls[name] for boot in boots] for boots in groups]
        if min(map(min, filter(None, values))) * EXACT_ENOUGH < _read_to(values):
            found.append(LeftOut(name, None))
            continue
        figures = [
            [boot.readings[measure].value for boot in boots if measure in boot.readings]
            for boots in groups
        ]
        scatter = _scatter(values)
        if scatter > TOO_MUCH * max(CALM, _scatter(figures)):
            found.append(LeftOut(name, scatter))
    return tuple(found)


def _had_by_all(groups: Sequence[Sequence[Boot]]) -> list[str]:
    boots = [boot for group in groups for boot in group]
    return [
        name
        for name in CONTROLS
        if boots and all(boot.context.controls.get(name, 0.0) > 0 for boot in boots)
    ]


def _read_to(groups: Sequence[Sequence[float]]) -> float:
    whole = all(value == round(value) for group in groups for value in group)
    return READ_TO_WHOLE_SECONDS if whole else READ_TO_SECONDS


def _scatter(groups: Sequence[Sequence[float]]) -> float:
    """Standard deviation within states, on the logarithm; 0 where nothing tells."""
    logs = [[math.log(value) for value in group if value > 0] for group in groups]
    squares = sum((x - fmean(group)) ** 2 for group in logs if group for x in group)
    degrees = sum(len(group) - 1 for group in logs if group)
    return math.sqrt(squares / degrees) if degrees > 0 else 0.0


def speed_of(boot: Boot, names: Sequence[str]) -> float:
    """Logarithm of the machine's slowness in a boot: the mean of several controls."""
    return sum(math.log(boot.context.controls[name]) for name in names) / len(names)


def exponent_of(
    states: Sequence[Sequence[tuple[float, float, float]]], spread: float = BOOT_SPREAD
) -> Exponent:
    """The exponent from speed, ln(value) and weight of boots, by their states."""
    both = squares = 0.0
    for boots in states:
        total = sum(w for _, _, w in boots)
        xs, ys = (sum(boot[of] * boot[2] for boot in boots) / total for of in (0, 1))
        both += sum(w * (x - xs) * (y - ys) for x, y, w in boots)
        squares += sum(w * (x - xs) ** 2 for x, _, w in boots)
    prior = (spread / EXPONENT_SPREAD) ** 2
    value = (both + prior * USUAL_EXPONENT) / (squares + prior)
    return Exponent(value, spread / math.sqrt(squares + prior))


def to_one_speed(boots: Sequence[Boot], measure: Measure) -> list[float]:
    """By what each boot's own seconds are multiplied to be those of the typical machine of them."""
    names = usable([boots], measure)
    if not names:
        return [1.0] * len(boots)
    speeds = [speed_of(boot, names) for boot in boots]
    middle = median(speeds)
    return [math.exp(USUAL_EXPONENT * (middle - speed)) for speed in speeds]


def drift_between(
    before: Sequence[Boot], after: Sequence[Boot], names: Sequence[str]
) -> Drift | None:
    """The control of ``names`` that changed most between two states' boots; None where none clearly
    did.
    """
    drifts = [
        Drift(name, ratio)
        for name in names
        if before and after
        if abs(math.log(ratio := _typical(name, after) / _typical(name, before))) > MOVED
    ]
    return max(drifts, key=lambda drift: abs(math.log(drift.ratio)), default=None)


def _typical(name: str, boots: Sequence[Boot]) -> float:
    return median(boot.context.controls[name] for boot in boots)


def odd_boots(boots: Sequence[Boot], names: Sequence[str] = CONTROLS) -> Mapping[int, Drift]:
    """Indices of boots in which the machine was unusually slow or fast, by these controls."""
    odd: dict[int, Drift] = {}
    for name in names:
        values = [b.context.controls[name] for b in boots if b.context.controls.get(name, 0.0) > 0]
        if len(values) < 3:
            continue
        usual = median(values)
        for place, boot in enumerate(boots):
            value = boot.context.controls.get(name, 0.0)
            if value > 0 and abs(math.log(value / usual)) > ODD:
                odd.setdefault(place, Drift(name, value / usual))
    return odd
