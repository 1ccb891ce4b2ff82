"""Memory of a program run that it does not share, as exactly as the kernel reports it."""

from collections.abc import Mapping, Sequence
from math import isnan

from plucky_ledger.core.boots.programs import ProgramRun, parents_of, value_at


class Memory:
    """Memory of all runs of a boot: what one holds depends on what it was forked from."""

    def __init__(self, runs: Sequence[ProgramRun]) -> None:
        self._origins = _origins(runs)
        self._forked: dict[int, list[ProgramRun]] = {}
        """What was forked from each run, by its number."""
        for run in runs:
            if (origin := self._origins.get(run.run)) is not None:
                self._forked.setdefault(origin.run, []).append(run)

    def of(self, run: ProgramRun, instant: float) -> float:
        """Bytes a run holds: its proportional share where the kernel told that.

        Elsewhere, as where an ordinary user looks at the system's programs, what it shares with
        no file. A run that was forked from its like shares what that held, too, until it is
        written: of that at most as much is its own as it had page faults since. Where that one is
        gone, the first that is left of its children keeps what they share.
        """
        resident = value_at(run, run.memory_bytes, instant)
        proportional = value_at(run, run.proportional_bytes, instant)
        if not isnan(proportional) and proportional > 0:
            return min(proportional, resident)
        private = _private(run, instant)
        origin = self._origins.get(run.run)
        if origin is None or self._is_heir(run, origin, instant):
            return private
        first = float(origin.seconds[0]) if len(origin.seconds) else run.started
        inherited = min(private, _private(origin, max(run.started, first)))
        written = value_at(run, run.faulted_bytes, instant)
        return private - inherited + min(inherited, 0.0 if isnan(written) else written)

    def _is_heir(self, run: ProgramRun, origin: ProgramRun, instant: float) -> bool:
        if _is_there(origin, instant):
            return False
        left = [other for other in self._forked[origin.run] if _is_there(other, instant)]
        return run is left[0] if left else False


def _is_there(run: ProgramRun, instant: float) -> bool:
    """Whether it runs and holds memory: one that is ending has let go of it already."""
    runs = run.started <= instant and (run.ended is None or run.ended > instant)
    return runs and value_at(run, run.memory_bytes, instant) > 0


def _private(run: ProgramRun, instant: float) -> float:
    """What is resident of no file; all that is resident where that is not known."""
    resident = value_at(run, run.memory_bytes, instant)
    shared = value_at(run, run.shared_bytes, instant)
    return resident if isnan(shared) else max(0.0, resident - shared)


def _origins(runs: Sequence[ProgramRun]) -> Mapping[int, ProgramRun]:
    """The run each was forked from, where it still is the same program."""
    programs = {run.run: (run.name, run.command) for run in runs}
    return {
        child: parent
        for child, parent in parents_of(tuple(runs)).items()
        if (parent.name, parent.command) == programs[child]
    }
