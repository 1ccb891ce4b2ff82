"""The verdict on a shift: what may be claimed, at any number of boots."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.book.also_differed import AlsoDiffered
from plucky_ledger.core.book.balance import Balance, balance_of
from plucky_ledger.core.statistics.comparison import BootPoint, Estimated, estimate
from plucky_ledger.core.statistics.controls import Drift
from plucky_ledger.core.statistics.ranks import surely_below
from plucky_ledger.core.statistics.sample_size import FEWEST_BOOTS, more_boots
from plucky_ledger.core.values.measures import Measure, Reading, noticeable_band
from plucky_ledger.core.values.reasons import Fact, Reason, ReasonCode

STAMP_LEVEL = 0.008
"""Two-sided. So strict that whoever looks after every boot, from the third a side on, is told
something false in less than one job of twenty (Pocock, Biometrika 1977)."""

AT_REST = frozenset({Measure.MEMORY_HELD, Measure.PROCESSES})
FEW_AT_REST, AGAINST_FEW = 2, 5


class Verdict(StrEnum):
    """What can honestly be said of a posting in one measure."""

    SAVED = "saved"
    LOST = "lost"
    EVEN = "even"
    UNPROVEN = "unproven"


DECIDED = frozenset({Verdict.SAVED, Verdict.LOST})


@dataclass(frozen=True, kw_only=True)
class Shift:
    """How a measure moved from one state of the PC to another, in the measure's unit."""

    measure: Measure
    before: Balance
    after: Balance
    low: float | None
    """Lower end of the 95 % interval of after − before; None when there is no such bound."""
    high: float | None
    verdict: Verdict
    more_boots: int | None
    """For unproven: boots still needed in the later state for a decision in four cases of five.
    None when decided, or when no reasonable number would."""
    reason: Reason | None
    """For unproven: why. Otherwise what the interval rests on, where that is unusual."""
    drift: Drift | None = None
    """How much the machine itself moved, if it did."""
    centre: float | None = None
    """What the interval lies about: odd boots count for less in it, and each boot is brought to
    one speed of the machine. None where there is no interval."""
    chance: float = 1.0
    """Chance of a shift so far from nothing where there is none."""
    wrong: tuple[tuple[float, ...], tuple[float, ...]] = ((), ())
    """Of each boot with a reading: how likely it went wrong."""
    more_before: int = 0
    """Boots needed in the earlier state as well, or alone: boots of the later one do not help then.
    """
    line: bool = False
    """The boots went one way in their order, and that is taken out or may be."""
    in_turns: bool = False
    """The boots of both states alternate."""
    by_speed: float = 0.0
    """How far the machine's own speed, taken out, moved the estimate."""

    @property
    def estimate(self) -> float:
        """After − before as best known: it lies in its interval, and its sign is what is said. The
        difference of the balances where there is no interval.
        """
        return self.value if self.centre is None else self.centre

    @property
    def drifts(self) -> bool:
        """Nothing is proven because the machine itself moved between the boots, which were not
        taken in turns: turns would do.
        """
        moved = self.drift is not None or self.line
        return self.verdict is Verdict.UNPROVEN and moved and not self.in_turns

    @property
    def units(self) -> int:
        """After − before, in whole book units: negative is saved."""
        return self.after.units - self.before.units

    @property
    def value(self) -> float:
        """After − before in the measure's unit: negative is saved."""
        return self.after.value - self.before.value


def shift_between(
    measure: Measure,
    before: Sequence[Reading],
    after: Sequence[Reading],
    others: Sequence[Sequence[float]] = (),
) -> Shift | None:
    """The shift between two states' readings, without any control of the machine's speed.

    ``others`` are the figures of the job's other states. None when either side has no reading.
    """
    sides = [[BootPoint(reading.value) for reading in side] for side in (before, after)]
    rest = [[BootPoint(value) for value in other] for other in others]
    if not before or not after:
        return None
    return judged(measure, before, after, estimate(measure, (sides[0], sides[1]), rest), drift=None)


def judged(
    measure: Measure,
    before: Sequence[Reading],
    after: Sequence[Reading],
    estimated: Estimated | None,
    drift: Drift | None,
) -> Shift:
    """The verdict on an estimate. ``before`` and ``after`` have one reading at least."""
    start, end = balance_of(measure, before), balance_of(measure, after)
    assert start is not None
    assert end is not None
    few = min(start.boots, end.boots)
    if estimated is None:
        return Shift(
            measure=measure,
            before=start,
            after=end,
            low=None,
            high=None,
            verdict=Verdict.UNPROVEN,
            more_boots=max(0, FEWEST_BOOTS - end.boots),
            more_before=max(0, FEWEST_BOOTS - start.boots),
            reason=Reason(ReasonCode.NO_SPREAD),
            drift=drift,
        )
    low, high = estimated.interval()
    shift = Shift(
        measure=measure,
        before=start,
        after=end,
        low=None if start.at_least else low,
        high=None if end.at_least else high,
        verdict=Verdict.UNPROVEN,
        more_boots=None,
        reason=None,
        drift=drift,
        centre=estimated.shift,
        chance=estimated.chance,
        wrong=_wrong(estimated),
        line=estimated.line or estimated.rival is not None,
        in_turns=estimated.in_turns,
        by_speed=estimated.by_speed,
    )
    if few < FEWEST_BOOTS and not _few_will_do(measure, start, end):
        return replace(
            shift,
            reason=Reason(ReasonCode.FEW_BOOTS),
            more_boots=max(0, FEWEST_BOOTS - end.boots),
            more_before=max(0, FEWEST_BOOTS - start.boots),
        )
    if start.at_least or end.at_least:
        return _censored(shift, before, after, estimated)
    return _stamped(shift, estimated)


def _few_will_do(measure: Measure, start: Balance, end: Balance) -> bool:
    """Whether two boots of a side are enough, held against many of the other: not of times, which
    go wrong more often than what is held at rest.
    """
    boots = sorted((start.boots, end.boots))
    return measure in AT_REST and boots[0] >= FEW_AT_REST and boots[1] >= AGAINST_FEW


def _wrong(estimated: Estimated) -> tuple[tuple[float, ...], tuple[float, ...]]:
    before, after = (tuple(1 - weight for weight in side) for side in estimated.weights)
    return before, after


def _strictly(estimated: Estimated, band: float) -> Verdict:
    """What the strict interval allows to be said; of two rivals, what both say."""
    said = {
        verdict_of(*one.strict_interval(STAMP_LEVEL), one.shift, band)
        for one in (estimated, estimated.rival)
        if one is not None
    }
    return said.pop() if len(said) == 1 else Verdict.UNPROVEN


def _stamped(shift: Shift, estimated: Estimated) -> Shift:
    """What the strict interval allows to be said."""
    band = noticeable_band(shift.measure, shift.before.value)
    verdict = _strictly(estimated, band)
    facts: dict[str, Fact] = {}
    if shift.drift is not None:
        drift = shift.drift
        facts = {"ratio": drift.ratio, "control": drift.control, "in_turns": shift.in_turns}
    if verdict is not Verdict.UNPROVEN:
        moved = Reason(ReasonCode.MACHINE_MOVED, facts) if facts else None
        return replace(shift, verdict=verdict, reason=moved)
    if estimated.rival is not None:
        return replace(shift, reason=Reason(ReasonCode.LINE_OR_STEP))
    wanted = more_boots(estimated, (shift.before.boots, shift.after.boots), band, STAMP_LEVEL)
    before, after = wanted if wanted is not None else (0, None)
    code = Reason(ReasonCode.MACHINE_DECIDES, facts) if facts else None
    return replace(
        shift,
        reason=code or _why_unproven(shift, band, wanted),
        more_boots=after,
        more_before=before,
    )


def verdict_of(low: float, high: float, middle: float, band: float) -> Verdict:
    """The rule itself: ``low``…``high`` is an interval of after − before about ``middle``."""
    if high < 0 and middle <= -band:
        return Verdict.SAVED
    if low > 0 and middle >= band:
        return Verdict.LOST
    if low >= -band and high <= band:
        return Verdict.EVEN
    return Verdict.UNPROVEN


def _why_unproven(shift: Shift, band: float, more: tuple[int, int] | None) -> Reason:
    assert shift.low is not None
    assert shift.high is not None
    assert shift.centre is not None
    code = ReasonCode.PARTLY_NOTICEABLE
    if shift.low < 0 < shift.high:
        code = ReasonCode.BOTH_SIDES_OF_ZERO
    elif verdict_of(shift.low, shift.high, shift.centre, band) is not Verdict.UNPROVEN:
        code = ReasonCode.NOT_SURE_ENOUGH
    return Reason.of(code, hopeless=more is None)


def _censored(
    shift: Shift, before: Sequence[Reading], after: Sequence[Reading], estimated: Estimated
) -> Shift:
    """Verdict with censored boots: the figure of their side is a lower bound.

    Where that side would have to be the smaller one they rank as endless, and the rank test
    decides.
    """
    band = noticeable_band(shift.measure, shift.before.value)
    plain = _strictly(estimated, band)
    saved = plain is Verdict.SAVED
    if shift.after.at_least:
        saved = surely_below(after, before, band, STAMP_LEVEL / 2)
    lost = plain is Verdict.LOST
    if shift.before.at_least:
        lost = surely_below(before, after, band, STAMP_LEVEL / 2)
    if saved:
        return replace(shift, verdict=Verdict.SAVED, reason=_at_least(shift))
    if lost:
        return replace(shift, verdict=Verdict.LOST, reason=_at_least(shift))
    return replace(shift, reason=Reason(ReasonCode.NOT_SETTLED_IN_RECORDING))


def _at_least(shift: Shift) -> Reason:
    before = shift.before.at_least
    return Reason(ReasonCode.AT_LEAST_BEFORE if before else ReasonCode.AT_LEAST_AFTER)


def held_against(shift: Shift, others: Sequence[AlsoDiffered]) -> Shift:
    """The same without its stamp where somebody who worked on one side alone explains it."""
    if shift.verdict not in DECIDED:
        return shift
    one = next((one for one in others if one.explains(shift.measure, shift.estimate)), None)
    if one is None:
        return shift
    reason = Reason.of(ReasonCode.MAY_BE_ANOTHERS, name=one.worked.name)
    return replace(shift, verdict=Verdict.UNPROVEN, reason=reason)


def beside_others(
    shifts: Mapping[Measure, Shift | None], headline: Measure
) -> dict[Measure, Shift | None]:
    """The same with the measures beside the headline judged together.

    Of seven more measures one would be stamped falsely too often. The least likely to be chance
    must pass a seventh of the level, the next a sixth, and so on (Holm, Scandinavian Journal of
    Statistics 1979).
    """
    held = dict(shifts)
    stamped = sorted(
        (
            (shift.chance, measure)
            for measure, shift in shifts.items()
            if shift is not None and measure is not headline
        ),
        key=lambda pair: pair[0],
    )
    passing = True
    for place, (chance, measure) in enumerate(stamped):
        passing = passing and chance <= STAMP_LEVEL / (len(stamped) - place)
        shift = held[measure]
        assert shift is not None
        if not passing and shift.verdict in DECIDED:
            held[measure] = replace(
                shift, verdict=Verdict.UNPROVEN, reason=Reason(ReasonCode.ONE_OF_MANY)
            )
    return held


def as_gain(shift: Shift) -> tuple[float | None, float | None] | None:
    """The interval as an amount saved (or lost, when it lost), smaller figure first.

    An end is None where there is no such bound; all of it where there is no interval.
    """
    if shift.low is None and shift.high is None:
        return None
    low, high = (None if b is None or math.isnan(b) else b for b in (shift.low, shift.high))
    if shift.estimate <= 0:
        return (None if high is None else -high, None if low is None else -low)
    return low, high
