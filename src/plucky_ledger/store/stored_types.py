"""Which value of the core each JSON column of a ledger holds.

Renaming a field of one of these, or what it holds, loses what ledgers hold under the old name: it
takes a migration. A test holds their schema to the one that was written down.
"""

from collections.abc import Mapping

from plucky_ledger.core.book.plans import PlanHeld
from plucky_ledger.core.boots.boot import Context
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stock import StockProfile
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.inventory import Inventory
from plucky_ledger.core.job.job import Turns
from plucky_ledger.core.pc.condition import Inspected
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.core.shelf.spine import Spine
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import Fact

STORED: Mapping[str, object] = {
    "jobs.facts": Facts,
    "jobs.pc": WhichPc,
    "jobs.turns": Turns,
    "jobs.advised": tuple[Advised, ...],
    "jobs.inspected": Inspected,
    "postings.changes": tuple[Change, ...],
    "postings.expected": dict[Measure, Estimate],
    "boots.marks": dict[Mark, float],
    "boots.readings": dict[Measure, Reading],
    "boots.context": Context,
    "decisions.decided": Decided,
    "typed_entries.entry": StartupEntry,
    "inventories.inventory": Inventory,
    "part_histories.earlier": list[str],
    "profiles.profile": StockProfile,
    "steps.facts": dict[str, Fact],
    "spines.spine": Spine,
    "spines.plans": tuple[PlanHeld, ...],
    "lessons.decided": Decided,
}
"""By table and column."""
