"""Replaying boots: tasks share the cores and the disk as they did, without some of them.

A fluid model in small steps. In its own time a task computes, moves data and waits in the
proportions its table has at that point; where cores or disk are wanted by more than there is,
computing or moving data takes longer for all by the same factor (processor sharing: Kleinrock,
"Queueing Systems", volume 2, 1976). All boots and all sets of missing entries go side by side.
"""

from collections.abc import Sequence

from plucky_ledger.core.replay.replay_run import ReplayRun
from plucky_ledger.core.replay.replay_trace import ReplayTrace
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.task_tables import tables_of
from plucky_ledger.core.replay.workload import STEP_SECONDS, Workload

MARGIN_SECONDS = 13.0
"""Seconds after the observed settled up to which a boot is simulated at first."""
MOST_AT_ONCE = 200_000
"""Largest number of tasks, over all sets and boots, simulated at once."""


class Replay:
    """Boots of a round made ready to be replayed again and again.

    ``settled`` is when each of them did, in seconds since the kernel started.
    """

    def __init__(self, boots: Sequence[Workload], settled: Sequence[float]) -> None:
        self._until = max(
            min(boot.end, at + MARGIN_SECONDS) for boot, at in zip(boots, settled, strict=True)
        )
        self._tables = tables_of(boots)

    def without(self, sets: Sequence[frozenset[str]]) -> list[list[Replayed]]:
        """Replay every boot once for each set of missing entries; a list of boots for each set."""
        # In parts, so that a thousand entries fit in memory.
        part = max(1, MOST_AT_ONCE // self._tables.ids.size)
        return [
            boots
            for at in range(0, len(sets), part)
            for boots in self._part_without(sets[at : at + part])
        ]

    def traced(self, missing: frozenset[str], whole: ReplayTrace | None = None) -> ReplayTrace:
        """Trace of the first boot without some entries.

        It goes as ``whole``, the trace with nothing missing, up to where the first of them would
        have begun, and is simulated from there on.
        """
        run = ReplayRun(self._tables, self._tables.gone([missing]), keeps=True)
        ((replayed, *_),) = run.run(self._until, whole)
        return run.traced(replayed)

    def _part_without(self, sets: Sequence[frozenset[str]]) -> list[list[Replayed]]:
        gone = self._tables.gone(sets)
        replayed = ReplayRun(self._tables, gone).run(self._until)
        # Rarely a boot settles later with something missing: then the rest of the recording is
        # needed.
        end = max(boot.end for boot in self._tables.boots)
        late = [i for i, boots in enumerate(replayed) if any(boot.censored for boot in boots)]
        if late and end > self._until + STEP_SECONDS:
            again = ReplayRun(self._tables, gone[late]).run(end)
            for index, boots in zip(late, again, strict=True):
                replayed[index] = boots
        return replayed
