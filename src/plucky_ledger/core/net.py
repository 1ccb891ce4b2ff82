"""Figures of a boot without the programs that were set aside."""

from plucky_ledger.core.accounting import without_programs
from plucky_ledger.core.attribution import OwnerKind, owners_of
from plucky_ledger.core.boot import Timeline
from plucky_ledger.core.marks import Marks
from plucky_ledger.core.measures import Readings
from plucky_ledger.core.readings import readings_of


def net_readings(marks: Marks, timeline: Timeline, aside: frozenset[str]) -> Readings:
    """Figures of a boot net of the programs set aside, and of all they started."""
    samples = timeline.samples
    if samples is None or not aside:
        return readings_of(marks, samples)
    owners = owners_of(timeline.runs, timeline.entries, aside)
    gone = tuple(
        run for run in timeline.runs if owners[run.run].kind is OwnerKind.ASIDE and not run.own
    )
    return readings_of(marks, without_programs(samples, gone))
