"""Waiting times of programs, and answer times of the drives, over a span of a recording."""

from dataclasses import dataclass

from plucky_ledger.core.boots.samples import Floats, Samples, grown_by

LEAST_SECONDS = 2.0
"""A shorter stretch tells nothing."""
FEW_REQUESTS = 20
"""How soon a drive answers is not told of fewer."""


@dataclass(frozen=True)
class Waits:
    """Shares of the time, 0 to 1; None is not known."""

    drive_busy: float
    answer_seconds: float | None
    """Mean time from asking a drive to its answer."""
    for_cores: float | None
    """Some program waited for a core, by the kernel's account (pressure stall information)."""
    for_drive: float | None
    for_memory: float | None


def waits_between(
    samples: Samples, begin: float, end: float, of_a_person: float = 0.0
) -> Waits | None:
    """From one instant to another, in seconds since the kernel started; None for a stretch too
    short, or not watched. So many seconds of it were ``of_a_person``, and nobody else's.
    """
    end = min(end, samples.end)
    length = end - begin - of_a_person
    if length < LEAST_SECONDS:
        return None

    def grown(counter: Floats | None) -> float | None:
        if counter is None:
            return None
        before = grown_by(counter, samples.seconds, begin) if begin > 0 else 0.0
        return max(0.0, grown_by(counter, samples.seconds, end) - before)

    def share(counter: Floats | None) -> float | None:
        seconds = grown(counter)
        return None if seconds is None else min(seconds / length, 1.0)

    requests, took = grown(samples.disk_requests), grown(samples.disk_answer_seconds)
    return Waits(
        drive_busy=share(samples.disk_busy_seconds) or 0.0,
        answer_seconds=took / requests
        if took is not None and requests is not None and requests >= FEW_REQUESTS
        else None,
        for_cores=share(samples.cpu_pressure_seconds),
        for_drive=share(samples.io_pressure_seconds),
        for_memory=share(samples.memory_pressure_seconds),
    )
