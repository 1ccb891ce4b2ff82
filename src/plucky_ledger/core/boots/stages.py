"""The stage band: which part of the PC was at work when."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.boots.marks import PAUSES, Mark, Marks


class StageKind(StrEnum):
    """Which part of the PC was at work."""

    FIRMWARE = "firmware"
    LOADER = "loader"
    KERNEL = "kernel"
    INITRD = "initrd"
    SERVICES = "services"
    PASSPHRASE_WAIT = "passphrase_wait"  # noqa: S105 a stage
    SIGN_IN_WAIT = "sign_in_wait"
    SESSION = "session"
    SETTLING = "settling"
    UNKNOWN = "unknown"


WAITS = frozenset({StageKind.PASSPHRASE_WAIT, StageKind.SIGN_IN_WAIT})
"""Stages in which the PC waits for a person."""


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
    return tuple(part for stage in stages for part in _around_passphrase(stage, marks))


def _around_passphrase(stage: Stage, marks: Marks) -> Iterator[Stage]:
    """A stage without the wait for a passphrase in it, and that as one of its own."""
    asked, given = (marks.get(mark) for mark in PAUSES[0])
    if asked is None or given is None or not stage.start < given or not asked < stage.end:
        yield stage
        return
    begin, end = max(asked, stage.start), min(given, stage.end)
    parts = (
        replace(stage, end=begin),
        Stage(StageKind.PASSPHRASE_WAIT, begin, end),
        replace(stage, start=end),
    )
    yield from (part for part in parts if part.end > part.start)


def _first(marks: Marks) -> float | None:
    return min(marks.values(), default=None)
