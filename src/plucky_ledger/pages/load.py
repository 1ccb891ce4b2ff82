"""The Load lens: who used CPU, memory, disk and processes within a span of the boot."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from plucky_ledger.core.book.job import Job
from plucky_ledger.core.boots.boot import Boot, Timeline
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.readings import settled_of
from plucky_ledger.core.boots.samples import Floats, rates
from plucky_ledger.core.cost.attribution import Attribution, OwnerKind, attribute
from plucky_ledger.core.cost.usage import OwnerUse, use_by_owner, use_by_program
from plucky_ledger.core.pc.stock import BeyondStock, StockProfile, beyond, picture_of, program_key
from plucky_ledger.store import entries as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import count, shown, size

LEAST_MEMORY = 1e6
"""Bytes below which a difference in memory is not worth a word."""


class Span(StrEnum):
    """The stretch of time looked at."""

    STARTUP = "until settled"
    AT_REST = "at rest"
    WHOLE = "whole recording"


class By(StrEnum):
    """What one row stands for."""

    PROGRAM = "per program"
    ENTRY = "per entry"


@dataclass(frozen=True)
class LoadRow:
    """One program or entry. Shares are of the largest in the list, 0 to 1, for the bars."""

    name: str
    remark: str
    """What is special about it: measuring, set aside, beyond the stock profile."""
    about: str
    """Start command, path, package and what it is, in lines."""
    figures: tuple[str, str, str, str]
    """CPU·s, memory held, read, processes, in words."""
    amounts: tuple[float, float, float, float]
    """The same as numbers, to sort by."""
    shares: tuple[float, float, float, float]
    outside: bool
    """Caused by measuring or set aside: shown hatched, kept out of the sums."""
    program: str
    """Name of the program, to set it aside; empty for an entry."""


@dataclass(frozen=True)
class LoadPage:
    """Everything the lens shows."""

    rows: tuple[LoadRow, ...]
    sums: tuple[str, str, str, str]
    """Without what the measurement itself caused and what is set aside."""
    summary: str
    stock: str
    """How many processes more than the stock profile has; empty without one."""
    curve: tuple[tuple[float, float], ...]
    """CPU share over time, to choose the span on: seconds and 0 to 1."""
    span: tuple[float, float]
    settled: float | None
    note: str
    """Why there is nothing to show; empty when there is."""


@dataclass(frozen=True)
class _Use:
    name: str
    remark: str
    about: str
    use: OwnerUse
    outside: bool
    program: str = ""
    read_known: bool = True
    """The reader had permission to see what it read: unknown is not zero."""


@dataclass(frozen=True)
class LoadQuestion:
    """What the lens wants to see."""

    span: Span | tuple[float, float] = Span.STARTUP
    by: By = By.PROGRAM
    profile: str = ""
    """Name of the stock profile to count against; empty for none."""


@dataclass(frozen=True)
class LoadAnswer:
    """A page with what can be chosen beside it."""

    page: LoadPage
    aside: Mapping[str, str]
    """Programs set aside, with the reason."""
    profiles: tuple[str, ...]


def load_answer(
    ledger: Ledger, job: Job, boot: Boot, timeline: Timeline, question: LoadQuestion
) -> LoadAnswer:
    """Answer a question about a boot's load, with what the ledger knows."""
    aside = stored.asides(ledger, job.number)
    profiles = {profile.name: profile for profile in stored.profiles(ledger)}
    span = question.span
    between = span_of(boot, timeline, span) if isinstance(span, Span) else span
    profile = profiles.get(question.profile)
    page = load_page(boot, timeline, between, question.by, aside, profile)
    return LoadAnswer(page, aside, tuple(profiles))


def save_stock_profile(ledger: Ledger, job: Job, boot: Boot, timeline: Timeline, name: str) -> None:
    """Save what runs and starts at rest in a boot as a stock profile.

    Raises:
        Refused: no name, or no program was watched in this boot.
    """
    if not name.strip():
        raise Refused("Give the profile a name, such as the OS release it shows.")
    if not timeline.runs:
        raise Refused("No program was watched in this boot: record one on the fresh PC.")
    taken = replace(picture(boot, timeline, name.strip()), os_release=job.facts.os_release)
    stored.add_profile(ledger, taken)


def span_of(boot: Boot, timeline: Timeline, span: Span) -> tuple[float, float]:
    """A named stretch of a boot, in seconds since the kernel started."""
    if timeline.samples is None:
        return (0.0, 0.0)
    settled = settled_of(boot.marks, timeline.samples)
    turn = settled.seconds if settled else timeline.samples.end
    if span is Span.STARTUP:
        return 0.0, turn
    return (turn if span is Span.AT_REST else 0.0), timeline.samples.end


def load_page(
    boot: Boot,
    timeline: Timeline,
    span: tuple[float, float],
    by: By = By.PROGRAM,
    aside: Mapping[str, str] | None = None,
    profile: StockProfile | None = None,
) -> LoadPage:
    """Who used what of one boot between two instants, the most CPU work first.

    ``aside`` names programs that are left out, with the reason.
    """
    set_aside = aside or {}
    attribution = attribute(timeline, frozenset(set_aside))
    if attribution is None:
        return _empty(boot)
    extra = _beyond(boot, timeline, profile)
    uses = list(
        _programs(timeline, attribution, span, set_aside, extra)
        if by is By.PROGRAM
        else _entries(timeline, attribution, span)
    )
    uses.sort(key=lambda one: (-one.use.cpu_seconds, -one.use.memory_bytes, one.name))
    most = [max((amount(one.use) for one in uses), default=0.0) for amount in _AMOUNTS]
    sums = [sum(amount(one.use) for one in uses if not one.outside) for amount in _AMOUNTS]
    found = settled_of(boot.marks, timeline.samples)
    return LoadPage(
        rows=tuple(_row(one, most) for one in uses),
        sums=(f"{sums[0]:.1f}", size(sums[1]), size(sums[2]), f"{sums[3]:.0f}"),
        summary=_summary(attribution, span, int(sums[3]), len(uses), by),
        stock=_stock(profile, extra),
        curve=_curve(timeline),
        span=span,
        settled=found.seconds if found else None,
        note="",
    )


def _empty(boot: Boot) -> LoadPage:
    note = (
        f"This boot was {boot.how}, so no program was watched. Record a boot on the PC to see who "
        "uses it."
    )
    return LoadPage((), ("", "", "", ""), "", "", (), (0.0, 0.0), None, note)


def _programs(
    timeline: Timeline,
    attribution: Attribution,
    span: tuple[float, float],
    aside: Mapping[str, str],
    extra: BeyondStock | None,
) -> Iterable[_Use]:
    more = dict(extra.programs) if extra else {}
    described = {entry.executable: entry for entry in timeline.entries if entry.executable}
    for runs, use in use_by_program(attribution, timeline, *span):
        run = max(runs, key=lambda one: len(one.command))
        outside = attribution.owners[run.run].kind is OwnerKind.ASIDE
        remarks = [_remark(runs, outside, aside)]
        if (number := more.get(program_key(run), 0)) and extra:
            remarks.append(f"{number} more than stock")
        entry = described.get(program_key(run))
        package = f"{entry.package} · {entry.description}" if entry and entry.package else ""
        users = ", ".join(str(user) for user in sorted({one.user_id for one in runs}))
        about = [
            f"{run.command or 'part of the kernel'} · user {users}",
            package,
            _of_whom(runs, attribution),
        ]
        yield _Use(
            run.name,
            " · ".join(filter(None, remarks)),
            "\n".join(filter(None, about)),
            use,
            outside,
            run.name,
            any(not np.isnan(one.bytes_read).all() for one in runs if len(one.seconds)),
        )


def _remark(runs: Sequence[ProgramRun], outside: bool, aside: Mapping[str, str]) -> str:
    if any(run.own for run in runs):
        return "measuring"
    return f"set aside: {aside.get(runs[0].name, 'started by such a program')}" if outside else ""


def _of_whom(runs: Iterable[ProgramRun], attribution: Attribution) -> str:
    entries = sorted({attribution.owners[run.run].entry_id for run in runs} - {""})
    return f"started by {', '.join(entries[:4])}" if entries else ""


def _entries(
    timeline: Timeline, attribution: Attribution, span: tuple[float, float]
) -> Iterable[_Use]:
    known = {entry.entry_id: entry for entry in timeline.entries}
    uses = use_by_owner(attribution, timeline.runs, *span)
    for owner, use in uses.items():
        entry = known.get(owner.entry_id)
        if entry is not None:
            about = "\n".join(filter(None, (entry.command, entry.package, entry.description)))
            yield _Use(entry.name, "", about, use, outside=False)
        else:
            yield _Use(
                _IN_WORDS[owner.kind],
                "not in the sums" if owner.kind is OwnerKind.ASIDE else "",
                _EXPLAINED[owner.kind],
                use,
                outside=owner.kind is OwnerKind.ASIDE,
            )


_IN_WORDS = {
    OwnerKind.ENTRY: "an entry that is not listed",
    OwnerKind.SYSTEM: "the system and the session",
    OwnerKind.ASIDE: "measuring, and what is set aside",
    OwnerKind.UNEXPLAINED: "unexplained",
}
_EXPLAINED = {
    OwnerKind.ENTRY: "",
    OwnerKind.SYSTEM: "the kernel, and programs that no startup entry started",
    OwnerKind.ASIDE: "the recorder, and the programs left out with a reason",
    OwnerKind.UNEXPLAINED: "interrupts, the kernel's own reads, programs nobody saw",
}


def _beyond(boot: Boot, timeline: Timeline, profile: StockProfile | None) -> BeyondStock | None:
    return beyond(profile, picture(boot, timeline)) if profile is not None else None


def picture(boot: Boot, timeline: Timeline, name: str = "") -> StockProfile:
    """The picture of a boot at rest, to be saved as a stock profile or held against one."""
    settled = settled_of(boot.marks, timeline.samples)
    samples = timeline.samples
    at = settled.seconds + 5.0 if settled else (samples.end if samples else 0.0)
    held: Floats | None = samples.memory_held_bytes if samples is not None else None
    memory = 0.0
    if samples is not None and held is not None:
        index = min(int(samples.seconds.searchsorted(at)), len(samples) - 1)
        memory = float(held[index] - samples.own_memory_bytes[index])
    return picture_of(name, boot.context.kernel, timeline, at, memory)


def _stock(profile: StockProfile | None, extra: BeyondStock | None) -> str:
    if profile is None or extra is None:
        return ""
    number = count(abs(extra.processes), "process", "processes")
    word = "more" if extra.processes > 0 else "fewer"
    than = f"{number} {word} at rest than" if extra.processes else "As many processes at rest as"
    parts = [f"{than} “{shown(profile.name)}”"]
    if extra.entries:
        parts.append(f"{count(len(extra.entries), 'startup entry', 'startup entries')} it has not")
    if abs(extra.memory_bytes) >= LEAST_MEMORY:
        more = "more" if extra.memory_bytes > 0 else "less"
        parts.append(f"{size(abs(extra.memory_bytes))} {more} held")
    return ", ".join(parts) + "."


def _summary(
    attribution: Attribution, span: tuple[float, float], processes: int, rows: int, by: By
) -> str:
    cpu, read = attribution.explained_share(span[1])
    what = count(rows, "program") if by is By.PROGRAM else count(rows, "row")
    return (
        f"{count(processes, 'process', 'processes')} in {what}, {span[0]:.0f} to {span[1]:.0f} s. "
        f"Up to then {100 * (1 - cpu):.0f} % of the CPU work and {100 * (1 - read):.0f} % of what "
        "was read is unexplained. Memory that programs share is counted in parts."
    )


def _curve(timeline: Timeline) -> tuple[tuple[float, float], ...]:
    if timeline.samples is None or len(timeline.samples) < 2:
        return ()
    usable = rates(timeline.samples)
    return tuple(
        (float(end), 0.0 if share != share else float(share))  # noqa: PLR0124 NaN is a gap
        for end, share in zip(usable.end, usable.cpu_share, strict=True)
    )


_AMOUNTS: tuple[Callable[[OwnerUse], float], ...] = (
    lambda use: use.cpu_seconds,
    lambda use: use.memory_bytes,
    lambda use: use.bytes_read,
    lambda use: float(use.processes),
)


def _row(one: _Use, most: list[float]) -> LoadRow:
    cpu, memory, read, processes = (amount(one.use) for amount in _AMOUNTS)
    shares = [value / top if top > 0 else 0.0 for value, top in zip(
        (cpu, memory, read, processes), most, strict=True)]  # fmt: skip
    return LoadRow(
        name=shown(one.name),
        remark=shown(one.remark),
        about="\n".join(shown(line) for line in one.about.split("\n")),
        figures=(
            f"{cpu:.1f}",
            size(memory),
            size(read) if one.read_known else "unknown",
            f"{processes:.0f}",
        ),
        amounts=(cpu, memory, read, processes),
        shares=(shares[0], shares[1], shares[2], shares[3]),
        outside=one.outside,
        program=one.program,
    )
