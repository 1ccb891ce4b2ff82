"""The lanes as a table: the same figures, to be read out or compared one by one."""

from dataclasses import dataclass

from plucky_ledger.pages.lanes import Lane, LanesPage


@dataclass(frozen=True, kw_only=True)
class LaneFigures:
    """One lane in figures. Seconds since the kernel started; None where it was not seen."""

    lane: Lane
    waited_seconds: float | None
    """From being asked to start until it began."""
    begins: float | None
    up: float | None
    cpu_seconds: float
    drive_seconds: float
    held_up_seconds: float
    """Of a core and of the drive that it would have had without others."""


@dataclass(frozen=True)
class LanesRow:
    """One lane, and the same in what is laid over it."""

    front: LaneFigures
    behind: LaneFigures | None


def lanes_table(page: LanesPage, behind: LanesPage | None) -> tuple[LanesRow, ...]:
    """The lanes of a page in its order."""
    others = {lane.entry_id: lane for lane in behind.lanes} if behind else {}
    return tuple(
        LanesRow(
            figures_of(page, lane),
            figures_of(behind, others[lane.entry_id])
            if behind is not None and lane.entry_id in others
            else None,
        )
        for lane in page.lanes
    )


def figures_of(page: LanesPage, lane: Lane) -> LaneFigures:
    """One lane of a page in figures."""
    cpu, drive, held_up = page.voices.work(lane.entry_id) if page.voices else (0.0, 0.0, 0.0)
    waited = lane.waiting[1] - lane.waiting[0] if lane.waiting else None
    begins = lane.starting[0] if lane.starting else None
    return LaneFigures(
        lane=lane,
        waited_seconds=waited,
        begins=begins,
        up=lane.running[0] if lane.running else None,
        cpu_seconds=cpu,
        drive_seconds=drive,
        held_up_seconds=held_up,
    )
