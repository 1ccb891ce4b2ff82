"""The Entries lens: what starts by itself, what it costs, what is decided, what is expected."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from plucky_ledger.core.book.job import EntryState, Job
from plucky_ledger.core.boots.boot import Boot, StartupEntry
from plucky_ledger.core.cost.cost import Estimate, Grade, GradeThresholds, PlanEstimate, StartupCost
from plucky_ledger.core.entries.decisions import Decided, Decision, identity_of
from plucky_ledger.core.entries.hints import Hint
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.costs import CostsKept, RoundCosts, pencilled_states
from plucky_ledger.usecases.decisions import decisions_of, hints, thresholds
from plucky_ledger.usecases.workshop import Workshop, in_words
from plucky_ledger.wording.figures import MINUS, count, shown, size, tenths

ANY = "all"
KINDS = (ANY, "sign-in programs", "services", "timers", "typed in")
OWNERS = (ANY, "of the user", "of the system")
DECIDED = (ANY, "not decided", "decided", "pencilled", "to look up")


@dataclass(frozen=True)
class EntryRow:
    """One startup entry."""

    entry: StartupEntry
    name: str
    about: str
    """Kind, package and remarks in one line."""
    grade: Grade
    seconds: Estimate | None
    """What it delays settled by; None when it has no figure."""
    cost: str
    """The same in words, or why there is none."""
    memory: str
    decision: str
    """Empty while nobody decided."""
    pencilled: bool
    """The change that follows from the decision is still to be made."""
    card: tuple[tuple[str, str], ...]
    """Heading and text, for the card beside the list."""
    reason: str
    finding: str

    @property
    def spoken(self) -> str:
        """The row as one sentence, for who cannot see it."""
        return f"{self.name}, {self.about}, {self.grade}, {self.cost}, {self.decision or 'open'}"


@dataclass(frozen=True)
class EntriesPage:
    """Everything the lens shows, the costliest entry first."""

    rows: tuple[EntryRow, ...]
    system_rows: tuple[EntryRow, ...]
    """Parts of the system, folded away at first."""
    system_line: str
    most_seconds: float
    """Where the bars' common axis ends."""
    legend: str
    """From which share an entry is of which grade."""
    plan_strong: str
    """What the plan is expected to bring; empty when nothing is pencilled."""
    plan: str
    note: str
    """What is missing; empty when nothing is."""


@dataclass(frozen=True)
class EntriesData:
    """What the page is made from: read and worked out off the window's thread."""

    costs: RoundCosts
    decided: Mapping[str, Decided]
    hints: Mapping[str, tuple[Hint, ...]]
    elsewhere: Mapping[str, tuple[str, ...]]
    """What other jobs taught, in sentences, by entry id."""
    thresholds: GradeThresholds
    pencilled: Mapping[str, EntryState]
    plan: PlanEstimate | None


def entries_data(
    ledger: Ledger, job: Job, boots: tuple[Boot, ...], kept: CostsKept | None = None
) -> EntriesData:
    """Everything about the entries of a round; costs that are ``kept`` are not made again."""
    costs = (kept or CostsKept()).of(ledger, job.number, boots)
    workshop = Workshop(ledger)
    pencilled = pencilled_states(job)
    return EntriesData(
        costs=costs,
        decided=decisions_of(ledger, job),
        hints=hints(costs.entries),
        elsewhere={
            entry.entry_id: in_words(workshop.elsewhere(identity_of(entry), job.number))
            for entry in costs.entries
        },
        thresholds=thresholds(ledger),
        pencilled=pencilled,
        plan=costs.plan(pencilled) if pencilled else None,
    )


def entries_page(data: EntriesData) -> EntriesPage:
    """The page from what was read."""
    costs = data.costs.costs
    ordered = sorted(data.costs.entries, key=lambda one: _costliest_first(costs[one.entry_id]))
    rows = [_row(data, entry) for entry in ordered]
    system = tuple(row for row in rows if row.entry.part_of_system)
    highs = [row.seconds.high for row in rows if row.seconds is not None]
    strong, plan = _plan(data)
    return EntriesPage(
        rows=tuple(row for row in rows if not row.entry.part_of_system),
        system_rows=system,
        system_line=_system_line(system),
        most_seconds=max([1.0, *highs]),
        legend=_legend(data.thresholds),
        plan_strong=strong,
        plan=plan,
        note=_note(data.costs),
    )


def filtered(
    rows: tuple[EntryRow, ...], text: str = "", kind: str = ANY, owner: str = ANY,
    decided: str = ANY,
) -> tuple[EntryRow, ...]:  # fmt: skip
    """The rows that fit what is asked for."""
    wanted = text.casefold().strip()
    return tuple(
        row
        for row in rows
        if wanted in f"{row.name} {row.about} {row.entry.command} {row.entry.entry_id}".casefold()
        and (kind == ANY or _kind_of(row.entry) == kind)
        and owner in {ANY, f"of the {row.entry.owner}"}
        and (decided == ANY or decided in _decided_as(row))
    )


def _kind_of(entry: StartupEntry) -> str:
    if entry.kind == "timer":
        return "timers"
    if entry.kind == "typed in":
        return "typed in"
    return "services" if "service" in entry.kind else "sign-in programs"


def _decided_as(row: EntryRow) -> tuple[str, ...]:
    if not row.decision:
        return ("not decided",)
    also = ("pencilled",) if row.pencilled else ()
    return ("decided", "to look up" if row.decision == "look up" else "", *also)


def _costliest_first(cost: StartupCost) -> tuple[float, float, str]:
    seconds = cost.settled.value if cost.settled is not None else -1e9
    return (-round(seconds, 1), -cost.use.memory_bytes, cost.entry_id)


def _row(data: EntriesData, entry: StartupEntry) -> EntryRow:
    cost = data.costs.costs[entry.entry_id]
    decided = data.decided.get(entry.entry_id)
    grade = data.costs.grade(entry, data.thresholds)
    found = data.hints.get(entry.entry_id, ())
    if decided and decided.decision is Decision.LATER and not cost.boots:
        cost = replace(cost, no_grade="starts later than these recordings go")
    seconds = cost.settled
    return EntryRow(
        entry=entry,
        name=shown(entry.name),
        about=_about(entry, found),
        grade=grade,
        seconds=seconds,
        cost=tenths(seconds.value) if seconds is not None else cost.no_grade,
        memory=f"{cost.use.memory_bytes / 1e6:,.0f}" if cost.boots else "",
        decision=str(decided.decision) if decided else "",
        pencilled=entry.entry_id in data.pencilled,
        card=_card(data, entry, cost, grade, found),
        reason=decided.reason if decided else "",
        finding=decided.finding if decided else "",
    )


def _about(entry: StartupEntry, found: tuple[Hint, ...]) -> str:
    parts = [entry.kind.removesuffix(" program").removesuffix(" service")]
    parts.extend(dict.fromkeys(str(hint.kind) for hint in found))
    parts.extend(text for text in (entry.description, entry.package) if text)
    if entry.off_because:
        parts.append(f"does not start: {entry.off_because}")
    return " · ".join(shown(part) for part in parts)


def _card(
    data: EntriesData, entry: StartupEntry, cost: StartupCost, grade: Grade, found: tuple[Hint, ...]
) -> tuple[tuple[str, str], ...]:
    share = ""
    if cost.settled is not None and data.costs.settled_seconds > 0:
        part = max(0.0, cost.settled.value) / data.costs.settled_seconds
        share = f", {100 * part:.0f} % of settled"
    card = [("", f"{grade}{share}" if cost.settled else f"{grade}: {cost.no_grade}")]
    card.append(("Starts", shown(", ".join(filter(None, (entry.kind, entry.schedule))))))
    if entry.origin:
        card.append(("From", shown(entry.origin)))
    if entry.command:
        card.append(("Runs", shown(entry.command)))
    if entry.package:
        card.append(("Belongs to", shown(entry.package)))
    if entry.description:
        card.append(("Is", shown(entry.description)))
    if cost.boots:
        card.append((f"In {count(cost.boots, 'boot')}", _evidence(cost)))
    if len(cost.per_boot) > 1:
        each = ", ".join(tenths(seconds) for seconds in cost.per_boot)
        card.append(("Boot by boot", f"{each} s"))
    card.extend((str(hint.kind).capitalize(), shown(hint.evidence)) for hint in found)
    learned = data.elsewhere.get(entry.entry_id, ())
    if learned:
        card.append(("On other jobs", shown("; ".join(learned))))
    return tuple(card)


def _evidence(cost: StartupCost) -> str:
    lines = []
    for estimate, what in ((cost.settled, "later settled"), (cost.system_up, "later system up")):
        if estimate is not None and (estimate is cost.settled or estimate.value >= 0.1):
            low, high = tenths(estimate.low), tenths(estimate.high)
            lines.append(f"{tenths(estimate.value)} s ({low} to {high}) {what}")
    use = cost.use
    lines.append(f"{use.cpu_seconds:.1f} CPU·s, {size(use.bytes_read)} read")
    held = size(use.memory_bytes)
    lines.append(f"{held} held, {count(use.processes, 'process', 'processes')}")
    return "\n".join(lines)


def _system_line(rows: tuple[EntryRow, ...]) -> str:
    text = count(len(rows), "part") + " of the system"
    if rows and rows[0].seconds is not None:
        return f"{text}, the costliest {rows[0].name}, {rows[0].cost} s"
    return text


def _legend(levels: GradeThresholds) -> str:
    return (
        f"Grades, by share of settled or of memory: heavy from {100 * levels.heavy:g} %, "
        f"moderate {100 * levels.moderate:g} %, light {100 * levels.light:g} %"
    )


def _plan(data: EntriesData) -> tuple[str, str]:
    if not data.pencilled:
        return "", "Nothing is pencilled. K keeps, O switches off, L starts later, ? looks up."
    states = list(data.pencilled.values())
    numbers = [
        f"{states.count(state)} {word}"
        for state, word in ((EntryState.OFF, "off"), (EntryState.LATER, "later"),
                            (EntryState.ON, "on again"))
        if state in states
    ]  # fmt: skip
    pencilled = f"Pencilled: {', '.join(numbers)}."
    plan = data.plan
    if plan is None:
        return "", f"{pencilled} What it would bring is not known: {data.costs.replay.why_not}."
    strong = f"Expected {plan.settled.value:.1f} s settled, {_change(plan.saved.value, 's', 1)}"
    low, high = max(0.0, plan.settled.low), plan.settled.high
    rest = [f"{low:.0f} to {high:.0f} s, overlaps counted once"]
    if plan.memory_bytes >= 1e6:
        rest.append(_change(plan.memory_bytes / 1e6, "MB", 0))
    if plan.processes:
        rest.append(_change(plan.processes, "process" if plan.processes == 1 else "processes", 0))
    return strong, f"{pencilled} {' · '.join(rest)}"


def _change(saved: float, unit: str, decimals: int) -> str:
    return f"{MINUS if saved >= 0 else '+'}{abs(saved):.{decimals}f} {unit}"


def _note(costs: RoundCosts) -> str:
    if not costs.entries:
        return (
            "No startup entry is known yet. Record a boot on the PC itself, or type the entries in "
            "from its own list (Entries menu)."
        )
    return f"Ungraded: {costs.replay.why_not}." if costs.replay.why_not else ""
