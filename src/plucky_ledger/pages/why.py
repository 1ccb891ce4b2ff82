"""The Why lens: why it is still slow, what would help, and what that is known by."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.advice.finding import Finding
from plucky_ledger.core.boots.waits import Waits
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.condition import Condition
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.usecases.reading.advice import Unneeded, Why

MUCH_OF_THE_START = 0.3
"""Share of settled from which what nobody needs is the answer, whatever else is fine."""


class WhyAnswer(StrEnum):
    """The answer in short."""

    NOTHING_MEASURED = "nothing_measured"
    FINE = "fine"
    NOT_ALL_SEEN = "not_all_seen"
    """No rule finds fault, but what the services did is not known."""
    NOT_JUDGED = "not_judged"
    """No rule finds fault, but those that take a replay had none to judge by."""
    ENTRIES_COST = "entries_cost"
    """No rule finds fault, but entries that nobody has said are needed cost much of the start."""
    DATA_FIRST = "data_first"
    FOUND = "found"


@dataclass(frozen=True, kw_only=True)
class WhyPage:
    """Everything the lens shows of the advice."""

    answer: WhyAnswer
    findings: tuple[Finding, ...]
    """Costliest first."""
    pencilled: frozenset[str]
    """Keys of the findings whose advice is pencilled already."""
    on_statement: frozenset[str]
    """Keys of those that the owner is to read."""
    condition: Condition
    boots: int
    """Recorded starts it rests on."""
    replayed: bool
    """What things cost in seconds could be told."""
    settled_seconds: float
    """Balance of settled; 0 where nothing settled."""
    in_startup: Waits | None
    """What was waited for until the newest start had settled."""
    at_rest: Waits | None
    power_log: PowerLog
    unseen: Reason | None
    """What is not known of the PC's services; None where all is."""
    unneeded: Unneeded | None


def why_page(found: Why) -> WhyPage:
    """What the lens shows of what was found."""
    return WhyPage(
        answer=_answer(found),
        findings=found.findings,
        pencilled=frozenset(one.advised.key for one in found.findings if _followed(found.job, one)),
        on_statement=frozenset(advised.key for advised in found.job.advised),
        condition=found.condition,
        boots=found.boots,
        replayed=found.replayed,
        settled_seconds=found.settled_seconds,
        in_startup=found.in_startup,
        at_rest=found.at_rest,
        power_log=found.power_log,
        unseen=found.unseen,
        unneeded=found.unneeded,
    )


def _answer(found: Why) -> WhyAnswer:
    if any(finding.rule is RuleCode.FAILING_DRIVE for finding in found.findings):
        return WhyAnswer.DATA_FIRST
    if found.findings:
        return WhyAnswer.FOUND
    if not found.boots:
        return WhyAnswer.NOTHING_MEASURED
    unneeded = found.unneeded
    if unneeded is not None and unneeded.share >= MUCH_OF_THE_START and unneeded.saves.low > 0:
        return WhyAnswer.ENTRIES_COST
    if not found.replayed:
        return WhyAnswer.NOT_JUDGED
    return WhyAnswer.FINE if found.unseen is None else WhyAnswer.NOT_ALL_SEEN


def _followed(job: Job, finding: Finding) -> bool:
    """Whether what it advises is in the pencilled posting."""
    planned = job.pencilled.changes if job.pencilled is not None else ()
    if finding.switch_off is not None:
        return any(change.entry_id == finding.switch_off.entry_id for change in planned)
    kinds = {change.kind for change in planned if not change.entry_id}
    return bool(finding.changes) and all(change.kind in kinds for change in finding.changes)
