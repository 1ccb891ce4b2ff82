"""Why a job's PC is still slow: the evidence gathered, the rules held against it."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from plucky_ledger.core.advice.advise import advise
from plucky_ledger.core.advice.evidence import (
    Evidence,
    spared_by_memory,
    waits_at_rest,
    waits_in_startup,
)
from plucky_ledger.core.advice.finding import Finding
from plucky_ledger.core.advice.hardware import could_be_switched_off
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How, counted, starts_in
from plucky_ledger.core.boots.stock import BeyondStock, beyond, picture_of
from plucky_ledger.core.boots.waits import Waits
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.condition import Condition, Inspected, with_inspected
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.core.replay.other_hardware import (
    MORE_BY_CORES,
    on_quicker_drive,
    on_quicker_processor,
    with_more_memory,
)
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.condition import condition_from
from plucky_ledger.store.jobs import read_job as stored_job
from plucky_ledger.store.jobs import write_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.changing.decisions import decisions_in
from plucky_ledger.usecases.changing.postings import pencil
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import (
    MOST_BOOTS,
    CostsKept,
    RoundCosts,
    newest_state,
)
from plucky_ledger.usecases.reading.stock_profiles import stock_profiles
from plucky_ledger.usecases.recording.pcs import pc_of

MOST_AT_REST = 3
SETTLED = Measure.SETTLED
SERVICES_UNSEEN = frozenset(
    {
        ReasonCode.NO_SERVICE_MANAGER,
        ReasonCode.SERVICES_MISSING,
        ReasonCode.NO_USER_SERVICES,
        ReasonCode.USER_SERVICES_MISSING,
    }
)


@dataclass(frozen=True)
class Unneeded:
    """Entries that weigh and that nobody has said are needed."""

    entries: int
    saves: Estimate
    """Seconds earlier settled without all of them."""
    share: float
    """The same of settled."""


@dataclass(frozen=True, kw_only=True)
class Why:
    """What was found about one PC."""

    job: Job
    findings: tuple[Finding, ...]
    condition: Condition
    boots: int
    """Recorded starts it rests on."""
    replayed: bool = False
    """What things cost in seconds could be told."""
    settled_seconds: float = 0.0
    """Balance of settled; 0 where nothing settled."""
    in_startup: Waits | None = None
    at_rest: Waits | None = None
    power_log: PowerLog = field(default_factory=PowerLog)
    unseen: Reason | None = None
    """What the newest recording could not tell of the PC's services; None where it told all."""
    unneeded: Unneeded | None = None
    """What entries cost that nobody has said are needed; None where a replay cannot tell."""


def why(ledger: Ledger, number: int, analyses: Analyses, costs: CostsKept) -> Why:
    """Hold all rules against a job's PC as it is now; takes a moment."""
    job = read_job(ledger, number)
    boots = newest_state(job)
    recorded = _recorded(ledger, number, starts_in(boots)[-MOST_BOOTS:], analyses)
    resting = [boot for boot in counted(job.boots) if boot.how is How.AT_REST]
    at_rest = _recorded(ledger, number, resting[-MOST_AT_REST:], analyses)
    condition = with_inspected(_condition((*recorded, *at_rest)), job.inspected)
    evidence = Evidence(
        facts=job.facts,
        taken_in_at=job.taken_in_at,
        starts=tuple(sorted(starts_in(job.boots), key=lambda boot: boot.started_at)),
        recorded=recorded,
        at_rest=at_rest,
        condition=condition,
        decided=decisions_in(ledger, number),
        power_log=_power_log((*recorded, *at_rest)),
    )
    if recorded:
        evidence = _with_costs(evidence, ledger, number, boots, costs)
        stock = _beyond_stock(ledger, job, recorded[-1])
        evidence = replace(evidence, beyond_stock=stock)
    replayed = any(cost.settled or cost.system_up for cost in evidence.costs.values())
    findings = advise(evidence)
    unneeded = None
    if replayed and not findings:
        unneeded = _unneeded(evidence, costs.of(ledger, number, boots))
    return Why(
        job=job,
        findings=findings,
        condition=condition,
        boots=len(recorded),
        replayed=replayed,
        settled_seconds=evidence.settled_seconds,
        in_startup=waits_in_startup(recorded),
        at_rest=waits_at_rest((*recorded, *at_rest)),
        power_log=evidence.power_log,
        unseen=_unseen(recorded),
        unneeded=unneeded,
    )


def _unneeded(evidence: Evidence, costs: RoundCosts) -> Unneeded | None:
    could_be_off = could_be_switched_off(evidence)
    plan = costs.plan(dict.fromkeys(could_be_off, EntryState.OFF)) if could_be_off else None
    if plan is None or plan.saved is None or evidence.settled_seconds <= 0:
        return None
    share = plan.saved.value / evidence.settled_seconds
    return Unneeded(len(could_be_off), plan.saved, share)


def _unseen(recorded: Sequence[Analysis]) -> Reason | None:
    notes = recorded[-1].boot.context.notes if recorded else ()
    return next((note for note in notes if note.code in SERVICES_UNSEEN), None)


def _recorded(
    ledger: Ledger, number: int, boots: Sequence[Boot], analyses: Analyses
) -> tuple[Analysis, ...]:
    each = (analyses.of(ledger, number, boot) for boot in boots)
    return tuple(analysis for analysis in each if analysis.timeline.samples is not None)


def _condition(analyses: Sequence[Analysis]) -> Condition | None:
    """What the newest recording tells that tells anything."""
    by_date = sorted(analyses, key=lambda analysis: analysis.boot.started_at, reverse=True)
    conditions = (analysis.timeline.condition for analysis in by_date)
    return next((condition for condition in conditions if condition is not None), None)


def _power_log(analyses: Sequence[Analysis]) -> PowerLog:
    """Starts and wakes by the newest recording that tells of any."""
    by_date = sorted(analyses, key=lambda analysis: analysis.boot.started_at, reverse=True)
    logs = (analysis.timeline.power_log for analysis in by_date)
    return next((log for log in logs if log.starts or log.wakes), PowerLog())


def _with_costs(
    evidence: Evidence, ledger: Ledger, number: int, boots: Sequence[Boot], costs: CostsKept
) -> Evidence:
    """The evidence with what entries cost."""
    readings = [boot.readings[SETTLED].value for boot in boots if SETTLED in boot.readings]
    evidence = replace(evidence, settled_seconds=median(readings) if readings else 0.0)
    cost = costs.of(ledger, number, boots)
    spared = spared_by_memory(evidence.recorded)
    more_memory = None
    if spared > 0:
        more_memory = cost.replay.on_other_hardware(with_more_memory(spared))
    return replace(
        evidence,
        costs=cost.costs,
        settled_seconds=cost.settled_seconds,
        quicker_drive=cost.replay.on_other_hardware(on_quicker_drive),
        quicker_processor=cost.replay.on_other_hardware(on_quicker_processor, MORE_BY_CORES),
        more_memory=more_memory,
    )


def _beyond_stock(ledger: Ledger, job: Job, newest: Analysis) -> BeyondStock | None:
    """What it has beyond the same system fresh from installation; None without such a picture."""
    profiles = stock_profiles(ledger).values()
    same = [profile for profile in profiles if profile.os_release == job.facts.os_release]
    return beyond(same[-1], picture_of(newest)) if same else None


def put_on_statement(ledger: Ledger, number: int, finding: Finding, wanted: bool) -> None:
    """Let the owner read a finding in the statement as it stands now, or no longer."""
    code = StepCode.PUT_ON_STATEMENT if wanted else StepCode.TAKE_OFF_STATEMENT
    with step(ledger, code, number) as session:
        job = stored_job(session, number)
        entry_finding = finding.advised
        others = tuple(one for one in job.advised if one.key != entry_finding.key)
        advised = (*others, entry_finding) if wanted else others
        write_job(session, replace(job, advised=advised))


def inspect(ledger: Ledger, number: int) -> Condition:
    """A job's PC as the administrator sees it, who is asked for; takes as long as that takes.

    Raises:
        Refused: the PC is elsewhere, or nobody became administrator.
    """
    return condition_from(pc_of(read_job(ledger, number)).inspect())


def keep_inspected(ledger: Ledger, number: int, condition: Condition) -> None:
    """Keep with the job what the administrator was told of its PC."""
    with step(ledger, StepCode.INSPECT, number) as session:
        job = stored_job(session, number)
        write_job(session, replace(job, inspected=Inspected(now(), condition)))


def follow_advice(ledger: Ledger, number: int, finding: Finding, what: str, because: str) -> None:
    """Pencil what a finding advises: ``what`` and ``because`` are its words for the book.

    Raises:
        Refused: there is nothing to be pencilled for it.
    """
    if not finding.changes:
        raise Refused(TroubleCode.NOTHING_TO_PENCIL_FOR_IT)
    pencil(ledger, number, tuple(_worded(change, what, because) for change in finding.changes))


def _worded(change: Change, what: str, because: str) -> Change:
    return replace(change, what=change.what or what, why=because)
