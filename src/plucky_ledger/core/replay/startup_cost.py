"""What an entry costs at startup, and what a plan is expected to bring: the values."""

from dataclasses import dataclass, replace

from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode


@dataclass(frozen=True, kw_only=True)
class StartupCost:
    """What one entry costs at startup."""

    entry_id: str
    settled: Estimate | None
    """Seconds it delays settled; None where it cannot be told."""
    system_up: Estimate | None
    """Seconds it delays system up."""
    use: OwnerUse
    """CPU work and reads until settled, memory and processes at rest; typical over the boots."""
    per_boot: tuple[float, ...]
    """Seconds it delayed settled in each boot."""
    boots: int
    """In how many boots it was seen."""
    held_up: tuple[float | None, float | None] = (None, None)
    """Seconds some of its work was held up for want of a core, and of the drive, by the kernel's
    own account; typical over the boots."""
    no_grade: Reason | None = None
    """Why its seconds are not known, or not yet; None when they are."""


@dataclass(frozen=True, kw_only=True)
class PlanEstimate:
    """What a plan is expected to bring. Machine seconds, bytes, processes."""

    settled: Estimate | None
    """None where no boot settled."""
    system_up: Estimate
    saved: Estimate | None
    """Seconds earlier settled."""
    up_saved: Estimate
    """Seconds earlier up."""
    memory_bytes: float
    """No longer held at rest."""
    processes: int
    """No longer running at rest."""
    warnings: tuple[Reason, ...] = ()
    """What stays may miss what goes: it may win less, or lose."""

    @property
    def balances(self) -> dict[Measure, Estimate]:
        """Where the balances would stand, in the measures that a replay can tell."""
        estimates = {Measure.SETTLED: self.settled, Measure.SYSTEM_UP: self.system_up}
        return {measure: figure for measure, figure in estimates.items() if figure is not None}

    def from_balances(self, settled: float, system_up: float) -> "PlanEstimate":
        """The same from where the book stands, in seconds: what it shows adds up to the tenth.

        A replay rests on the newest boots of a state, the book on all of them.
        """
        return replace(
            self,
            settled=self.settled and self.saved and _less(settled, self.settled, self.saved),
            system_up=_less(system_up, self.system_up, self.up_saved),
        )


def _less(balance: float, expected: Estimate, saved: Estimate) -> Estimate:
    return expected.moved_to(round(balance, 1) - round(saved.value, 1))


def not_watched(ways: str) -> Reason:
    """Boots measured in these ways (codes parted by bars) tell nothing of programs."""
    return Reason.of(ReasonCode.NOT_WATCHED, how=ways)
