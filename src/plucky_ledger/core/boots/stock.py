"""Stock profiles: the picture of an OS fresh from installation, and what a PC has beyond it."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import StartupEntry

if TYPE_CHECKING:
    from plucky_ledger.core.boots.analysis import Analysis
    from plucky_ledger.core.boots.programs import ProgramRun

AFTER_SETTLED_SECONDS = 5.0
"""How long after settled a PC is pictured at rest."""


@dataclass(frozen=True)
class StockProfile:
    """What runs and what starts on a PC at rest."""

    name: str
    os_release: str
    programs: dict[str, int]
    """How many processes of each program: its path, or its name where that is all there is."""
    entries: tuple[str, ...]
    """Ids of what starts by itself."""
    memory_bytes: float
    """Held at rest."""


@dataclass(frozen=True)
class BeyondStock:
    """What a PC has more than its stock profile."""

    processes: int
    """Net: more than the profile has, or fewer when negative."""
    programs: tuple[tuple[str, int], ...]
    """Programs and how many processes of each are more than stock, most first."""
    entries: tuple[str, ...]
    """Ids of entries that the profile does not have."""
    memory_bytes: float


def picture_of(analysis: "Analysis", name: str = "") -> StockProfile:
    """The picture of a boot at rest, the measurement left out: to be saved, or held against one."""
    timeline, samples, settled = analysis.timeline, analysis.samples, analysis.settled
    at = samples.end if samples is not None else 0.0
    if settled is not None:
        at = settled.seconds + AFTER_SETTLED_SECONDS
    memory = 0.0
    if samples is not None:
        index = min(int(samples.seconds.searchsorted(at)), len(samples) - 1)
        memory = float(samples.memory_held_bytes[index] - samples.own_memory_bytes[index])
    return StockProfile(
        name,
        analysis.boot.context.kernel,
        dict(_programs(timeline.runs, at)),
        tuple(sorted(_started(timeline.entries))),
        memory,
    )


def beyond(profile: StockProfile, picture: StockProfile) -> BeyondStock:
    """What ``picture`` has beyond ``profile``."""
    more = Counter(picture.programs)
    more.subtract(profile.programs)
    extra = sorted(
        ((n, c) for n, c in more.items() if c > 0),
        key=lambda name_count: (-name_count[1], name_count[0]),
    )
    return BeyondStock(
        processes=sum(picture.programs.values()) - sum(profile.programs.values()),
        programs=tuple(extra),
        entries=tuple(sorted(set(picture.entries) - set(profile.entries))),
        memory_bytes=picture.memory_bytes - profile.memory_bytes,
    )


def program_key(run: "ProgramRun") -> str:
    """What a program is known by in a profile: kernel threads have only a name."""
    return unwrapped(run.command).program or run.name


def _programs(runs: Iterable["ProgramRun"], at: float) -> Counter[str]:
    return Counter(
        program_key(run)
        for run in runs
        if not run.own and run.started <= at and (run.ended is None or run.ended > at)
    )


def _started(entries: Iterable[StartupEntry]) -> Iterable[str]:
    return (entry.entry_id for entry in entries if entry.off_because is None)
