"""Later is not never: what only moved behind settled is seen by the slow look, and said.

The recording goes on after its end, nothing waits for it, and whatever cuts it costs only itself.
"""

import io
from contextlib import closing
from dataclasses import replace

import pytest

from plucky_ledger.capture.arming import armed_recorder
from plucky_ledger.capture.arming.arming import arm, armed
from plucky_ledger.capture.arming.starters import Arming, starter_of
from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.capture.sampling.slow_look import STEP_SECONDS, look_on
from plucky_ledger.core.boots.later import LEAST_LOOK_SECONDS
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.like_with_like import with_later_figures
from plucky_ledger.core.pc.arming import LOOK_SECONDS, Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.statement import statement_page
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.museum import TICKET_DESK
from plucky_ledger.store.boots import recording_of
from plucky_ledger.store.jobs import read_job as stored_job
from plucky_ledger.store.undo import undo
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs, take_in
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording import picking_up
from plucky_ledger.usecases.recording.boots import set_boot_aside
from plucky_ledger.wording.book import row_in_words
from plucky_ledger.wording.recording import remarks
from plucky_ledger.wording.statement import statement_in_words
from plucky_ledger.wording.verdict import comparability_in_words, only_moved
from tests.helpers.standin import BEGIN

BACKUP_LATER = 2
"""Line of the demo's book in which an entry was set to start later."""
HELD = (Measure.MEMORY_HELD, Measure.PROCESSES)


@pytest.fixture
def job(demo):
    return read_jobs(demo)[0]


def readings(job, measure):
    return [boot.readings[measure].value for boot in job.boots]


def test_work_that_only_moved_is_told_wherever_its_gain_is(job):
    page = verdict_page(job, Measure.SETTLED, BACKUP_LATER)
    said = only_moved(page.moved)
    assert said.startswith("Only moved: 7.9 CPU·s of Saltmarsh Backup now come 2 min after")
    assert "7.9 CPU·s only moved" in row_in_words(book_page(job, Measure.SETTLED).rows[2]).remark
    statement = statement_in_words(statement_page(job, Measure.SETTLED), BEGIN)
    assert any("Only moved" in remark for remark in statement.remarks)
    assert "only moved" in statement.done[BACKUP_LATER].result
    switched_off = verdict_page(job, Measure.SETTLED, 1)
    assert only_moved(switched_off.moved) == ""
    assert "some minutes after settled" in comparability_in_words(page)


def test_memory_is_compared_at_one_moment_of_every_boot(demo, job):
    """One boot that nobody looked at long enough, and all are read when they had settled."""
    with demo.session() as session:
        stored = stored_job(session, job.number)
    assert readings(job, HELD[0]) != readings(stored, HELD[0])
    first = stored.opening_boots[0]
    short = replace(first, context=replace(first.context, held_later={}))
    mixed = replace(stored, opening_boots=(short, *stored.opening_boots[1:]))
    assert with_later_figures(mixed) == mixed
    aside = replace(
        mixed, opening_boots=(replace(short, set_aside="odd"), *mixed.opening_boots[1:])
    )
    held = [boot.readings[HELD[1]].value for boot in with_later_figures(aside).opening_boots[1:]]
    assert held == readings(job, HELD[1])[1 : len(held) + 1]


@pytest.fixture
def looked_on(ledger, monkeypatch):
    """A boot whose recorder looks on, as armed recorders write it: its parts one by one."""
    number, place = take_in(ledger, Card("", "bench PC"), Facts()), Workplace.beside(ledger.path)
    boot = TICKET_DESK.restart(Setup(), 5, BEGIN)
    path = place.armed(number) / "boot-now.jsonl.gz"
    path.parent.mkdir(parents=True)
    monkeypatch.setattr(picking_up, "boot_id", lambda: boot.header().boot_id)
    with closing(RecordingWriter(path)) as writer:
        record(boot, boot, writer, 110.0, looked_after={ReasonCode.TIME_WAS_UP})

        def picked_up():
            return remarks(picking_up.pick_up(ledger, place, number))

        yield number, boot, writer, picked_up


def test_nothing_waits_for_the_look_and_its_end_is_taken_in_as_well(ledger, looked_on):
    number, boot, writer, picked_up = looked_on
    assert "is in the book" in picked_up()
    (early,) = read_job(ledger, number).boots
    assert early.context.held_later == {}
    assert writer.path.exists(), "its recorder is at work"
    assert picked_up() == ""
    set_boot_aside(ledger, number, early.number, "somebody leaned on the keyboard")
    look_on(boot, boot, writer, LOOK_SECONDS)
    whole = writer.path.read_bytes()
    assert "minutes after settled" in picked_up()
    assert not writer.path.exists()
    (late,) = read_job(ledger, number).boots
    assert late.set_aside, "what was decided meanwhile stays"
    assert late.readings[Measure.SETTLED] == early.readings[Measure.SETTLED]
    assert set(late.context.held_later) == set(HELD)
    assert late.context.looked_seconds > LEAST_LOOK_SECONDS
    with ledger.session() as session:
        assert recording_of(session, late.number) == whole
    undo(ledger, number)
    assert not read_job(ledger, number).boots[0].set_aside


def test_a_shutdown_ends_the_look_and_costs_only_the_rest_of_it(ledger, looked_on):
    number, boot, writer, picked_up = looked_on
    left = iter([True, True, False])
    boot.keep_pace = lambda _passed: next(left)
    assert look_on(boot, boot, writer, LOOK_SECONDS) is ReasonCode.STOPPED_BY_HAND
    assert "is in the book" in picked_up()
    assert not writer.path.exists()
    (recorded,) = read_job(ledger, number).boots
    assert 0 < recorded.context.looked_seconds < LEAST_LOOK_SECONDS
    assert recorded.context.held_later == {}, "too short to tell what is held in the end"


def test_whatever_cuts_or_damages_the_look_leaves_the_recording_whole(looked_on):
    _number, boot, writer, _picked_up = looked_on
    end = writer.path.stat().st_size
    before = read_recording(io.BytesIO(writer.path.read_bytes()))
    look_on(boot, boot, writer, LOOK_SECONDS)
    data = writer.path.read_bytes()
    assert len(read_recording(io.BytesIO(data)).later.samples) == LOOK_SECONDS / STEP_SECONDS
    for place in range(end, len(data), 97):
        for wrong in (data[:place], data[:place] + b"\xff\0" + data[place + 2 :]):
            back = read_recording(io.BytesIO(wrong))
            assert back.samples == before.samples
            assert (back.end, back.damage) == (before.end, None)


def test_the_boot_is_counted_before_the_look_begins(tmp_path, monkeypatch):
    """The next restart may come at any moment: what is left to record is right by then."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    places = Folders(tmp_path / "config", (), tmp_path / "system", tmp_path / "var" / "recorder")
    arm(Arming(2, str(tmp_path), 0, "0417", id="a", look_seconds=30.0), Level.USER, places)
    seen = []
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 1.0)
    at_rest = lambda watch, _sample: setattr(watch, "rested", True)  # noqa: E731
    monkeypatch.setattr(armed_recorder.RestWatch, "take", at_rest)

    def look(_source, _clock, writer, seconds):
        seen.append((armed(places)[0].arming.boots_left, seconds))
        writer.finish("time_was_up")
        return ReasonCode.TIME_WAS_UP

    monkeypatch.setattr(armed_recorder, "look_on", look)
    assert armed_recorder.record_for_the_user(starter_of(Level.USER, places).path) == 0
    assert seen == [(1, 30.0)]
