"""Ending a running program as a trial: what that frees, and whether it comes back by itself."""

from dataclasses import dataclass

OBSERVED_SECONDS = 8.0
"""How long it is watched afterwards."""


@dataclass(frozen=True)
class ToStop:
    """What is to be ended."""

    name: str
    group: str = ""
    """Control group its processes run in; empty for a program of no service."""
    program: str = ""
    """Full path of the program; empty where its group says enough."""


@dataclass(frozen=True, kw_only=True)
class Stopped:
    """What became of it."""

    name: str
    processes: int
    """How many were ended."""
    freed_bytes: float
    """Held by them alone, as far as that may be read."""
    forced: int
    """Processes that did not end when asked to."""
    came_back_seconds: float | None
    """How soon it was there again; None where it was not."""
    started_again_by: str
    """Unit or program that started it again; empty where that cannot be told."""
