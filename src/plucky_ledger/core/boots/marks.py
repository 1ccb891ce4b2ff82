"""Marks: the named instants of a boot, and the human pauses that are not the machine's."""

from collections.abc import Iterator, Mapping
from enum import StrEnum
from itertools import pairwise

from plucky_ledger.core.values.reasons import Reason, ReasonCode


class Mark(StrEnum):
    """A named instant, in the order in which they fall."""

    POWER_ON = "power_on"
    KERNEL_STARTED = "kernel_started"
    PASSPHRASE_ASKED = "passphrase_asked"  # noqa: S105 an instant
    PASSPHRASE_GIVEN = "passphrase_given"  # noqa: S105 an instant
    SYSTEM_UP = "system_up"
    SIGN_IN_SHOWN = "sign_in_shown"
    SIGN_IN_IDLE = "sign_in_idle"
    """Signing in, less all the time the PC was calm at the sign-in screen: only that was a
    person's. Worked out of samples, and missing without them.
    """
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


PAUSES = (
    (Mark.PASSPHRASE_ASKED, Mark.PASSPHRASE_GIVEN),
    (Mark.SIGN_IN_SHOWN, Mark.SIGNED_IN),
)
"""Stretches in which the machine waited for a person."""


def pauses(marks: Marks) -> Iterator[tuple[float, float]]:
    """When the machine waited for a person: those of which both ends were seen."""
    for first, end in PAUSES:
        if first in marks and end in marks:
            idle = marks.get(Mark.SIGN_IN_IDLE, marks[first]) if end is Mark.SIGNED_IN else 0.0
            begin = max(marks[first], idle)
            if marks[end] > begin:
                yield begin, marks[end]


def sign_in_wait(marks: Marks) -> float:
    """Seconds for which the PC waited at the sign-in screen for the person."""
    signed_in = marks.get(Mark.SIGNED_IN)
    return sum(end - begin for begin, end in pauses(marks) if end == signed_in)


def human_wait(marks: Marks) -> float:
    """Seconds in which the machine waited for a person."""
    return sum(end - begin for begin, end in pauses(marks))


def machine_seconds(instant: float, marks: Marks) -> float:
    """``instant`` (seconds since time zero) with the waits for a person taken out.

    An instant that lies within a wait counts as the moment in which it began.
    """
    waited = sum(min(instant, end) - begin for begin, end in pauses(marks) if instant > begin)
    return instant - waited


def nobody_signed_in(marks: Marks) -> bool:
    """Whether a boot came to a sign-in screen and no further."""
    signed_in = (Mark.SIGNED_IN, Mark.DESKTOP_SHOWN, Mark.READY)
    return Mark.SIGN_IN_SHOWN in marks and not any(mark in marks for mark in signed_in)


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
