"""The workshop: an open ledger, where this bench keeps its files, and what is worth keeping."""

from dataclasses import dataclass, field
from pathlib import Path

from plucky_ledger.core.book.plans import widened, width_factor
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.usecases.jobs.opening import (
    Address,
    Ledger,
    address_of,
    open_as_far_as_readable,
)
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory


@dataclass(frozen=True)
class Workshop:
    """Everything a front end that stays open works with."""

    ledger: Ledger
    place: Workplace
    analyses: Analyses
    costs: CostsKept
    memory: WorkshopMemory = field(default_factory=WorkshopMemory)

    @classmethod
    def open(cls, address: str | Path | Address) -> "Workshop":
        """Open the ledger at a path or database URL. Raises Trouble; untouched then."""
        analyses = Analyses()
        return cls(
            open_as_far_as_readable(address),
            Workplace.beside(address_of(address).local),
            analyses,
            CostsKept(analyses),
        )

    def expected(self, number: int) -> PlanEstimate | None:
        """What a job's pencilled changes would bring, as surely as such plans held so far."""
        plan = self.costs.expected(self.ledger, number)
        return plan and widened(plan, width_factor(self.memory.plans(self.ledger)))

    @property
    def read_only(self) -> bool:
        """Whether the ledger can only be looked at."""
        return self.ledger.read_only_because is not None
