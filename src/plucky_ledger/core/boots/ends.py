"""When what was started once and ended was done, where a recording does not say so.

Older recorders took a oneshot that does not stay active for never up: the manager has no such
instant of it. What is ordered after it may begin once it has ended.
"""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.entry import StartupEntry


def with_ends(
    activities: Iterable[Activity], entries: Sequence[StartupEntry], runs: Sequence[ProgramRun]
) -> tuple[Activity, ...]:
    """The activities, each up when it had ended: by its manager, else with the last program of its
    control group. Where nothing tells they stay as they are.
    """
    groups = {entry.entry_id: entry.group for entry in entries if entry.group}
    in_group: dict[str, list[ProgramRun]] = {}
    for run in runs:
        in_group.setdefault(run.control_group, []).append(run)
    return tuple(
        _with_end(activity, in_group.get(groups.get(activity.entry_id, ""), ()))
        for activity in activities
    )


def _with_end(activity: Activity, runs: Sequence[ProgramRun]) -> Activity:
    begin, ended = activity.starting_from, activity.ended_at
    if begin is None or activity.up_at is not None or activity.result is not None:
        return activity
    ends = [run.ended for run in runs if run.ended is not None]
    if ended is None and ends and len(ends) == len(runs):
        ended = max(ends)
    if ended is None or ended < begin:
        return activity
    return replace(activity, up_at=ended, ended_at=ended)
