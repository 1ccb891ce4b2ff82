"""Rules about what starts: waits for nothing, failures, restarts over and over, the same twice."""

from collections.abc import Iterator, Mapping, Sequence
from statistics import median

from plucky_ledger.core.advice import rules
from plucky_ledger.core.advice.evidence import Evidence
from plucky_ledger.core.advice.finding import Finding, Stretch, Sureness, Tally
from plucky_ledger.core.advice.rules import RULES
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.stages import StageKind
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.values.estimates import Estimate

NAMED = 3
"""Entries that are named in one sentence."""


def starting_findings(evidence: Evidence) -> Iterator[Finding]:
    """What is wrong with what starts, in no order."""
    newest = evidence.newest
    if newest is None:
        return
    yield from _loader_waits(evidence.recorded)
    yield from _never_comes(evidence, newest)
    yield from _many_failed(newest, evidence.entries)
    yield from _restarts_itself(evidence, newest)
    yield from _same_job(evidence)
    yield from _updates_at_sign_in(evidence)


def _loader_waits(recorded: Sequence[Analysis]) -> Iterator[Finding]:
    """The loader lets the seconds of its menu go by at every start, before the kernel begins."""
    lengths = [
        stage.end - stage.start
        for analysis in recorded
        for stage in analysis.timeline.stages
        if stage.kind is StageKind.LOADER
    ]
    length = median(lengths) if lengths else 0.0
    if length >= rules.LOADER_SECONDS:
        yield Finding(
            rule=RuleCode.LOADER_WAITS,
            sureness=Sureness.LIKELY,
            effort=RULES[RuleCode.LOADER_WAITS].effort,
            facts={"seconds": length},
            saves=Estimate(length - 1, length - 2, length),
            drawing=Tally(round(length)),
            changes=(Change(kind=ChangeKind.BOOT_OPTION, what=""),),
        )


def _never_comes(evidence: Evidence, newest: Analysis) -> Iterator[Finding]:
    """An entry that failed after a long time in which it did next to nothing."""
    for activity in newest.timeline.activities:
        entry, length = evidence.entries.get(activity.entry_id), _length(activity)
        if entry is None or activity.result is None or length < rules.LONG_WAIT_SECONDS:
            continue
        if _worked(newest, activity) > rules.IDLE_SHARE * length:
            continue
        cost = evidence.costs.get(activity.entry_id)
        saves = cost.settled or cost.system_up if cost is not None else None
        yield Finding(
            rule=RuleCode.NEVER_COMES,
            sureness=Sureness.LIKELY,
            effort=RULES[RuleCode.NEVER_COMES].effort,
            facts={"name": entry.name, "seconds": length},
            saves=saves if saves is not None else Estimate(0.0, 0.0, length),
            drawing=_stretch(newest, activity, length),
            entries=(entry.entry_id,),
            switch_off=entry,
            about=entry.entry_id,
        )


def _length(activity: Activity) -> float:
    """Seconds from its beginning until it was up, or given up: what fails later was up for long."""
    until = activity.up_at if activity.up_at is not None else activity.ended_at
    if activity.starting_from is None or until is None:
        return 0.0
    return until - activity.starting_from


def _stretch(newest: Analysis, activity: Activity, length: float) -> Stretch:
    begin = activity.starting_from or 0.0
    whole = newest.settled_at or (newest.samples.end if newest.samples is not None else 0.0)
    return Stretch(begin, begin + length, max(whole, begin + length))


def _worked(analysis: Analysis, activity: Activity) -> float:
    """CPU seconds of an entry, by its manager's account or by its programs."""
    if activity.cpu_seconds is not None:
        return activity.cpu_seconds
    attribution = analysis.attribution
    if attribution is None:
        return 0.0
    work = attribution.work.get(Owner(OwnerKind.ENTRY, activity.entry_id))
    return float(work.cpu_seconds[-1]) if work is not None else 0.0


def _many_failed(newest: Analysis, entries: Mapping[str, StartupEntry]) -> Iterator[Finding]:
    failed = [
        activity.entry_id
        for activity in newest.timeline.activities
        if activity.result is not None and activity.entry_id in entries
    ]
    if len(failed) >= rules.MANY_FAILED:
        yield Finding(
            rule=RuleCode.MANY_FAILED,
            sureness=Sureness.SEEN,
            effort=RULES[RuleCode.MANY_FAILED].effort,
            facts={"failed": len(failed), "names": _names([entries[one] for one in failed])},
            drawing=Tally(len(failed), len(entries)),
            entries=tuple(failed),
        )


def _names(entries: Sequence[StartupEntry]) -> str:
    return ", ".join(entry.name for entry in entries[:NAMED])


def _restarts_itself(evidence: Evidence, newest: Analysis) -> Iterator[Finding]:
    """A service that its manager started anew by itself, over and over."""
    for activity in newest.timeline.activities:
        entry, times = evidence.entries.get(activity.entry_id), activity.restarts or 0
        if entry is None or times < rules.MANY_RESTARTS:
            continue
        cost = evidence.costs.get(activity.entry_id)
        yield Finding(
            rule=RuleCode.RESTARTS_ITSELF,
            sureness=Sureness.SEEN,
            effort=RULES[RuleCode.RESTARTS_ITSELF].effort,
            facts={"name": entry.name, "times": times},
            saves=cost.settled if cost is not None else None,
            drawing=Tally(times),
            entries=(entry.entry_id,),
            switch_off=entry,
            about=entry.entry_id,
        )


def _same_job(evidence: Evidence) -> Iterator[Finding]:
    """Programs that guard against the same, from different packages: each slows all the rest."""
    guards = [
        entry
        for entry in evidence.entries.values()
        if entry.guarded
        and not entry.part_of_system
        and entry.off_because is None
        and entry.executable
    ]
    programs = {entry.package.split(" ")[0] or entry.executable: entry for entry in guards}
    if len(programs) < 2:
        return
    matched = [
        cost.settled
        for entry in programs.values()
        if (cost := evidence.costs.get(entry.entry_id)) is not None and cost.settled is not None
    ]
    least = min(matched, key=lambda one: one.value) if len(matched) == len(programs) else None
    yield Finding(
        rule=RuleCode.SAME_JOB,
        sureness=Sureness.LIKELY,
        effort=RULES[RuleCode.SAME_JOB].effort,
        facts={"programs": len(programs), "names": _names(list(programs.values()))},
        saves=least,
        drawing=Tally(len(programs)),
        changes=(Change(kind=ChangeKind.PROGRAM_REMOVED, what=""),),
        entries=tuple(entry.entry_id for entry in programs.values()),
    )


def _updates_at_sign_in(evidence: Evidence) -> Iterator[Finding]:
    seen = [analysis.boot.context.updates_running for analysis in evidence.recorded]
    during = sum(seen)
    if during < rules.FEW_STARTS or during < rules.UPDATES_SHARE * len(seen):
        return
    yield Finding(
        rule=RuleCode.UPDATES_AT_SIGN_IN,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.UPDATES_AT_SIGN_IN].effort,
        facts={"starts": during, "of": len(seen)},
        drawing=Tally(during, len(seen)),
        changes=(Change(kind=ChangeKind.PROGRAM_SETTING, what=""),),
    )
