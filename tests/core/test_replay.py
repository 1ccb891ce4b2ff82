"""Startup costs by replay, against the stand-in PC's own truth and a real PC's own difference."""

from dataclasses import astuple, fields, replace
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plucky_ledger.capture.sampling.recorder import ADAPTIVE, record
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.boot import Context, How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.readings import readings_of, settled_of
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.replay.contention import Contention
from plucky_ledger.core.replay.cost import RoundReplay, StartupCost
from plucky_ledger.core.replay.disk_costs import disk_costs, non_negative_fit
from plucky_ledger.core.replay.drive import DiskCosts, exclusivity
from plucky_ledger.core.replay.estimates import Estimate, estimate
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.replay.replay import Replay
from plucky_ledger.core.replay.voices import voices_of
from plucky_ledger.core.replay.workload import SYSTEM_TASK
from plucky_ledger.core.replay.workload_of_boot import workload_of
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.preview import preview_page
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.museum import DESKTOP, SYSTEM_SERVICES, TICKET_DESK
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import Compute, Entry, Program, Read, Sleep, Stay, Up
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.runs import analysed, entry, real_analysis, real_boot, run, samples
from tests.made_up_pcs.scenarios import Scenario, scenario_pc
from tests.made_up_pcs.truth import true_boot, true_saving, without

BOOTS = range(3)
SSD = Hardware(
    cores=4,
    core_speed=1.0,
    disk_megabytes_per_second=500.0,
    seek_seconds=0.0001,
    memory_megabytes=8192,
    rotating=False,
)


def recorded(pc, seeds=BOOTS):
    """Some boots of a stand-in PC, as they come out of a recording."""
    found = []
    for seed in seeds:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "boot.jsonl"
            boot = pc.restart(Setup(), seed, datetime(2026, 11, 3, tzinfo=UTC))
            with RecordingWriter(path) as writer:
                record(boot, boot, writer, 130.0, ADAPTIVE)
            whole = boot_from_bytes(path.read_bytes())
        found.append(Analysis(whole.boot, whole.timeline))
    return found


def pc_with(hardware, **programs):
    """A PC with the usual services and some sign-in programs: lag, after and actions of each."""
    entries = tuple(
        Entry(
            entry_id=name,
            name=name,
            program=Program(name, f"/opt/{name}", (*actions, Stay(9, 0.004)), 1000),
            kind="sign-in program",
            origin=f"/etc/{name}",
            after=after,
            at_sign_in=True,
            lag_seconds=lag,
        )
        for name, (lag, after, *actions) in programs.items()
    )
    return StandinPc(
        hardware=hardware,
        entries=(*SYSTEM_SERVICES, DESKTOP, *entries),
        os_release="x",
        cpu_model="y",
        kernel="z",
    )


@cache
def ticket_desk():
    return RoundReplay(recorded(TICKET_DESK))


def seconds_of(costs):
    return {cost.entry_id: cost.settled.value for cost in costs if cost.settled}


def test_the_whole_set_replays_to_the_observed_boot():
    replay = ticket_desk()
    replay.plan(frozenset())
    for seed, again in zip(BOOTS, replay._whole, strict=True):
        truth = true_boot(TICKET_DESK, seed)
        assert again.settled == pytest.approx(truth.settled, abs=1.5)
        assert again.system_up == pytest.approx(truth.system_up, abs=1.0)


@pytest.mark.study
def test_costs_rank_as_the_truth_does_where_cpu_seconds_do_not():
    """The ticket desk: a crowded rotating disk."""
    names = [one.entry_id for one in TICKET_DESK.entries if not one.part_of_system and one.program]
    costs = ticket_desk().cost_of(names)
    found = seconds_of(costs)
    truth = {n: true_saving(TICKET_DESK, without(n), BOOTS).settled for n in names}
    order = sorted(names, key=lambda n: -truth[n])
    assert {order[0], order[1]} <= set(sorted(names, key=lambda n: -found[n])[:4])
    errors = [abs(found[n] - truth[n]) for n in names]
    assert np.median(errors) < 0.9
    cpu = {cost.entry_id: cost.use.cpu_seconds for cost in costs}
    by_replay, by_cpu = (
        np.corrcoef([guess[n] for n in names], [truth[n] for n in names])[0, 1]
        for guess in (found, cpu)
    )
    assert by_replay > 0.85
    assert by_replay > by_cpu + 0.1
    inside = [cost.settled.low <= truth[cost.entry_id] <= cost.settled.high for cost in costs]
    assert np.mean(inside) > 0.7


def test_a_plan_is_not_the_sum_of_its_parts_and_close_to_the_truth():
    chosen = frozenset({"saltmarsh-backup", "lanternprint-agent", "brassrail-till"})
    replay = ticket_desk()
    plan = replay.plan(chosen)
    truth = true_saving(TICKET_DESK, without(*chosen), BOOTS).settled
    assert plan.saved.value == pytest.approx(truth, rel=0.2)
    assert plan.saved.low <= truth <= plan.saved.high
    assert plan.settled.value + plan.saved.value == pytest.approx(
        replay.plan(frozenset()).settled.value
    )
    assert plan.memory_bytes == pytest.approx(312e6 + 180e6 + 240e6, rel=0.15)
    assert plan.processes == 4


def test_later_wins_the_same_seconds_and_frees_nothing():
    off, later = ({"saltmarsh-backup"}, set()), (set(), {"saltmarsh-backup"})
    plans = [ticket_desk().plan(frozenset(a), frozenset(b)) for a, b in (off, later)]
    assert plans[0].saved == plans[1].saved
    assert plans[1].memory_bytes == plans[1].processes == 0


def test_work_on_an_idle_pc_costs_what_nobody_hides_behind():
    """Two run side by side on free cores: only the longer one costs, and only the difference."""
    pc = pc_with(SSD, long=(1.0, (), Compute(8.0), Up()), short=(1.0, (), Compute(3.0), Up()))
    found = seconds_of(RoundReplay(recorded(pc)).cost_of(["long", "short"]))
    truth = true_saving(pc, without("long"), BOOTS).settled
    assert found["long"] == pytest.approx(truth, abs=0.6)
    assert found["short"] == pytest.approx(0.0, abs=0.3)


def test_on_one_core_everybody_pays_for_everybody():
    pc = pc_with(
        replace(SSD, cores=1), a=(0.5, (), Compute(4.0), Up()), b=(0.5, (), Compute(4.0), Up())
    )
    found = seconds_of(RoundReplay(recorded(pc)).cost_of(["a", "b"]))
    assert found["a"] == pytest.approx(4.0, abs=0.8)
    assert found["b"] == pytest.approx(4.0, abs=0.8)


def test_a_wait_on_the_chain_costs_and_one_nobody_waits_for_does_not():
    pc = pc_with(
        SSD,
        dial=(0.5, (), Sleep(9.0), Up()),
        mail=(0.5, ("dial",), Compute(4.0), Up()),
        idle=(0.5, (), Compute(0.05), Sleep(12.0), Up()),
    )
    found = seconds_of(RoundReplay(recorded(pc)).cost_of(["dial", "idle"]))
    truth = true_saving(pc, without("dial"), BOOTS).settled
    assert truth > 5
    assert found["dial"] == pytest.approx(truth, abs=1.0)
    assert found["idle"] == pytest.approx(0.0, abs=0.3)


def test_reading_scattered_data_is_known_to_be_dearer():
    """The same megabytes: the drive has to turn for one of them all the time."""
    pc = pc_with(
        Hardware(),
        neat=(0.5, (), Read("neat", 120), Up()),
        strewn=(0.5, (), Read("strewn", 120, scattered=True), Up()),
    )
    found = seconds_of(RoundReplay(recorded(pc)).cost_of(["neat", "strewn"]))
    truth = {n: true_saving(pc, without(n), BOOTS).settled for n in found}
    assert truth["strewn"] > 1.5 * truth["neat"]
    assert found["strewn"] > found["neat"]


SESSION = "/user.slice/user-1000.slice/user@1000.service/app.slice"


def test_services_of_a_manager_that_told_nothing_are_tasks_of_their_own():
    """They are not one long task, no entry is made of them, and intervals know of it."""
    pc = pc_with(
        Hardware(),
        first=(0.5, (), Compute(3.0), Up()),
        second=(0.5, (), Compute(3.0), Up()),
        late=(9.5, (), Compute(1.0), Up()),
        soon=(0.1, (), Compute(0.5), Up()),
        asked=(0.5, (), Compute(6.0), Up()),
    )
    whole = recorded(pc, range(3))
    blind = [
        replace(one, timeline=replace(one.timeline, entries=only_of(one, "asked"))) for one in whole
    ]
    (told,), (untold,) = (RoundReplay(boots).cost_of(["asked"]) for boots in (whole, blind))
    workload = workload_of(blind[0], disk_costs(blind))
    services = {task.entry_id for task in workload.tasks if not task.is_entry} - {SYSTEM_TASK}
    begins = {task.entry_id: task.lag for task in workload.tasks}
    names = ("first", "second", "late", "soon")
    first, second, late, soon = (f"{SESSION}/app-{name}.scope" for name in names)
    assert services >= {first, second, late, soon}
    # A sample lies between signing in and what began at once: it waited for that all the same.
    of_sign_in = {task.entry_id for task in workload.tasks if task.at_sign_in}
    assert of_sign_in >= {first, second, late, soon}
    assert begins[late] - begins[first] == pytest.approx(9.0, abs=1.5)
    assert workload.entry_ids == {"asked"}
    assert 0.5 < workload.unlisted_share < 1.0
    assert untold.settled.value == pytest.approx(told.settled.value, abs=0.5)
    assert untold.settled.low <= told.settled.value <= untold.settled.high
    wider = (one.settled.high - one.settled.low for one in (told, untold))
    assert next(wider) < next(wider)


def only_of(analysis, name):
    return tuple(one for one in analysis.timeline.entries if one.entry_id == name)


def test_what_is_set_aside_has_the_drive_on_its_own_account():
    """As if it were an entry that nobody asks about, not as if the system had done it."""
    pc = pc_with(
        Hardware(),
        even=(0.5, (), Read("even", 120), Up()),
        scattered=(0.5, (), Read("scattered", 120, scattered=True), Up()),
    )
    as_entry = recorded(pc, range(1))
    left = tuple(
        replace(one, group=f"{SESSION}/app-{one.entry_id}.scope")  # its manager told of the others
        for one in as_entry[0].timeline.entries
        if one.entry_id != "scattered"
    )
    as_system = [replace(as_entry[0], timeline=replace(as_entry[0].timeline, entries=left))]
    aside = [replace(as_system[0], aside=frozenset({"scattered"}))]
    told, wrong, right = (disk_costs(boots) for boots in (as_entry, as_system, aside))
    assert right.of("even") == pytest.approx(told.of("even"))
    assert right.of(SYSTEM_TASK) == pytest.approx(told.of(SYSTEM_TASK))
    assert wrong.of(SYSTEM_TASK) > right.of(SYSTEM_TASK) + 0.2


def test_the_fit_of_disk_costs_is_the_exact_one(monkeypatch):
    from scipy.optimize import nnls  # loading it takes every test process a second

    fits = []

    def kept(columns, target):
        fits.append((columns, target, non_negative_fit(columns, target)))
        return fits[-1][-1]

    monkeypatch.setattr("plucky_ledger.core.replay.disk_costs.non_negative_fit", kept)
    captured = [real_analysis(f"baseline-0{number}") for number in (1, 2)]
    rounds = (
        captured,
        captured[:1],
        *(recorded(scenario_pc(kind, 1), range(1)) for kind in Scenario),
    )
    for boots in rounds:
        disk_costs(boots)
    assert any((fit == 0.0).any() for _, _, fit in fits)
    for columns, target, fit in fits:
        assert fit == pytest.approx(nnls(columns, target)[0], abs=1e-9)
        # What did nothing has no cost, and changes no other's.
        idle = np.hstack((columns, np.zeros((len(columns), 1))))
        assert non_negative_fit(idle, target) == pytest.approx([*fit, 0.0])


def test_a_real_pc_switched_one_service_off_and_was_up_when_expected():
    """Two boots before, one after: the service sleeps and works on the chain to system up."""
    before = [real_analysis(f"baseline-0{number}") for number in (1, 2)]
    after = real_boot("without-import-01").boot.readings
    replay = RoundReplay([replace(one, aside=frozenset({"python3"})) for one in before])
    plan = replay.plan(frozenset({"harborledger-import.service"}))
    assert plan.system_up.value == pytest.approx(after[Measure.SYSTEM_UP].value, abs=2.5)
    assert plan.settled.low <= after[Measure.SETTLED].value <= plan.settled.high
    # It alone used the most CPU time, and what it slept is won only in part.
    assert 5.0 < plan.saved.value < 14.0


def test_a_plan_that_removes_nothing_expects_nothing_changed():
    """Also where the replay of a boot is quicker than the boot was."""
    boots = [real_analysis(f"baseline-0{number}") for number in (1, 2)]
    plan = RoundReplay(boots).plan(frozenset())
    for measure, expected in plan.balances.items():
        observed = [boot.boot.readings[measure].value for boot in boots]
        assert expected.value == pytest.approx(sum(observed) / 2)
        assert expected.low <= min(observed) <= max(observed) <= expected.high
    assert (plan.saved.value, plan.up_saved.value) == (0.0, 0.0)


def test_without_the_sign_in_nobody_could_tell():
    (cost,) = ticket_desk().cost_of(["sign-in-screen.service"])
    assert cost.settled is None
    assert "signing in" in reason_in_words(cost.no_grade)


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda one: replace(one, timeline=Timeline()), "no programs were recorded"),
        (lambda one: replace(one, timeline=replace(one.timeline, entries=())), "no startup"),
        (lambda one: replace(one, boot=replace(one.boot, set_aside="an update")), "no boot"),
        (
            lambda one: replace(
                one, boot=replace(one.boot, context=Context(suspended_seconds=40.0))
            ),
            "slept",
        ),
    ],
)
def test_what_cannot_be_graded_says_why(change, why):
    (one,) = recorded(TICKET_DESK, range(1))
    replay = RoundReplay([change(one)])
    (cost,) = replay.cost_of(["saltmarsh-backup"])
    assert (cost.settled, cost.boots) == (None, 0)
    assert why in reason_in_words(cost.no_grade)
    assert replay.plan(frozenset({"saltmarsh-backup"})) is None
    assert grade_of(cost, 70.0, 4e9, GradeThresholds()) is Grade.UNGRADED


def never_settled(one):
    readings = {**one.boot.readings, Measure.SETTLED: Reading(120.0, censored=True)}
    return replace(one, boot=replace(one.boot, readings=readings))


def test_a_boot_that_never_settled_gives_what_it_has():
    """Who used what, and what system up would be; grades and a plan by these."""
    one, other = recorded(TICKET_DESK, range(2))
    replay = RoundReplay([never_settled(one)])
    costs = {cost.entry_id: cost for cost in replay.cost_of(sorted(replay.entry_ids))}
    assert replay.why_not.code is ReasonCode.NEVER_SETTLED
    plan = replay.plan(frozenset({"harbour-guard.service"}))
    assert (plan.settled, plan.saved) == (None, None)
    assert plan.up_saved.value == costs["harbour-guard.service"].system_up.value
    backup, guard = costs["saltmarsh-backup"], costs["harbour-guard.service"]
    assert (backup.settled, backup.boots) == (None, 1)
    assert backup.use.cpu_seconds > 1.0
    assert backup.use.memory_bytes > 1e6
    settled = RoundReplay([one])
    as_settled = {cost.entry_id: cost for cost in settled.cost_of(sorted(settled.entry_ids))}
    known = as_settled["harbour-guard.service"].system_up
    assert guard.system_up.value == pytest.approx(known.value, abs=0.5)
    up = one.boot.readings[Measure.SYSTEM_UP].value
    graded = grade_of(guard, 0.0, 4e9, GradeThresholds(), up)
    assert (graded is Grade.UNGRADED, grade_of(guard, 0.0, 4e9, GradeThresholds())) == (
        False,
        Grade.UNGRADED,
    )
    # Beside one that settled, each gives its own: settled from that, system up from both.
    (both,) = RoundReplay([never_settled(one), other]).cost_of(["saltmarsh-backup"])
    (alone,) = RoundReplay([other]).cost_of(["saltmarsh-backup"])
    assert (both.boots, len(both.per_boot), both.no_grade) == (2, 1, None)
    assert both.settled.value == pytest.approx(alone.settled.value, abs=0.5)


def test_what_ended_before_the_first_sample_is_known_from_the_managers_accounting():
    (one,) = recorded(TICKET_DESK, range(1))
    early = Activity(
        entry_id="quay-check.service",
        waiting_from=0.1,
        starting_from=0.2,
        up_at=0.9,
        ended_at=0.9,
        cpu_seconds=0.6,
        bytes_read=4e6,
    )
    check = replace(one.timeline.entries[0], entry_id="quay-check.service", group="/quay")
    late = {
        column.name: getattr(one.timeline.samples, column.name)[20:]
        for column in fields(Samples)
        if column.name not in {"cores", "memory_total_bytes"}
    }
    timeline = replace(
        one.timeline,
        entries=(*one.timeline.entries, check),
        activities=(*one.timeline.activities, early),
        samples=replace(one.timeline.samples, **late),
    )
    (cost,) = RoundReplay([replace(one, timeline=timeline)]).cost_of(["quay-check.service"])
    assert (cost.use.cpu_seconds, cost.use.bytes_read) == (0.6, 4e6)
    assert cost.boots == 1


def test_what_waited_for_a_core_is_told_from_what_slept():
    """Two programs that computed as much in as long a time: one was held up, one slept."""
    at = np.linspace(0.0, 10.0, 21)
    cpu = 0.4 * at
    held_up = run(1, 10, name="a", cpu=tuple(zip(at, cpu, strict=True)), queued=0.6 * at)
    slept = run(2, 11, name="b", cpu=tuple(zip(at, cpu, strict=True)), queued=0.0 * at)
    unknown = run(3, 12, name="c", cpu=tuple(zip(at, cpu, strict=True)))
    timeline = Timeline(samples=samples(12.0, count=21), runs=(held_up, slept, unknown))
    owners = {number: Owner(OwnerKind.ENTRY, name) for number, name in enumerate("abc", 1)}
    contention = Contention(timeline, timeline.samples, owners, DiskCosts({}))
    took = contention.own_times("abc", np.tile(contention.width, (3, 1)))
    assert took.computing[0].sum() == pytest.approx(4.0)
    # The cores were not taken up where c, of which nothing is known, was not at work.
    assert took.waiting.sum(axis=1) == pytest.approx([0.0, 6.0, 6.0], abs=1e-6)


def test_without_a_recorded_queue_two_on_one_core_each_took_twice_as_long():
    """However short the interval: samples are a tenth of a second apart at first."""
    at = np.array([0.0, 0.1, 0.2])
    both = [
        run(n, 9 + n, name=name, cpu=tuple(zip(at, at / 2, strict=True)))
        for n, name in enumerate("ab", 1)
    ]
    busy = replace(samples(0.2, end=0.2, count=3, cores=1), disk_busy_seconds=at)
    timeline = Timeline(samples=busy, runs=tuple(both))
    owners = {number: Owner(OwnerKind.ENTRY, name) for number, name in enumerate("ab", 1)}
    contention = Contention(timeline, timeline.samples, owners, DiskCosts({}))
    assert contention.cpu_slow == pytest.approx([2.0, 2.0])
    assert contention.drive_full.all()


def test_a_long_recording_after_settled_changes_nothing():
    """An hour of rest is left out, not replayed."""
    (one,) = recorded(TICKET_DESK, range(1))
    samples = one.timeline.samples
    longer = replace(
        samples,
        **{
            field.name: np.append(column, 3600.0 if field.name == "seconds" else column[-1])
            for field in fields(samples)
            if isinstance(column := getattr(samples, field.name), np.ndarray)
        },
    )
    hour = replace(one, timeline=replace(one.timeline, samples=longer))
    saved = [
        RoundReplay([boot]).plan(frozenset({"saltmarsh-backup"})).saved for boot in (one, hour)
    ]
    assert astuple(saved[0]) == pytest.approx(astuple(saved[1]))


def test_readings_at_rest_alone_tell_no_costs():
    (one,) = recorded(TICKET_DESK, range(1))
    replay = RoundReplay([Analysis(replace(one.boot, how=How.AT_REST), one.timeline)])
    assert (replay.boots, replay.why_not.code) == (0, ReasonCode.ONLY_AT_REST)


def test_a_boot_timed_by_hand_says_so():
    (one,) = recorded(TICKET_DESK, range(1))
    by_hand = Analysis(replace(one.boot, how=How.STOPWATCH), Timeline())
    assert "timed by hand" in reason_in_words(RoundReplay([by_hand]).why_not)


@pytest.mark.parametrize(
    ("seconds", "megabytes", "grade"),
    [
        (4.0, 0, Grade.HEAVY),
        (1.5, 10, Grade.MODERATE),
        (0.5, 10, Grade.LIGHT),
        (0.1, 5, Grade.NEGLIGIBLE),
        (0.0, 300, Grade.HEAVY),
        (-3.0, 0, Grade.NEGLIGIBLE),
    ],
)
def test_the_grade_goes_by_the_larger_share_and_what_may_be_nothing_weighs_nothing(
    seconds, megabytes, grade
):
    use = OwnerUse(1, 1, megabytes * 1e6, 1)
    cost = StartupCost(
        entry_id="x",
        settled=Estimate(seconds, seconds / 2, 9),
        system_up=None,
        use=use,
        per_boot=(seconds,),
        boots=1,
    )
    assert grade_of(cost, 70.0, 4e9, GradeThresholds()) is grade
    unsure = replace(cost, settled=Estimate(seconds, -0.1, 9))
    by_memory = Grade.HEAVY if megabytes == 300 else Grade.NEGLIGIBLE
    assert grade_of(unsure, 70.0, 4e9, GradeThresholds()) is by_memory


@given(st.lists(st.floats(-5, 40), min_size=1, max_size=6))
def test_an_interval_holds_its_estimate_and_narrows_with_agreement(values):
    found = estimate(values)
    assert found.low < found.value < found.high
    middle = found.value
    assert estimate([middle] * 5).high - middle <= found.high - middle + 1e-9


@given(st.floats(0, 1))
def test_who_moves_the_most_is_the_most_alone(share):
    found = float(exclusivity(np.array(share)))
    assert 0 <= found <= 1
    assert found <= float(exclusivity(np.array(min(1.0, share + 0.1)))) + 1e-12


@settings(max_examples=25)
@given(
    st.lists(st.tuples(st.floats(0.5, 7), st.floats(0.01, 6)), min_size=1, max_size=5),
    st.booleans(),
)
def test_taking_apart_keeps_all_work_and_time(made, ordered):
    """A task's own time is never longer than it took, and its work is what was counted."""
    end = 12.0
    runs = tuple(
        run(
            i,
            10 + i,
            1,
            f"p{i}",
            f"/opt/p{i}",
            f"/system.slice/p{i}.service",
            begun,
            cpu=[(t, min(work, (t - begun) * 0.9)) for t in np.arange(begun + 0.25, end, 0.5)],
        )
        for i, (begun, work) in enumerate(made)
    )
    total = 2.0 * end
    entries = tuple(
        entry(
            f"p{i}.service", f"/opt/p{i}", EntryKind.SYSTEM_SERVICE, f"/system.slice/p{i}.service"
        )
        for i in range(len(made))
    )
    activities = tuple(
        Activity(
            entry_id=f"p{i}.service",
            waiting_from=0.0,
            starting_from=begun,
            up_at=begun + 0.5,
            after=(f"p{i - 1}.service",) if ordered and i else (),
        )
        for i, (begun, _) in enumerate(made)
    )
    made_up = analysed(
        samples=samples(total, end, 25), runs=runs, entries=entries, activities=activities
    )
    found = workload_of(made_up)
    used = {r.name: r.cpu_seconds[-1] for r in runs}
    for task, (begun, _) in zip(found.tasks, made, strict=False):
        assert task.table.length <= end - begun + 0.01
        # Where all together claim more than the cores did, each claim is cut.
        assert task.table.cpu_work[-1] <= used[task.entry_id[:2]] + 0.05
        assert (np.diff(task.table.cpu_work) >= -1e-9).all()
        assert (np.diff(task.table.cpu_time) >= -1e-9).all()
    assert sum(t.table.cpu_work[-1] for t in found.tasks) == pytest.approx(total, rel=0.02)


def test_a_preview_moves_what_the_plan_moves_and_nothing_else():
    """Against the same PC really started without them; with nothing missing it is the boot."""
    (one,) = recorded(TICKET_DESK, range(1))
    named = replace(one, boot=replace(one.boot, uuid="one"))
    replay = RoundReplay([named])
    page = lanes_page(named, voices_of(named))
    same = preview_page(page, replay.preview("one", frozenset()))
    assert same.flags == page.flags
    assert [replace(lane, voice=None) for lane in same.lanes] == [
        replace(lane, voice=None) for lane in page.lanes
    ]
    for entry_id in ("saltmarsh-backup", "harbour-guard.service"):
        seen, replayed = page.voices.work(entry_id), same.voices.work(entry_id)
        assert replayed[0] == pytest.approx(seen[0], rel=0.1)
    off = frozenset({"saltmarsh-backup", "lanternprint-agent"})
    preview = replay.preview("one", off)
    expected = preview_page(page, preview)
    assert {lane.entry_id for lane in page.lanes} - {
        lane.entry_id for lane in expected.lanes
    } == off
    truth = true_saving(TICKET_DESK, without(*off), range(1)).settled
    assert preview.marks[Mark.SETTLED] == pytest.approx(truth, rel=0.25)
    assert preview.marks[Mark.SYSTEM_UP] == pytest.approx(0.0, abs=0.3)
    assert any(earlier.is_up > 1.0 for earlier in preview.entries.values())
    for lane in expected.lanes:
        for span in (lane.waiting, lane.starting, lane.running):
            assert span is None or span[0] <= span[1]
    machine, edges = expected.voices.machine, expected.voices.edges
    assert len(edges) == len(machine.cpu) + 1 == len(machine.drive) + 1
    assert 0 <= machine.cpu.min() <= machine.cpu.max() <= 1.01 * page.voices.cores
    together = sum(voice.cpu for voice in expected.voices.of.values())
    assert (together <= machine.cpu + 1e-9).all()
    assert not off & expected.voices.of.keys()
    assert replay.preview("another", off) is None


@pytest.mark.parametrize("scenario", [Scenario.ORDERED_SERVICES, Scenario.DEPENDENT])
def test_a_preview_goes_on_from_where_its_boot_was_and_is_the_same_as_from_the_start(scenario):
    """Whoever is missing, alone or several, also where others had waited for them: bit for bit."""
    (one,) = recorded(scenario_pc(scenario, 1), range(1))
    workload = workload_of(one)
    replay = Replay([workload], [one.settled_at])
    whole = replay.traced(frozenset())
    names = sorted({task.entry_id for task in workload.tasks if task.entry_id})
    sets = [frozenset(), *({name} for name in names), names[::2], names[1::3]]
    for missing in map(frozenset, sets):
        plain, shortened = replay.traced(missing), replay.traced(missing, whole)
        assert plain.replayed == shortened.replayed
        for column in ("cpu", "disk", "begins", "up_at"):
            np.testing.assert_array_equal(getattr(plain, column), getattr(shortened, column))
        never = [task.entry_id in missing for task in workload.tasks]
        assert not plain.up_at[never].any()


def test_what_waited_for_a_passphrase_costs_nobody_the_persons_time():
    """The same boot, half a minute of its first service a person's: all else costs what it did."""
    (one,) = recorded(TICKET_DESK, range(1))
    opens = "systemd-cryptsetup@root.service"
    timeline = one.timeline
    first = min(
        (a for a in timeline.activities if a.up_at and a.starting_from is not None),
        key=lambda activity: activity.starting_from,
    )
    timeline = replace(
        timeline,
        activities=tuple(
            replace(a, entry_id=opens) if a is first else a for a in timeline.activities
        ),
        entries=tuple(
            replace(e, entry_id=opens) if e.entry_id == first.entry_id else e
            for e in timeline.entries
        ),
    )
    waited = 0.8 * (first.up_at - first.starting_from)
    marks = {
        **one.boot.marks,
        Mark.PASSPHRASE_ASKED: first.starting_from,
        Mark.PASSPHRASE_GIVEN: first.starting_from + waited,
    }
    readings = readings_of(marks, timeline.samples, settled_of(marks, timeline.samples))
    asked = replace(one.boot, marks=marks, readings=readings)
    plain, told = (RoundReplay([Analysis(boot, timeline)]) for boot in (one.boot, asked))
    assert told.carries_sign_in == plain.carries_sign_in | {opens}
    (cost,) = told.cost_of([opens])
    assert cost.settled is None
    assert "signing in would not work" in reason_in_words(cost.no_grade)
    for name in ("saltmarsh-backup", "lanternprint-agent"):
        before, after = (replay.cost_of([name])[0].settled.value for replay in (plain, told))
        assert after == pytest.approx(before, rel=0.05)
    plans = [replay.plan(frozenset({"saltmarsh-backup"})) for replay in (plain, told)]
    assert plans[0].settled.value - plans[1].settled.value == pytest.approx(waited, abs=0.3)
