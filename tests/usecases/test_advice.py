"""Why it is still slow: each fault is found by its own rule, and by no other."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest

from plucky_ledger.core.advice.advise import advise, worth
from plucky_ledger.core.advice.evidence import Evidence
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.stock import BeyondStock
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.changes import ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.pages.statement import statement_page
from plucky_ledger.pages.why import WhyAnswer, why_page
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs, take_in
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.reading.advice import (
    follow_advice,
    inspect,
    keep_inspected,
    put_on_statement,
    why,
)
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.statements import as_html
from plucky_ledger.usecases.recording.boots import import_recording
from plucky_ledger.wording.advice import advice_in_words, in_short, rests_on, takes, wins
from plucky_ledger.wording.condition import facts_in_words
from plucky_ledger.wording.statement import statement_in_words
from tests.helpers.faulty import found_on, recorded_job
from tests.helpers.standin import recorded
from tests.made_up_pcs.faults import HEALTHY, Fault, pc_with

REAL_BOOTS = Path(__file__).parents[1] / "data" / "real-boot"
EXPECTED = {
    Fault.NONE: None,
    Fault.SLOW_DRIVE: RuleCode.DRIVE_PINNED,
    Fault.SLOW_PROCESSOR: RuleCode.PROCESSOR_PINNED,
    Fault.SHORT_OF_MEMORY: RuleCode.MEMORY_FULL,
    Fault.SHORT_OF_ROOM: RuleCode.LITTLE_ROOM,
    Fault.FAILING_DRIVE: RuleCode.FAILING_DRIVE,
    Fault.UP_FOR_WEEKS: RuleCode.NOT_RESTARTED,
    Fault.ONLY_SUSPENDED: RuleCode.FAST_START,
    Fault.HOT: RuleCode.HEAT,
    Fault.HELD_DOWN: RuleCode.HELD_DOWN,
    Fault.WAITING_LOADER: RuleCode.LOADER_WAITS,
    Fault.WAITS_FOR_NOTHING: RuleCode.NEVER_COMES,
    Fault.MANY_FAILURES: RuleCode.MANY_FAILED,
    Fault.RESTARTING_SERVICE: RuleCode.RESTARTS_ITSELF,
    Fault.TWO_GUARDS: RuleCode.SAME_JOB,
    Fault.DYING_DRIVE: RuleCode.FAILING_DRIVE,
    Fault.UNCHECKED: RuleCode.CHECK_DUE,
}


@pytest.fixture
def ledger(tmp_path):
    with Ledger(tmp_path / "workshop.ledger") as opened:
        yield opened


@pytest.mark.parametrize("fault", Fault)
def test_each_fault_is_found_by_its_own_rule_alone(ledger, tmp_path, fault):
    restarted = fault is not Fault.UP_FOR_WEEKS
    found = found_on(ledger, pc_with(fault), tmp_path, restarted=restarted)
    rules = [finding.rule for finding in found.findings]
    assert rules == ([EXPECTED[fault]] if EXPECTED[fault] else [])
    page = why_page(found)
    assert in_short(page)
    for finding in found.findings:
        words = advice_in_words(finding)
        assert words.seen
        assert "{" not in words.seen + wins(finding) + takes(finding)
        assert bool(finding.changes or finding.switch_off) == bool(words.change)
    if fault is Fault.NONE:
        assert page.answer is WhyAnswer.FINE
        assert "fine" in in_short(page)
        silent = Reason.of(ReasonCode.NO_SERVICE_MANAGER, why=ReasonCode.NO_BUS)
        unseen = why_page(replace(found, unseen=silent))
        assert unseen.answer is WhyAnswer.NOT_ALL_SEEN
        assert "parts of this PC could not be read" in in_short(unseen)
        assert "The service manager did not answer" in rests_on(unseen)
    if fault is Fault.SHORT_OF_MEMORY:
        seen = advice_in_words(page.findings[0]).seen
        assert "Most is held by chart-viewer" in seen
    if fault is Fault.DYING_DRIVE:
        seen = advice_in_words(page.findings[0]).seen
        assert "is failing" in seen
        assert "212 bad sectors" in seen
    if fault is Fault.FAILING_DRIVE:
        assert "data first" in in_short(page)
        told = dict(facts_in_words(page))
        assert told["Model"] == "Breakwater Works Jetty 400"
        assert "14 errors in this boot" in told["Drives"]
        assert "programs wait for the CPU" in told["While starting"]
        assert "it answers in" in told["While starting"]
        assert "memory 0 %" in told["At rest"]
        assert "{" not in "".join(told.values())


def test_captured_boots_of_a_real_pc_wait_for_its_two_slow_cores(ledger):
    number = take_in(ledger, Card("", "Captured PC"), Facts())
    for path in sorted(REAL_BOOTS.glob("baseline-*.jsonl.gz")):
        import_recording(ledger, number, path)
    analyses = Analyses()
    (finding,) = why(ledger, number, analyses, CostsKept(analyses)).findings
    assert finding.rule is RuleCode.PROCESSOR_PINNED
    assert finding.facts["share"] > 0.8
    assert 5 < finding.saves.low < finding.saves.high < 30


def test_updates_at_every_start(ledger, tmp_path):
    found = found_on(ledger, HEALTHY, tmp_path, setup=Setup(updates_running=True))
    assert [finding.rule for finding in found.findings] == [RuleCode.UPDATES_AT_SIGN_IN]


def test_following_advice_pencils_a_typed_change_with_its_reason(ledger, tmp_path):
    number = recorded_job(ledger, pc_with(Fault.SLOW_DRIVE), tmp_path)
    analyses = Analyses()
    costs = CostsKept(analyses)
    found = why(ledger, number, analyses, costs)
    (finding,) = found.findings
    words = advice_in_words(finding)
    assert not why_page(found).pencilled
    follow_advice(ledger, number, finding, words.change, words.seen)
    (change,) = read_job(ledger, number).pencilled.changes
    assert (change.kind, change.what) == (ChangeKind.SOLID_STATE_DRIVE, words.change)
    assert change.why.startswith("A rotating disk")
    again = why_page(why(ledger, number, analyses, costs))
    assert again.pencilled == {"drive_pinned"}


def test_the_owner_reads_the_advice_that_was_ticked(ledger, tmp_path):
    number = recorded_job(ledger, pc_with(Fault.SLOW_DRIVE), tmp_path)
    analyses = Analyses()
    (finding,) = why(ledger, number, analyses, CostsKept(analyses)).findings
    put_on_statement(ledger, number, finding, True)
    put_on_statement(ledger, number, finding, True)
    job = read_job(ledger, number)
    (advised,) = job.advised
    assert advised.saves == finding.saves
    other = replace(finding, about="another drive")
    put_on_statement(ledger, number, other, True)
    assert len(read_job(ledger, number).advised) == 2
    put_on_statement(ledger, number, other, False)
    told = as_html(
        statement_in_words(statement_page(job, Measure.SETTLED), now()), names_pictures=True
    )
    assert "What is advised" in told
    assert advice_in_words(finding).to_do in told
    undo(ledger, number)
    assert len(read_job(ledger, number).advised) == 2
    undo(ledger, number)
    put_on_statement(ledger, number, finding, False)
    job = read_job(ledger, number)
    assert job.advised == ()
    html = as_html(
        statement_in_words(statement_page(job, Measure.SETTLED), now()), names_pictures=True
    )
    assert "advised" not in html


def test_nothing_measured_asks_for_a_boot(ledger, tmp_path):
    page = why_page(found_on(ledger, HEALTHY, tmp_path, boots=0))
    assert page.answer is WhyAnswer.NOTHING_MEASURED


def at_rest_after(days, analysis, grown):
    """A reading at rest so long after the start, with so many times the memory held."""
    samples = analysis.timeline.samples
    later = replace(
        samples,
        seconds=samples.seconds + days * 86_400,
        memory_held_bytes=np.full_like(samples.seconds, samples.memory_held_bytes[-1] * grown),
    )
    boot = Boot(number=0, started_at=datetime(2026, 11, 1, tzinfo=UTC), how=How.AT_REST)
    return Analysis(boot, Timeline(samples=later, runs=analysis.timeline.runs))


@pytest.mark.parametrize(("days", "grown", "found"), [(9, 1.8, 1), (9, 1.1, 0), (0.2, 1.8, 0)])
def test_memory_that_fills_up_over_days(days, grown, found):
    fresh = recorded(3)
    analysis = Analysis(fresh.boot, fresh.timeline)
    begin = datetime(2026, 11, 3, tzinfo=UTC)
    evidence = Evidence(
        facts=Facts(),
        taken_in_at=begin,
        recorded=(analysis,),
        at_rest=(at_rest_after(days, analysis, grown),),
    )
    rules = [finding.rule for finding in advise(evidence)]
    assert rules.count(RuleCode.MEMORY_GROWS) == found


def test_what_wins_most_for_what_it_takes_comes_first(ledger, tmp_path):
    """A failing drive before all; what takes minutes before an hour's work that wins more."""
    fresh = recorded(3)
    analysis = Analysis(fresh.boot, fresh.timeline)
    begin = datetime(2026, 11, 3, tzinfo=UTC)
    pc = pc_with(Fault.FAILING_DRIVE)
    told = found_on(ledger, pc, tmp_path, boots=1).condition
    evidence = Evidence(
        facts=Facts(memory_bytes=4 * 2**30),
        taken_in_at=begin,
        recorded=(analysis,),
        condition=replace(told, throttled=99, power_profile="power-saver"),
        beyond_stock=BeyondStock(90, (), (), 8e8),
    )
    found = advise(evidence)
    assert [worth(finding) for finding in found] == sorted(map(worth, found), reverse=True)
    assert [finding.rule for finding in found] == [
        RuleCode.FAILING_DRIVE,
        RuleCode.DRIVE_PINNED,
        RuleCode.HELD_DOWN,
        RuleCode.HEAT,
        RuleCode.BEYOND_STOCK,
    ]


def test_what_the_administrator_was_told_is_kept_and_fills_in_what_a_recording_lacks(demo):
    number = read_jobs(demo)[0].number
    analyses = Analyses()
    costs = CostsKept(analyses)
    assert why(demo, number, analyses, costs).condition.drives[0].hours is None
    told = inspect(demo, number)
    worn = replace(told, drives=(replace(told.drives[0], worn=0.97, errors=99),))
    keep_inspected(demo, number, worn)
    found = why(demo, number, analyses, costs)
    drive = found.condition.drives[0]
    assert drive.hours == told.drives[0].hours > 0
    assert drive.errors == 0  # the recording knows that of its own boot
    finding = found.findings[0]
    assert finding.rule is RuleCode.FAILING_DRIVE
    assert "97 % of its life" in advice_in_words(finding).seen
    undo(demo, number)
    assert why(demo, number, analyses, costs).condition.drives[0].hours is None


@pytest.mark.parametrize(("share", "found"), [(0.3, 1), (0.02, 0)])
def test_a_start_that_waits_for_memory_is_told_by_the_kernels_account(share, found):
    """Where the replay can tell nothing: no program's reads were counted twice."""
    fresh = recorded(3)
    samples = fresh.timeline.samples
    waited = replace(samples, memory_pressure_seconds=share * samples.seconds)
    analysis = Analysis(fresh.boot, replace(fresh.timeline, samples=waited))
    evidence = Evidence(
        facts=Facts(memory_bytes=4 * 2**30), taken_in_at=fresh.boot.started_at, recorded=(analysis,)
    )
    memory = [one for one in advise(evidence) if one.rule is RuleCode.MEMORY_FULL]
    assert len(memory) == found
    if found:
        assert 0.3 < memory[0].facts["waiting"] < 0.4  # of the machine's time, not the person's
        assert "programs wait for memory" in advice_in_words(memory[0]).seen


@pytest.mark.parametrize(("every", "found"), [(20, 1), (3, 0)])
def test_a_pc_that_is_only_ever_woken_is_known_by_its_own_log(every, found):
    """No boot was ever recorded before it was taken in: its log of starts tells."""
    taken_in = datetime(2026, 11, 3, tzinfo=UTC)
    starts = tuple(taken_in - timedelta(days=every * n) for n in range(6, 0, -1))
    log = PowerLog(starts, tuple(taken_in - timedelta(days=n) for n in range(100, 0, -1)))
    told = [
        one
        for one in advise(Evidence(facts=Facts(), taken_in_at=taken_in, power_log=log))
        if one.rule is RuleCode.NOT_RESTARTED
    ]
    assert len(told) == found
    if found:
        seen = advice_in_words(told[0]).seen
        assert "every 20 days" in seen
        assert "woke from sleep 100 times" in seen
