"""The figures of one boot in every measure, from its marks and samples."""

from dataclasses import replace
from statistics import median

import numpy as np

from plucky_ledger.core.boots.marks import Mark, Marks, machine_seconds, nobody_signed_in
from plucky_ledger.core.boots.samples import Samples, grown_by, rates
from plucky_ledger.core.boots.settle import Settled, find_settled
from plucky_ledger.core.values.measures import Measure, Reading, Readings

MEGABYTE = 1e6
REST_SECONDS = 10.0
"""Length of the stretch after settled from which the figures at rest are taken."""
COMING_AND_GOING = 1
"""Processes by which a PC at rest differs from one moment to the next."""
MEMORY_SLACK = 0.005
"""The same of memory held, as a share."""
LATE_SECONDS = 120.0
"""Who begins to record this long after the PC could have settled does not record its start."""
UNSEEN_SECONDS = 5.0
"""A PC that is calm from the first sample on, and could have been for this long, settled at a time
nobody saw."""


def settling_begins(marks: Marks) -> float:
    """Earliest instant at which the PC could have settled: the last of the marks before it."""
    before = (Mark.SYSTEM_UP, Mark.SIGNED_IN, Mark.DESKTOP_SHOWN)
    return max([0.0, *(marks[mark] for mark in before if mark in marks)])


def settled_of(marks: Marks, samples: Samples | None) -> Settled | None:
    """When this boot settled, or None when nothing was sampled late enough to tell."""
    if samples is None or len(samples) < 2 or nobody_signed_in(marks):
        return None
    settled = find_settled(samples, settling_begins(marks))
    if settled is None or not _calm_before_seen(marks, samples, settled):
        return settled
    return replace(settled, unseen=True)


def begun_late(marks: Marks, samples: Samples | None) -> bool:
    """Whether a recording began so long after the start that it only tells of the PC at rest."""
    if samples is None:
        return False
    return float(samples.seconds[0]) > settling_begins(marks) + LATE_SECONDS


def readings_at_rest(samples: Samples) -> Readings:
    """Figures of a recording begun long after the start: no boot times and no work until settled.

    They are taken from all of it; nobody knows which part of it was calm by chance.
    """
    length = float(samples.seconds[-1] - samples.seconds[0])
    return _at_rest(samples, float(samples.seconds[0]), max(length, REST_SECONDS))


def readings_of(marks: Marks, samples: Samples | None, settled: Settled | None) -> Readings:
    """Every figure of a boot that settled then (``settled_of``); what cannot be known is missing.

    Times are machine time: the sign-in wait is taken out. Everything else is net of the recorder.
    """
    readings: Readings = {}
    for mark, measure in ((Mark.READY, Measure.READY), (Mark.SYSTEM_UP, Measure.SYSTEM_UP)):
        if mark in marks:
            readings[measure] = Reading(machine_seconds(marks[mark], marks))
    if settled is None or samples is None:
        if Mark.SETTLED in marks and not nobody_signed_in(marks):
            readings[Measure.SETTLED] = Reading(machine_seconds(marks[Mark.SETTLED], marks))
        return readings
    if settled.unseen:
        return {**readings, **_at_rest(samples, _steady_from(samples, settled.seconds))}
    readings[Measure.SETTLED] = Reading(machine_seconds(settled.seconds, marks), settled.censored)
    readings.update(_work_until(samples, settled))
    if not settled.censored:
        readings.update(_at_rest(samples, _steady_from(samples, settled.seconds)))
    return readings


def _work_until(samples: Samples, settled: Settled) -> Readings:
    """CPU work and disk read; a lower bound when the boot did not settle in the recording."""
    until, seconds = settled.seconds, samples.seconds
    cpu = grown_by(samples.cpu_seconds, seconds, until)
    own = grown_by(samples.own_cpu_seconds, seconds, until)
    read = grown_by(samples.disk_read_bytes, seconds, until)
    return {
        Measure.CPU_WORK: Reading(max(0.0, cpu - own), settled.censored),
        Measure.DISK_READ: Reading(read / MEGABYTE, settled.censored),
    }


def _calm_before_seen(marks: Marks, samples: Samples, settled: Settled) -> bool:
    """Whether the PC may have settled before anybody looked."""
    first = float(samples.seconds[0])
    return (
        not settled.censored
        and settled.seconds <= first + 1e-6
        and first > settling_begins(marks) + UNSEEN_SECONDS
    )


def _steady_from(samples: Samples, settled: float) -> float:
    """From when on what is held at rest stays: what only just ended soon after settled is not held.

    The first instant whose ten seconds hold no more processes and memory than the last ten that
    were recorded, but for what always comes and goes. What comes later is no matter.
    """
    end = float(samples.seconds[-1])
    last = max(settled, end - REST_SECONDS)
    processes, memory = _held(samples, last)
    most = processes + COMING_AND_GOING, memory * (1 + MEMORY_SLACK) + MEGABYTE
    for instant in samples.seconds[(samples.seconds >= settled) & (samples.seconds < last)]:
        held = _held(samples, max(settled, float(instant)))
        if held[0] <= most[0] and held[1] <= most[1]:
            return max(settled, float(instant))
    return last


def _held(samples: Samples, begin: float) -> tuple[float, float]:
    """Processes and bytes held over the ten seconds from an instant on."""
    there = (samples.seconds >= begin) & (samples.seconds <= begin + REST_SECONDS)
    if not there.any():
        there = samples.seconds >= samples.seconds[-1]
    held = samples.memory_held_bytes[there] - samples.own_memory_bytes[there]
    return median(samples.processes[there].tolist()), median(held.tolist())


def _at_rest(samples: Samples, settled: float, length: float = REST_SECONDS) -> Readings:
    """Memory, processes and load in the first calm stretch of so many seconds."""
    rest = (samples.seconds >= settled) & (samples.seconds <= settled + length)
    if not rest.any():
        return {}
    held = samples.memory_held_bytes[rest] - samples.own_memory_bytes[rest]
    readings = {
        Measure.MEMORY_HELD: Reading(median(held.tolist()) / MEGABYTE),
        # The recorder is a process that would not be there otherwise.
        Measure.PROCESSES: Reading(median(samples.processes[rest].tolist()) - 1),
    }
    usable = rates(samples)
    during = (usable.start >= settled - 1e-9) & (usable.end <= settled + length + 1.0)
    shares = usable.cpu_share[during]
    if (~np.isnan(shares)).any():
        readings[Measure.LOAD_AT_REST] = Reading(float(np.nanmean(shares)) * 100)
    return readings
