"""The Load lens: who used CPU, memory, disk and processes within a span of the boot."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Attribution, OwnerKind
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples, rates
from plucky_ledger.core.boots.stock import (
    BeyondStock,
    StockProfile,
    beyond,
    picture_of,
    program_key,
)
from plucky_ledger.core.boots.usage import use_by_owner, use_by_program
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.usecases.changing.programs_set_aside import programs_aside
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
from plucky_ledger.usecases.reading.known_programs import entries_unknown, programs_before
from plucky_ledger.usecases.reading.stock_profiles import stock_profiles

NOW_SECONDS = 10.0
"""How far back the list of now looks."""


class Span(StrEnum):
    """The stretch of time looked at."""

    STARTUP = "startup"
    AT_REST = "at_rest"
    WHOLE = "whole"
    NOW = "now"
    """The last seconds, of this PC as it is."""


class By(StrEnum):
    """What one row stands for."""

    PROGRAM = "program"
    ENTRY = "entry"


@dataclass(frozen=True)
class Amounts:
    """What somebody used."""

    cpu_seconds: float
    memory_bytes: float
    """Held at the end of the span."""
    bytes_read: float
    bytes_written: float
    processes: int
    """Running at the end of the span."""

    def __iter__(self) -> Iterator[float]:
        """What the columns are ordered and drawn by; read and written are one."""
        moved = self.bytes_read + self.bytes_written
        return iter((self.cpu_seconds, self.memory_bytes, moved, float(self.processes)))


@dataclass(frozen=True, kw_only=True)
class LoadRow:
    """One program or entry. Shares are of the largest in the list, 0 to 1, for the bars."""

    name: str
    """Of the program or the entry; empty for what is neither, which ``kind`` tells."""
    kind: OwnerKind
    amounts: Amounts
    shares: tuple[float, ...]
    """One for each of the columns."""
    read_known: bool
    """The reader had permission to see what it read: unknown is not zero."""
    measuring: bool
    """The recorder itself."""
    outside: bool
    """Caused by measuring or set aside: shown hatched, kept out of the sums."""
    aside_because: str
    """Why the program is set aside; empty when it is not, or when what started it is."""
    more_than_stock: int
    """How many more of it run than in the stock profile."""
    stock_has_none: bool
    """It is not in the stock profile at all."""
    new_since_visit: bool
    """It was there in no boot of the visit before."""
    unknown_here: bool
    """Somebody installed it, and nobody here ever decided about it."""
    command: str
    users: tuple[int, ...]
    entry: StartupEntry | None
    """The entry it is, or the one that tells most of the program."""
    started_by: tuple[str, ...]
    """Names of the entries that started it."""
    program: str
    """Name of the program, to set it aside; empty for an entry."""
    belongs_to: str = ""
    """Id of the entry it is, or that started it; empty where there is none."""


@dataclass(frozen=True, kw_only=True)
class LoadPage:
    """Everything the lens shows."""

    how: How
    rows: tuple[LoadRow, ...]
    """Empty where no program was watched."""
    sums: Amounts
    """Without what the measurement itself caused and what is set aside."""
    by: By
    unexplained: tuple[float, float]
    """Share of the CPU work and of what was read that has no owner, up to the span's end."""
    profile: str
    """Name of the stock profile it is held against; empty for none."""
    extra: BeyondStock | None
    curve: tuple[tuple[float, float], ...]
    """CPU share over time, to choose the span on: seconds and 0 to 1."""
    span: tuple[float, float]
    settled: float | None
    cpu_seconds_there: float = 0.0
    """What all cores could have done in the span; 0 where nobody knows."""
    memory_bytes_there: float = 0.0
    """What the PC has; 0 where nobody knows."""


@dataclass(frozen=True)
class LoadQuestion:
    """What the lens wants to see."""

    span: Span | tuple[float, float] = Span.STARTUP
    by: By = By.PROGRAM
    profile: str = ""
    """Name of the stock profile to count against; empty for none."""


@dataclass(frozen=True)
class WorkshopKnowledge:
    """What the workshop knows of programs beside the boot itself."""

    aside: Mapping[str, str] = field(default_factory=dict)
    """Programs set aside, with the reason."""
    profile: StockProfile | None = None
    before: frozenset[str] | None = None
    """Programs there were at the visit before; None where this is the first."""
    unknown: frozenset[str] = frozenset()
    """Entries that nobody here ever decided about."""


NOTHING_KNOWN = WorkshopKnowledge()


@dataclass(frozen=True)
class LoadAnswer:
    """A page with what can be chosen beside it."""

    page: LoadPage
    aside: Mapping[str, str]
    """Programs set aside, with the reason."""
    profiles: tuple[str, ...]


def load_answer(
    ledger: Ledger,
    number: int,
    shown: Boot | Analysis,
    analyses: Analyses,
    question: LoadQuestion,
    memory: WorkshopMemory | None = None,
) -> LoadAnswer:
    """Answer a question about the load of a job's boot, or of what was read just now, with what
    the ledger knows.
    """
    analysis = shown if isinstance(shown, Analysis) else analyses.of(ledger, number, shown)
    aside, profiles = programs_aside(ledger, number), stock_profiles(ledger)
    knowledge = WorkshopKnowledge(
        aside,
        profiles.get(question.profile),
        programs_before(ledger, number, analyses),
        entries_unknown(ledger, analysis.timeline.entries, memory or WorkshopMemory()),
    )
    return LoadAnswer(load_page(analysis, question, knowledge), aside, tuple(profiles))


def span_of(analysis: Analysis, span: Span) -> tuple[float, float]:
    """A named stretch of a boot, in seconds since the kernel started."""
    samples = analysis.samples
    if samples is None:
        return (0.0, 0.0)
    if span is Span.NOW:
        return max(float(samples.seconds[0]), samples.end - NOW_SECONDS), samples.end
    begin = 0.0 if analysis.boot.is_start else float(samples.seconds[0])
    settled = analysis.settled
    turn = settled.seconds if settled else samples.end if analysis.boot.is_start else begin
    if span is Span.STARTUP and analysis.boot.is_start:
        return begin, turn
    return (turn if span is Span.AT_REST else begin), samples.end


def load_page(
    analysis: Analysis, question: LoadQuestion, known: WorkshopKnowledge = NOTHING_KNOWN
) -> LoadPage:
    """Who used what of one boot between two instants, the most CPU work first."""
    boot, attribution = analysis.boot, analysis.attribution
    if attribution is None:
        nothing = Amounts(0.0, 0.0, 0.0, 0.0, 0)
        return LoadPage(
            how=boot.how,
            rows=(),
            sums=nothing,
            by=question.by,
            unexplained=(0.0, 0.0),
            profile="",
            extra=None,
            curve=(),
            span=(0.0, 0.0),
            settled=None,
        )
    asked = question.span
    span = span_of(analysis, asked) if isinstance(asked, Span) else asked
    profile = known.profile
    extra = beyond(profile, picture_of(analysis)) if profile is not None else None
    rows = (
        _programs(analysis, attribution, span, known, extra)
        if question.by is By.PROGRAM
        else _entries(analysis, attribution, span, known)
    )
    ordered = sorted(rows, key=_most_work_first)
    explained = attribution.explained_share(span[1])
    cores = analysis.samples.cores if analysis.samples is not None else 0
    memory = analysis.samples.memory_total_bytes if analysis.samples is not None else 0.0
    return LoadPage(
        how=boot.how,
        rows=_with_shares(ordered),
        sums=_sum(row.amounts for row in ordered if not row.outside),
        by=question.by,
        unexplained=(1 - explained[0], 1 - explained[1]),
        profile=profile.name if profile is not None else "",
        extra=extra,
        curve=_curve(analysis.samples),
        span=span,
        settled=analysis.settled_at,
        cpu_seconds_there=cores * (span[1] - span[0]),
        memory_bytes_there=memory,
    )


def _most_work_first(row: LoadRow) -> tuple[float, float, str]:
    return (-row.amounts.cpu_seconds, -row.amounts.memory_bytes, row.name)


def _sum(amounts: Iterable[Amounts]) -> Amounts:
    listed = list(amounts)
    return Amounts(
        sum(amount.cpu_seconds for amount in listed),
        sum(amount.memory_bytes for amount in listed),
        sum(amount.bytes_read for amount in listed),
        sum(amount.bytes_written for amount in listed),
        sum(amount.processes for amount in listed),
    )


def _with_shares(rows: list[LoadRow]) -> tuple[LoadRow, ...]:
    most = [max(column) for column in zip(*(row.amounts for row in rows), strict=True)]

    def shares(row: LoadRow) -> tuple[float, ...]:
        pairs = zip(row.amounts, most, strict=True)
        return tuple(amount / top if top > 0 else 0.0 for amount, top in pairs)

    return tuple(replace(row, shares=shares(row)) for row in rows)


def _amounts(use: OwnerUse) -> Amounts:
    return Amounts(
        use.cpu_seconds, use.memory_bytes, use.bytes_read, use.bytes_written, use.processes
    )


def _programs(
    analysis: Analysis,
    attribution: Attribution,
    span: tuple[float, float],
    known: WorkshopKnowledge,
    extra: BeyondStock | None,
) -> Iterable[LoadRow]:
    timeline = analysis.timeline
    more = dict(extra.programs) if extra else {}
    stock = known.profile.programs if known.profile else {}
    described = {entry.executable: entry for entry in timeline.entries if entry.executable}
    names = {entry.entry_id: entry.name for entry in timeline.entries}
    for runs, use in use_by_program(attribution, timeline, *span):
        run = max(runs, key=lambda run: len(run.command))
        kind, key = attribution.owners[run.run].kind, program_key(run)
        starters = sorted({attribution.owners[run.run].entry_id for run in runs} - {""})
        yield LoadRow(
            name=run.name,
            kind=kind,
            amounts=_amounts(use),
            shares=(),
            read_known=_read_known(runs),
            measuring=any(run.own for run in runs),
            outside=kind is OwnerKind.ASIDE,
            aside_because=known.aside.get(run.name, ""),
            more_than_stock=more.get(key, 0),
            stock_has_none=bool(more.get(key)) and key not in stock,
            new_since_visit=known.before is not None and key not in known.before,
            unknown_here=any(entry_id in known.unknown for entry_id in starters),
            command=run.command,
            users=tuple(sorted({run.user_id for run in runs})),
            entry=described.get(key),
            started_by=tuple(names.get(entry_id, entry_id) for entry_id in starters),
            program=run.name,
            belongs_to=starters[0] if starters else "",
        )


def _read_known(runs: Iterable[ProgramRun]) -> bool:
    return any(not np.isnan(run.bytes_read).all() for run in runs if len(run.seconds))


def _entries(
    analysis: Analysis,
    attribution: Attribution,
    span: tuple[float, float],
    known: WorkshopKnowledge,
) -> Iterable[LoadRow]:
    entries = {entry.entry_id: entry for entry in analysis.timeline.entries}
    for owner, use in use_by_owner(attribution, analysis.timeline.runs, *span).items():
        entry = entries.get(owner.entry_id)
        yield LoadRow(
            name=entry.name if entry else "",
            kind=owner.kind,
            amounts=_amounts(use),
            shares=(),
            read_known=True,
            measuring=False,
            outside=owner.kind is OwnerKind.ASIDE,
            aside_because="",
            more_than_stock=0,
            stock_has_none=False,
            new_since_visit=False,
            unknown_here=owner.entry_id in known.unknown,
            command=entry.command if entry else "",
            users=(),
            entry=entry,
            started_by=(),
            program="",
            belongs_to=owner.entry_id,
        )


def _curve(samples: Samples | None) -> tuple[tuple[float, float], ...]:
    if samples is None or len(samples) < 2:
        return ()
    usable = rates(samples)
    shares = np.nan_to_num(usable.cpu_share)
    return tuple(zip(usable.end.tolist(), shares.tolist(), strict=True))
