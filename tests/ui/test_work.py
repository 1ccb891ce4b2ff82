"""Work off the window's thread: nothing is lost, nothing comes back to a window that is gone."""

import os
import sys
import threading
import time
from contextlib import suppress

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from sqlalchemy import text

from plucky_ledger.capture.real_pc import RealPc
from plucky_ledger.core.job.job import Card, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.ui.actions import Place
from plucky_ledger.ui.desk import BREAK_OFF_AFTER_SECONDS, CLOSE_WITHIN_SECONDS
from plucky_ledger.ui.executor import Executor
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, read_jobs, take_in
from tests.helpers.trouble import told
from tests.ui.conftest import confirm
from tests.ui.test_entries import entries, select
from tests.ui.test_window import press, settle
from tests.ui.test_window import take_in as take_in_a_pc

pytestmark = pytest.mark.cold  # what goes on has to take its time
HELD_AT_MOST_SECONDS = 300.0
"""Until a test lets go, however long it takes to come so far on a busy machine."""


@pytest.fixture
def held(on_demo):
    """Keeps the writer busy until it is let go, as a slow disk would."""
    let_go = threading.Event()
    desk = on_demo.desk
    desk.executor.write(
        lambda: let_go.wait(HELD_AT_MOST_SECONDS), lambda _: None, desk.door.trouble
    )
    yield let_go
    let_go.set()


def test_what_is_decided_while_writing_is_in_the_posting(qtbot, on_demo, held):
    """Decide, and post before the decision has been written: both are there."""
    lens = entries(qtbot, on_demo)
    select(lens, "Brassrail Till")
    lens.table.setFocus()
    qtbot.keyClick(lens.table, Qt.Key.Key_O)
    press(qtbot, on_demo, "Ctrl+Return")
    panel = on_demo.panels.posting
    qtbot.waitUntil(lambda: bool(panel.planned))
    assert on_demo.desk.busy == 1
    held.set()
    qtbot.waitUntil(lambda: "Brassrail Till" in {one.change.what for one in panel.planned})
    confirm(qtbot, panel)
    settle(qtbot, on_demo)
    job = on_demo.desk.job
    assert state_of(job, job.postings[-1]) is PostingState.POSTED
    assert "Brassrail Till" in {change.what for change in job.postings[-1].changes}


def test_closing_finishes_what_was_asked_to_be_written(qtbot, on_demo, held, demo_place):
    lens = entries(qtbot, on_demo)
    select(lens, "Brassrail Till")
    lens.table.setFocus()
    qtbot.keyClick(lens.table, Qt.Key.Key_O)
    threading.Timer(0.2, held.set).start()
    on_demo.close()
    with Ledger(demo_place) as ledger:
        job = read_job(ledger, find_job(ledger, "0417"))
    assert "Brassrail Till" in {change.what for change in job.postings[-1].changes}


def test_only_the_writers_thread_takes_steps(qtbot, on_demo):
    """A step of any other thread could overtake one that was asked for before."""
    failed = []
    executor = Executor(failed.append)
    ledger = on_demo.desk.ledger
    ledger.may_write = executor.may_write
    before = len(read_jobs(ledger))
    for ask in (
        lambda work: executor.ask("a", work, failed.append),
        lambda work: executor.ask_the_pc("b", work, failed.append),
        lambda work: executor.run(lambda _errand: work(), failed.append),
        lambda work: executor.work_out("c", work, failed.append),
    ):
        failed.clear()
        ask(lambda: take_in(ledger, Card("", "Elsewhere"), Facts()))
        qtbot.waitUntil(lambda: bool(failed))
        assert isinstance(failed[0], AssertionError)
    failed.clear()
    executor.write(lambda: take_in(ledger, Card("", "Here"), Facts()), failed.append, failed.append)
    qtbot.waitUntil(lambda: bool(failed))
    assert len(read_jobs(ledger)) == before + 1
    executor.close(5.0)


def _read_another_boot(window):
    window.desk.select_line(2)


def _work_costs_out(window):
    window.right.show_lens(LensName.ENTRIES)


def _ask_about_load(window):
    window.right.show_lens(LensName.LOAD)


def _record(window):
    window.panels.show_recording()
    window.panels.recording.start()


def _read_facts(window):
    window.panels.show_take_in()
    window.panels.take_in.read_button.click()


def _save_a_statement(window):
    window.right.show_lens(LensName.STATEMENT)


@pytest.mark.parametrize("turns", [0, 1, 5])
@pytest.mark.parametrize(
    "begin",
    [_read_another_boot, _work_costs_out, _ask_about_load, _record, _read_facts, _save_a_statement],
)
def test_the_window_closes_cleanly_during_work(on_demo, begin, turns):
    """At whatever moment: no answer reaches a window that is gone, no thread outlives it long."""
    begin(on_demo)
    for _ in range(turns):
        QApplication.processEvents()
    on_demo.close()
    lanes = (
        on_demo.desk.executor._writer,
        on_demo.desk.executor._readers,
        on_demo.desk.executor._reckoner,
        on_demo.desk.executor._runner,
    )
    assert all(lane.wait(10) for lane in lanes)
    QApplication.processEvents()


@pytest.mark.in_a_file
def test_closing_takes_two_seconds_at_most_and_lets_nobody_in_before_the_last_write(
    on_demo, demo_path, capsys
):
    """A huge save is going on, and an error comes when the window is gone already."""
    begun, over, let_in = threading.Event(), threading.Event(), []
    before = len(read_jobs(on_demo.desk.ledger))

    def huge(ledger):
        with step(ledger, StepCode.TAKE_IN, None, title="huge") as session:
            session.execute(text("UPDATE jobs SET title = 'half'"))
            begun.set()
            endless = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n)"
            try:
                session.execute(text(f"{endless} SELECT max(i) FROM n"))
            finally:
                over.set()  # before it is taken back, and nobody is let in before that

    def knock():
        while not let_in:
            # While the save is being taken back nobody can read: that is said, and tried again.
            with suppress(LedgerFault), Ledger(demo_path) as second:
                if second.read_only_because is None:
                    titles = {job.card.title for job in read_jobs(second)}
                    let_in.append(over.is_set() and "half" not in titles)

    on_demo.desk.do(huge)
    assert begun.wait(5)
    knocking = threading.Thread(target=knock)
    knocking.start()
    closing = time.monotonic()
    on_demo.close()
    assert CLOSE_WITHIN_SECONDS + BREAK_OFF_AFTER_SECONDS < 2
    assert time.monotonic() - closing < 20  # on any machine: the query has no end
    assert on_demo.desk.executor._writer.wait(5)
    knocking.join(5)
    assert let_in == [True]
    with Ledger(demo_path) as ledger:
        assert ledger.read_only_because is None
        assert len(read_jobs(ledger)) == before
        assert "half" not in {job.card.title for job in read_jobs(ledger)}
    with told("has been closed"):
        read_jobs(on_demo.desk.ledger)
    sys.excepthook(ValueError, ValueError("later"), None)
    assert "ValueError: later" in capsys.readouterr().err


def test_a_silent_log_does_not_keep_the_program_alive(on_demo, monkeypatch, tmp_path, qtbot):
    """Past boots are being read when the window is closed."""
    program = tmp_path / "journalctl"
    program.write_text("#!/bin/sh\nexec sleep 60\n")
    program.chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path}:{os.environ['PATH']}")
    started = threading.Event()

    def read(_ledger, _number, progress, _as_administrator):
        started.set()
        return RealPc().past_boots(progress)

    monkeypatch.setattr("plucky_ledger.ui.panels.arming.read_past_boots", read)
    on_demo.panels.show_arming()
    on_demo.panels.arming.read_back()
    assert started.wait(5)
    on_demo.close()
    assert on_demo.desk.executor._runner.wait(2)


def test_only_the_newest_question_is_answered(qtbot):
    """Whatever order the answers come in."""
    executor = Executor(failed=lambda error: pytest.fail(str(error)))
    first_may_end, answers = threading.Event(), []
    executor.ask("boot", lambda: first_may_end.wait(5) and "first", answers.append)
    executor.ask("boot", lambda: "second", answers.append)
    executor.ask("shelf", lambda: "other", answers.append)
    qtbot.waitUntil(lambda: len(answers) == 2)
    first_may_end.set()
    executor.close(5)
    QApplication.processEvents()
    assert sorted(answers) == ["other", "second"]


def test_writing_goes_in_order_and_failing_work_is_told_to_whoever_asked(qtbot):
    told, written = [], []
    executor = Executor(failed=told.append)
    refusal = Refused(TroubleCode.NO_REASON_FOR_BOOT)

    def refuse():
        raise refusal

    for number in range(20):
        executor.write(lambda number=number: number, written.append, told.append)
    executor.write(refuse, written.append, told.append)
    executor.ask("x", refuse, written.append)
    qtbot.waitUntil(lambda: len(told) == 2)
    executor.close(5)
    assert written == list(range(20))
    assert told == [refusal, refusal]


def test_an_errand_reports_and_is_asked_to_end_at_closing(qtbot):
    executor = Executor(failed=lambda error: pytest.fail(str(error)))
    reports, ended = [], threading.Event()

    def work(errand):
        while errand.going_on:
            errand.tell("still here")
            threading.Event().wait(0.01)
        ended.set()

    executor.run(work, lambda _: pytest.fail("nobody is there"), report=reports.append)
    qtbot.waitUntil(lambda: len(reports) > 2)
    executor.close(5)
    assert ended.is_set()
    heard = len(reports)
    QApplication.processEvents()
    assert len(reports) == heard


def _break_facts(window, monkeypatch, broken):
    monkeypatch.setattr("plucky_ledger.ui.panels.take_in.read_this_pc", broken)
    window.panels.show_take_in()
    window.panels.take_in.read_button.click()
    return window.panels.take_in


def _break_past_boots(window, monkeypatch, broken):
    monkeypatch.setattr("plucky_ledger.ui.panels.arming.read_past_boots", broken)
    window.panels.show_arming()
    window.panels.arming.read_back()
    return window.panels.arming


def _break_recording(window, monkeypatch, broken):
    monkeypatch.setattr("plucky_ledger.ui.panels.recording.record", broken)
    window.panels.show_recording()
    window.panels.recording.start()
    return window.panels.recording


@pytest.mark.parametrize("use", [_break_facts, _break_past_boots, _break_recording])
def test_a_bug_is_never_shown_as_trouble_from_outside(qtbot, empty, monkeypatch, use):
    """It reaches the exception hook, which logs it; panels tell only what a technician can mend."""
    take_in_a_pc(qtbot, empty)

    def broken(*_arguments, **_named):
        raise ZeroDivisionError("ours")

    with qtbot.capture_exceptions() as caught:
        panel = use(empty, monkeypatch, broken)
        qtbot.waitUntil(lambda: bool(caught))
    assert caught[0][0] is ZeroDivisionError
    assert "ours" not in panel.trouble.text()
    assert "ours" not in empty.message


def test_each_place_offers_what_can_be_done_there_and_the_keys_are_listed(qtbot, on_demo):
    for place, expected, never in (
        (Place.BOOK, "Write down changes…", "Take in a PC…"),
        (Place.LANES, "Set this boot aside…", "Bring this boot back"),
        (Place.SHELF, "Take in a PC…", "Keep"),
        (Place.VERDICT, "Which change did it", "Keep"),
        (Place.STATEMENT, "Save the statement as PDF…", "Keep"),
    ):
        menu = on_demo.actions_made.context_menu(place, on_demo)
        words = [action.text() for action in menu.actions()]
        assert expected in words
        assert never not in words
    press(qtbot, on_demo, "Ctrl+F1")
    listed = {shortcut for shortcut, _words in on_demo.actions_made.keys()}  # noqa: SIM118
    shortcuts = {made.shortcut().toString() for made in on_demo.actions_made.made.values()} - {""}
    assert listed == shortcuts
    assert on_demo.right.shown is on_demo.panels.keys


def test_undo_in_the_window_stays_within_the_job(qtbot, on_demo):
    """A step on another job is not undone from this one."""
    mine, desk = on_demo.desk.job.number, on_demo.desk
    press(qtbot, on_demo, "Ctrl+Backspace")
    settle(qtbot, on_demo)
    desk.do(lambda ledger: take_in(ledger, Card("", "Another PC"), Facts()))
    settle(qtbot, on_demo)
    press(qtbot, on_demo, "Ctrl+Z")
    settle(qtbot, on_demo)
    assert desk.job.number == mine
    assert desk.job.pencilled is not None
    assert "Another PC" in {job.card.title for job in read_jobs(desk.ledger)}
