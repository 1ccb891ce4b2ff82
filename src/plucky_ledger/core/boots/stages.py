"""The stage band: which part of the PC was at work when."""

from plucky_ledger.core.boots.boot import Stage
from plucky_ledger.core.boots.marks import Mark, Marks

SIGN_IN_WAIT = "sign-in wait"


def stages_of(marks: Marks, known: tuple[Stage, ...], settled: float | None) -> tuple[Stage, ...]:
    """Stages in order of time: those the system told of, and those between the marks.

    ``settled`` is in seconds since time zero. Stages whose ends were not seen are left out.
    """
    told = tuple(sorted(known, key=lambda stage: stage.start))
    begin = max((stage.end for stage in told), default=_first(marks))
    if begin is None:
        return told
    cuts = [
        ("services", marks.get(Mark.SIGN_IN_SHOWN, marks.get(Mark.SYSTEM_UP))),
        (SIGN_IN_WAIT, marks.get(Mark.SIGNED_IN)),
        ("session", marks.get(Mark.DESKTOP_SHOWN)),
        ("settling", settled if settled is not None else marks.get(Mark.READY)),
    ]
    stages = list(told)
    for name, end in cuts:
        if end is None or end <= begin:
            continue
        if name != SIGN_IN_WAIT or Mark.SIGN_IN_SHOWN in marks:
            stages.append(Stage(name, begin, end))
        begin = end
    return tuple(stages)


def _first(marks: Marks) -> float | None:
    return min(marks.values(), default=None)
