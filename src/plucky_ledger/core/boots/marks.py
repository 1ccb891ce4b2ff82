"""Marks: the named instants of a boot, and the human pause that is not the machine's."""

from collections.abc import Mapping
from enum import StrEnum
from itertools import pairwise

from plucky_ledger.core.reasons import Reason, ReasonCode


class Mark(StrEnum):
    """A named instant, in the order in which they fall."""

    POWER_ON = "power_on"
    KERNEL_STARTED = "kernel_started"
    SYSTEM_UP = "system_up"
    SIGN_IN_SHOWN = "sign_in_shown"
    SIGNED_IN = "signed_in"
    DESKTOP_SHOWN = "desktop_shown"
    READY = "ready"
    SETTLED = "settled"


Marks = Mapping[Mark, float]
"""Seconds since time zero of the boot; a mark nobody saw is missing, never zero."""

PERSON_MARKS = (
    Mark.POWER_ON,
    Mark.SIGN_IN_SHOWN,
    Mark.SIGNED_IN,
    Mark.DESKTOP_SHOWN,
    Mark.READY,
)
"""What a person with a stopwatch can see, in order."""


def sign_in_wait(marks: Marks) -> float:
    """Seconds between sign-in shown and signed in; 0 when either was not seen."""
    shown, signed_in = marks.get(Mark.SIGN_IN_SHOWN), marks.get(Mark.SIGNED_IN)
    if shown is None or signed_in is None:
        return 0.0
    return max(0.0, signed_in - shown)


def machine_seconds(instant: float, marks: Marks) -> float:
    """``instant`` (seconds since time zero) with the sign-in wait taken out.

    An instant that lies within the wait counts as the moment the sign-in was shown.
    """
    shown, signed_in = marks.get(Mark.SIGN_IN_SHOWN), marks.get(Mark.SIGNED_IN)
    if shown is None or signed_in is None or instant <= shown:
        return instant
    if instant < signed_in:
        return shown
    return instant - sign_in_wait(marks)


def faults(marks: Marks) -> tuple[Reason, ...]:
    """What cannot be right about these marks; empty when all is well."""
    faults = []
    seen = [(mark, marks[mark]) for mark in PERSON_MARKS if mark in marks]
    for (earlier, first), (later, second) in pairwise(seen):
        if second < first:
            faults.append(
                Reason.of(
                    ReasonCode.MARKS_REVERSED,
                    later=later,
                    later_seconds=second,
                    earlier=earlier,
                    earlier_seconds=first,
                )
            )
    faults.extend(
        Reason.of(ReasonCode.MARK_NO_TIME, mark=mark)
        for mark, seconds in marks.items()
        if not (-86_400 < seconds < 864_000)
    )
    return tuple(faults)
