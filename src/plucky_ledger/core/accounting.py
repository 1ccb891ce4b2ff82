"""How much of the machine's work the program runs explain, short-lived ones included."""

from dataclasses import dataclass

from plucky_ledger.core.programs import ProgramRun, value_at
from plucky_ledger.core.samples import Samples, grown_by

DEEPEST_ANCESTRY = 64
"""Longer chains of parents are taken for a fault in the readings."""


@dataclass(frozen=True)
class Explained:
    """CPU work until an instant, by how it is known. CPU seconds; the parts sum to ``total``."""

    total: float
    """What the system's own counter says."""
    seen: float
    """Of program runs that were seen running."""
    short_lived: float
    """Of children that came and went between two samples: known from their parents' counters."""

    @property
    def unexplained(self) -> float:
        """Interrupts, and what nobody waited for."""
        return self.total - self.seen - self.short_lived

    @property
    def share(self) -> float:
        """Explained part of the whole, 0 to 1."""
        return (self.seen + self.short_lived) / self.total if self.total > 0 else 1.0


def explained_cpu(samples: Samples, runs: tuple[ProgramRun, ...], until: float) -> Explained:
    """Account for the CPU work between the kernel's start and ``until`` (seconds)."""
    total = grown_by(samples.cpu_seconds, samples.seconds, until)
    seen = sum(value_at(run, run.cpu_seconds, until) for run in runs)
    short_lived = sum(_short_lived(run, runs_of, until) for run, runs_of in _families(runs))
    # Ticks are counted per process and for the whole machine apart; rounding may differ a little.
    seen = min(seen, total)
    return Explained(total, seen, min(short_lived, total - seen))


def _families(
    runs: tuple[ProgramRun, ...],
) -> list[tuple[ProgramRun, list[ProgramRun]]]:
    """Each run with the ended runs whose CPU time it inherited.

    That is the parent, or, when the parent had ended before, its nearest ancestor still there. A
    pid that was used again belongs to its latest holder.
    """
    holders: dict[int, list[ProgramRun]] = {}
    for run in sorted(runs, key=lambda run: run.started):
        holders.setdefault(run.pid, []).append(run)

    def parent_of(run: ProgramRun) -> ProgramRun | None:
        earlier = [p for p in holders.get(run.parent_pid, []) if p.started <= run.started]
        return earlier[-1] if earlier and earlier[-1] is not run else None

    heirs: dict[int, list[ProgramRun]] = {run.run: [] for run in runs}
    for run in runs:
        if run.ended is None:
            continue
        heir, steps = parent_of(run), 0
        while heir is not None and heir.ended is not None and heir.ended <= run.ended:
            heir, steps = (parent_of(heir), steps + 1) if steps < DEEPEST_ANCESTRY else (None, 0)
        if heir is not None:
            heirs[heir.run].append(run)
    return [(run, heirs[run.run]) for run in runs]


def _short_lived(run: ProgramRun, children: list[ProgramRun], until: float) -> float:
    """CPU time of children nobody saw: what was inherited less what was seen of those that ended.

    A seen child's last reading lies before its end; the rest of its time arrives here too, which
    is where it belongs.
    """
    inherited = value_at(run, run.children_cpu_seconds, until)
    known = sum(
        value_at(child, child.cpu_seconds, until)
        + value_at(child, child.children_cpu_seconds, until)
        for child in children
        if child.ended is not None and child.ended <= until
    )
    return max(0.0, inherited - known)
