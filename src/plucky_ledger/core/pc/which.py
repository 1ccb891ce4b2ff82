"""Which PC a job is about: the one we run on, another one, or the stand-in."""

from dataclasses import dataclass
from enum import StrEnum


class PcKind(StrEnum):
    """What kind of PC a job is about."""

    REAL = "real"
    STAND_IN = "stand_in"


@dataclass(frozen=True)
class WhichPc:
    """The PC of a job."""

    kind: PcKind = PcKind.REAL
    name: str = ""
    """What tells it from others of its kind: a real PC's own identity, the stand-in's name. Empty
    for a real PC that has not told yet."""


THIS_OR_ANOTHER = WhichPc()
"""A real PC; which one is known once it has been read or recorded."""
