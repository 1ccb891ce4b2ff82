"""What a PC is made of and what state it is in, in words: what one takes to the shop."""

from collections.abc import Iterator

from plucky_ledger.core.pc.condition import Condition, FileSystem, MemoryModule
from plucky_ledger.wording.figures import memory_size, number, percent, size
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.safe import shown

NAMED_FILE_SYSTEMS = 6


def condition_in_words(condition: Condition) -> tuple[tuple[str, str], ...]:
    """Headings with what is known under each; nothing of what is not known."""
    each = (
        (say("Model"), _model(condition)),
        (say("Memory"), _memory(condition)),
        (say("Drives"), " · ".join(_drives(condition))),
        (say("Room"), " · ".join(_rooms(condition))),
        (say("Swap"), _swap(condition)),
        (say("Processor"), " · ".join(_processor(condition))),
    )
    return tuple((heading, told) for heading, told in each if told)


def _model(condition: Condition) -> str:
    return shown(f"{condition.maker} {condition.model}".strip())


def _memory(condition: Condition) -> str:
    parts = [_module(module) for module in condition.modules]
    if condition.memory_slots is not None:
        free = max(0, condition.memory_slots - len(condition.modules))
        parts.append(say_n("{n} slot, {free} free", "{n} slots, {free} free",
                           condition.memory_slots, free=free))  # fmt: skip
    if condition.most_memory_bytes:
        parts.append(say("at most {size}", size=memory_size(condition.most_memory_bytes)))
    if condition.killed_for_memory:
        parts.append(
            say_n("{n} program ended for want of it", "{n} programs ended for want of it",
                  condition.killed_for_memory)
        )  # fmt: skip
    return " · ".join(parts)


def _module(module: MemoryModule) -> str:
    speed = say("{n} MT/s", n=number(module.megatransfers)) if module.megatransfers else ""
    what = " ".join(filter(None, (memory_size(module.size_bytes), shown(module.kind), speed)))
    return f"{shown(module.slot)}: {what}" if module.slot else what


def _drives(condition: Condition) -> Iterator[str]:
    for drive in condition.drives:
        words = [shown(f"{drive.name} {drive.model}".strip())]
        if drive.temperature_celsius is not None:
            words.append(say("{degrees} °C", degrees=number(drive.temperature_celsius)))
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
    return say("{where} ({kind}): {free} of {size} free", where=shown(one.mount),
               kind=shown(one.kind), free=size(one.free_bytes),
               size=size(one.size_bytes))  # fmt: skip


def _swap(condition: Condition) -> str:
    total, used = condition.swap_total_bytes, condition.swap_used_bytes
    if total is None:
        return ""
    if not total:
        return say("none")
    words = say("{used} of {total} in use", used=size(used or 0), total=size(total))
    return f"{words}, {say('compressed in memory')}" if condition.swap_compressed else words


def _processor(condition: Condition) -> Iterator[str]:
    if condition.power_profile:
        yield say("power profile “{profile}”", profile=shown(condition.power_profile))
    if condition.frequency_limit is not None:
        yield say("up to {share} of its highest frequency",
                  share=percent(condition.frequency_limit))  # fmt: skip
    if condition.throttled:
        yield say_n("held down by heat {n} time", "held down by heat {n} times",
                    condition.throttled)  # fmt: skip
    elif condition.throttled is not None:
        yield say("never held down by heat")
