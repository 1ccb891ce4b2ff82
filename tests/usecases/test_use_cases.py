"""The use cases without a screen: take in, measure, change, compare, put back."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.book.next_step import NextStepKind, next_step
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Context, How, PowerSource, StartKind
from plucky_ledger.core.boots.marks import Mark, human_wait
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.entry_states import entry_states
from plucky_ledger.core.job.job import Card, last_visit, state_of
from plucky_ledger.core.job.noticed import outside_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import NotSaved
from plucky_ledger.exchange.statement import as_html
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import LoadQuestion, load_page
from plucky_ledger.pages.shelf import shelf
from plucky_ledger.pages.statement import statement_page
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.store.boots import write_boot
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.changing import postings
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import (
    find_job,
    read_job,
    read_jobs,
    rewrite_card,
    take_in,
)
from plucky_ledger.usecases.jobs.shelf import read_shelf
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.jobs.visits import begin_visit, write_down_outside
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.statements import save_statement
from plucky_ledger.usecases.recording import boots
from plucky_ledger.usecases.recording.pcs import pc_of
from plucky_ledger.usecases.recording.recording import pc_to_record, record, take_over
from plucky_ledger.usecases.recording.stand_ins import stand_in_setup
from plucky_ledger.wording.book import closing, particulars, row_in_words, total_lost, total_saved
from plucky_ledger.wording.lanes import note
from plucky_ledger.wording.load import nothing_watched
from plucky_ledger.wording.reasons import in_one_line, reason_in_words
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.statement import statement_in_words
from plucky_ledger.wording.steps import undone
from plucky_ledger.wording.verdict import answer, comparability_in_words
from tests.helpers.standin import record_to
from tests.helpers.trouble import told

SWAP = (Change(kind=ChangeKind.SWAP, what="swap file doubled", why="somebody said it helps"),)
MARKS = {
    Mark.POWER_ON: 0.0,
    Mark.SIGN_IN_SHOWN: 20.0,
    Mark.SIGNED_IN: 28.0,
    Mark.DESKTOP_SHOWN: 40.0,
    Mark.READY: 55.0,
}


@pytest.fixture
def number(ledger):
    """A freshly taken-in PC."""
    return take_in(ledger, Card("", "Ticket-desk PC"), Facts())


@pytest.fixture
def job(ledger, number):
    return lambda: read_job(ledger, number)


def timed(ledger, number, ready, at=None):
    when = at or datetime.now(UTC)
    return boots.add_timed(ledger, number, {**MARKS, Mark.READY: ready}, when)


def test_labels_are_given_and_kept_apart(ledger, job):
    assert job().card.label == "0001"
    second = take_in(ledger, Card("", "Office PC"), Facts())
    assert read_job(ledger, second).card.label == "0002"
    with told("already on Ticket-desk PC"):
        rewrite_card(ledger, second, Card("0001", "Office PC"), Facts())
    with told("a name"):
        take_in(ledger, Card("7", "  "), Facts())
    with told("0001"):
        find_job(ledger, "9999")


def test_a_recording_counts_once_however_often_it_is_imported(ledger, number, job, tmp_path):
    path = tmp_path / "boot.jsonl.gz"
    record_to(path, seed=5)
    assert boots.import_recording(ledger, number, path).boot is not None
    again = boots.import_recording(ledger, number, path)
    assert again.boot is None
    assert "already" in in_one_line(again.remarks)
    assert len(job().opening_boots) == 1
    assert job().facts.cores == 4
    undo(ledger, number)
    assert job().opening_boots == (), "importing it again was no step"


def test_a_boot_that_began_before_the_changes_is_not_their_boot(ledger, number, job):
    """Nothing counts until the PC has really been restarted."""
    timed(ledger, number, 55.0)
    before = datetime.now(UTC)
    postings.write_down(ledger, number, SWAP)
    timed(ledger, number, 55.0, before)
    assert len(job().opening_boots) == 2
    timed(ledger, number, 50.0, datetime.now(UTC) + timedelta(minutes=3))
    assert len(job().postings[0].boots) == 1


def test_from_opening_to_verdict_by_hand(ledger, number, job):
    """Stopwatch only: balance, saving and verdict in the one measure there is."""
    assert next_step(job(), Measure.READY).step is NextStepKind.RECORD_OPENING
    for ready in (55.0, 55.5, 54.5):
        timed(ledger, number, ready)
    assert next_step(job(), Measure.READY).step is NextStepKind.DECIDE
    postings.pencil(ledger, number, SWAP)
    assert next_step(job(), Measure.READY).step is NextStepKind.POST
    postings.post(ledger, number)
    assert next_step(job(), Measure.READY).step is NextStepKind.RESTART
    for minute, ready in enumerate((45.0, 45.4, 44.6), 1):
        timed(ledger, number, ready, datetime.now(UTC) + timedelta(minutes=minute))
    assert next_step(job(), Measure.READY).step is NextStepKind.STATE
    page = book_page(job(), Measure.READY)
    assert [row_in_words(row).balance for row in page.rows] == ["47.0", "37.0"]
    assert (total_saved(page), total_lost(page), closing(page)) == ("10.0", "", "37.0 s")
    verdict = verdict_page(job(), Measure.READY, 1)
    said = answer(verdict)
    assert (said.sentence, said.stamp) == ("The PC is ready 10.0 s sooner.", "Saved.")
    assert [row.measure for row in verdict.rows] == [Measure.READY]
    assert "timed by hand" in comparability_in_words(verdict)


def test_a_posting_put_back_is_struck_out_and_stays_in_the_book(ledger, number, job):
    timed(ledger, number, 55.0)
    with told("Say what is changed"):
        postings.pencil(ledger, number, (Change(kind=ChangeKind.SWAP, what="  "),))
    postings.write_down(ledger, number, SWAP)
    timed(ledger, number, 60.0, datetime.now(UTC) + timedelta(minutes=1))
    postings.strike_out(ledger, number, job().postings[0].number)
    first, back = job().postings
    assert state_of(job(), first) is PostingState.STRUCK_OUT
    assert particulars(back, first) == "Put back: swap file doubled"
    assert back.changes[0].kind is ChangeKind.SWAP
    with told("already"):
        postings.strike_out(ledger, number, first.number)


def test_no_change_is_posted_before_there_is_an_opening_balance(ledger, number, job):
    with told("no opening balance"):
        postings.write_down(ledger, number, SWAP)
    assert job().postings == ()


def test_a_later_visit_is_a_new_opening_against_the_last_closing(ledger, number, job):
    """Boots of the same day count for it, those in the book already stay where they are."""
    with pytest.raises(Refused) as refused:
        begin_visit(ledger, number)
    assert refused.value.code is TroubleCode.NO_OPENING
    past = datetime.now(UTC) - timedelta(days=90)
    for ready in (60, 61, 62):
        timed(ledger, number, ready, past)
    begin_visit(ledger, number, "slow again")
    assert next_step(job(), Measure.READY).step is NextStepKind.RECORD_OPENING
    with pytest.raises(Refused) as refused:
        begin_visit(ledger, number)
    assert refused.value.code is TroubleCode.VISIT_HAS_BEGUN
    today = datetime.now().astimezone().replace(hour=0, minute=0, second=30)
    for ready in (70, 71, 72):
        timed(ledger, number, ready, today)
    page = book_page(job(), Measure.READY)
    row = row_in_words(page.rows[1])
    assert row.particulars.endswith(": slow again")
    assert page.lost_units == 100
    assert next_step(job(), Measure.READY).step is NextStepKind.DECIDE
    assert last_visit(job()) > past
    with pytest.raises(Refused) as refused:
        postings.strike_out(ledger, number, job().postings[0].number)
    assert refused.value.code is TroubleCode.VISIT_IS_NOT_PUT_BACK
    undo(ledger, number)


def noticing(boot, *codes):
    found = tuple(Reason(code, {"entry": "horn", "name": "Horn"}) for code in codes)
    return replace(boot, context=replace(boot.context, noticed=found))


def write_noticed(ledger, number, at, *codes):
    """The boot at this place of the book's newest round showed what others changed."""
    boot = read_job(ledger, number).rounds[-1][at]
    with step(ledger, StepCode.ADD_BOOT, number, how=boot.how) as session:
        write_boot(session, noticing(boot, *codes))


def test_what_others_changed_becomes_a_line_from_the_boot_that_showed_it(ledger, number, job):
    with pytest.raises(Refused):
        write_down_outside(ledger, number, reason_in_words)
    for hour in range(4):
        timed(ledger, number, 60 + hour, datetime.now(UTC) - timedelta(hours=9 - hour))
    postings.pencil(ledger, number, SWAP)
    uuid = job().pencilled.uuid
    with step(ledger, StepCode.ADD_BOOT, number, how=How.STOPWATCH) as session:
        write_boot(session, noticing(job().opening_boots[2], ReasonCode.SET_OFF))
    write_down_outside(ledger, number, reason_in_words)
    opening, outside, pencilled = job().rounds
    assert (len(opening), len(outside), len(pencilled)) == (2, 2, 0)
    line = job().postings[0]
    assert line.posted_at < outside[0].started_at
    assert row_in_words(book_page(job(), Measure.READY).rows[1]).particulars == (
        "Made elsewhere: Horn switched off"
    )
    assert entry_states(job()) == {"horn": EntryState.OFF}
    assert (job().pencilled.changes, job().pencilled.uuid) == (SWAP, uuid)
    postings.post(ledger, number)
    assert timed(ledger, number, 50, datetime.now(UTC) + timedelta(seconds=30))
    write_noticed(ledger, number, 0, ReasonCode.SET_ON)
    write_down_outside(ledger, number, reason_in_words)
    # It came together with what was posted, and stands in its line.
    assert [len(boots) for boots in job().rounds] == [2, 2, 1]
    assert [change.outside for change in job().postings[1].changes] == [False, True]
    undo(ledger, number)
    assert outside_of(job()) is not None


def test_correcting_marks_works_the_figures_out_anew(ledger, number, job):
    timed(ledger, number, 55.0)
    (boot,) = job().opening_boots
    assert boot.readings[Measure.READY].value == 47.0
    boots.correct_marks(ledger, number, boot.number, {**MARKS, Mark.SIGNED_IN: 30.0})
    assert job().opening_boots[0].readings[Measure.READY].value == 45.0
    with told("lies before"):
        boots.correct_marks(ledger, number, boot.number, {**MARKS, Mark.SIGNED_IN: 5.0})


def test_correcting_the_marks_of_a_recorded_boot_keeps_its_curves(demo):
    job, *_ = read_jobs(demo)
    boot = job.opening_boots[0]
    later = {**boot.marks, Mark.SIGNED_IN: boot.marks[Mark.SIGNED_IN] + 2.0}
    boots.correct_marks(demo, job.number, boot.number, later)
    corrected = read_job(demo, job.number).opening_boots[0]
    shift = boot.readings[Measure.SETTLED].value - corrected.readings[Measure.SETTLED].value
    # What the PC still did meanwhile is its own time.
    idle = human_wait(corrected.marks) - human_wait(boot.marks)
    assert shift == pytest.approx(idle, abs=0.01)
    assert 0 <= idle <= 2
    assert corrected.readings[Measure.MEMORY_HELD] == boot.readings[Measure.MEMORY_HELD]


def test_a_boot_set_aside_comes_back_unchanged(demo):
    job, *_ = read_jobs(demo)
    boot = job.opening_boots[1]
    with told("Say why"):
        boots.set_boot_aside(demo, job.number, boot.number, " ")
    boots.set_boot_aside(demo, job.number, boot.number, "disk check")
    assert not read_job(demo, job.number).opening_boots[1].counts
    boots.bring_boot_back(demo, job.number, boot.number)
    assert read_job(demo, job.number) == job


def test_typed_figures_are_a_boot_every_view_copes_with(ledger, number, job):
    boots.add_typed(ledger, number, {Measure.READY: 61.0, Measure.MEMORY_HELD: 1800.0})
    (boot,) = job().opening_boots
    analysis = Analysis(boot, Timeline())
    assert "typed in" in note(lanes_page(analysis))
    assert "typed in" in nothing_watched(load_page(analysis, LoadQuestion()))
    costs = CostsKept(Analyses()).of(ledger, number, (boot,))
    assert "typed in" in reason_in_words(costs.why_not)
    statement = statement_in_words(statement_page(job(), Measure.READY), now())
    assert "61.0 s" in as_html(statement)
    with told("is not possible"):
        boots.add_typed(ledger, number, {Measure.READY: -3.0})
    with told("is not possible"):
        boots.add_typed(ledger, number, {Measure.READY: float("nan")})


def test_what_makes_a_comparison_unfair_is_said(demo):
    job, *_ = read_jobs(demo)
    context = Context(
        start_kind=StartKind.RESTART,
        kernel="6.1.0-22-desktop",
        power_source=PowerSource.BATTERY,
        updates_running=True,
    )
    with step(demo, StepCode.CORRECT_MARKS, job.number) as session:
        for boot in job.postings[0].boots:
            write_boot(session, boot.__class__(**{**boot.__dict__, "context": context}))
    fair = comparability_in_words(verdict_page(read_job(demo, job.number), Measure.SETTLED, 1))
    for word in (
        "kernel differs",
        "kind of start differs: cold start before, restart after",
        "power source differs: mains before, battery after",
        "updates",
    ):
        assert word in fair


def test_the_stand_in_obeys_what_was_posted(demo, tmp_path):
    """Its next boot, recorded as any other, shows the pencilled changes once they are posted."""
    job, *_ = read_jobs(demo)
    assert job.pc == WhichPc(PcKind.STAND_IN, "ticket-desk")
    assert stand_in_setup(job).of("saltmarsh-backup") is Switch.LATER
    assert not stand_in_setup(job).bigger_swap
    postings.post(demo, job.number)
    posted = read_job(demo, job.number)
    assert stand_in_setup(posted) == Setup(
        (
            *stand_in_setup(job).switches,
            ("deckhand-updater", Switch.OFF),
            ("foghorn-notify", Switch.LATER),
        )
    )
    path = tmp_path / "boot.jsonl.gz"
    pc = pc_to_record(demo, job.number)
    object.__setattr__(pc, "speed", 1e9)
    assert record(pc, path, 1.0, lambda _lines: None, lambda: True) is None
    take_over(demo, job.number, path, pc.which)
    assert not path.exists()
    (boot,) = read_job(demo, job.number).postings[-1].boots
    assert boot.how is How.RECORDED
    assert 36 < boot.readings[Measure.SETTLED].value < 46


def test_every_job_is_recorded_on_the_pc_it_is_about(demo):
    """The demo's second PC is a stand-in, too; one that is known to be elsewhere is not here."""
    gift_shop = find_job(demo, "0398")
    assert pc_to_record(demo, gift_shop).which == WhichPc(PcKind.STAND_IN, "gift-shop")
    elsewhere = WhichPc(PcKind.REAL, "another machine")
    number = take_in(demo, Card("", "Office PC"), Facts(), elsewhere)
    with told("about another PC"):
        pc_to_record(demo, number)
    pc = pc_of(read_job(demo, number))
    with told("about another PC"):
        pc.past_boots(lambda _boots, _lines: True)
    unknown = take_in(demo, Card("", "New PC"), Facts())
    assert pc_to_record(demo, unknown).which.kind is PcKind.REAL


def test_undo_goes_job_by_job(ledger, number, job):
    """What was done on another PC in between stays, and taking in is undone last."""
    other = take_in(ledger, Card("", "Office PC"), Facts())
    timed(ledger, number, 55.0)
    timed(ledger, other, 40.0)
    assert undone(undo(ledger, number)) == "Undone: add a boot timed by hand."
    assert job().opening_boots == ()
    assert len(read_job(ledger, other).opening_boots) == 1
    assert undo(ledger, number) is None
    assert redo(ledger, number).code is StepCode.ADD_BOOT
    with told("has been worked on since"):
        undo(ledger, None)
    undo(ledger, other)
    assert undo(ledger, None).facts == {"title": "Office PC"}
    assert [one.number for one in read_jobs(ledger)] == [number]


def test_the_shelf_tells_how_far_each_job_is(ledger, number):
    (spine,) = shelf(read_shelf(ledger))
    assert (spine.state, spine.saved, spine.staircase) == ("no_boot", None, ())
    timed(ledger, number, 55.0)
    postings.write_down(ledger, number, SWAP)
    timed(ledger, number, 45.0, datetime.now(UTC) + timedelta(minutes=1))
    (spine,) = shelf(read_shelf(ledger))
    assert (spine.state, spine.saved) == ("in_the_book", 10.0)
    assert spine.staircase == (1.0, 37.0 / 47.0)


def test_the_shelf_tells_what_the_book_tells(demo):
    spines = {spine.job: spine for spine in shelf(read_shelf(demo))}
    for job in read_jobs(demo):
        book = book_page(job, Measure.SETTLED)
        assert spines[job.number].saved == pytest.approx(book.opening.value - book.closing.value)


def test_the_statement_is_whole_and_safe(demo, tmp_path):
    """Hostile names are text, not markup; both kinds of file are written whole."""
    job, *_ = read_jobs(demo)
    evil = Card("0417", "<script>alert(1)</script>\x1b[31m", "A & B", "")
    rewrite_card(demo, job.number, evil, job.facts)
    page = statement_page(read_job(demo, job.number), Measure.SETTLED)
    statement = statement_in_words(page, now())
    html = as_html(statement)
    assert "<script>" not in html
    assert "\x1b" not in html
    assert statement.answer.startswith("The PC settles")
    assert html.count('class="struck"') == 1
    save_statement(statement, tmp_path / "s.html")
    save_statement(statement, tmp_path / "s.pdf")
    assert (tmp_path / "s.html").read_text("utf-8") == html
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF-")
    with told("Choose another folder", NotSaved):
        save_statement(statement, tmp_path / "nowhere" / "s.html")
    assert sorted(path.name for path in tmp_path.glob("s*.*")) == ["s.html", "s.pdf"]


def test_hostile_text_is_shown_bounded_and_visible():
    assert shown("a\nb\x1b[0m\u202egnp.exe") == "a␊b␛[0mgnp.exe"
    assert len(shown("x" * 10_000)) == 301


def test_a_clock_that_was_ahead_keeps_no_boot_out_of_its_round(ledger, tmp_path, monkeypatch):
    """Posted in what the clock took for 2031; then it was set right, and the PC restarted."""
    number = take_in(ledger, Card("", "bench PC"), Facts())
    for name in ("first", "second"):
        path = tmp_path / f"{name}.jsonl.gz"
        record_to(path, seed=len(name), seconds=60.0)
        imported = boots.import_recording(ledger, number, path)
        if name == "first":
            monkeypatch.setattr(postings, "now", lambda: datetime(2031, 1, 1, tzinfo=UTC))
            postings.write_down(ledger, number, (Change(kind=ChangeKind.SWAP, what="swap"),))
    job = read_job(ledger, number)
    assert [len(recorded) for recorded in job.rounds] == [1, 1]
    said = in_one_line(imported.remarks)
    assert "clock was ahead" in said
    assert "Restart the PC" not in said
