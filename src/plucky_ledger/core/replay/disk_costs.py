"""What the data of each task costs on the drive: found from how busy that was, over some boots."""

from collections.abc import Mapping, Sequence

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.samples import Floats, thinned
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.replay.contention import Contention
from plucky_ledger.core.replay.drive import DiskCosts, exclusivity

REGULARISATION_SECONDS = 0.3
"""Regularisation of the relative I/O cost: each task is pulled towards the average cost of 1 as
strongly as by this much disk time."""
SET_ASIDE_TASK = "set aside"
"""Task name of the programs that were set aside, which use the drive all the same."""


def disk_costs(boots: Sequence[Analysis]) -> DiskCosts:
    """Relative I/O cost of each task, estimated over the boots of a round.

    Non-negative least squares (``non_negative_fit``) of the drive's busy time per interval on
    the bytes that each task moved in it, with one more unknown for the seeks that a task saves
    while it has the drive to itself. Regularised towards the average cost, so that a task that
    moved little is not given an extreme one. Programs that were set aside are a task of their own,
    which is charged to no entry.
    """
    names: dict[str, int] = {}
    parts = []
    for analysis in boots:
        timeline, attribution = analysis.timeline, analysis.attribution
        if timeline.samples is None or attribution is None or len(timeline.samples) < 3:
            continue
        owners = attribution.owners
        contention = Contention(timeline, thinned(timeline.samples, 0.5), owners, DiskCosts({}))
        rate = contention.busy.sum() / max(contention.moved.sum(), 1.0)
        tasks = {**contention.rows, SET_ASIDE_TASK: _set_aside(timeline, owners)}
        part = {
            name: contention.moved[rows].sum(axis=0) * rate for name, rows in tasks.items() if rows
        }
        for name in part:
            names.setdefault(name, len(names))
        parts.append((contention.busy, part))
    if not parts:
        return DiskCosts({})
    busy = np.concatenate([busy for busy, _ in parts])
    moved = np.zeros((len(busy), len(names) + 1))
    at = 0
    for stretch_busy, part in parts:
        for name, column in part.items():
            moved[at : at + len(stretch_busy), names[name]] = column
        at += len(stretch_busy)
    share = moved / np.maximum(moved.sum(axis=1, keepdims=True), 1e-9)
    moved[:, -1] = -(moved * exclusivity(share)).sum(axis=1)
    pull = np.diag(np.full(len(names) + 1, REGULARISATION_SECONDS))[:-1]
    target = np.concatenate((busy, np.full(len(names), REGULARISATION_SECONDS)))
    solved = non_negative_fit(np.vstack((moved, pull)), target)
    relative_io_cost = {
        name: float(np.clip(solved[index], 0.2, 8.0)) for name, index in names.items()
    }
    return DiskCosts(relative_io_cost, float(solved[-1]))


def non_negative_fit(columns: Floats, target: Floats) -> Floats:
    """Least squares over the columns with no coefficient below zero, by the normal equations.

    Whatever comes out below zero is left out, and the rest is solved again: at most as often as
    there are columns. An exact active-set method may take a column back; here, where all but one
    are drawn towards 1, that was never needed (a test compares with the exact solution). What draws
    them also keeps the equations well conditioned; a column of zeros has none.
    """
    inner, outer = columns.T @ columns, columns.T @ target
    solved, free = np.zeros(columns.shape[1]), columns.any(axis=0)
    while True:
        solved[:] = 0.0
        solved[free] = np.linalg.solve(inner[np.ix_(free, free)], outer[free])
        if not (solved < 0.0).any():
            return solved
        free &= solved > 0.0


def _set_aside(timeline: Timeline, owners: Mapping[int, Owner]) -> list[int]:
    """Indices of the runs that were set aside; the recorder's own runs are not among them."""
    return [
        row
        for row, run in enumerate(timeline.runs)
        if owners[run.run].kind is OwnerKind.ASIDE and not run.own
    ]
