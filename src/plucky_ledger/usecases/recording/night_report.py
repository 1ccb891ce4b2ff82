"""The report of a night shift, and its boots booked one by one in the morning."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.kinds import bare_name
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind, undoing
from plucky_ledger.core.job.entry_states import entry_states
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.night.plan import NightPlan
from plucky_ledger.night.plan_file import last_night
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.jobs import read_job

A_MOMENT = timedelta(seconds=1)


@dataclass(frozen=True)
class NightBoot:
    """What became of one boot of a night shift."""

    off: tuple[str, ...] | None
    """Ids of entries that were off; None where switching had been cut off."""
    cut: bool
    recorded: bool | None
    """Whether it was recorded to its end; None while that is not known."""


@dataclass(frozen=True, kw_only=True)
class NightReport:
    """How the last night shift of this PC stands."""

    job: str
    boots: tuple[NightBoot, ...]
    planned: int
    ended: Reason | None
    """None while it goes on."""
    restored: bool
    left: tuple[str, ...] = ()
    """Entries and files that are not as they were at the beginning."""


def report() -> NightReport | None:
    """How the night shift of this PC stands; None where there was none."""
    plan = last_night(Folders.of_this_user())
    if plan is None:
        return None
    facts = {"by": plan.ended_by} if plan.ended_by else {}
    return NightReport(
        job=plan.job,
        boots=tuple(NightBoot(boot.off, boot.cut, boot.recorded) for boot in plan.boots),
        planned=len(plan.series),
        ended=Reason(ReasonCode(plan.ended), facts) if plan.ended else None,
        restored=plan.restored,
        left=plan.left,
    )


def book_state(ledger: Ledger, number: int, boot: Boot, boot_id: str) -> str:
    """Have a job's book say in which state of the night a boot was, before the boot comes in.

    Returns why the boot is to be set aside; empty where it is not, or is of no night.
    """
    plan = last_night(Folders.of_this_user())
    if plan is None:
        return ""
    booted = next((booted for booted in plan.boots if booted.boot_id == boot_id), None)
    if booted is None or plan.job != read_job(ledger, number).card.label:
        return ""
    if booted.off is None:
        return ReasonCode.NIGHT_NOT_SWITCHED.value
    _bring_book_to(ledger, number, plan, booted.off, boot.started_at - A_MOMENT)
    return ""


def close_night(ledger: Ledger, number: int) -> None:
    """Have the book say that everything was put back, once the night is over and booked."""
    plan = last_night(Folders.of_this_user())
    if plan is None or not plan.restored:
        return
    if plan.job == read_job(ledger, number).card.label:
        ended = datetime.fromtimestamp(plan.ended_at, UTC)
        _bring_book_to(ledger, number, plan, (), ended)


def _bring_book_to(
    ledger: Ledger, number: int, plan: NightPlan, off: Sequence[str], at: datetime
) -> None:
    """A line for what is set otherwise than the book says; no step where nothing is."""
    job = read_job(ledger, number)
    changes = _changes_to(job, plan, off)
    if changes:
        with step(ledger, StepCode.POST, number) as session:
            if job.pencilled is not None:  # it is made after the night, if at all
                stored.remove_posting(session, job.pencilled.number)
            made = Posting(number=0, changes=changes, posted_at=at, series=plan.key)
            stored.write_posting(session, number, made)
            if job.pencilled is not None:
                stored.write_posting(session, number, replace(job.pencilled, number=0))


def _changes_to(job: Job, plan: NightPlan, off: Sequence[str]) -> tuple[Change, ...]:
    states = entry_states(job)
    changes = []
    for entry_id in plan.entries:
        state = plan.state_of(entry_id)
        is_off = states.get(entry_id) is state
        change = Change(
            kind=ChangeKind.STARTUP_ENTRY,
            what=_name(job, entry_id),
            why="",
            entry_id=entry_id,
            new_state=state,
            old_state=EntryState.ON,
        )
        if is_off != (entry_id in off):
            changes.append(undoing(change) if is_off else change)
    return tuple(changes)


def _name(job: Job, entry_id: str) -> str:
    titles = (c.what for p in job.postings for c in p.changes if c.entry_id == entry_id)
    return next(titles, bare_name(entry_id))
