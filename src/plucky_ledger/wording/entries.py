"""The Entries lens in words."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median

from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import EntryKind, StartupEntry
from plucky_ledger.core.entries.kinds import Family
from plucky_ledger.core.entries.sources import SourceLooked, of_an_init_system
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.replay.grades import Grade, GradeThresholds
from plucky_ledger.core.replay.startup_cost import PlanEstimate, StartupCost
from plucky_ledger.core.shelf.lessons import Elsewhere
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.pages.entries import (
    DecidedChoice,
    EntriesPage,
    EntryRow,
    OwnerChoice,
)
from plucky_ledger.wording.figures import (
    MINUS,
    between,
    number,
    percent,
    seconds,
    size,
    tenths,
    with_unit,
)
from plucky_ledger.wording.installing import install_command
from plucky_ledger.wording.intervals import estimated
from plucky_ledger.wording.labels import capital, label
from plucky_ledger.wording.language import C_, N_, all_of, say, say_n
from plucky_ledger.wording.learned import elsewhere_in_words, together_in_words
from plucky_ledger.wording.reasons import boots_n, reason_in_words
from plucky_ledger.wording.safe import shown


@dataclass(frozen=True)
class EntryWords:
    """One startup entry in words."""

    name: str
    about: str
    """Kind, package and remarks in one line."""
    cost: str
    """Seconds it delays settled by, or why there is no figure."""
    memory: str
    decision: str
    """Empty while nobody decided."""

    def has(self, wanted: str, entry: StartupEntry) -> bool:
        """Whether a search text is in what is said of the entry, or in its command or id."""
        commands = " ".join((entry.command, *entry.beside))
        said = f"{self.name} {self.about} {commands} {entry.entry_id}"
        return wanted.casefold().strip() in said.casefold()


CHOICES: Mapping[type[StrEnum], Mapping[StrEnum, str]] = {
    Family: {
        Family.ANY: N_("kind: all"),
        Family.SIGN_IN: N_("sign-in programs"),
        Family.SERVICES: N_("services"),
        Family.TIMERS: N_("timers"),
        Family.TYPED: N_("typed in"),
    },
    OwnerChoice: {
        OwnerChoice.ANY: N_("whose: all"),
        OwnerChoice.USER: N_("of the user"),
        OwnerChoice.SYSTEM: N_("of the system"),
    },
    DecidedChoice: {
        DecidedChoice.ANY: N_("decided: all"),
        DecidedChoice.NOT_DECIDED: N_("not decided"),
        DecidedChoice.DECIDED: N_("decided"),
        DecidedChoice.PENCILLED: N_("pencilled"),
        DecidedChoice.LOOK_UP: N_("to look up"),
        DecidedChoice.CAME_BACK: N_("came back"),
    },
}
"""Every member of these enumerations has its words here; a test holds it to that."""


def choice(code: StrEnum) -> str:
    """What a choice of the lens is called."""
    return say(CHOICES[type(code)][code])


def entry_in_words(row: EntryRow) -> EntryWords:
    """A row of the list in words."""
    return EntryWords(
        name=shown(row.entry.name),
        about=_about(row),
        cost=cost_in_words(row.cost),
        memory=number(row.cost.use.memory_bytes / 1e6) if row.cost.boots else "",
        decision=label(row.decided.decision) if row.decided else "",
    )


def spoken_cells(row: EntryRow, words: EntryWords) -> tuple[str, ...]:
    """What stands in each column, for who cannot see it: with the grade, and with units."""
    return (
        ", ".join(filter(None, (words.name, words.about, label(row.grade)))),
        ", ".join(filter(None, (cost_in_words(row.cost, spoken=True), _interval(row.cost)))),
        say("{size} MB", size=words.memory) if words.memory else "",
        words.decision or say("open"),
    )


def _interval(cost: StartupCost) -> str:
    """That of the cost, where it is told."""
    unsure = cost.no_grade is not None and cost.no_grade.code is ReasonCode.NOT_KNOWN_YET
    return estimated(cost.settled) if cost.settled is not None and not unsure else ""


def cost_in_words(cost: StartupCost, spoken: bool = False) -> str:
    """Seconds it delays settled by, or system up where the PC never settled, or why neither.

    With its unit when spoken.
    """
    unsure = cost.no_grade is not None and cost.no_grade.code is ReasonCode.NOT_KNOWN_YET
    if unsure:
        return say("not known yet")
    if cost.settled is not None:
        return seconds(cost.settled.value) if spoken else tenths(cost.settled.value)
    if cost.system_up is not None:
        return say("system up {seconds} s later", seconds=tenths(cost.system_up.value))
    return reason_in_words(cost.no_grade) if cost.no_grade else ""


def _about(row: EntryRow) -> str:
    entry = row.entry
    short = {
        EntryKind.SIGN_IN_PROGRAM: say("sign-in"),
        EntryKind.SYSTEM_SERVICE: say("system"),
        EntryKind.USER_SERVICE: say("user"),
    }
    parts = [short.get(entry.kind) or label(entry.kind)]
    if row.came_back is not None:
        parts.insert(0, say("came back"))
    parts.extend(dict.fromkeys(label(hint.kind) for hint in row.hints))
    parts.extend(text for text in (entry.description, entry.package) if text)
    if entry.off_because is not None:
        parts.append(say("does not start: {why}", why=reason_in_words(entry.off_because)))
    return " · ".join(shown(part) for part in parts)


def card_in_words(row: EntryRow) -> tuple[tuple[str, str], ...]:
    """Heading and text, for the card beside the list."""
    entry, cost = row.entry, row.cost
    card = [("", _graded(row))]
    if row.came_back is not None:
        card.append((say("Came back"), reason_in_words(row.came_back)))
    starts = [label(entry.kind), all_of([reason_in_words(reason) for reason in entry.schedule])]
    card.append(
        (say(C_("how an entry is started", "Starts")), shown(", ".join(filter(None, starts))))
    )
    for heading, text in (
        (say("From"), entry.origin),
        (say("Runs"), entry.command),
        (say("Runs as well"), "; ".join(entry.beside)),
        (say("Added to by"), ", ".join(entry.drop_ins)),
        (say("Belongs to"), entry.package),
        (say("Is"), entry.description),
    ):
        if text:
            card.append((heading, shown(text)))
    if cost.boots:
        card.append((say("In {boots}", boots=boots_n(cost.boots)), _evidence(cost)))
    if len(cost.per_boot) > 1:
        each = ", ".join(tenths(seconds) for seconds in cost.per_boot)
        card.append((say("Boot by boot"), f"{each} s"))
    card.extend((capital(label(hint.kind)), reason_in_words(hint.evidence)) for hint in row.hints)
    learned = learned_in_words(row.elsewhere)
    if learned:
        card.append((say("On other jobs"), shown("; ".join(learned))))
    if row.other_workshops:
        card.append((say("Other workshops"), "\n".join(elsewhere_in_words(row.other_workshops))))
    if row.together is not None:
        card.append((say("All together"), together_in_words(row.together)))
    return tuple(card)


def _graded(row: EntryRow) -> str:
    grade = label(row.grade)
    if row.grade is Grade.NOT_KNOWN_YET and row.cost.no_grade is not None:
        return reason_in_words(row.cost.no_grade)
    if row.cost.settled is None:
        return f"{grade}: {cost_in_words(row.cost)}"
    if row.share_of_settled is None:
        return grade
    return say("{grade}, {share} of settled", grade=grade, share=percent(row.share_of_settled))


def _evidence(cost: StartupCost) -> str:
    lines = []
    if cost.settled is not None:
        lines.append(_delay(say("later settled"), cost.settled.value, estimated(cost.settled)))
    if cost.system_up is not None and cost.system_up.value >= 0.1:
        up = cost.system_up
        lines.append(_delay(say("later system up"), up.value, estimated(up)))
    use = cost.use
    lines.append(
        say("{cpu} CPU·s, {read} read", cpu=tenths(use.cpu_seconds), read=size(use.bytes_read))
    )
    cores, drive = cost.held_up
    if cores is not None and cores >= 0.1:
        lines.append(say("waited {seconds} s for CPU", seconds=tenths(cores)))
    if drive is not None and drive >= 0.1:
        lines.append(say("waited {seconds} s for the disk", seconds=tenths(drive)))
    held = say("{size} held", size=size(use.memory_bytes))
    lines.append(f"{held}, {processes_n(use.processes)}")
    return "\n".join(lines)


def _delay(what: str, value: float, span: str) -> str:
    return f"{tenths(value)} s ({span}) {what}"


def processes_n(count: int) -> str:
    """A number of processes."""
    return say_n("{n} process", "{n} processes", count)


def learned_in_words(elsewhere: Elsewhere) -> tuple[str, ...]:
    """What other jobs taught, one sentence each; empty when nothing."""
    if not elsewhere.jobs:
        return ()
    jobs = say_n("{n} other job", "{n} other jobs", elsewhere.jobs)
    if not elsewhere.changed:
        sentences = [say("left on, on {jobs}", jobs=jobs)]
    elif elsewhere.changed == elsewhere.jobs:
        sentences = [say("switched off or started later on {jobs}", jobs=jobs)]
    else:
        changed = elsewhere.changed
        sentences = [say("switched off or started later on {n} of {jobs}", n=changed, jobs=jobs)]
    if saved := elsewhere.saved_seconds:
        sentences.append(
            say("saved {seconds} s typically when measured alone", seconds=tenths(median(saved)))
        )
    if back := elsewhere.put_back:
        sentences.append(say_n("put back {n} time", "put back {n} times", back))
    sentences.extend(
        say("job {label}: “{why}”", label=quoted.label, why=quoted.decided.reason)
        for quoted in elsewhere.quoted
        if quoted.decided.reason
    )
    sentences.extend(
        say("found out: “{finding}”", finding=quoted.decided.finding)
        for quoted in elsewhere.quoted
        if quoted.decided.finding
    )
    return tuple(sentences)


def system_line(page: EntriesPage) -> str:
    """The line that stands for the folded parts of the system."""
    rows = page.system_rows
    text = say_n("{n} part of the system", "{n} parts of the system", len(rows))
    if rows and rows[0].cost.settled is not None:
        name, cost = shown(rows[0].entry.name), cost_in_words(rows[0].cost)
        return say("{parts}, the costliest {name}, {cost} s", parts=text, name=name, cost=cost)
    return text


def _as_percent(share: float) -> str:
    whole = abs(100 * share - round(100 * share)) < 0.05
    return number(100 * share, 0 if whole else 1)


def legend(levels: GradeThresholds) -> str:
    """From which share an entry is of which grade."""
    return say(
        "Grades, by share of settled or of memory: heavy from {heavy} %, moderate {moderate} %, "
        "light {light} %",
        heavy=_as_percent(levels.heavy),
        moderate=_as_percent(levels.moderate),
        light=_as_percent(levels.light),
    )


def plan_in_words(page: EntriesPage) -> tuple[str, str]:
    """What the plan is expected to bring, in bold, and the rest that is said of it."""
    if not page.pencilled:
        return "", say("Nothing is pencilled. K keeps, O switches off, L starts later, ? looks up.")
    words = {
        EntryState.OFF: say("off"),
        EntryState.LATER: say("later"),
        EntryState.ON: say("on again"),
        EntryState.OFF_FOR_GOOD: say("off for good"),
        EntryState.WHEN_NEEDED: say("when needed"),
        EntryState.OFF_HERE: say("off in this desktop"),
        EntryState.AS_DELIVERED: say("vendor default"),
    }
    numbers = [
        f"{page.pencilled[state]} {word}"
        for state, word in words.items()
        if state in page.pencilled
    ]
    pencilled = say("Pencilled: {numbers}.", numbers=", ".join(numbers))
    plan = page.plan
    if plan is None:
        return "", f"{pencilled} {_why_no_plan(page)}"
    seconds = plan.system_up if plan.settled is None else plan.settled
    details = [*_plan_details(plan, seconds), *_plans_held(*page.plans_held)]
    return expected_in_words(plan), f"{pencilled} {' · '.join(details)}"


def _why_no_plan(page: EntriesPage) -> str:
    if page.pending:
        return say("What they would bring is being worked out.")
    if page.why_not is None:
        return say("What they would bring is not known.")
    return say("What they would bring is not known: {why}.", why=reason_in_words(page.why_not))


def expected_in_words(plan: PlanEstimate) -> str:
    """Such as "Predicted: settled at 43.7 s, 11.0 s sooner"."""
    if plan.settled is not None and plan.saved is not None:
        balance, saved = plan.settled, plan.saved
        where = say("settled at {seconds}", seconds=with_unit(balance.value, Measure.SETTLED))
    else:
        balance, saved = plan.system_up, plan.up_saved
        where = say("system up at {seconds}", seconds=with_unit(balance.value, Measure.SETTLED))
    if balance.too_wide:
        return say("The prediction is too uncertain to be of use")
    amount = with_unit(abs(saved.value), Measure.SETTLED)
    moved = say("{amount} later", amount=amount)
    if saved.value >= 0:
        moved = say("{amount} sooner", amount=amount)
    return say("Predicted: {where}, {moved}", where=where, moved=moved)


def may_lose(plan: PlanEstimate) -> str:
    """Why a plan may win less, or lose; empty where nothing speaks for that."""
    if not plan.warnings:
        return ""
    why = "; ".join(reason_in_words(reason) for reason in plan.warnings)
    return say("It may win less, or lose: {why}.", why=why)


def _plans_held(held: int, plans: int) -> list[str]:
    """How good the plans of this workshop were so far."""
    if plans == 0:
        return []
    return [
        say_n(
            "{held} of {n} earlier prediction was right",
            "{held} of {n} earlier predictions were right",
            plans,
            held=held,
        )
    ]


def _plan_details(plan: PlanEstimate, seconds: Estimate) -> list[str]:
    span = between(number(max(0.0, seconds.low)), number(seconds.high))
    details = [say("{span} s, overlaps counted once", span=span)]
    if words := may_lose(plan):
        details.append(words)
    if plan.memory_bytes >= 1e6:
        details.append(_change(plan.memory_bytes / 1e6, "MB", 0))
    if plan.processes:
        details.append(f"{MINUS if plan.processes >= 0 else '+'}{processes_n(abs(plan.processes))}")
    return details


def _change(saved: float, unit: str, decimals: int) -> str:
    return f"{MINUS if saved >= 0 else '+'}{number(abs(saved), decimals)} {unit}"


def note(page: EntriesPage) -> str:
    """What is missing; empty when nothing is."""
    if not page.rows and not page.system_rows:
        return say(
            "No startup entry is known yet. Record a boot on the PC itself, or type the entries in "
            "from its own list (Entries menu)."
        )
    if page.pending:
        return say("What each entry costs is being worked out; then the costliest come first.")
    if page.why_not is None:
        return ""
    if page.why_not.code is ReasonCode.NEVER_SETTLED:
        return say("Graded by system up and memory: {why}.", why=reason_in_words(page.why_not))
    if page.why_not.code is ReasonCode.NUMERICS_MISSING:
        return say(
            "Costs are not worked out: {why}. Install it with: {command}",
            why=reason_in_words(page.why_not),
            command=install_command("numerics"),
        )
    return say("Ungraded: {why}.", why=reason_in_words(page.why_not))


def looked_in_words(looked: Sequence[SourceLooked]) -> str:
    """Where was looked for entries, and what may not be read; empty where nobody tells."""
    if not looked:
        return ""
    files = sum(one.files for one in looked)
    if of_an_init_system(looked):
        sentence = say_n(
            "Looked for entries in {n} file.", "Looked for entries in {n} files.", files
        )
    else:
        sentence = say_n(
            "Looked for entries in {n} file besides the service managers.",
            "Looked for entries in {n} files besides the service managers.",
            files,
        )
    refused = [path for one in looked for path in one.refused]
    if refused:
        sentence += " " + say("Not readable: {paths}.", paths=shown(", ".join(refused)))
    return sentence


def finding_wanted(decided: Decided | None) -> bool:
    """Whether the card asks what looking the entry up has told."""
    return decided is not None and decided.looked_up
