"""One analysis of a boot: the same answer in the book and in every lens."""

import json

import pytest

from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.boots.marks import Mark, human_wait
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import LoadQuestion, Span, load_answer
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.usecases.changing.programs_set_aside import set_program_aside
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept, newest_state
from plucky_ledger.usecases.reading.entries import job_with_decisions
from plucky_ledger.usecases.recording.boots import import_recording
from plucky_ledger.wording.book import row_in_words
from plucky_ledger.wording.lanes import note
from plucky_ledger.wording.load import summary
from plucky_ledger.wording.reasons import in_one_line
from tests.helpers.standin import record_to

BEGUN_LATER_SECONDS = 880.0


@pytest.mark.parametrize("aside", ["", "saltmarsh-backup"])
def test_book_lanes_and_load_agree_on_when_it_settled(demo, aside):
    """Whatever is set aside moves settled everywhere, or nowhere."""
    number = find_job(demo, "0417")
    analyses = Analyses()
    raw = read_job(demo, number).opening_boots[0].readings[Measure.SETTLED].value
    if aside:
        set_program_aside(demo, number, aside, "a copy made while we measured")
    boot = read_job(demo, number).opening_boots[0]
    in_book = boot.readings[Measure.SETTLED].value
    assert (in_book == raw) is not bool(aside)
    analysis = analyses.of(demo, number, boot)
    (flag,) = [flag for flag in lanes_page(analysis).flags if flag.mark is Mark.SETTLED]
    load = load_answer(demo, number, boot, analyses, LoadQuestion(Span.STARTUP)).page
    waited = human_wait(boot.marks)
    assert flag.seconds - waited == pytest.approx(in_book, abs=1e-6)
    assert load.settled == pytest.approx(flag.seconds)
    assert load.span[1] == pytest.approx(flag.seconds)


def test_a_pc_that_was_calm_when_first_seen_settled_at_no_known_time(ledger, tmp_path):
    """The recorder was ready long after desktop shown: book, lanes and load say the same."""
    number = take_in(ledger, Card("", "Ticket-desk PC"), Facts())
    whole = tmp_path / "whole.jsonl"
    record_to(whole, seed=3, seconds=200.0)
    imported = import_recording(ledger, number, without_samples_before(whole, 100.0))
    assert "already calm when recording began" in in_one_line(imported.remarks)
    (boot,) = read_job(ledger, number).opening_boots
    assert boot.how is How.RECORDED
    assert {Measure.MEMORY_HELD, Measure.LOAD_AT_REST} <= set(boot.readings)
    assert not {Measure.SETTLED, Measure.CPU_WORK, Measure.DISK_READ} & set(boot.readings)
    analyses = Analyses()
    page = lanes_page(analyses.of(ledger, number, boot))
    assert Mark.SETTLED not in {flag.mark for flag in page.flags}
    assert page.chain is None or page.chain.mark is Mark.SYSTEM_UP
    load = load_answer(ledger, number, boot, analyses, LoadQuestion(Span.AT_REST)).page
    assert load.settled is None
    assert load.span[0] == pytest.approx(100.0, abs=2.0)
    costs = CostsKept(analyses).of(ledger, number, (boot,))
    assert all(cost.settled is None for cost in costs.costs.values())


def without_samples_before(recording, seconds, later=0.0):
    """The same recording by a recorder that was ready only then, ``later`` seconds later."""
    lines = []
    for text in recording.read_text().splitlines():
        line = json.loads(text)
        if line["kind"] in {"sample", "programs"}:
            if line["seconds"] < seconds:
                continue
            line["seconds"] += later
        if line["kind"] == "end":
            samples = sum(one["kind"] == "sample" for one in lines)
            line["lines"], line["samples"] = len(lines), samples
        lines.append(line)
    late = recording.with_name("late.jsonl")
    late.write_text("".join(json.dumps(line) + "\n" for line in lines))
    return late


@pytest.fixture
def at_rest(tmp_path):
    """A recording begun sixteen minutes after the PC was started."""
    whole = tmp_path / "whole.jsonl"
    record_to(whole, seed=3, seconds=200.0)
    return without_samples_before(whole, 120.0, BEGUN_LATER_SECONDS)


def test_a_recording_begun_late_is_a_reading_at_rest(ledger, at_rest):
    """It has no boot time, no book entry for settled, and every view says what it is."""
    number = take_in(ledger, Card("", "Ticket-desk PC"), Facts())
    imported = import_recording(ledger, number, at_rest)
    assert "at rest" in in_one_line(imported.remarks)
    job = read_job(ledger, number)
    (boot,) = job.opening_boots
    assert boot.how is How.AT_REST
    assert set(boot.readings) == {Measure.MEMORY_HELD, Measure.PROCESSES, Measure.LOAD_AT_REST}
    for measure in Measure:
        row = book_page(job, measure).rows[0]
        words = row_in_words(row)
        assert bool(words.balance) is (measure in boot.readings), measure
        assert "or more" not in words.balance
        verdict_page(job, measure, 0)
    assert "at rest" in row_in_words(book_page(job, Measure.SETTLED).rows[0]).remark
    analyses = Analyses()
    page = lanes_page(analyses.of(ledger, number, boot))
    assert Mark.SETTLED not in {flag.mark for flag in page.flags}
    assert "at rest" in note(page)
    load = load_answer(ledger, number, boot, analyses, LoadQuestion()).page
    assert load.rows
    assert load.settled is None
    assert "at rest" in summary(load)
    costs = CostsKept(analyses).of(ledger, number, job.opening_boots)
    assert costs.why_not is not None
    assert all(cost.settled is None for cost in costs.costs.values())


def test_a_job_is_the_same_whoever_reads_it_and_its_round_is_made_ready_once(demo):
    """What a view has worked out is what the plan of a decision goes by."""
    number = find_job(demo, "0417")
    job = read_job(demo, number)
    assert job_with_decisions(demo, number)[0] == job
    kept = CostsKept(Analyses())
    ready = kept.of(demo, number, newest_state(job))
    assert kept.expected(demo, number) is not None
    assert kept.of(demo, number, newest_state(job)) is ready
