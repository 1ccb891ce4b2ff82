"""Startup cost: how much earlier the PC would settle without an entry, and what else it takes.

Every boot of a round is replayed without the entry; over the boots this gives an estimate and its
interval. A plan is the same replay with all pencilled changes at once, because effects overlap.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from statistics import fmean, median

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.boot_use import typical_use, use_in
from plucky_ledger.core.boots.owner_use import NOTHING, OwnerUse
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.kinds import is_users_own
from plucky_ledger.core.replay.boots_to_replay import (
    last_of_interest,
    settled_at,
    that_can_be_replayed,
)
from plucky_ledger.core.replay.disk_costs import disk_costs
from plucky_ledger.core.replay.estimates import MODEL_SHARE, estimate, less, or_less, or_more
from plucky_ledger.core.replay.preview import Preview, PreviewedBoot
from plucky_ledger.core.replay.replay import Replay
from plucky_ledger.core.replay.replayed import CalibrationFactors, Replayed, calibration_of
from plucky_ledger.core.replay.side_effects import Miss, SideEffect, side_effects
from plucky_ledger.core.replay.startup_cost import PlanEstimate, StartupCost
from plucky_ledger.core.replay.workload import Workload
from plucky_ledger.core.replay.workload_of_boot import workload_of
from plucky_ledger.core.statistics.controls import to_one_speed
from plucky_ledger.core.statistics.pseudo_median import pseudo_median
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode

LONGEST_AFTER_SECONDS = 60.0
"""Seconds after settled up to which a boot is simulated."""
PLAN_SHARE = 0.20
"""Relative model error of a plan: errors of several entries partly cancel out."""
PLAN_SECONDS = 1.2
HARDWARE_SHARE = 0.25
"""Relative model error for other hardware; from the study in benchmarks."""
HARDWARE_SECONDS = 1.2


class RoundReplay:
    """The recorded boots of a round, ready to be replayed without some of their entries.

    Building it takes a moment; asking for one plan is quick. Boots that do not count or were not
    recorded are left out. ``why_not`` says why settled can be told of none; each boot gives what it
    has, so that one that never settled still tells of system up, and of who used what.
    """

    def __init__(self, boots: Sequence[Analysis]) -> None:
        usable, self.why_not = that_can_be_replayed(boots)
        costs = disk_costs(usable)
        self._workloads: list[Workload] = []
        self._uses: list[Mapping[Owner, OwnerUse]] = []
        self._activities: list[Mapping[str, Activity]] = []
        self._settled: list[float | None] = []
        self._of: list[str] = []
        """UUIDs of the boots."""
        self._side_effects: list[SideEffect] = []
        self._names: dict[str, str] = {}
        self._ups: list[float | None] = []
        """System up of each boot as observed, in machine time; None where it came to none."""
        ends: list[float] = []
        replayed: list[Boot] = []
        for analysis in usable:
            settled = settled_at(analysis.boot)
            end = last_of_interest(analysis) if settled is None else settled
            workload = workload_of(analysis, costs, end + LONGEST_AFTER_SECONDS)
            if workload is None:
                continue
            self._workloads.append(workload)
            replayed.append(analysis.boot)
            self._settled.append(settled)
            self._of.append(analysis.boot.uuid)
            up = analysis.boot.readings.get(Measure.SYSTEM_UP)
            self._ups.append(up.value if up is not None else None)
            self._uses.append(use_in(analysis, settled))
            activities = analysis.timeline.activities
            self._activities.append({activity.entry_id: activity for activity in activities})
            drive = {task.entry_id: float(task.table.disk_work[-1]) for task in workload.tasks}
            self._side_effects.extend(side_effects(analysis, drive))
            self._names.update({entry.entry_id: entry.name for entry in analysis.timeline.entries})
            ends.append(end)
        self._ends = ends
        self._to_one_speed = to_one_speed(replayed, Measure.SETTLED)
        self._replay = Replay(self._workloads, ends) if self._workloads else None
        self._whole: list[Replayed] | None = None
        self._calibrations: list[CalibrationFactors] = []
        self._previewed: dict[int, PreviewedBoot] = {}

    @property
    def boots(self) -> int:
        """Number of boots it is based on."""
        return len(self._workloads)

    @property
    def entry_ids(self) -> frozenset[str]:
        """Entries seen at work in any boot."""
        return frozenset().union(*(workload.entry_ids for workload in self._workloads))

    @property
    def carries_sign_in(self) -> frozenset[str]:
        """Entries without which the user could not sign in; the replay cannot say what such a PC
        would do.
        """
        shown = {
            workload.tasks[workload.sign_in_task].entry_id
            for workload in self._workloads
            if workload.sign_in_task is not None
        }
        return frozenset(shown).union(*(workload.asked_for for workload in self._workloads))

    def _replayed(self, missing: Sequence[frozenset[str]]) -> list[list[Replayed]]:
        assert self._replay is not None
        if self._whole is None:
            whole, *replayed = self._replay.without([frozenset(), *missing])
            self._calibrations = [
                calibration_of(boot, settled and settled - workload.human_wait, up)
                for boot, settled, up, workload in zip(
                    whole, self._settled, self._ups, self._workloads, strict=True
                )
            ]
            self._whole = self._calibrated(whole)
        else:
            replayed = self._replay.without(missing) if missing else []
        return [self._calibrated(boots) for boots in replayed]

    def _calibrated(self, boots: Sequence[Replayed]) -> list[Replayed]:
        """Replayed boots, each calibrated to the marks that were observed in it."""
        return [
            boot.scaled_by(calibration)
            for boot, calibration in zip(boots, self._calibrations, strict=True)
        ]

    def cost_of(self, entry_ids: Sequence[str]) -> list[StartupCost]:
        """Startup cost of some entries."""
        if self._replay is None:
            return [
                StartupCost(
                    entry_id=entry_id,
                    settled=None,
                    system_up=None,
                    use=NOTHING,
                    per_boot=(),
                    boots=0,
                    no_grade=self.why_not,
                )
                for entry_id in entry_ids
            ]
        askable = self.entry_ids - self.carries_sign_in
        ask = [entry_id for entry_id in entry_ids if entry_id in askable]
        costs = dict(
            zip(ask, self._replayed([frozenset({entry_id}) for entry_id in ask]), strict=True)
        )
        return [self._cost(entry_id, costs.get(entry_id)) for entry_id in entry_ids]

    def _cost(self, entry_id: str, replayed: Sequence[Replayed] | None) -> StartupCost:
        owner = Owner(OwnerKind.ENTRY, entry_id)
        uses = [use[owner] for use in self._uses if owner in use]
        use = typical_use(uses) if uses else NOTHING
        present = [entry_id in workload.entry_ids for workload in self._workloads]
        if replayed is None:
            code = ReasonCode.NEVER_SEEN
            if entry_id in self.carries_sign_in:
                code = ReasonCode.CARRIES_SIGN_IN
            reason = Reason(code)
            held_up = self._held_up(entry_id)
            return StartupCost(
                entry_id=entry_id,
                settled=None,
                system_up=None,
                use=use,
                per_boot=(),
                boots=sum(present),
                held_up=held_up,
                no_grade=reason,
            )
        assert self._whole is not None
        boots = list(zip(self._whole, replayed, self._to_one_speed, strict=True))
        settled = zip(boots, self._settled, present, strict=True)
        delays = tuple(
            (a.settled - b.settled) * speed
            for (a, b, speed), at, there in settled
            if there and at is not None
        )
        ups = [
            (a.system_up - b.system_up) * speed
            for (a, b, speed), workload, known, there in zip(
                boots, self._workloads, self._activities, present, strict=True
            )
            if there and workload.system_up and _tells_when_up(entry_id, known)
        ]
        return StartupCost(
            entry_id=entry_id,
            settled=estimate(delays, self._model_share) if delays else None,
            system_up=estimate(ups, self._model_share) if ups else None,
            use=use,
            per_boot=delays,
            boots=sum(present),
            held_up=self._held_up(entry_id),
            no_grade=None if delays else Reason(ReasonCode.NEVER_SETTLED),
        )

    @cached_property
    def _model_share(self) -> float:
        """Model error of a cost: the more was done by services of which no manager told what they
        waited for, the larger it is, up to twice as large.
        """
        unlisted = [workload.unlisted_share for workload in self._workloads]
        return MODEL_SHARE * (1.0 + fmean(unlisted))

    def _held_up(self, entry_id: str) -> tuple[float | None, float | None]:
        """Seconds an entry's work waited for CPU and for the disk."""
        did = [
            (known[entry_id], end)
            for known, end in zip(self._activities, self._ends, strict=True)
            if entry_id in known
        ]
        cores = [_possible(activity.cpu_pressure_seconds, activity, end) for activity, end in did]
        drive = [_possible(activity.io_pressure_seconds, activity, end) for activity, end in did]
        return _typical(cores), _typical(drive)

    def _where_settled(self, replayed: Sequence[Replayed]) -> list[tuple[Replayed, Replayed]]:
        """Pairs of replays of each boot that settled: without something, and as it was."""
        assert self._whole is not None
        boots = zip(self._whole, replayed, self._settled, strict=True)
        return [(a, b) for a, b, settled in boots if settled is not None]

    def plan(self, off: frozenset[str], later: frozenset[str] = frozenset()) -> PlanEstimate | None:
        """What switching some entries off and starting others later would bring, all at once.

        None when nothing was recorded that could be replayed.
        """
        if self._replay is None:
            return None
        (replayed,) = self._replayed([off | later])
        freed = [
            [use[owner] for entry in off if (owner := Owner(OwnerKind.ENTRY, entry)) in use]
            for use in self._uses
        ]
        expected = self._expected(replayed, PLAN_SHARE, PLAN_SECONDS if off | later else 0.0)
        return replace(
            self._with_what_is_missed(expected, off | later),
            memory_bytes=float(median([sum(u.memory_bytes for u in uses) for uses in freed])),
            processes=round(float(median([sum(u.processes for u in uses) for uses in freed]))),
        )

    def _with_what_is_missed(self, plan: PlanEstimate, gone: frozenset[str]) -> PlanEstimate:
        """The plan with an interval that reaches to what it loses where what stays misses it."""
        missed = {
            (one.entry_id, one.missed_by, one.how): one
            for one in sorted(self._side_effects, key=lambda one: one.seconds)
            if one.entry_id in gone and one.missed_by not in gone
        }
        if not missed:
            return plan
        seconds = sum(one.seconds for one in missed.values())
        saved = or_less(plan.saved, seconds) if plan.saved is not None else None
        return replace(
            plan,
            saved=saved,
            settled=saved and less(self._settled_machine(), saved),
            warnings=tuple(self._told(one) for one in missed.values()),
        )

    def _told(self, one: SideEffect) -> Reason:
        code = {
            Miss.CACHE: ReasonCode.READ_BY_ANOTHER,
            Miss.POLLED: ReasonCode.WAITED_FOR_BY_ANOTHER,
        }[one.how]
        names = (self._names.get(each, each) for each in (one.entry_id, one.missed_by))
        return Reason.of(code, **dict(zip(("name", "other"), names, strict=True)))

    def on_other_hardware(
        self, changed: Callable[[Workload], Workload], more: float = 0.0
    ) -> PlanEstimate | None:
        """What other hardware would bring, on which each boot would be ``changed``; it may be by a
        share ``more`` than is found.

        None when nothing was recorded that could be replayed.
        """
        if self._replay is None:
            return None
        self._replayed([])  # for the tempos
        there = Replay([changed(workload) for workload in self._workloads], self._ends)
        (replayed,) = there.without([frozenset()])
        return self._expected(self._calibrated(replayed), HARDWARE_SHARE, HARDWARE_SECONDS, more)

    def _expected(
        self, replayed: Sequence[Replayed], share: float, least: float, more: float = 0.0
    ) -> PlanEstimate:
        """Estimates from replays of the boots as they were and as they would be.

        ``share`` and ``least`` (seconds) are the model error; ``more`` what it may be above it.
        """
        assert self._whole is not None
        delays = [a.settled - b.settled for a, b in self._where_settled(replayed)]
        saved = estimate(delays, share, least) if delays else None
        ups = estimate(
            [a.system_up - b.system_up for a, b in zip(self._whole, replayed, strict=True)], share
        )
        observed = [up for up in self._ups if up is not None] or [r.system_up for r in self._whole]
        if saved is not None:
            saved = or_more(saved, more, pseudo_median(self._settled_machine()))
        ups = or_more(ups, more, pseudo_median(observed))
        return PlanEstimate(
            settled=saved and less(self._settled_machine(), saved),
            system_up=less(observed, ups),
            saved=saved,
            up_saved=ups,
            memory_bytes=0.0,
            processes=0,
        )

    def preview(self, boot: str, missing: frozenset[str]) -> Preview | None:
        """One of the boots, by its name, as it is expected without some entries, or with them
        later. None where it is none of those that were replayed, or never settled.
        """
        if self._replay is None or boot not in self._of:
            return None
        number = self._of.index(boot)
        settled = self._settled[number]
        if settled is None:
            return None
        if number not in self._previewed:
            self._replayed([])  # for its tempo
            self._previewed[number] = PreviewedBoot(
                self._workloads[number], settled, self._calibrations[number]
            )
        return self._previewed[number].without(missing)

    def _settled_machine(self) -> list[float]:
        """Observed settled of each boot in machine time, in seconds."""
        return [
            settled - workload.human_wait
            for settled, workload in zip(self._settled, self._workloads, strict=True)
            if settled is not None
        ]


def _tells_when_up(entry_id: str, known: Mapping[str, Activity]) -> bool:
    """Whether a boot tells when a service of the system was up: what waited for it would otherwise
    be taken for not having done so.
    """
    did = known.get(entry_id)
    return did is None or did.up_at is not None or is_users_own(entry_id)


def _possible(waited: float | None, activity: Activity, end: float) -> float | None:
    """How long an entry was held up; None where that is more than there was time for: a group's
    account goes on after the boot, and of some kernels is a sum over tasks.
    """
    if waited is None or waited > end - (activity.starting_from or 0.0):
        return None
    return waited


def _typical(seconds: Sequence[float | None]) -> float | None:
    known = [value for value in seconds if value is not None]
    return float(median(known)) if known else None
