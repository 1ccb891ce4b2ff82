"""The Lanes lens in words."""

from collections.abc import Sequence
from math import isnan

from plucky_ledger.core.book.comparability import boot_concerns
from plucky_ledger.core.boots.boot import Boot, How, StartKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import WAITS, Stage, StageKind
from plucky_ledger.pages.curves import Strip, StripKind, StripReading, reading_of
from plucky_ledger.pages.lane_order import Folded, LaneOrder
from plucky_ledger.pages.lanes import Lacks, Lane, LanesPage
from plucky_ledger.pages.lanes_table import LaneFigures, LanesRow, lanes_table
from plucky_ledger.wording.figures import (
    day_and_time,
    length_of_time,
    memory_size,
    number,
    percent,
    seconds,
    size,
    tenths,
)
from plucky_ledger.wording.intervals import estimated
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import C_, N_, all_of, say, say_n
from plucky_ledger.wording.reasons import concern_in_words, reason_in_words
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.spoken import SpokenRow

STRIPS = {
    StripKind.CPU: N_("CPU"),
    StripKind.DISK: N_("Disk"),
    StripKind.MEMORY: N_("Memory"),
    StripKind.PROCESSES: N_("Processes"),
}


def strip_title(kind: StripKind) -> str:
    """What a curve below the lanes is called."""
    return say(STRIPS[kind])


ORDERS = {
    LaneOrder.COST: N_("costliest first"),
    LaneOrder.FIRST_WORK: N_("by first work"),
    LaneOrder.OWNER: C_("whose program it is", "by owner"),
    LaneOrder.CHAIN: N_("by the chain"),
}
"""Every order has its words here; a test holds it to that."""
TABLE_HEADS = (
    N_("entry"),
    N_("waited, s"),
    N_("begins at, s"),
    N_("ready at, s"),
    N_("CPU·s"),
    N_("disk, s"),
    N_("slowed down, s"),
    N_("costs, s"),
)


LEAST_HELD_UP_SECONDS = 0.05


def lane_name(lane: Lane) -> str:
    """What stands at the left of a lane."""
    return shown(lane.name)


def lane_note(lane: Lane) -> str:
    """Why there is nothing to draw, or what went wrong; empty when all is well."""
    sentence = reason_in_words(lane.result) if lane.result else ""
    if lane.left_behind_at is None:
        return sentence
    why = sentence or say("its program is gone")
    return say(
        "program missing: {why}, at {instant}", why=why, instant=seconds(lane.left_behind_at)
    )


def lane_cost(lane: Lane) -> tuple[str, str]:
    """Seconds it costs, and their interval; empty where nobody knows."""
    if lane.cost is None:
        return "", ""
    return seconds(lane.cost.value), estimated(lane.cost)


def lane_in_words(figures: LaneFigures) -> str:
    """One lane as a sentence."""
    spoken = spoken_lane(figures)
    return f"{spoken.name}: {', '.join(spoken.cells)}" if spoken.cells else spoken.name


def spoken_lane(figures: LaneFigures) -> SpokenRow:
    """One lane as it is read out."""
    lane = figures.lane
    parts = []
    if figures.begins is not None and figures.up is not None:
        parts.append(
            say("starts from {begin} to {up}", begin=tenths(figures.begins), up=seconds(figures.up))
        )
    elif figures.begins is not None:
        parts.append(say("begins at {instant}", instant=seconds(figures.begins)))
    if figures.waited_seconds:
        waited = seconds(figures.waited_seconds)
        parts.append(
            say("waited {time} for another entry", time=waited)
            if lane.ordered
            else say("waited {time} for its timer", time=waited)
        )
    if lane.voice is not None:
        parts.append(
            say(
                "{cpu} CPU·s, {drive} of disk time",
                cpu=tenths(figures.cpu_seconds),
                drive=seconds(figures.drive_seconds),
            )
        )
    if figures.held_up_seconds >= LEAST_HELD_UP_SECONDS:
        held_up = seconds(figures.held_up_seconds)
        parts.append(say("slowed down by other programs for {time}", time=held_up))
    if lane.cost is not None:
        parts.append(say("costs {time}", time=seconds(lane.cost.value)))
    if lane.decision is not None:
        parts.append(label(lane.decision))
    return SpokenRow(lane_name(lane), tuple(parts))


def spoken_lanes(front: LanesPage, behind: LanesPage | None) -> tuple[SpokenRow, ...]:
    """A boot as it is read out: its marks, what is laid over it, then its lanes in their order."""
    rows = [_spoken_marks(say("Marks"), front)]
    if front.strips:
        at_end = (f"{row.name} {all_of(row.cells)}" for row in spoken_strips(front.strips))
        rows.append(SpokenRow(say("At the end of the recording"), tuple(at_end)))
    if behind is not None:
        rows.append(_spoken_marks(say("Marks of the boot laid over it"), behind))
    return (*rows, *(spoken_lane(row.front) for row in lanes_table(front, behind)))


def _spoken_marks(name: str, page: LanesPage) -> SpokenRow:
    marks = sorted(page.flags, key=lambda flag: flag.seconds)
    told = (
        say("{mark} at {instant}", mark=label(flag.mark), instant=seconds(flag.seconds))
        for flag in marks
    )
    return SpokenRow(name, tuple(told))


def table_row(row: LanesRow, spoken: bool = False) -> tuple[str, ...]:
    """The cells of one lane; in brackets what lies over it in pencil. With units when spoken."""
    front = _cells(row.front, spoken)
    behind = _cells(row.behind, spoken) if row.behind is not None else ("",) * len(front)
    return (
        lane_name(row.front.lane),
        *(f"{a} ({b})" if b and a != b else a for a, b in zip(front, behind, strict=True)),
    )


def _cells(figures: LaneFigures, spoken: bool) -> tuple[str, ...]:
    times = (figures.waited_seconds, figures.begins, figures.up)
    voice, cost, time = figures.lane.voice, figures.lane.cost, seconds if spoken else tenths
    cpu = tenths(figures.cpu_seconds)
    return (
        *("" if value is None else time(value) for value in times),
        (say("{cpu} CPU·s", cpu=cpu) if spoken else cpu) if voice else "",
        time(figures.drive_seconds) if voice else "",
        time(figures.held_up_seconds) if voice and voice.held_up_known else "",
        time(cost.value) if cost else "",
    )


def fold_line(parts: Folded) -> str:
    """The parts of the system in one line, with the costliest."""
    count = say_n("{n} part of the system", "{n} parts of the system", parts.lanes)
    lane = parts.costliest
    if lane is None:
        return count
    costliest = say("the costliest {name}, {cost}", name=lane_name(lane), cost=lane_cost(lane)[0])
    return say("{parts}, {costliest}", parts=count, costliest=costliest)


def legend() -> str:
    """What the lanes are drawn with."""
    return say(
        "Above the line: CPU · below: disk · hatched: slowed down by other programs · dotted: "
        "waiting for another entry · notch: ready"
    )


def machine_captions(page: LanesPage) -> tuple[str, str]:
    """What the taller lane is, and what its full height means."""
    cores = [strip for strip in page.strips if strip.kind is StripKind.CPU]
    return say("The machine"), strip_caption(cores[0]) if cores else ""


def settled_figures(page: LanesPage, behind: LanesPage | None) -> tuple[str, str]:
    """When the boot settled, and when it does in pencil; empty where it did not."""
    front = seconds(page.settled) if page.settled is not None else ""
    if behind is None or behind.settled is None:
        return front, label(Mark.SETTLED) if front else ""
    return front, say("pencil {instant}", instant=tenths(behind.settled))


def stage_captions(stage: Stage) -> tuple[str, ...]:
    """Texts for a stage, the longest first; the first that fits is used."""
    if stage.kind in WAITS:
        whole = say("{wait}, not charged", wait=label(stage.kind))
        return (whole, say("not charged"), say("wait"))
    return (shown(stage.name) if stage.kind is StageKind.UNKNOWN else label(stage.kind),)


def strip_caption(strip: Strip) -> str:
    """What full height of a curve means."""
    if strip.kind is StripKind.CPU:
        return say_n("of {n} core", "of {n} cores", int(strip.full))
    if strip.kind is StripKind.DISK:
        return say("time at work")
    if strip.kind is StripKind.MEMORY:
        return say("of {size}", size=memory_size(int(strip.full)))
    return say("0 to {most}", most=number(strip.full))


def reading_in_words(reading: StripReading) -> str:
    """What a curve reads at an instant, without its name."""
    if isnan(reading.height):
        return say("unknown")
    if reading.kind is StripKind.MEMORY:
        return size(reading.value)
    if reading.kind is StripKind.PROCESSES:
        return number(reading.value)
    share = percent(reading.height)
    if reading.moved is None:
        return share
    if isnan(reading.moved):
        return say("unknown")
    return say("{share}, {moved}/s", share=share, moved=size(reading.moved))


def newest_reading(strip: Strip) -> str:
    """What a curve reads at its end; empty while there is none."""
    return reading_in_words(reading_of(strip, -1)) if len(strip.heights) else ""


def spoken_strips(strips: Sequence[Strip]) -> tuple[SpokenRow, ...]:
    """What the curves of a PC read at their ends."""
    return tuple(SpokenRow(strip_title(strip.kind), (newest_reading(strip),)) for strip in strips)


def strips_in_words(strips: Sequence[Strip]) -> str:
    """The same as one sentence."""
    return ", ".join(f"{row.name} {all_of(row.cells)}" for row in spoken_strips(strips))


def crosshair_line(reading: StripReading) -> str:
    """One line of what the crosshair reads."""
    return f"{strip_title(reading.kind)} {reading_in_words(reading)}"


def note(page: LanesPage) -> str:
    """What this boot lacks and why; empty when it has everything."""
    if page.lacks is Lacks.SAMPLES:
        how = label(page.boot.how)
        if page.boot.marks:
            return say("This boot was {how}: it has marks but no curves and no entries.", how=how)
        return say(
            "This boot was {how}: it has single figures but no curves and no entries.", how=how
        )
    if page.lacks is Lacks.START:
        return say(
            "A reading at rest, begun {length} after the start: it shows what the PC holds and "
            "runs at rest, but no boot times.",
            length=length_of_time(page.start),
        )
    if page.lacks is Lacks.ENTRIES:
        return say(
            "This recording has no startup entries: the PC's service manager could not be asked."
        )
    return ""


def expected_in_words() -> str:
    """What is laid over the boot in pencil."""
    return say("In pencil: this boot as predicted with what is pencilled")


def boot_in_words(boot: Boot, others: tuple[Boot, ...]) -> str:
    """When the boot was, what kind it is, and whether it may be compared with the others."""
    parts = [day_and_time(boot.started_at)]
    if boot.how is not How.RECORDED:
        parts.append(label(boot.how))
    if boot.context.start_kind is not StartKind.UNKNOWN:
        parts.append(label(boot.context.start_kind))
    sentence = " · ".join(parts)
    if boot.set_aside:
        return say("{boot} · set aside: {why}", boot=sentence, why=shown(boot.set_aside))
    if boot.how is How.AT_REST:
        return sentence
    concerns = boot_concerns(boot, others)
    if concerns:
        why = ", ".join(concern_in_words(reason) for reason in concerns)
        return say("{boot} · better not compared: {why}", boot=sentence, why=why)
    return say("{boot} · may be compared", boot=sentence)
