"""What a PC is made of and what state it is in, in words: what one takes to the shop."""

from collections.abc import Iterator

from plucky_ledger.core.boots.waits import Waits
from plucky_ledger.core.pc.condition import Condition, FileSystem, MemoryModule
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.pages.why import WhyPage
from plucky_ledger.wording.figures import day, memory_size, milliseconds, number, percent, size
from plucky_ledger.wording.language import C_, say, say_n
from plucky_ledger.wording.safe import shown

NAMED_FILE_SYSTEMS = 6


def facts_in_words(page: WhyPage) -> tuple[tuple[str, str], ...]:
    """Headings with what is known under each; nothing of what is not known."""
    condition = page.condition
    each = (
        (say("Model"), _model(condition)),
        (say("Memory"), _memory(condition)),
        (say("Drives"), " · ".join(drives_in_words(condition))),
        (say("Disk space"), " · ".join(_rooms(condition))),
        (say("Swap"), _swap(condition)),
        (say("Processor"), " · ".join(_processor(condition))),
        (say(C_("boots", "Starts")), _starts(page.power_log)),
        (say("Kernel parameters"), shown(condition.kernel_parameters)),
        (say("Start-up file system"), _start_up(condition)),
        (say("While starting"), " · ".join(_waits(page.in_startup))),
        (say("At rest"), " · ".join(_waits(page.at_rest))),
    )
    return tuple((heading, told) for heading, told in each if told)


def _model(condition: Condition) -> str:
    return shown(f"{condition.maker} {condition.model}".strip())


def _memory(condition: Condition) -> str:
    parts = [_module(module) for module in condition.modules]
    if condition.memory_slots is not None:
        free = max(0, condition.memory_slots - len(condition.modules))
        parts.append(
            say_n(
                "{n} slot, {free} free", "{n} slots, {free} free", condition.memory_slots, free=free
            )
        )
    if condition.most_memory_bytes:
        parts.append(say("at most {size}", size=memory_size(condition.most_memory_bytes)))
    if condition.killed_for_memory:
        parts.append(
            say_n(
                "{n} program ended because it ran out",
                "{n} programs ended because it ran out",
                condition.killed_for_memory,
            )
        )
    return " · ".join(parts)


def _module(module: MemoryModule) -> str:
    speed = say("{n} MT/s", n=number(module.megatransfers)) if module.megatransfers else ""
    what = " ".join(filter(None, (memory_size(module.size_bytes), shown(module.kind), speed)))
    return f"{shown(module.slot)}: {what}" if module.slot else what


def drives_in_words(condition: Condition) -> Iterator[str]:
    """Each drive with what it told of itself."""
    for drive in condition.drives:
        words = [shown(f"{drive.name} {drive.model}".strip())]
        if drive.temperature_celsius is not None:
            words.append(say("{degrees} °C", degrees=number(drive.temperature_celsius)))
        if drive.hours is not None:
            words.append(say("on for {hours} h in its life", hours=number(drive.hours)))
        if drive.worn is not None:
            words.append(say("{share} of its life used up", share=percent(drive.worn)))
        if drive.bad_sectors is not None:
            words.append(
                say_n("{n} bad sector", "{n} bad sectors", drive.bad_sectors)
                if drive.bad_sectors
                else say("no bad sector")
            )
        if drive.failing is not None:
            words.append(
                say("reports that it is failing") if drive.failing else say("reports no fault")
            )
        if drive.errors is not None:
            words.append(
                say_n("{n} error in this boot", "{n} errors in this boot", drive.errors)
                if drive.errors
                else say("no error in this boot")
            )
        yield ", ".join(words)


def _rooms(condition: Condition) -> Iterator[str]:
    yield from map(_room, condition.file_systems[:NAMED_FILE_SYSTEMS])
    if condition.encrypted:
        yield say("the system lies on an encrypted volume")


def _room(one: FileSystem) -> str:
    room = say(
        "{where} ({kind}): {free} of {size} free",
        where=shown(one.mount),
        kind=shown(one.kind),
        free=size(one.free_bytes),
        size=size(one.size_bytes),
    )
    if one.errors:
        errors = say_n("{n} error found in it", "{n} errors found in it", one.errors)
        return f"{room}, {errors}"
    if one.check_due is None:
        return room
    due = say("a check is due") if one.check_due else say("no check is due")
    return f"{room}, {due}"


def _swap(condition: Condition) -> str:
    total, used = condition.swap_total_bytes, condition.swap_used_bytes
    if total is None:
        return ""
    if not total:
        return say(C_("swap", "none"))
    room = {"used": size(used or 0), "total": size(total)}
    if condition.swap_compressed:
        return say("{used} of {total} in use, compressed in memory", **room)
    return say("{used} of {total} in use", **room)


def _processor(condition: Condition) -> Iterator[str]:
    if condition.power_profile:
        yield say("power profile “{profile}”", profile=shown(condition.power_profile))
    if condition.frequency_limit is not None:
        yield say(
            "up to {share} of its highest frequency", share=percent(condition.frequency_limit)
        )
    if condition.throttled:
        yield say_n(
            "slowed down by heat {n} time", "slowed down by heat {n} times", condition.throttled
        )
    elif condition.throttled is not None:
        yield say("never slowed down by heat")


def _waits(waits: Waits | None) -> Iterator[str]:
    """What was waited for, and how soon drives answered."""
    if waits is None:
        return
    yield say("the disk is busy {share} of the time", share=percent(waits.drive_busy))
    if waits.answer_seconds is not None:
        yield say("it answers in {time}", time=milliseconds(waits.answer_seconds))
    each = (
        (say("the CPU"), waits.for_cores),
        (say("the disk"), waits.for_drive),
        (say("memory"), waits.for_memory),
    )
    percentages = [f"{what} {percent(share)}" for what, share in each if share is not None]
    if percentages:
        yield say("programs wait for {what} of the time", what=", ".join(percentages))


def _starts(log: PowerLog) -> str:
    """How often it was started and woken, by its own logs."""
    instants = sorted((*log.starts, *log.wakes))
    if not instants:
        return ""
    starts = say_n("{n} start", "{n} starts", len(log.starts))
    wakes = say_n("woken from sleep {n} time", "woken from sleep {n} times", len(log.wakes))
    since = day(instants[0].astimezone())
    return say("{starts}, {wakes} since {day}", starts=starts, wakes=wakes, day=since)


def _start_up(condition: Condition) -> str:
    maker = condition.start_up_made_by
    return say("made by {maker}", maker=shown(maker)) if maker else ""
