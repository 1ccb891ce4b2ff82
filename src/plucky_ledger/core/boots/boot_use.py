"""Resource use of each owner in one boot: until settled, and at rest."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from statistics import median

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.readings import REST_SECONDS
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.boots.usage import use_by_owner


def use_in(analysis: Analysis, settled: float | None) -> Mapping[Owner, OwnerUse]:
    """Who used what until settled and held what at rest, or until the recording ended."""
    attribution, samples = analysis.attribution, analysis.samples
    assert attribution is not None  # it has a workload
    assert samples is not None
    until = samples.end if settled is None else settled
    held_at = until if settled is None else settled + REST_SECONDS / 2
    timeline = analysis.timeline
    use = use_by_owner(attribution, timeline.runs, 0.0, until, held_at=held_at)
    first = float(samples.seconds[0])
    return _capped({**_ended_before(first, timeline.activities, use), **use}, timeline.activities)


def typical_use(uses: Sequence[OwnerUse]) -> OwnerUse:
    """What is typical of several boots."""
    return OwnerUse(
        median([use.cpu_seconds for use in uses]),
        median([use.bytes_read for use in uses]),
        median([use.memory_bytes for use in uses]),
        round(median([use.processes for use in uses])),
    )


def _ended_before(
    first: float, activities: Sequence[Activity], seen: Mapping[Owner, OwnerUse]
) -> Mapping[Owner, OwnerUse]:
    """What the manager accounted for entries that had ended when sampling began."""
    return {
        owner: OwnerUse(activity.cpu_seconds or 0.0, activity.bytes_read or 0.0, 0.0, 0)
        for activity in activities
        if activity.ended_at is not None and activity.ended_at <= first
        if (owner := Owner(OwnerKind.ENTRY, activity.entry_id)) not in seen
    }


def _capped(
    use: Mapping[Owner, OwnerUse], activities: Sequence[Activity]
) -> Mapping[Owner, OwnerUse]:
    """Memory no larger than the manager counts for all of an entry's processes together: forks
    that share what they hold would be counted many times.
    """
    counted = {a.entry_id: a.memory_bytes for a in activities if a.memory_bytes is not None}
    return {
        owner: replace(owner_use, memory_bytes=min(owner_use.memory_bytes, counted[owner.entry_id]))
        if owner.entry_id in counted
        else owner_use
        for owner, owner_use in use.items()
    }
