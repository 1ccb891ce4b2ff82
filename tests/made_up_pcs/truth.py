"""What is true of the stand-in PC, known from the inside: when it settled, what an entry costs."""

from dataclasses import dataclass
from datetime import UTC, datetime

from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.standin.pc import StandinPc

CALM_SECONDS = 10.0
QUIET_SECONDS = 3.0
"""Its beginning."""
SPIKES = 0.2
"""Share of either that spikes may take without breaking the calm, as settled is defined."""
LONGEST_SECONDS = 300.0
_DAY = datetime(2026, 11, 2, 9, tzinfo=UTC)


@dataclass(frozen=True)
class TrueBoot:
    """Machine seconds, the sign-in wait taken out."""

    settled: float
    system_up: float


def true_boot(pc: StandinPc, seed: int, setup: Setup | None = None) -> TrueBoot:
    """Run a boot and look inside."""
    run = pc.restart(setup or Setup(), seed, _DAY).run
    run.machine.run_until(LONGEST_SECONDS)
    instants = {
        name: run.machine.instant_of(name) or 0.0
        for name in ("system up", "sign-in shown", "signed in", "desktop shown")
    }
    wait = instants["signed in"] - instants["sign-in shown"]
    settled = _calm_from(run.machine.startup_work, max(instants.values())) - wait
    up = instants["system up"]
    if up > instants["sign-in shown"]:
        up = max(up - wait, instants["sign-in shown"])
    return TrueBoot(settled, up)


def _calm_from(work: list[list[float]], begin: float) -> float:
    """First end of work, from ``begin`` on, that only spikes follow for a while."""
    for candidate in [begin, *(end for _, end in work if end > begin)]:
        if all(
            _worked(work, candidate, candidate + length) <= SPIKES * length
            for length in (QUIET_SECONDS, CALM_SECONDS)
        ):
            return candidate
    return LONGEST_SECONDS


def _worked(work: list[list[float]], begin: float, until: float) -> float:
    return sum(max(0.0, min(end, until) - max(start, begin)) for start, end in work)


def without(*entry_ids: str) -> Setup:
    """The PC with some entries switched off."""
    return Setup(tuple((entry_id, Switch.OFF) for entry_id in entry_ids))


def true_saving(pc: StandinPc, setup: Setup, seeds: range) -> TrueBoot:
    """How much earlier it settles and its system is up in another state, averaged over boots.

    Both runs of a pair draw the same chances.
    """
    pairs = [(true_boot(pc, seed), true_boot(pc, seed, setup)) for seed in seeds]
    return TrueBoot(
        sum(a.settled - b.settled for a, b in pairs) / len(pairs),
        sum(a.system_up - b.system_up for a, b in pairs) / len(pairs),
    )
