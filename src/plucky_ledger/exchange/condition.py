"""The state of a PC from a recording."""

from plucky_ledger.core.pc.condition import Condition, DriveHealth, FileSystem, MemoryModule
from plucky_ledger.recording.condition import ConditionLine


def condition_from(line: ConditionLine) -> Condition:
    """The condition as the core knows it."""
    return Condition(
        maker=line.maker,
        model=line.model,
        modules=tuple(
            MemoryModule(one.slot, one.size_bytes, one.type, one.megatransfers)
            for one in line.modules
        ),
        memory_slots=line.memory_slots,
        most_memory_bytes=line.most_memory_bytes,
        file_systems=tuple(
            FileSystem(
                one.mount,
                one.type,
                one.size_bytes,
                one.free_bytes,
                one.inodes,
                one.inodes_free,
                one.mount == "/",
                one.errors,
                one.check_due,
            )
            for one in line.file_systems
        ),
        drives=tuple(
            DriveHealth(
                one.name,
                one.model,
                one.errors,
                one.temperature_celsius,
                one.failing,
                one.bad_sectors,
                one.worn,
                one.hours,
            )
            for one in line.drives
        ),
        swap_total_bytes=line.swap_total_bytes,
        swap_used_bytes=line.swap_used_bytes,
        swap_compressed=line.swap_compressed,
        killed_for_memory=line.killed_for_memory,
        reread_bytes=line.reread_bytes,
        swapped_out_bytes=line.swapped_out_bytes,
        throttled=line.throttled,
        frequency_limit=line.frequency_limit,
        power_profile=line.power_profile,
        encrypted=line.encrypted,
        kernel_parameters=line.kernel_parameters,
        start_up_made_by=line.start_up_made_by,
    )
