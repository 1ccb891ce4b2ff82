"""What went on during a boot besides starting up: updates and disk checks."""

from plucky_ledger.core.boot import Activity
from plucky_ledger.core.programs import ProgramRun

UPDATE_PROGRAMS = frozenset(
    {"apt", "apt-get", "dpkg", "unattended-upgr", "packagekitd", "dnf", "rpm", "zypper", "pacman",
     "system-updates"}
)  # fmt: skip
"""Names of the operating systems' own installers, as the kernel shows them (15 characters)."""
UPDATE_CPU_SECONDS = 3.0
"""Less work than this is an installer looking whether there is something to do."""
DISK_CHECK_SECONDS = 5.0
"""A clean file system is looked at in less."""


def updates_running(runs: tuple[ProgramRun, ...]) -> bool:
    """Whether the system was installing updates."""
    work = sum(
        float(run.cpu_seconds[-1] + run.children_cpu_seconds[-1])
        for run in runs
        if run.name in UPDATE_PROGRAMS and len(run.seconds)
    )
    return work >= UPDATE_CPU_SECONDS


def disk_checked(activities: tuple[Activity, ...]) -> bool:
    """Whether a disk was checked for longer than a look takes."""
    return any(
        activity.up_at - activity.starting_from > DISK_CHECK_SECONDS
        for activity in activities
        if "fsck" in activity.entry_id
        and activity.up_at is not None
        and activity.starting_from is not None
    )
