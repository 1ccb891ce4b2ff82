"""The use cases without a screen: take in, measure, change, compare, put back."""

from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.book.job import Card, Change, ChangeKind, PostingState, state_of
from plucky_ledger.core.book.next_step import Step, next_step
from plucky_ledger.core.boots.boot import Context, How, StartKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.statement import as_html, save_html, save_pdf
from plucky_ledger.linux.files import NotSaved
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.entries import entries_data
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import load_page
from plucky_ledger.pages.statement import statement_of
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.store import jobs as stored
from plucky_ledger.usecases import boots, postings
from plucky_ledger.usecases.demo import is_stand_in, record_stand_in, setup_of
from plucky_ledger.usecases.jobs import Refused, find_job, rewrite_card, take_in
from plucky_ledger.wording.figures import shown
from tests.helpers.standin import record_to

SWAP = (Change(ChangeKind.SWAP, "swap file doubled", "somebody said it helps"),)
MARKS = {Mark.POWER_ON: 0.0, Mark.SIGN_IN_SHOWN: 20.0, Mark.SIGNED_IN: 28.0,
         Mark.DESKTOP_SHOWN: 40.0, Mark.READY: 55.0}  # fmt: skip


@pytest.fixture
def job(ledger):
    """A freshly taken-in PC."""
    number = take_in(ledger, Card("", "Ticket-desk PC"), Facts())
    return lambda: stored.job(ledger, number)


def timed(ledger, job, ready, at=None):
    when = at or datetime.now(UTC)
    return boots.add_timed(ledger, job(), {**MARKS, Mark.READY: ready}, when)


def test_labels_are_given_and_kept_apart(ledger, job):
    assert job().card.label == "0001"
    second = stored.job(ledger, take_in(ledger, Card("", "Office PC"), Facts()))
    assert second.card.label == "0002"
    with pytest.raises(Refused, match="already on Ticket-desk PC"):
        rewrite_card(ledger, second, Card("0001", "Office PC"), Facts())
    with pytest.raises(Refused, match="a name"):
        take_in(ledger, Card("7", "  "), Facts())
    with pytest.raises(Refused, match="0001"):
        find_job(ledger, "9999")


def test_a_recording_counts_once_however_often_it_is_imported(ledger, job, tmp_path):
    path = tmp_path / "boot.jsonl.gz"
    record_to(path, seed=5)
    assert boots.import_recording(ledger, job(), path).boot is not None
    again = boots.import_recording(ledger, job(), path)
    assert again.boot is None
    assert "already" in again.told
    assert len(job().opening_boots) == 1
    assert job().facts.cores == 4


def test_a_boot_that_began_before_the_changes_is_not_their_boot(ledger, job):
    """Nothing counts until the PC has really been restarted."""
    timed(ledger, job, 55.0)
    before = datetime.now(UTC)
    postings.write_down(ledger, job(), SWAP)
    timed(ledger, job, 55.0, before)
    assert len(job().opening_boots) == 2
    timed(ledger, job, 50.0, datetime.now(UTC) + timedelta(minutes=3))
    assert len(job().postings[0].boots) == 1


def test_from_opening_to_verdict_by_hand(ledger, job):
    """Stopwatch only: balance, saving and verdict in the one measure there is."""
    assert next_step(job(), Measure.READY).step is Step.RECORD_OPENING
    for ready in (55.0, 55.5, 54.5):
        timed(ledger, job, ready)
    assert next_step(job(), Measure.READY).step is Step.DECIDE
    postings.pencil(ledger, job(), SWAP)
    assert next_step(job(), Measure.READY).step is Step.POST
    postings.post(ledger, job())
    assert next_step(job(), Measure.READY).step is Step.RESTART
    for minute, ready in enumerate((45.0, 45.4, 44.6), 1):
        timed(ledger, job, ready, datetime.now(UTC) + timedelta(minutes=minute))
    assert next_step(job(), Measure.READY).step is Step.STATE
    page = book_page(job(), Measure.READY)
    assert [row.balance for row in page.rows] == ["47.0", "37.0"]
    assert (page.saved, page.lost, page.closing) == ("10.0", "", "37.0 s")
    verdict = verdict_page(job(), Measure.READY, 1)
    assert (verdict.answer, verdict.stamp) == ("It is ready 10.0 s sooner.", "Saved.")
    assert [row.measure for row in verdict.rows] == [Measure.READY]
    assert "timed by hand" in verdict.fair


def test_a_posting_put_back_is_struck_out_and_stays_in_the_book(ledger, job):
    timed(ledger, job, 55.0)
    with pytest.raises(Refused, match="Say what is changed"):
        postings.pencil(ledger, job(), (Change(ChangeKind.SWAP, "  "),))
    postings.write_down(ledger, job(), SWAP)
    timed(ledger, job, 60.0, datetime.now(UTC) + timedelta(minutes=1))
    postings.strike_out(ledger, job(), job().postings[0])
    first, back = job().postings
    assert state_of(job(), first) is PostingState.STRUCK_OUT
    assert back.particulars == "Put back: swap file doubled"
    assert back.changes[0].kind is ChangeKind.SWAP
    with pytest.raises(Refused, match="already"):
        postings.strike_out(ledger, job(), first)


def test_no_change_is_posted_before_there_is_an_opening_balance(ledger, job):
    with pytest.raises(Refused, match="no opening balance"):
        postings.write_down(ledger, job(), SWAP)
    assert job().postings == ()


def test_correcting_marks_works_the_figures_out_anew(ledger, job):
    timed(ledger, job, 55.0)
    (boot,) = job().opening_boots
    assert boot.readings[Measure.READY].value == 47.0
    boots.correct_marks(ledger, job(), boot, {**MARKS, Mark.SIGNED_IN: 30.0})
    assert job().opening_boots[0].readings[Measure.READY].value == 45.0
    with pytest.raises(Refused, match="lies before"):
        boots.correct_marks(ledger, job(), boot, {**MARKS, Mark.SIGNED_IN: 5.0})


def test_correcting_the_marks_of_a_recorded_boot_keeps_its_curves(demo):
    job, *_ = stored.all_jobs(demo)
    boot = job.opening_boots[0]
    later = {**boot.marks, Mark.SIGNED_IN: boot.marks[Mark.SIGNED_IN] + 2.0}
    boots.correct_marks(demo, job, boot, later)
    corrected = stored.job(demo, job.number).opening_boots[0]
    shift = boot.readings[Measure.SETTLED].value - corrected.readings[Measure.SETTLED].value
    assert shift == pytest.approx(2.0, abs=0.01)
    assert corrected.readings[Measure.MEMORY_HELD] == boot.readings[Measure.MEMORY_HELD]


def test_a_boot_set_aside_comes_back_unchanged(demo):
    job, *_ = stored.all_jobs(demo)
    boot = job.opening_boots[1]
    with pytest.raises(Refused, match="Say why"):
        boots.set_aside(demo, job, boot, " ")
    boots.set_aside(demo, job, boot, "disk check")
    aside = stored.job(demo, job.number).opening_boots[1]
    assert not aside.counts
    boots.bring_back(demo, job, aside)
    assert stored.job(demo, job.number) == job


def test_typed_figures_are_a_boot_every_view_copes_with(ledger, job):
    boots.add_typed(ledger, job(), {Measure.READY: 61.0, Measure.MEMORY_HELD: 1800.0})
    (boot,) = job().opening_boots
    timeline = boots.timeline_of(ledger, boot)
    assert "typed in" in lanes_page(boot, timeline).note
    assert "typed in" in load_page(boot, timeline, (0.0, 1.0)).note
    typed = entries_data(ledger, job(), (boot,))
    assert "typed in" in typed.costs.replay.why_not
    assert "61.0 s" in as_html(statement_of(job(), Measure.READY))
    with pytest.raises(Refused, match="cannot be"):
        boots.add_typed(ledger, job(), {Measure.READY: -3.0})


def test_what_makes_a_comparison_unfair_is_said(demo):
    job, *_ = stored.all_jobs(demo)
    posting = job.postings[0]
    for boot in posting.boots:
        context = Context(StartKind.RESTART, "6.1.0-22-desktop", "battery", updates_running=True)
        changed = boot.__class__(**{**boot.__dict__, "context": context})
        stored.change_boot(demo, "test", job.number, changed)
    fair = verdict_page(stored.job(demo, job.number), Measure.SETTLED, 1).fair
    for word in ("kernel differs", "kind of start differs", "power source differs", "updates"):
        assert word in fair


def test_the_stand_in_obeys_what_was_posted(demo, tmp_path):
    """Its next boot, recorded as any other, shows the pencilled changes once they are posted."""
    job, *_ = stored.all_jobs(demo)
    assert is_stand_in(job)
    assert setup_of(job).of("saltmarsh-backup") is Switch.LATER
    assert not setup_of(job).bigger_swap
    postings.post(demo, job)
    posted = stored.job(demo, job.number)
    assert setup_of(posted) == Setup(
        (
            *setup_of(job).switches,
            ("deckhand-updater", Switch.OFF),
            ("foghorn-notify", Switch.LATER),
        )
    )
    path = tmp_path / "boot.jsonl.gz"
    record_stand_in(posted, path, lambda _lines: None, lambda _seconds: True)
    boots.import_recording(demo, posted, path)
    (boot,) = stored.job(demo, job.number).postings[-1].boots
    assert boot.how is How.RECORDED
    assert 36 < boot.readings[Measure.SETTLED].value < 46


def test_the_statement_is_whole_and_safe(demo, tmp_path):
    """Hostile names are text, not markup; both kinds of file are written whole."""
    job, *_ = stored.all_jobs(demo)
    evil = Card("0417", "<script>alert(1)</script>\x1b[31m", "A & B", "")
    rewrite_card(demo, job, evil, job.facts)
    statement = statement_of(stored.job(demo, job.number), Measure.SETTLED)
    html = as_html(statement)
    assert "<script>" not in html
    assert "\x1b" not in html
    assert statement.answer.startswith("It settles")
    assert html.count('class="struck"') == 1
    save_html(statement, tmp_path / "s.html")
    save_pdf(statement, tmp_path / "s.pdf")
    assert (tmp_path / "s.html").read_text("utf-8") == html
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF-")
    with pytest.raises(NotSaved, match="Choose another folder"):
        save_html(statement, tmp_path / "nowhere" / "s.html")
    assert sorted(path.name for path in tmp_path.glob("*.*")) == ["demo.ledger", "demo.ledger.lock",
                                                                  "s.html", "s.pdf"]  # fmt: skip


def test_hostile_text_is_shown_bounded_and_visible():
    assert shown("a\nb\x1b[0m\u202egnp.exe") == "a␊b␛[0mgnp.exe"
    assert len(shown("x" * 10_000)) == 301
