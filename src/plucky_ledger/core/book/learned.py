"""What a workshop learned of programs over all its PCs, fit to be handed on: no owner, no PC, and
nothing that lies in somebody's home.
"""

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from plucky_ledger.core.book.book import BookLine, keep_book
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.identity import Identity
from plucky_ledger.core.entries.states import STARTED
from plucky_ledger.core.job.job import Job, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure

EVERYBODYS = ("/usr/", "/opt/", "/bin/", "/sbin/", "/lib/", "/lib64/", "/etc/")
"""Folders of the system: what lies elsewhere may be somebody's own."""
OTHERS_COUNT = 0.25
"""For how much of one's own PC a PC of another workshop counts: nobody here has seen it."""


@dataclass(frozen=True, kw_only=True)
class ProgramLearned:
    """What is known of one program."""

    package: str = ""
    executable: str = ""
    name: str = ""
    pcs: int = 0
    """On which it was decided about."""
    boots: int = 0
    """That its figures rest on."""
    seconds: Estimate | None = None
    """By how much later a PC settled with it, where it was changed alone."""
    megabytes: Estimate | None = None
    """What was held more with it."""
    decided: Mapping[Decision, int] = field(default_factory=dict)
    """On how many PCs."""
    put_back: int = 0
    """On how many of those it was switched on again."""

    @property
    def identity(self) -> Identity:
        """By what it is known on another PC."""
        return Identity(self.package, self.executable)


@dataclass(frozen=True)
class _OnePc:
    name: str
    decision: Decision
    seconds: Estimate | None = None
    megabytes: Estimate | None = None
    boots: int = 0
    put_back: bool = False


def learned_of(jobs: Iterable[tuple[Job, Mapping[str, Decided]]]) -> tuple[ProgramLearned, ...]:
    """What jobs and the decisions in them (by entry id) teach; the costliest first."""
    found: dict[tuple[str, str], list[_OnePc]] = {}
    for job, decided in jobs:
        effects = _effects(job)
        for entry_id, one in decided.items():
            key = _everybodys(one.identity)
            if key is None:
                continue
            effect = effects.get(entry_id, _OnePc("", one.decision))
            name = one.name if key[0] else key[1].rpartition("/")[2]
            found.setdefault(key, []).append(
                _OnePc(
                    name,
                    one.decision,
                    effect.seconds,
                    effect.megabytes,
                    effect.boots,
                    effect.put_back,
                )
            )
    programs = (_pooled(package, program, pcs) for (package, program), pcs in found.items())
    return tuple(sorted(programs, key=_costliest))


def _costliest(program: ProgramLearned) -> tuple[float, int, str]:
    return (-(program.seconds.value if program.seconds else 0.0), -program.pcs, program.name)


def _everybodys(identity: Identity) -> tuple[str, str] | None:
    """Package and program, as far as neither is somebody's own; None where nothing is left."""
    program = identity.executable if identity.executable.startswith(EVERYBODYS) else ""
    return (identity.package, program) if identity.package or program else None


def _effects(job: Job) -> dict[str, _OnePc]:
    """What changing each entry alone did, by its id."""
    seconds, held = (keep_book(job, of).lines for of in (Measure.SETTLED, Measure.MEMORY_HELD))
    found: dict[str, _OnePc] = {}
    for line, memory in zip(seconds, held, strict=True):
        posting = line.posting
        if posting is None or posting.strikes_out is not None:
            continue
        undone = state_of(job, posting) is PostingState.STRUCK_OUT
        for change in posting.changes:
            if not change.entry_id or change.new_state is None:
                continue
            before = found.get(change.entry_id, _OnePc("", Decision.OFF))
            if change.new_state in STARTED:
                found[change.entry_id] = _OnePc(
                    "", before.decision, before.seconds, before.megabytes, before.boots, True
                )
                continue
            alone = len(posting.changes) == 1
            found[change.entry_id] = _OnePc(
                "",
                Decision.OFF,
                _saved(line) if alone else None,
                _saved(memory) if alone else None,
                len(line.boots),
                undone,
            )
    return found


def _saved(line: BookLine) -> Estimate | None:
    shift = line.shift
    if shift is None or shift.low is None or shift.high is None:
        return None
    return Estimate(-shift.estimate, -shift.high, -shift.low)


def _pooled(package: str, program: str, pcs: Sequence[_OnePc]) -> ProgramLearned:
    measured = [one for one in pcs if one.seconds is not None]
    return ProgramLearned(
        package=package,
        executable=program,
        name=max(Counter(one.name for one in pcs).items(), key=lambda one: (one[1], one[0]))[0],
        pcs=len(pcs),
        boots=sum(one.boots for one in measured),
        seconds=pooled([one.seconds for one in pcs if one.seconds is not None]),
        megabytes=pooled([one.megabytes for one in pcs if one.megabytes is not None]),
        decided=dict(Counter(one.decision for one in pcs)),
        put_back=sum(one.put_back for one in pcs),
    )


def pooled(estimates: Sequence[Estimate]) -> Estimate | None:
    """One figure of several PCs: their mean, with the interval that their own differences give
    (Student's t); of one PC its own. PCs differ by more than their boots do.
    """
    if len(estimates) < 2:
        return estimates[0] if estimates else None
    values = [one.value for one in estimates]
    mean = math.fsum(values) / len(values)
    spread = math.sqrt(math.fsum((value - mean) ** 2 for value in values) / (len(values) - 1))
    half = student_t(len(values) - 1) * spread / math.sqrt(len(values))
    return Estimate(mean, mean - half, mean + half)


def together(own: Sequence[float], others: Sequence[ProgramLearned]) -> Estimate | None:
    """By how many seconds later PCs settle with a program, over one's own PCs (each measured) and
    those of other workshops, which count for ``OTHERS_COUNT`` each. None where no other workshop
    measured it, or there is nothing to put it together with.

    The interval is of what they differ by (Student's t, by how many they count for), and of the
    others' own intervals.
    """
    told = [(one.seconds, OTHERS_COUNT * one.pcs) for one in others if one.seconds and one.pcs]
    if not told or len(told) + len(own) < 2:
        return None
    values = [*own, *(seconds.value for seconds, _ in told)]
    weights = [1.0] * len(own) + [weight for _, weight in told]
    halves = [weight * (seconds.high - seconds.low) / 2 for seconds, weight in told]
    all_weight = math.fsum(weights)
    mean = math.fsum(w * v for w, v in zip(weights, values, strict=True)) / all_weight
    count_for = all_weight**2 / math.fsum(weight**2 for weight in weights)
    spread = math.fsum(w * (v - mean) ** 2 for w, v in zip(weights, values, strict=True))
    of_one = spread / all_weight * len(values) / (len(values) - 1)
    between = student_t(len(values) - 1) * math.sqrt(of_one / count_for)
    half = math.hypot(between, *(one / all_weight for one in halves))
    return Estimate(mean, mean - half, mean + half)
