"""From what a recording says of its PC to the facts of a job."""

from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.recording.lines import DriveFacts, PcFacts

VIRTUAL_NAMES = ("vd", "xvd")
"""How drives are called that a host of virtual machines makes, as older recorders told of them."""


def is_virtual(drive: DriveFacts) -> bool:
    """Whether a drive is made by a host of virtual machines."""
    return drive.virtual or drive.name.startswith(VIRTUAL_NAMES)


def facts_from(facts: PcFacts) -> Facts:
    """The PC's facts as the core knows them."""
    kinds = {True: DriveKind.ROTATING, False: DriveKind.SOLID_STATE, None: DriveKind.UNKNOWN}
    return Facts(
        os_release=facts.os_release,
        kernel=facts.kernel,
        cpu_model=facts.cpu_model,
        cores=facts.cores,
        memory_bytes=facts.memory_bytes or None,
        drives=tuple(
            Drive(
                drive.name,
                DriveKind.UNKNOWN if is_virtual(drive) else kinds[drive.rotating],
                drive.size_bytes,
                drive.free_bytes,
                is_virtual(drive),
            )
            for drive in facts.drives
        ),
        uptime_seconds=facts.uptime_seconds,
    )
