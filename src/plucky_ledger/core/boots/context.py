"""Other activity during a boot: installing updates, and disk checks."""

from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.timeline import Activity

UPDATE_PROGRAMS = frozenset(
    {
        "apt",
        "apt-get",
        "dpkg",
        "unattended-upgr",
        "packagekitd",
        "dnf",
        "rpm",
        "zypper",
        "pacman",
        "system-updates",
    }
)
"""Names of the operating systems' own installers, as the kernel shows them (15 characters)."""
UPDATE_SERVICES = frozenset(
    {
        "apt-daily-upgrade.service",
        "apt-daily.service",
        "dnf-automatic.service",
        "dnf-automatic-install.service",
        "packagekit-offline-update.service",
    }
)
UPDATE_SERVICE_SECONDS = 10.0
UPDATE_CPU_SECONDS = 3.0
"""Less work than this is an installer looking whether there is something to do."""
DISK_CHECK_SECONDS = 5.0
"""A clean file system is looked at in less."""


def updates_running(runs: tuple[ProgramRun, ...], activities: tuple[Activity, ...] = ()) -> bool:
    """Whether the system was installing updates, by its installers' work or its update services."""
    if any(a.entry_id in UPDATE_SERVICES and _took(a) > UPDATE_SERVICE_SECONDS for a in activities):
        return True
    work = sum(
        float(run.cpu_seconds[-1] + run.children_cpu_seconds[-1])
        for run in runs
        if run.name in UPDATE_PROGRAMS and len(run.seconds)
    )
    return work >= UPDATE_CPU_SECONDS


def disk_checked(activities: tuple[Activity, ...]) -> bool:
    """Whether a disk was checked for longer than a look takes."""
    return any("fsck" in a.entry_id and _took(a) > DISK_CHECK_SECONDS for a in activities)


def _took(activity: Activity) -> float:
    """Seconds from beginning to up; 0 where either was not seen."""
    if activity.up_at is None or activity.starting_from is None:
        return 0.0
    return activity.up_at - activity.starting_from
