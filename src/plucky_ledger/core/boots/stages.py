"""The stage band: which part of the PC was at work when."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.boots.marks import Mark, Marks


class StageKind(StrEnum):
    """Which part of the PC was at work."""

    FIRMWARE = "firmware"
    LOADER = "loader"
    KERNEL = "kernel"
    INITRD = "initrd"
    SERVICES = "services"
    SIGN_IN_WAIT = "sign_in_wait"
    SESSION = "session"
    SETTLING = "settling"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Stage:
    """A stretch of the boot in which one part of the PC was at work. Seconds."""

    kind: StageKind
    start: float
    end: float
    name: str = ""
    """What the recording calls a stage of a kind this version does not know."""


def stages_of(marks: Marks, known: tuple[Stage, ...], settled: float | None) -> tuple[Stage, ...]:
    """Stages in order of time: those the system told of, and those between the marks.

    ``settled`` is in seconds since time zero. Stages whose ends were not seen are left out.
    """
    reported = tuple(sorted(known, key=lambda stage: stage.start))
    begin = max((stage.end for stage in reported), default=_first(marks))
    if begin is None:
        return reported
    cuts = [
        (StageKind.SERVICES, marks.get(Mark.SIGN_IN_SHOWN, marks.get(Mark.SYSTEM_UP))),
        (StageKind.SIGN_IN_WAIT, marks.get(Mark.SIGNED_IN)),
        (StageKind.SESSION, marks.get(Mark.DESKTOP_SHOWN)),
        (StageKind.SETTLING, settled if settled is not None else marks.get(Mark.READY)),
    ]
    stages = list(reported)
    for kind, end in cuts:
        if end is None or end <= begin:
            continue
        if kind is not StageKind.SIGN_IN_WAIT or Mark.SIGN_IN_SHOWN in marks:
            stages.append(Stage(kind, begin, end))
        begin = end
    return tuple(stages)


def _first(marks: Marks) -> float | None:
    return min(marks.values(), default=None)
