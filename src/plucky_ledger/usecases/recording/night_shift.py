"""The night shift of a job: planned, begun, stopped, and booked boot by boot in the morning."""

import os
import sys
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from uuid import uuid4

from plucky_ledger.capture.arming.arming import arming_into
from plucky_ledger.core.book.effects import effects_of
from plucky_ledger.core.boots.boot import Boot, starts_in
from plucky_ledger.core.boots.marks import human_wait
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.hints import is_guarded
from plucky_ledger.core.entries.states import STARTED, EntryState
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.job.job import Job, restart_due
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.statistics.design import next_of_night, night_series
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.files import remove, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import init_system
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.night import administrator
from plucky_ledger.night.plan import STOP_WISHED, NightPlan
from plucky_ledger.night.plan_file import plan_path, read_plan
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.control import control_of
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.reading.hints import hints_about
from plucky_ledger.usecases.recording.pcs import is_this_pc
from plucky_ledger.usecases.recording.picking_up import pick_up

ENTRIES = 6
"""How many of the costliest entries are measured."""
AFTER_SETTLED_SECONDS = 30.0
"""Until it is known to have settled, and for the restart itself."""
LEAST_USUAL_SECONDS = 30.0
STOPS_WITHIN_SECONDS = 150.0
"""Of a night shift's own service, which may be waiting for a command of the user's."""
LOOK_AGAIN_SECONDS = 0.5


@dataclass(frozen=True)
class Night:
    """A night shift that can be begun."""

    entries: tuple[StartupEntry, ...]
    """What is switched in turns."""
    wanted: tuple[EntryState, ...]
    """How each of them is set then: as it is pencilled, or off."""
    boots: int
    minutes_each: float
    """How long one of them takes, about, with the restart."""

    @property
    def minutes(self) -> float:
        """How long all of it takes."""
        return self.boots * self.minutes_each

    def with_boots(self, boots: int) -> "Night":
        """The same with another number of boots."""
        return replace(self, boots=boots)


def choose(
    ledger: Ledger, number: int, kept: CostsKept, boots: int, named: Sequence[str] = ()
) -> Night:
    """The entries of a job's PC that a night shift would measure.

    Those named; or what is pencilled, and then the costliest. Guarded entries and parts of the
    system are never among them. Takes a moment.

    Raises:
        Refused: this is not that PC, no boot was recorded there, no entry is left, or one of those
            named is guarded or cannot be switched.
    """
    job = read_job(ledger, number)
    control = control_of(job)
    against = _against_a_night(job)
    if control is None or against:
        raise Refused(TroubleCode.NO_NIGHT_SHIFT, against)
    pencilled = {
        entry_id: state
        for entry_id, state in pencilled_states(job).items()
        if state not in STARTED and (not named or entry_id in named)
    }
    entries = entries_known(ledger, number)
    hints = hints_about(entries)
    seconds = {} if named else _costs(ledger, number, job, kept)
    fit = [
        entry
        for entry in entries
        if not entry.part_of_system
        and not is_guarded(entry, hints.get(entry.entry_id, ()))
        and entry.entry_id in {*(named or seconds), *pencilled}
    ]
    found = control.look([entry.entry_id for entry in fit])
    free = [
        entry
        for entry in fit
        if pencilled.get(entry.entry_id, EntryState.OFF) in found[entry.entry_id].possible
        and found[entry.entry_id].state in STARTED
    ]
    for entry_id in named:
        if all(entry.entry_id != entry_id for entry in free):
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=EntryState.OFF.value)
    free.sort(key=lambda e: (e.entry_id not in pencilled, -seconds.get(e.entry_id, 0.0)))
    chosen = tuple(free[: max(ENTRIES, len(named))])
    if not chosen:
        raise Refused(TroubleCode.NOTHING_FOR_THE_NIGHT)
    return Night(
        chosen,
        tuple(pencilled.get(entry.entry_id, EntryState.OFF) for entry in chosen),
        boots,
        (_usual_seconds(job) + AFTER_SETTLED_SECONDS) / 60,
    )


def _costs(ledger: Ledger, number: int, job: Job, kept: CostsKept) -> dict[str, float]:
    """Seconds that the entries seen at work cost, as the replay expects it."""
    costs = kept.of(ledger, number, _newest(job)).costs
    estimates = {entry_id: cost.settled or cost.system_up for entry_id, cost in costs.items()}
    return {entry_id: told.value for entry_id, told in estimates.items() if told is not None}


def begin(
    ledger: Ledger,
    place: Workplace,
    number: int,
    night: Night,
    until: datetime | None,
    notice: str = "",
) -> None:
    """Have a night shift go on with the next restart, with every boot recorded.

    ``notice`` is shown at the PC after each start, while it can be ended there. The administrator's
    password may be asked for, once. Raises Trouble; nothing is left then.
    """
    job = read_job(ledger, number)
    entries = tuple(entry.entry_id for entry in night.entries)
    series = night_series(len(entries), night.boots)
    plan = NightPlan(
        key=f"night-{uuid4()}",
        job=job.card.label,
        user=os.geteuid(),
        entries=entries,
        series=tuple(tuple(entries[at] for at in sorted(state)) for state in series),
        usual_seconds=_usual_seconds(job),
        wanted=night.wanted,
        asks=(
            sys.executable,
            "-m",
            "plucky_ledger",
            "night-shift",
            job.card.label,
            "--next",
            "--ledger",
            ledger.address.text,
        ),
        until=until.timestamp() if until is not None else 0.0,
        notice=notice,
    )
    remove(_wish())
    to_arm = arming_into(place.armed(number), night.boots, job.card.label, Folders.of_this_user())
    administrator.begin(plan, to_arm)


def _against_a_night(job: Job) -> tuple[Reason, ...]:
    """What keeps a night shift from beginning now."""
    here = control_of(job) is not None and is_this_pc(job)
    checks = (
        (not here, ReasonCode.PC_IS_ELSEWHERE),
        (here and init_system() is not None, ReasonCode.NIGHT_NEEDS_MANAGER),
        (restart_due(job), ReasonCode.RESTART_IS_DUE),
        (not starts_in(_newest(job)), ReasonCode.NO_BOOT_OF_IT),
    )
    return tuple(Reason(code) for holds, code in checks if holds)


def next_state(ledger: Ledger, place: Workplace, number: int) -> tuple[str, ...] | None:
    """Which entries are to be switched in the next boot of the night shift that goes on.

    The boots so far are taken into the book. None where every effect is known exactly enough.
    Raises Trouble.
    """
    pick_up(ledger, place, number)
    plan, job = read_plan(Folders.of_this_user()), read_job(ledger, number)
    if plan is None or plan.job != job.card.label:
        raise Refused(TroubleCode.NO_NIGHT_SHIFT)
    done = [
        frozenset(map(plan.entries.index, booted.off))
        for booted in plan.boots
        if booted.off is not None and booted.counts
    ]
    measured = {effect.factor.key: effect for effect in effects_of(job, _measured_in(job)).effects}
    effects = [measured.get((entry, plan.state_of(entry).value)) for entry in plan.entries]
    following = next_of_night(
        done, [effect.estimate if effect is not None else None for effect in effects]
    )
    return None if following is None else tuple(plan.entries[at] for at in sorted(following))


def _measured_in(job: Job) -> Measure:
    """Settled, where the boots get so far; where nobody signs in, system up."""
    counts = Counter(measure for boot in starts_in(job.boots) for measure in boot.readings)
    whole = counts[Measure.SETTLED] * 2 > counts[Measure.SYSTEM_UP]
    return Measure.SETTLED if whole else Measure.SYSTEM_UP


def stop() -> None:
    """Stop the night shift of this PC, and wait until everything is put back.

    Where its own service does not do so in time, the administrator is asked. Raises Trouble where
    something could not be put back.
    """
    folders = Folders.of_this_user()
    if is_administrator() or read_plan(folders) is None:
        if plan_path(folders).exists():
            administrator.end()
        return
    folders.state.mkdir(parents=True, exist_ok=True)
    write_whole(_wish(), b"")
    try:
        deadline = time.monotonic() + STOPS_WITHIN_SECONDS
        while (plan := read_plan(folders)) is not None and not plan.tries:
            if time.monotonic() > deadline:
                administrator.end()
                return
            time.sleep(LOOK_AGAIN_SECONDS)
        if plan is not None:
            raise Trouble(TroubleCode.NIGHT_NOT_PUT_BACK, names=", ".join(plan.entries))
    finally:
        remove(_wish())


def _newest(job: Job) -> tuple[Boot, ...]:
    """Boots of the state the PC is in."""
    states = states_of(job)
    return states.boots_in(job, states.now(job))


def _usual_seconds(job: Job) -> float:
    """How long a boot takes until it has settled, or is up."""
    times = [
        reading.value + human_wait(boot.marks)
        for boot in starts_in(_newest(job))
        for measure in (Measure.SETTLED, Measure.SYSTEM_UP)
        if (reading := boot.readings.get(measure)) is not None
    ]
    return max([LEAST_USUAL_SECONDS, *times])


def _wish() -> Path:
    return Folders.of_this_user().state / STOP_WISHED
