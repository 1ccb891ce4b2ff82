"""What can go wrong around the recorder: crowds, hidden processes, sleep, clocks, wrong turns."""

import os
import time
from contextlib import closing

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.sampling import this_pc
from plucky_ledger.capture.sampling.programs import ProgramSampler
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, STEADY, Pace, record
from plucky_ledger.capture.sampling.reference_work import control_lines, fixed_work_seconds
from plucky_ledger.capture.sampling.this_pc import ThisPc, power_source
from plucky_ledger.core.book.comparability import boot_concerns
from plucky_ledger.core.boots.boot import Boot, Context, How, StartKind
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.exchange.names import reason_from
from plucky_ledger.recording.lines import (
    ContextLine,
    Header,
    NoteLine,
    PcFacts,
    ProgramLine,
    SampleLine,
)
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.wording.reasons import concern_in_words, reason_in_words
from tests.capture.test_recorder import made_up_proc
from tests.helpers.strategies import START


def test_five_thousand_processes_are_all_watched(tmp_path, monkeypatch):
    """With far fewer files to keep open than there are processes."""
    for pid in range(10, 5010):
        made_up_proc(tmp_path, pid, ticks=pid)
    before = len(os.listdir("/proc/self/fd"))
    sampler = ProgramSampler(tmp_path)
    sampler._room = 300
    lines = sampler.sample(1.0)
    assert sum(isinstance(line, ProgramLine) for line in lines) == 5000
    made_up_proc(tmp_path, 4999, ticks=9)
    (readings,) = sampler.sample(2.0)
    assert len(readings.rows) == 1
    assert len(os.listdir("/proc/self/fd")) - before <= 301
    sampler.close()


def test_processes_hidden_from_us_are_simply_not_there(tmp_path):
    """As with hidepid: a folder may be listed and yet not be readable."""
    made_up_proc(tmp_path, 10)
    (tmp_path / "11").mkdir()
    (tmp_path / "12").symlink_to(tmp_path / "nowhere")
    (tmp_path / "not-a-pid").mkdir()
    sampler = ProgramSampler(tmp_path)
    lines = sampler.sample(1.0)
    assert [line.pid for line in lines if isinstance(line, ProgramLine)] == [10]
    sampler.close()


class Scripted:
    """A source and clock that jumps as it is told: (instant, CPU seconds so far)."""

    def __init__(self, *steps) -> None:
        self._steps = list(steps)

    def now(self):
        return self._steps[0][0]

    def may_ask(self):
        return True

    def sleep_until(self, _instant):
        self._steps.pop(0)
        return len(self._steps) > 1

    def header(self):
        return Header(
            "plucky-ledger-recording",
            1,
            "test",
            "id",
            START.isoformat(),
            "UTC",
            PcFacts(cores=1, memory_bytes=10**9),
        )

    def opening_lines(self):
        return []

    def sample(self):
        instant, cpu = self._steps[0]
        return [SampleLine(instant, cpu, 0, 0, 0.0, 10**8, 90)]

    def closing_lines(self, _going_on):
        return [ContextLine(start_kind="cold start", suspended_seconds=3600.0)]


def test_a_pc_suspended_in_the_middle_keeps_its_recording_and_says_so(tmp_path):
    """An hour's gap on the clock that goes on in suspend; nothing before it is lost."""
    awake = [(float(t), t * 0.9) for t in range(1, 40)]
    later = [(3640.0 + t, 36.0 + t * 0.01) for t in range(30)]
    path = tmp_path / "boot.jsonl"
    source = Scripted(*awake, *later)
    with RecordingWriter(path) as writer:
        record(source, source, writer, 7200.0)
    boot = boot_from_bytes(path.read_bytes()).boot
    assert boot.context.suspended_seconds == 3600.0
    assert "the PC slept meanwhile" in map(concern_in_words, boot_concerns(boot, ()))
    assert len(boot.readings) > 0


def test_steps_that_come_too_late_are_left_out_not_made_up_for(tmp_path):
    """A machine too busy to let the recorder run does not get a burst of samples afterwards."""
    source = Scripted((1.0, 0.0), (2.0, 0.1), (9.5, 0.2), (10.5, 0.3), (11.5, 0.4), (12.5, 0.5))
    path = tmp_path / "boot.jsonl"
    with RecordingWriter(path) as writer:
        record(source, source, writer, 60.0)
        assert writer.samples == 5


def test_a_wall_clock_that_is_set_is_noted_and_moves_nothing(monkeypatch):
    monkeypatch.setattr("plucky_ledger.capture.boot_questions.told_of_this_boot", lambda *_: [])
    really = time.time
    with closing(ThisPc()) as pc:
        monkeypatch.setattr(this_pc.time, "time", lambda: really() - 3600.0)
        lines = pc.closing_lines(lambda: True)
    notes = [
        reason_in_words(reason_from(line.said)) for line in lines if isinstance(line, NoteLine)
    ]
    assert any("set by −3,600 s" in note for note in notes)


@given(st.floats(0, 500), st.floats(0, 1))
def test_sampling_is_never_quicker_than_its_cost_allows(recorded, cost):
    interval = ADAPTIVE.next_interval(recorded, cost)
    assert 0.1 <= interval <= ADAPTIVE.longest
    assert cost / interval <= ADAPTIVE.most_at_rest * 1.0001 or interval == ADAPTIVE.longest
    if interval < 1.0:
        assert cost / interval <= ADAPTIVE.most_of_a_core * 1.0001
        assert recorded < ADAPTIVE.first_seconds
    assert STEADY.next_interval(recorded, cost) == 1.0
    assert Pace(0.25, 0.25).next_interval(recorded, cost) == 0.25


def test_the_fixed_work_is_timed_by_its_quickest_go():
    ticks = iter([0.0, 5.0, 10.0, 11.0, 20.0, 23.0, 30.0, 34.0, 40.0, 42.0, 50.0, 55.0, 60.0, 69.0])
    assert fixed_work_seconds(lambda: next(ticks)) == 1.0
    first, second = (fixed_work_seconds() for _ in range(2))
    assert 0 < first < 5 * second
    assert control_lines()[0].name == "fixed work"


def test_the_power_source_is_what_the_supplies_say(tmp_path):
    assert power_source(tmp_path / "none") == ""
    for name, kind, online in (("AC", "Mains", "0"), ("BAT0", "Battery", None)):
        (tmp_path / name).mkdir()
        (tmp_path / name / "type").write_text(f"{kind}\n")
        if online is not None:
            (tmp_path / name / "online").write_text(f"{online}\n")
    assert power_source(tmp_path) == "battery"
    (tmp_path / "AC" / "online").write_text("1\n")
    assert power_source(tmp_path) == "mains"


@pytest.mark.parametrize(
    ("context", "told"),
    [
        (Context(kernel="6.2"), "the kernel differs"),
        (Context(kernel="6.1", user="somebody else"), "who signed in differs"),
        (Context(kernel="6.1", hardware="other"), "the hardware differs"),
        (Context(kernel="6.1", start_kind=StartKind.RESUME), "it is a resume"),
        (Context(kernel="6.1", updates_running=True), "updates were installing"),
        (Context(kernel="6.1", disk_checked=True), "a disk was checked"),
        (Context(kernel="6.1", user="desk"), ""),
        (Context(), ""),
    ],
)
def test_each_boot_says_whether_it_may_be_compared(context, told):
    usual = tuple(
        Boot(
            number=n,
            started_at=START,
            how=How.RECORDED,
            context=Context(kernel="6.1", user="desk", hardware="this"),
        )
        for n in range(3)
    )
    found = ", ".join(
        map(
            concern_in_words,
            boot_concerns(
                Boot(number=9, started_at=START, how=How.RECORDED, context=context), usual
            ),
        )
    )
    assert told in found if told else found == ""
