"""The Load lens: who used CPU, memory, disk and processes within a span of the boot."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.bench.figures import count, shown, size
from plucky_ledger.core.accounting import explained_cpu, explained_disk
from plucky_ledger.core.boot import Boot, Timeline
from plucky_ledger.core.programs import ProgramUse, use_by_program
from plucky_ledger.core.readings import settled_of


class Span(StrEnum):
    """The stretch of time looked at."""

    STARTUP = "until settled"
    AT_REST = "at rest"
    WHOLE = "whole recording"


@dataclass(frozen=True)
class LoadRow:
    """One program. Shares are of the largest in the list, 0 to 1, for the bars."""

    name: str
    command: str
    figures: tuple[str, str, str, str]
    """CPU·s, memory held, read, processes, in words."""
    amounts: tuple[float, float, float, float]
    """The same as numbers, to sort by; −1 where unknown."""
    shares: tuple[float, float, float, float]
    own: bool
    """Caused by measuring: shown hatched, kept out of the sums."""


@dataclass(frozen=True)
class LoadPage:
    """Everything the lens shows."""

    rows: tuple[LoadRow, ...]
    sums: tuple[str, str, str, str]
    """Without what the measurement itself caused."""
    summary: str
    note: str
    """Why there is nothing to show; empty when there is."""


def load_page(boot: Boot, timeline: Timeline, span: Span) -> LoadPage:
    """Programs of one boot, the most CPU work first."""
    if not timeline.runs or timeline.samples is None:
        return LoadPage(
            (), ("", "", "", ""), "",
            f"This boot was {boot.how}, so no program was watched. Record a boot on the PC to "
            "see who uses it.",
        )  # fmt: skip
    start, end = _bounds(boot, timeline, span)
    uses = use_by_program(timeline.runs, start, end)
    counted = [use for use in uses if not use.own]
    most = [max((amount(use) for use in uses), default=0.0) for amount in _AMOUNTS]
    sums = tuple(sum(max(0.0, amount(use)) for use in counted) for amount in _AMOUNTS)
    return LoadPage(
        rows=tuple(_row(use, most) for use in uses),
        sums=(f"{sums[0]:.1f}", size(sums[1]), size(sums[2]), f"{sums[3]:.0f}"),
        summary=(
            f"{count(int(sums[3]), 'process', 'processes')} of {count(len(counted), 'program')}, "
            f"{start:.0f} to {end:.0f} s. Memory shared between programs counts in each, and what "
            f"ended programs had read counts for who started them. {_unexplained(timeline, end)}"
        ),
        note="",
    )


def _unexplained(timeline: Timeline, until: float) -> str:
    """What the programs do not account for, from the start of the boot."""
    assert timeline.samples is not None
    cpu = explained_cpu(timeline.samples, timeline.runs, until)
    disk = explained_disk(timeline.samples, timeline.runs, until)
    return (
        f"Since the start {cpu.short_lived:.1f} CPU·s went to programs too short-lived to be seen; "
        f"{100 * (1 - cpu.share):.0f} % of the CPU work and "
        f"{100 * (1 - disk.share):.0f} % of what was read is "
        "unexplained."
    )


def _bounds(boot: Boot, timeline: Timeline, span: Span) -> tuple[float, float]:
    assert timeline.samples is not None
    settled = settled_of(boot.marks, timeline.samples)
    turn = settled.seconds if settled else timeline.samples.end
    if span is Span.STARTUP:
        return 0.0, turn
    return (turn if span is Span.AT_REST else 0.0), timeline.samples.end


_AMOUNTS: tuple[Callable[[ProgramUse], float], ...] = (
    lambda use: use.cpu_seconds,
    lambda use: use.memory_bytes,
    lambda use: -1.0 if use.bytes_read is None else use.bytes_read,
    lambda use: float(use.processes),
)


def _row(use: ProgramUse, most: list[float]) -> LoadRow:
    cpu, memory, read, processes = (amount(use) for amount in _AMOUNTS)
    return LoadRow(
        name=shown(use.name),
        command=shown(use.command),
        figures=(
            f"{cpu:.1f}",
            size(memory),
            "unknown" if use.bytes_read is None else size(read),
            f"{processes:.0f}",
        ),
        amounts=(cpu, memory, read, processes),
        shares=(
            _share(cpu, most[0]),
            _share(memory, most[1]),
            _share(read, most[2]),
            _share(processes, most[3]),
        ),
        own=use.own,
    )


def _share(amount: float, most: float) -> float:
    return max(0.0, amount) / most if most > 0 else 0.0
