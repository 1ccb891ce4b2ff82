"""The words and positions the views are handed."""

import re
from datetime import UTC, datetime
from itertools import pairwise

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import stages_of
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.shelf.spine import spine_of
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.lanes import lanes_page, typical_boot
from plucky_ledger.pages.live import LiveBoot
from plucky_ledger.pages.load import LoadQuestion, Span, load_page
from plucky_ledger.pages.shelf import shelf
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.recording.lines import Line
from plucky_ledger.usecases.jobs.jobs import read_jobs
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.wording import figures, language
from plucky_ledger.wording.book import balance_in_words
from plucky_ledger.wording.facts import facts_in_brief
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.lanes import boot_in_words
from plucky_ledger.wording.load import summary
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.shelf import matches, saved, searchable
from plucky_ledger.wording.verdict import answer, legend
from tests.helpers.standin import record_to
from tests.helpers.trouble import told


@pytest.fixture
def job(demo):
    return read_jobs(demo)[0]


@pytest.fixture
def first(demo, job):
    """The analysis of the first opening boot."""
    return Analyses().of(demo, job.number, job.opening_boots[0])


@pytest.mark.parametrize(
    ("measure", "value", "text"),
    [
        (Measure.SETTLED, 41.234, "41.2 s"),
        (Measure.SETTLED, -0.04, "0.0 s"),
        (Measure.SETTLED, -14.25, "−14.2 s"),
        (Measure.MEMORY_HELD, 2566.4, "2,566 MB"),
        (Measure.PROCESSES, 117.0, "117"),
        (Measure.LOAD_AT_REST, 0.96, "1.0 %"),
    ],
)
def test_figures_carry_unit_sign_and_as_many_digits_as_the_book(measure, value, text):
    assert figures.with_unit(value, measure) == text


@pytest.mark.parametrize(
    ("amount", "text"),
    [(999, "1 kB"), (4.2e6, "4.20 MB"), (61e9, "61.0 GB"), (500.1e9, "500 GB"), (2e12, "2.00 TB")],
)
def test_sizes_have_three_figures(amount, text):
    assert figures.size(amount) == text


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(59, "0 minutes"), (3700, "1 hour 1 minute"), (20 * 86_400 + 7200, "20 days 2 hours")],
)
def test_uptime_in_its_two_largest_units(seconds, text):
    assert figures.length_of_time(seconds) == text


def test_facts_in_one_line_leave_out_what_is_not_known():
    assert facts_in_brief(Facts()) == ""
    drive = Drive("sda", DriveKind.SOLID_STATE, 512_000_000_000)
    told = facts_in_brief(Facts(cores=1, memory_bytes=8 * 2**30, drives=(drive,)))
    assert told == "1 core · 8 GB · solid-state drive 512 GB"


@given(st.text(max_size=600))
def test_whatever_a_pc_says_is_bounded_and_without_control_characters(text):
    told = shown(text)
    assert len(told) <= 301
    assert not any(ord(char) < 32 or 0x7F <= ord(char) < 0xA0 for char in told)


def test_the_load_of_a_boot_adds_up_without_the_recorder(first):
    pages = {span: load_page(first, LoadQuestion(span)) for span in Span}
    startup = pages[Span.STARTUP]
    work = [row.amounts.cpu_seconds for row in startup.rows]
    assert work[0] == max(work)
    own = [row for row in startup.rows if row.outside]
    assert [row.name for row in own] == ["plucky-ledger"]
    whole = sum(row.amounts.cpu_seconds for row in startup.rows if not row.outside)
    assert startup.sums.cpu_seconds == pytest.approx(whole)
    assert pages[Span.AT_REST].sums.cpu_seconds < whole / 10
    assert "accounted for" in summary(startup)
    assert all(0 <= share <= 1 for row in startup.rows for share in row.shares)


def test_stages_fill_the_boot_without_gaps_and_charge_no_wait(first):
    bands = lanes_page(first).stages
    assert [label(band.kind) for band in bands] == [
        "kernel",
        "services",
        "sign-in wait",
        "session",
        "settling",
    ]
    for before, after in pairwise(bands):
        assert before.end == after.start
    assert stages_of({}, (), None) == ()
    by_hand = stages_of({Mark.POWER_ON: 0.0, Mark.SIGN_IN_SHOWN: 9.0, Mark.READY: 30.0}, (), None)
    assert [(s.kind, s.start, s.end) for s in by_hand] == [
        ("services", 0.0, 9.0),
        ("settling", 9.0, 30.0),
    ]


def test_the_typical_boot_is_a_real_one_close_to_the_balance(job):
    for boots in job.rounds[:-1]:
        typical = typical_boot(boots, Measure.SETTLED)
        assert typical in boots
        assert typical.counts
    assert typical_boot((), Measure.SETTLED) is None


def test_a_boot_says_in_words_what_it_is_and_whether_it_counts(job):
    boot = job.opening_boots[0]
    assert boot_in_words(boot, job.opening_boots).endswith("cold start · may be compared")
    aside = next(boot for boot in job.boots if not boot.counts)
    assert "set aside: updates were installing" in boot_in_words(aside, job.opening_boots)
    timed = Boot(number=1, started_at=datetime(2026, 11, 2, tzinfo=UTC), how=How.STOPWATCH)
    assert "way of measuring differs" in boot_in_words(timed, job.opening_boots)


def test_the_spine_shows_the_whole_saving_and_finds_itself(job):
    (spine,) = shelf((spine_of(job, 0),))
    assert saved(spine).startswith("saved 2")
    assert len(spine.staircase) == 6
    assert matches(searchable(spine), "museum ticket")
    assert not matches(searchable(spine), "museum office")


def test_the_whole_job_has_a_verdict_of_its_own(job):
    page = verdict_page(job, Measure.SETTLED, len(job.rounds))
    assert answer(page).sentence.startswith("The PC settles 2")
    assert answer(page).stamp == "Saved."
    assert "opening round" in legend(page)
    text = balance_in_words(book_page(job, Measure.SETTLED))
    opening, saved, lost, closing = map(float, re.findall(r"[\d.]+", text))
    assert round(opening - saved + lost, 1) == closing


def test_a_recording_is_followed_line_by_line(tmp_path):
    """The curves grow and nothing is lost."""
    path = tmp_path / "boot.jsonl"
    record_to(path, seed=2, seconds=40.0)
    live = LiveBoot(40.0)
    decoder = msgspec.json.Decoder(Line)
    for line in path.read_bytes().splitlines():
        live.take([decoder.decode(line)])
    assert live.recorded_seconds == pytest.approx(40.0, abs=0.1)
    assert live.done_share == pytest.approx(1.0, abs=0.01)
    assert live.left_seconds == pytest.approx(0.0, abs=0.1)
    assert {Mark.SYSTEM_UP, Mark.SIGN_IN_SHOWN, Mark.SIGNED_IN} <= {mark for mark, _ in live.marks}
    assert [len(strip.heights) for strip in live.strips] == [40] * 4


def test_a_figure_is_typed_by_the_rules_by_which_it_is_shown():
    """Whatever is shown can be typed back; what could be read in two ways is asked about."""
    for name, shown_as, meant in (("en", "2,566.5", 2566.5), ("de", "2.566,5", 2566.5)):
        language.use(name)
        try:
            assert figures.number(meant, 1) == shown_as
            assert figures.read_number(shown_as) == meant
        finally:
            language.use("en")
    with told("Is it 15 / 1.5"):
        figures.read_number("1,5")
    with told("“soon” is not a figure"):
        figures.read_number("soon")
