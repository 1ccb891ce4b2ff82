"""Voices: CPU and disk use of each startup entry over time, and what it would have used without
contention.

All voices are on one scale: together they add up to the machine's use. The slowdown is the one the
replay uses (core.replay.contention).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.samples import Floats, rates, thinned
from plucky_ledger.core.boots.unlisted import OF_GROUP
from plucky_ledger.core.replay.contention import Contention
from plucky_ledger.core.replay.drive import DiskCosts
from plucky_ledger.core.replay.workload import SYSTEM_TASK

MOST_STEPS = 300
"""Steps of a whole boot: finer than a screen shows it."""
LEAST_STEP_SECONDS = 0.25


@dataclass(frozen=True, eq=False)
class Voice:
    """One entry over time; arrays have shape ``(n,)``."""

    cpu: Floats
    """Cores it used in each step."""
    drive: Floats
    """Share of the drive's time, 0 to 1."""
    cpu_wanted: Floats
    """Cores it would have used without contention; never less than ``cpu``."""
    drive_wanted: Floats
    """Share of the drive's time it would have used without contention; never less than ``drive``.
    """

    @classmethod
    def alone(cls, cpu: Floats, drive: Floats) -> "Voice":
        """A voice without known contention."""
        return cls(cpu, drive, cpu, drive)

    @property
    def held_up_known(self) -> bool:
        """Whether its use without contention is known."""
        return self.cpu_wanted is not self.cpu


@dataclass(frozen=True, eq=False)
class Voices:
    """The machine and every entry that worked in it."""

    edges: Floats
    """Shape ``(n + 1,)``: seconds since the kernel started at which the steps begin and end."""
    machine: Voice
    of: Mapping[str, Voice]
    """By entry id; the system's own work is not among them."""
    cores: int

    def work(self, entry_id: str) -> tuple[float, float, float]:
        """CPU seconds, disk seconds, and seconds it waited for either."""
        voice = self.of.get(entry_id)
        if voice is None:
            return 0.0, 0.0, 0.0
        width = np.diff(self.edges)
        short = voice.cpu_wanted - voice.cpu + voice.drive_wanted - voice.drive
        return float(voice.cpu @ width), float(voice.drive @ width), float(short @ width)


def voices_of(analysis: Analysis) -> Voices | None:
    """The voices of a boot; None without samples or program readings."""
    samples, attribution = analysis.samples, analysis.attribution
    if samples is None or attribution is None or len(samples) < 2:
        return None
    length = samples.end - float(samples.seconds[0])
    coarse = thinned(samples, max(LEAST_STEP_SECONDS, length / MOST_STEPS))
    contention = Contention(analysis.timeline, coarse, attribution.owners, DiskCosts({}))
    usable = rates(coarse)
    cpu = np.nan_to_num(usable.cpu_share) * coarse.cores
    drive = np.nan_to_num(usable.disk_share)
    voices = {
        name: _voice(contention, rows)
        for name, rows in contention.rows.items()
        if name != SYSTEM_TASK and not name.startswith(OF_GROUP)
    }
    return Voices(coarse.seconds, Voice.alone(cpu, drive), voices, coarse.cores)


def _voice(contention: Contention, rows: Sequence[int]) -> Voice:
    width, cores = contention.width, float(contention.cores)
    cpu = contention.cpu[rows].sum(axis=0)
    longest = contention.cpu[rows].max(axis=0, initial=0.0)
    slow = contention.slowness_of(rows, longest)
    drive = contention.disk[rows].sum(axis=0)
    # Without contention its data would have been moved all the time that it waited in the queue.
    moving = np.maximum(contention.moved[rows].sum(axis=0) * contention.disk_wait, drive)
    used, moved = np.minimum(cpu / width, cores), np.clip(drive / width, 0.0, 1.0)
    return Voice(
        cpu=used,
        drive=moved,
        cpu_wanted=np.clip(used * slow, used, cores),
        drive_wanted=np.clip(moving / width, moved, 1.0),
    )
