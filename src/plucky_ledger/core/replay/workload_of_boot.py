"""The workload of a recorded boot: what each task did, and what it waited for.

Each interval between two samples is split into computing, moving data and waiting by how saturated
the cores and the disk were (``contention``). manual/methods.md has a worked example.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.marks import PAUSES, Mark, Marks, sign_in_wait
from plucky_ledger.core.boots.samples import Samples, cut_off, thinned
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.boots.unlisted import OF_GROUP
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import KINDS, OF_THE_SYSTEM
from plucky_ledger.core.replay.contention import Contention
from plucky_ledger.core.replay.drive import DiskCosts
from plucky_ledger.core.replay.own_times import OwnTimes, tabled
from plucky_ledger.core.replay.workload import SYSTEM_TASK, Task, Workload

LEAST_STRETCH_SECONDS = 0.2
"""Samples closer than this are merged."""
OPENS_VOLUMES = "systemd-cryptsetup@"
"""Beginning of the service manager's name for a unit that opens an encrypted volume."""
SLACK_SECONDS = 0.3
"""Tolerance between the instant an entry is up and the instant noted for what that allowed."""
LONGEST_LAG_SECONDS = 8.0
"""Longest delay after its predecessors at which an entry counts as released by them; one that began
later waited for a timer."""


def workload_of(
    analysis: Analysis, costs: DiskCosts | None = None, until: float = np.inf
) -> Workload | None:
    """The workload of a boot; None without samples, program readings or entries.

    What happened after ``until`` (seconds since the kernel started) is left out. ``costs`` is what
    ``disk_costs`` found over the boots of the round.
    """
    boot, timeline, attribution = analysis.boot, analysis.timeline, analysis.attribution
    if timeline.samples is None or attribution is None or not timeline.entries:
        return None
    samples = thinned(cut_off(timeline.samples, until), LEAST_STRETCH_SECONDS)
    if len(samples) < 3:
        return None
    contention = Contention(timeline, samples, attribution.owners, costs or DiskCosts({}))
    seen = {activity.entry_id: activity for activity in timeline.activities}
    named = [entry for entry in timeline.entries if _took_part(entry, seen, contention)]
    index_of = {entry.entry_id: index for index, entry in enumerate(named)}
    signed_in = boot.marks.get(Mark.SIGNED_IN, 0.0)
    unlisted = [name for name in contention.rows if name.startswith(OF_GROUP)]
    recorded = OwnTimes([*index_of, *unlisted], seen, contention)
    tasks = [
        _entry_task(entry, seen.get(entry.entry_id), seen, index_of, recorded, signed_in)
        for entry in named
    ]
    tasks.extend(_unlisted_task(name, recorded, signed_in) for name in unlisted)
    tasks.extend(_system_tasks(contention, signed_in))
    return _with_marks(tasks, named, seen, boot.marks, samples, contention.capacity)


def _took_part(entry: StartupEntry, seen: Mapping[str, Activity], contention: "Contention") -> bool:
    activity = seen.get(entry.entry_id)
    done = (
        activity is not None and activity.starting_from is not None and activity.up_at is not None
    )
    return done or entry.entry_id in contention.rows


def _entry_task(
    entry: StartupEntry,
    activity: Activity | None,
    seen: Mapping[str, Activity],
    index_of: Mapping[str, int],
    recorded: OwnTimes,
    signed_in: float,
) -> Task:
    begin, costs = recorded.begin(entry.entry_id), recorded.contention.costs
    table, up_after = recorded.table(entry.entry_id)
    after, released, at_sign_in = _release(entry, activity, begin, seen, index_of, signed_in)
    return Task(
        entry_id=entry.entry_id,
        table=table,
        relative_io_cost=costs.of(entry.entry_id),
        seek_discount=costs.seek_discount(entry.entry_id),
        up_after=up_after,
        after=after,
        at_sign_in=at_sign_in,
        lag=begin - released,
    )


def _release(
    entry: StartupEntry,
    activity: Activity | None,
    begin: float,
    seen: Mapping[str, Activity],
    index_of: Mapping[str, int],
    signed_in: float,
) -> tuple[tuple[int, ...], float, bool]:
    """Predecessors of a task, the instant of its release, and whether that is counted from signing
    in.
    """
    at_sign_in = 0 < signed_in <= begin + SLACK_SECONDS
    ordered = {}
    for name in activity.after if activity and KINDS[entry.kind].waits_for_order else ():
        other = seen.get(name)
        up = other.up_at if other is not None and name in index_of else None
        if up is not None and up <= begin + SLACK_SECONDS:
            ordered[index_of[name]] = up
    if ordered:
        last = max(ordered.values())
        if begin - last <= LONGEST_LAG_SECONDS and (not at_sign_in or last >= signed_in):
            return tuple(ordered), last, at_sign_in
    return (), signed_in if at_sign_in else 0.0, at_sign_in


def _unlisted_task(name: str, recorded: OwnTimes, signed_in: float) -> Task:
    """A service that no manager told of: when it was up and what it waited for is not known."""
    begin, costs = recorded.begin(name), recorded.contention.costs
    table, up_after = recorded.table(name)
    at_sign_in = 0 < signed_in <= begin + SLACK_SECONDS
    return Task(
        entry_id=name,
        table=table,
        relative_io_cost=costs.of(name),
        seek_discount=costs.seek_discount(name),
        up_after=up_after,
        after=(),
        at_sign_in=at_sign_in,
        lag=begin - signed_in if at_sign_in else begin,
    )


def _system_tasks(contention: Contention, signed_in: float) -> list[Task]:
    """The tasks of work that belongs to no entry: one before signing in, one after."""
    middle = 0.5 * (contention.start + contention.end)
    tasks = []
    for late in (False, True) if signed_in else (False,):
        here = (middle >= signed_in) == late if signed_in else np.ones_like(middle, dtype=bool)
        begin = float(contention.start[here.argmax()]) if here.any() else 0.0
        tasks.append(
            Task(
                entry_id=SYSTEM_TASK,
                table=tabled(contention.own_time_of_system(here).summed[:, 0]),
                relative_io_cost=contention.costs.of(SYSTEM_TASK),
                seek_discount=contention.costs.seek_discount(SYSTEM_TASK),
                up_after=np.inf,
                after=(),
                at_sign_in=late,
                lag=begin - signed_in if late else begin,
            )
        )
    return tasks


def _with_marks(
    tasks: list[Task],
    named: Sequence[StartupEntry],
    seen: Mapping[str, Activity],
    marks: Marks,
    samples: Samples,
    capacity: float,
) -> Workload:
    shown, signed_in = marks.get(Mark.SIGN_IN_SHOWN), marks.get(Mark.SIGNED_IN, 0.0)
    ups = {
        index: activity.up_at
        for index, entry in enumerate(named)
        if (activity := seen.get(entry.entry_id)) is not None and activity.up_at is not None
    }
    desktop = marks.get(Mark.DESKTOP_SHOWN)
    sign_in_task = _nearest(shown, ups) if signed_in else None
    system_up = marks.get(Mark.SYSTEM_UP, 0.0)
    system = frozenset(
        index
        for index, at in ups.items()
        if named[index].owner == "system"
        and named[index].kind in OF_THE_SYSTEM
        and at <= system_up + SLACK_SECONDS
    )
    return Workload(
        tasks=tuple(tasks),
        cores=samples.cores,
        capacity=capacity,
        signed_in=signed_in,
        sign_in_task=sign_in_task,
        sign_in_lag=signed_in - ups[sign_in_task] if sign_in_task is not None else 0.0,
        sign_in_wait=sign_in_wait(marks),
        system_up=system_up,
        system_tasks=system,
        desktop_task=_nearest(desktop, ups),
        desktop_shown=desktop or 0.0,
        end=samples.end,
        moved_before=min(float(samples.disk_busy_seconds[0]), float(samples.seconds[0])),
        computed_before=min(
            float(samples.cpu_seconds[0]) / min(1.0, capacity), float(samples.seconds[0])
        ),
        before={mark: marks[mark] for mark in PAUSES[0] if mark in marks},
        asked_for=frozenset(_asked_for(seen.values(), marks)),
    )


def _asked_for(activities: Iterable[Activity], marks: Marks) -> Iterator[str]:
    """Entries that open encrypted volumes, where a passphrase was waited for."""
    if any(mark not in marks for mark in PAUSES[0]):
        return
    for activity in activities:
        if activity.entry_id.startswith(OPENS_VOLUMES):
            yield activity.entry_id


def _nearest(mark: float | None, ups: Mapping[int, float]) -> int | None:
    """Index of the task that was up closest to a mark, within the tolerance; None without one."""
    if mark is None:
        return None
    near = {index: abs(at - mark) for index, at in ups.items() if abs(at - mark) <= SLACK_SECONDS}
    return min(near, key=lambda index: near[index]) if near else None
