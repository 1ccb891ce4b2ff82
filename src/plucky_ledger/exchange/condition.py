"""The state of a PC from a recording."""

import msgspec

from plucky_ledger.core.pc.condition import Condition, DriveHealth, FileSystem, MemoryModule
from plucky_ledger.recording.condition import ConditionLine, FileSystemFacts, ModuleFacts


def condition_from(line: ConditionLine) -> Condition:
    """The condition as the core knows it."""
    return Condition(
        maker=line.maker,
        model=line.model,
        modules=tuple(_module(one) for one in line.modules),
        memory_slots=line.memory_slots,
        most_memory_bytes=line.most_memory_bytes,
        file_systems=tuple(_file_system(one) for one in line.file_systems),
        drives=tuple(
            msgspec.convert(one, DriveHealth, from_attributes=True) for one in line.drives
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


def _module(told: ModuleFacts) -> MemoryModule:
    return MemoryModule(
        slot=told.slot,
        size_bytes=told.size_bytes,
        kind=told.type,
        megatransfers=told.megatransfers,
    )


def _file_system(told: FileSystemFacts) -> FileSystem:
    return FileSystem(
        mount=told.mount,
        kind=told.type,
        size_bytes=told.size_bytes,
        free_bytes=told.free_bytes,
        inodes=told.inodes,
        inodes_free=told.inodes_free,
        system=told.mount == "/",
        errors=told.errors,
        check_due=told.check_due,
    )
