"""The tables of a recorded boot: what each task did over its own time."""

from collections.abc import Mapping, Sequence

import numpy as np

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.replay.contention import Contention
from plucky_ledger.core.replay.workload import STEP_SECONDS, Table


class OwnTimes:
    """What some tasks of a boot did, each over its own time. ``seen`` are the entries by their ids,
    as far as anything was told of them.
    """

    def __init__(
        self, names: Sequence[str], seen: Mapping[str, Activity], contention: Contention
    ) -> None:
        self.contention = contention
        self._seen = seen
        self._of = {name: index for index, name in enumerate(names)}
        self._begins = [self._first_seen(name) for name in names]
        begins = np.array(self._begins).reshape(-1, 1)
        width = np.clip(
            contention.end - np.maximum(contention.start, begins), 0.0, contention.width
        )
        self._summed = contention.own_times(names, width).summed
        self._edges = np.concatenate((contention.start[:1], contention.end))

    def begin(self, name: str) -> float:
        """When a task began, in seconds since the kernel started."""
        return self._begins[self._of[name]]

    def table(self, name: str) -> tuple[Table, float]:
        """Table of a task, and the own time at which it was up."""
        begin, activity = self.begin(name), self._seen.get(name)
        summed = self._summed[:, self._of[name]]
        up = activity.up_at if activity else None
        rows, first = self.contention.rows.get(name, []), float(self._edges[0])
        unseen = max(0.0, min(first, up or begin) - begin)
        before = float(self.contention.first_cpu[rows].sum()) if rows else 0.0
        if activity is not None and activity.cpu_seconds and not rows:
            before = activity.cpu_seconds
        up_after = np.inf
        if up is not None:
            seen = float(np.interp(up, self._edges, summed[0]))
            up_after = unseen + seen if up > first else up - begin
        return tabled(summed, unseen, before), up_after

    def _first_seen(self, name: str) -> float:
        activity = self._seen.get(name)
        if activity is not None and activity.starting_from is not None:
            return activity.starting_from
        working = self.contention.cpu[self.contention.rows.get(name, [])].sum(axis=0) > 0
        return float(self.contention.start[working.argmax()]) if working.any() else 0.0


def tabled(summed: Floats, unseen: float = 0.0, before: float = 0.0) -> Table:
    """What a task did up to the edges of the intervals (``Stretches.summed``) as a table over its
    own time.

    ``unseen`` is the own time before the first sample, over which ``before`` CPU seconds are spread
    evenly.
    """
    edges, columns = summed[0], summed[1:]
    length = unseen + float(edges[-1])
    at = STEP_SECONDS * np.arange(int(np.ceil(length / STEP_SECONDS)) + 2, dtype=np.float64)
    done = _between(at - unseen, edges, columns)
    if unseen > 0 and before > 0:
        share = np.clip(at / unseen, 0.0, 1.0)
        done[0] += share * min(before, unseen)
        done[1] += share * before
    cpu_time, cpu_work, disk_time, disk_work, *held_up = done
    return Table(cpu_time, cpu_work, disk_time, disk_work, (held_up[0], held_up[1]), length)


def _between(at: Floats, edges: Floats, columns: Floats) -> Floats:
    """Columns at other instants, linear between their edges; shape ``(columns, instants)``."""
    place = edges.searchsorted(at, side="right") - 1
    place = np.minimum(np.maximum(place, 0), len(edges) - 2)
    left, width = edges[place], np.diff(edges)[place]
    share = np.minimum(np.maximum((at - left) / np.maximum(width, 1e-12), 0.0), 1.0)
    return np.asarray(columns[:, place] + share * np.diff(columns, axis=1)[:, place])
