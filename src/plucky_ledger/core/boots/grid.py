"""The readings of all programs at the instants of the samples: one row per run."""

from collections.abc import Callable, Sequence

import numpy as np

from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Floats


class ReadingsGrid:
    """Columns of some runs at other instants. A run is read whenever something changed, so that a
    reading holds until the next; before its first it is taken to have grown evenly, from zero when
    the run began.
    """

    def __init__(self, runs: Sequence[ProgramRun], instants: Floats) -> None:
        self._runs = runs
        counts = np.array([len(run.seconds) for run in runs], dtype=np.intp)
        index = [run.seconds.searchsorted(instants, side="right") - 1 for run in runs]
        at = np.array(index, dtype=np.intp).reshape(len(runs), len(instants))
        # A run without a reading takes the 0 that closes every column.
        first = np.where(counts > 0, np.cumsum(counts) - counts, counts.sum())[:, None]
        self._place = first + np.maximum(at, 0)
        began = np.array([run.started for run in runs])[:, None]
        read = np.array([run.seconds[0] if len(run.seconds) else 0.0 for run in runs])[:, None]
        begun = (instants - began) / np.maximum(read - began, 1e-6)
        self._share = np.where(at >= 0, 1.0, np.clip(begun, 0.0, 1.0))

    def of(self, column: Callable[[ProgramRun], Floats]) -> Floats:
        """A column of every run, shape ``(runs, instants)``."""
        everything = np.concatenate([*(column(run) for run in self._runs), np.zeros(1)])
        return np.asarray(everything[self._place] * self._share)
