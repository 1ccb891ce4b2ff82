"""The statement's first page, for the owner: what came of it in one measure, what was changed, what
was left and what is advised.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.book.verdict import Shift, Verdict
from plucky_ledger.core.boots.boot import counted
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job, changes_in_force, restart_due
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.verdict import Compared, VerdictPage, VerdictRow, verdict_page

TIMES = (Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP)
"""Measures that an owner knows by sight, the closest to what they see first."""
OF_THE_TRADE = frozenset({Measure.CPU_WORK, Measure.DISK_READ})
"""Measures without a word in everyday speech: a time stands in their place where there is one."""


class Outcome(StrEnum):
    """What came of the job, for the owner."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "same"
    UNCERTAIN = "uncertain"
    AS_IT_CAME = "as_it_came"
    """Everything was put back."""
    MEASURED_ONCE = "measured_once"
    NOTHING_MEASURED = "nothing_measured"


class OpenPoint(StrEnum):
    """What is not settled yet."""

    PLANNED = "planned"
    RESTART_DUE = "restart_due"
    OTHER_CONDITIONS = "other_conditions"
    ONE_DAY = "one_day"
    """All boots are of one day: what only happens now and then was not seen."""


@dataclass(frozen=True, kw_only=True)
class OwnersPage:
    """Everything on it."""

    outcome: Outcome
    measure: Measure
    before: float | None
    """Typical figure at first, in the measure's unit."""
    after: float | None
    """Typical figure now, or the only one."""
    change: float | None
    """After − before as best known, where that is not the difference of the two."""
    starts_before: int
    starts_after: int
    changed: tuple[Change, ...]
    """What is in force, each thing once, as it is now."""
    left_on: tuple[Decided, ...]
    """Entries that were kept for a reason."""
    advised: tuple[Advised, ...]
    open_points: tuple[OpenPoint, ...]


def owners_page(job: Job, measure: Measure, decided: Mapping[str, Decided]) -> OwnersPage:
    """The first page on a job whose book is kept in ``measure``. ``decided`` is by entry id."""
    verdict = verdict_page(job, measure, len(job.rounds))
    told_in = _told_in(verdict)
    if told_in is not measure:
        verdict = verdict_page(job, told_in, len(job.rounds))
    row = next((row for row in verdict.rows if row.measure is told_in), None)
    return OwnersPage(
        outcome=_outcome(verdict),
        measure=told_in,
        before=row.typical_before if row else None,
        after=row.typical_after if row else None,
        change=_told_apart(verdict.shift),
        starts_before=verdict.boots_before,
        starts_after=verdict.boots_after or _alone(row),
        changed=_each_once(changes_in_force(job)),
        left_on=tuple(one for one in decided.values() if _is_kept_for_a_reason(one)),
        advised=job.advised,
        open_points=tuple(_open_points(job, verdict)),
    )


def _alone(row: VerdictRow | None) -> int:
    """Boots in the account of a round that nothing is held against."""
    return sum(not dot.aside for dot in row.after) if row else 0


def is_reason(text: str) -> bool:
    """Whether what stands as a reason is one: a question is not, nor is nothing."""
    return bool(text.strip()) and not text.rstrip().endswith("?")


def _told_in(verdict: VerdictPage) -> Measure:
    """The book's measure, unless an owner has no word for it."""
    if verdict.measure not in OF_THE_TRADE:
        return verdict.measure
    there = {row.measure for row in verdict.rows if row.shift is not None or not row.before}
    return next((measure for measure in TIMES if measure in there), verdict.measure)


def _outcome(verdict: VerdictPage) -> Outcome:
    if verdict.compared is not Compared.ROUNDS:
        return {
            Compared.OPENING: Outcome.MEASURED_ONCE,
            Compared.SAME_STATE: Outcome.AS_IT_CAME,
        }.get(verdict.compared, Outcome.NOTHING_MEASURED)
    if verdict.shift is None:
        return Outcome.UNCERTAIN
    return {
        Verdict.SAVED: Outcome.BETTER,
        Verdict.LOST: Outcome.WORSE,
        Verdict.EVEN: Outcome.SAME,
        Verdict.UNPROVEN: Outcome.UNCERTAIN,
    }[verdict.shift.verdict]


def _told_apart(shift: Shift | None) -> float | None:
    """The change as best known, where the plain difference does not lie in its interval."""
    if shift is None or shift.low is None or shift.high is None:
        return None
    return None if shift.low <= shift.value <= shift.high else shift.estimate


def _each_once(changes: tuple[Change, ...]) -> tuple[Change, ...]:
    last: dict[tuple[str, str], Change] = {}
    for change in changes:
        about = (change.entry_id, "") if change.entry_id else (change.kind, change.what)
        last.pop(about, None)
        last[about] = change
    return tuple(last.values())


def _is_kept_for_a_reason(one: Decided) -> bool:
    return one.decision is Decision.KEEP and bool(one.name) and is_reason(one.reason)


def _open_points(job: Job, verdict: VerdictPage) -> list[OpenPoint]:
    days = {boot.started_at.astimezone().date() for boot in counted(job.boots)}
    there = {
        OpenPoint.PLANNED: job.pencilled is not None and bool(job.pencilled.changes),
        OpenPoint.RESTART_DUE: restart_due(job),
        OpenPoint.OTHER_CONDITIONS: bool(verdict.concerns),
        OpenPoint.ONE_DAY: len(days) == 1 and verdict.compared is Compared.ROUNDS,
    }
    return [point for point, is_so in there.items() if is_so]
