"""What makes a comparison of two rounds unfair."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import TypeVar

from plucky_ledger.core.book.also_differed import also_differed
from plucky_ledger.core.boots.boot import Boot, PowerSource, StartKind, counted
from plucky_ledger.core.boots.marks import nobody_signed_in
from plucky_ledger.core.statistics.controls import (
    CONTROLS,
    drift_between,
    left_out,
    odd_boots,
    usable,
)
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode

T = TypeVar("T")
NAMED = 2
"""Of those who worked on one side alone."""
TIMES = (Measure.SETTLED, Measure.READY, Measure.SYSTEM_UP)


class Side(StrEnum):
    """Which of the two rounds."""

    BEFORE = "before"
    AFTER = "after"


def concerns(
    before: tuple[Boot, ...], after: tuple[Boot, ...], changed: Collection[str] = ()
) -> tuple[Reason, ...]:
    """What differs between the two rounds besides the changes, which are to the entries of these
    ids; empty when nothing is known to.
    """
    sides = counted(before), counted(after)
    reasons = []
    for code, of in _CIRCUMSTANCES:
        values = [{of(boot) for boot in side} - {""} for side in sides]
        if values[0] and values[1] and values[0] != values[1]:
            reasons.append(Reason.of(code, before=_list(values[0]), after=_list(values[1])))
    left = {one.control for one in left_out(sides, _timed(sides))}
    names = [name for name in CONTROLS if name not in left]
    if (drift := drift_between(*sides, usable(sides, _timed(sides)))) is not None:
        reasons.append(
            Reason.of(ReasonCode.MACHINE_DRIFTED, ratio=drift.ratio, control=drift.control)
        )
    for boots, side in zip(sides, Side, strict=True):
        reasons += [
            Reason.of(
                ReasonCode.ODD_CONTROL,
                side=side,
                boot=place + 1,
                ratio=odd.ratio,
                control=odd.control,
            )
            for place, odd in odd_boots(boots, names).items()
        ]
        busy = _busy(boots, side)
        if busy is not None:
            reasons.append(busy)
    reasons += [
        Reason.of(
            ReasonCode.WORKED_BEFORE_ALONE if one.before else ReasonCode.WORKED_AFTER_ALONE,
            name=one.worked.name,
            cpu_seconds=one.worked.cpu_seconds,
        )
        for one in also_differed(*sides, changed)[:NAMED]
    ]
    return tuple(reasons)


def _timed(sides: Sequence[Sequence[Boot]]) -> Measure:
    """The measure by which a control is worth anything: the first of the times that all have."""
    boots = [boot for side in sides for boot in side]
    have = (m for m in TIMES if all(m in boot.readings for boot in boots))
    return next(have, TIMES[0])


def boot_concerns(boot: Boot, others: tuple[Boot, ...]) -> tuple[Reason, ...]:
    """Why one boot should not be compared with ``others``; empty when nothing speaks against it."""
    context = boot.context
    checks = (
        (boot.cut_short, ReasonCode.CUT_SHORT),
        (boot.is_start and nobody_signed_in(boot.marks), ReasonCode.NOBODY_SIGNED_IN),
        (context.updates_running, ReasonCode.UPDATES_RUNNING),
        (context.disk_checked, ReasonCode.DISK_CHECKED),
        (context.suspended_seconds > 1, ReasonCode.SLEPT_MEANWHILE),
        (context.start_kind is StartKind.RESUME, ReasonCode.RESUMED),
    )
    reasons = [Reason(code) for holds, code in checks if holds]
    for code, of in _CIRCUMSTANCES:
        usual = {of(other) for other in counted(others) if other is not boot} - {""}
        if of(boot) and usual and of(boot) not in usual:
            reasons.append(Reason(code))
    return tuple(reasons)


def _start_kind(boot: Boot) -> str:
    kind = boot.context.start_kind
    return "" if kind is StartKind.UNKNOWN else kind


def _power_source(boot: Boot) -> str:
    source = boot.context.power_source
    return "" if source is PowerSource.UNKNOWN else source


_CIRCUMSTANCES: tuple[tuple[ReasonCode, Callable[[Boot], str]], ...] = (
    (ReasonCode.KERNEL_DIFFERS, lambda boot: boot.context.kernel),
    (ReasonCode.START_DIFFERS, _start_kind),
    (ReasonCode.POWER_DIFFERS, _power_source),
    (ReasonCode.USER_DIFFERS, lambda boot: boot.context.user),
    (ReasonCode.HARDWARE_DIFFERS, lambda boot: boot.context.hardware),
    (ReasonCode.HOW_DIFFERS, lambda boot: boot.how),
)
"""What should be alike; the values of codes are codes, parted by a bar where there are several."""


def _list(values: set[str]) -> str:
    return "|".join(sorted(values))


def _busy(boots: tuple[Boot, ...], side: Side) -> Reason | None:
    """Boots of a round in which something else went on; they should be set aside."""
    updating = sum(boot.context.updates_running for boot in boots)
    checked = sum(boot.context.disk_checked for boot in boots)
    slept = sum(boot.context.suspended_seconds > 1 for boot in boots)
    if not (updating or checked or slept):
        return None
    return Reason.of(
        ReasonCode.BUSY_BOOTS,
        side=side,
        boots=len(boots),
        updating=updating,
        slept=slept,
        checked=checked,
    )


def remarks(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> tuple[Reason, ...]:
    """One remark per boot and per control that was left out, with its reason; and where the rounds
    hold times, were not taken in turns, and no control is left.
    """
    sides = counted(before), counted(after)
    measure = _timed(sides)
    controls = [
        Reason.of(ReasonCode.CONTROL_TOO_SHORT, control=left.control)
        if left.scatter is None
        else Reason.of(ReasonCode.CONTROL_SCATTERS, control=left.control, share=left.scatter)
        for left in left_out(sides, measure)
    ]
    timed = all(any(measure in boot.readings for boot in side) for side in sides)
    if timed and not usable(sides, measure) and not _in_turns(sides):
        controls.append(Reason(ReasonCode.NO_CONTROL))
    return (*_set_aside(before, after), *controls)


def _in_turns(sides: Sequence[Sequence[Boot]]) -> bool:
    """Whether one state followed upon the other more often than once: a speed of the machine that
    changed in between is in both.
    """
    order = sorted((boot.started_at, at) for at, side in enumerate(sides) for boot in side)
    return sum(one != two for (_, one), (_, two) in pairwise(order)) > 1


def _set_aside(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> tuple[Reason, ...]:
    return tuple(
        Reason.of(ReasonCode.BOOT_SET_ASIDE, side=side, why=boot.set_aside)
        for boots, side in zip((before, after), Side, strict=True)
        for boot in boots
        if not boot.counts
    )


@dataclass(frozen=True)
class Alike:
    """What is known to be the same on both sides; None where it is not, or it is unknown."""

    kernel: bool = False
    start_kind: StartKind | None = None
    power_source: PowerSource | None = None
    how: str | None = None


def alike(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> Alike:
    """What is known to be the same in all boots of both rounds."""
    boots = (*counted(before), *counted(after))
    if not boots:
        return Alike()
    first = boots[0].context
    kinds = {boot.context.start_kind for boot in boots}
    sources = {boot.context.power_source for boot in boots}
    ways = {boot.how for boot in boots}
    return Alike(
        kernel=bool(first.kernel) and len({boot.context.kernel for boot in boots}) == 1,
        start_kind=_only(kinds, StartKind.UNKNOWN),
        power_source=_only(sources, PowerSource.UNKNOWN),
        how=next(iter(ways)) if len(ways) == 1 else None,
    )


def _only(values: set[T], unknown: T) -> T | None:
    """The one value there is; None when there are several or it is not known."""
    return next(iter(values)) if len(values) == 1 and unknown not in values else None
