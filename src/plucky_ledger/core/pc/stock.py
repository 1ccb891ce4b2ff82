"""Stock profiles: the picture of an OS fresh from installation, and what a PC has beyond it."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from plucky_ledger.core.boots.boot import StartupEntry, Timeline
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.entries.commands import unwrapped


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


def picture_of(
    name: str, os_release: str, timeline: Timeline, at: float, memory_bytes: float
) -> StockProfile:
    """The picture of a PC at instant ``at`` of a boot (seconds), the measurement left out."""
    return StockProfile(
        name,
        os_release,
        dict(_programs(timeline.runs, at)),
        tuple(sorted(_started(timeline.entries))),
        memory_bytes,
    )


def beyond(profile: StockProfile, picture: StockProfile) -> BeyondStock:
    """What ``picture`` has beyond ``profile``."""
    more = Counter(picture.programs)
    more.subtract(profile.programs)
    extra = sorted(((n, c) for n, c in more.items() if c > 0), key=lambda one: (-one[1], one[0]))
    return BeyondStock(
        processes=sum(picture.programs.values()) - sum(profile.programs.values()),
        programs=tuple(extra),
        entries=tuple(sorted(set(picture.entries) - set(profile.entries))),
        memory_bytes=picture.memory_bytes - profile.memory_bytes,
    )


def program_key(run: ProgramRun) -> str:
    """What a program is known by in a profile: kernel threads have only a name."""
    return unwrapped(run.command).program or run.name


def _programs(runs: Iterable[ProgramRun], at: float) -> Counter[str]:
    return Counter(
        program_key(run)
        for run in runs
        if not run.own and run.started <= at and (run.ended is None or run.ended > at)
    )


def _started(entries: Iterable[StartupEntry]) -> Iterable[str]:
    return (entry.entry_id for entry in entries if not entry.off_because)
