"""Asking others: whatever they do, the recording ends whole, in time, and says what is missing."""

import os
import signal
import socket
import stat
import struct
import subprocess
import sys
import threading
import time
from contextlib import closing, contextmanager
from pathlib import Path

import msgspec
import pytest

from plucky_ledger.capture import boot_questions, inquiry
from plucky_ledger.capture.inquiry import InquiryAnswer, ask
from plucky_ledger.capture.sampling.recorder import BootClock, Pace, record
from plucky_ledger.capture.sampling.this_pc import ThisPc
from plucky_ledger.capture.services import services
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.exchange.names import reason_from
from plucky_ledger.linux.bus import NoAnswer, opened
from plucky_ledger.recording import limits
from plucky_ledger.recording.lines import (
    ActivityLine,
    EntryLine,
    Header,
    MarkLine,
    NoteLine,
    PcFacts,
    StageLine,
    said,
)
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.wording.reasons import reason_in_words

READY = MarkLine("ready", 3.0)


def always():
    return True


def told(answer):
    return reason_in_words(reason_from(answer.missing))


def test_what_was_answered_is_kept_and_what_is_missing_said():
    def hangs():
        yield READY
        time.sleep(60)

    def breaks():
        yield READY
        raise KeyError("whatever")

    def floods():
        while True:
            yield MarkLine("x" * 4000, 1.0)

    def starves():
        yield READY
        yield MarkLine("x" * (10**9), 1.0)

    def lies():
        yield READY
        yield MarkLine("x", 1e99)

    begun = time.monotonic()
    answers = {work.__name__: ask(work, 2.0, always) for work in (hangs, breaks, starves, lies)}
    assert all(answer.lines == [READY] for answer in answers.values())
    assert told(answers["hangs"]) == "no answer within 2 s"
    assert {told(answers[name]) for name in ("breaks", "starves", "lies")} == {
        "it answered in a way that cannot be read"
    }
    assert told(ask(floods, 20.0, always)) == "the answer was too large"
    assert time.monotonic() - begun < 60
    assert ask(lambda: [READY], 5.0, always) == inquiry.InquiryAnswer([READY])


def test_it_ends_at_once_with_all_that_it_started(tmp_path):
    """Also what was started in turn, such as a query tool that hangs."""
    left = tmp_path / "pid"

    def starts_another():
        yield READY
        left.write_text(str(subprocess.Popen(["sleep", "60"]).pid))
        time.sleep(60)

    answer = ask(starts_another, 60.0, lambda: not left.exists())
    assert told(answer) == "recording was to end at once"
    assert answer.lines == [READY]
    for _ in range(1000):
        status = Path(f"/proc/{left.read_text()}/stat")
        if not status.exists() or ") Z " in status.read_text():
            return
        time.sleep(0.02)
    pytest.fail("it goes on")


def test_it_ends_with_whoever_asked(tmp_path):
    """The recorder is killed outright while it asks."""
    left = tmp_path / "pid"
    code = (
        "import os, sys, time\nfrom pathlib import Path\n"
        "from plucky_ledger.capture.inquiry import Inquiry\n"
        "def hangs():\n"
        "    Path(sys.argv[1]).write_text(str(os.getpid()))\n"
        "    while True: time.sleep(9)\n"
        "Inquiry(hangs)\n"
        "while True: time.sleep(9)\n"
    )
    asker = subprocess.Popen([sys.executable, "-c", code, str(left)])
    while not left.exists() or not left.read_text():
        time.sleep(0.02)
    asker.kill()
    asker.wait()
    for _ in range(1000):
        if not Path(f"/proc/{left.read_text()}").exists():
            return
        time.sleep(0.02)
    pytest.fail("it goes on")


@contextmanager
def bus_that(behaves):
    """Address of something that is taken for a message bus and does what it likes."""
    listener = socket.socket(socket.AF_UNIX)
    listener.bind(f"\0plucky-ledger-test-{os.getpid()}-{id(behaves)}")
    listener.listen()
    over = threading.Event()

    def serve():
        connection, _ = listener.accept()
        with connection:
            connection.recv(4096)
            connection.sendall(b"OK 1234deadbeef\r\n")
            connection.recv(4096)
            try:
                behaves(connection, over)
            except OSError:
                return

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    try:
        yield f"unix:abstract={listener.getsockname()[1:].decode()}"
    finally:
        over.set()
        thread.join(5)
        listener.close()


def silent(_connection, over):
    over.wait(20)


def dripping(connection, over):
    while not over.wait(0.01):
        connection.sendall(b"l")


def gigantic(connection, over):
    connection.sendall(struct.pack("<cBBBIII", b"l", 2, 0, 1, 2**31 - 1, 1, 0))
    block = b"\0" * 65536
    while not over.is_set():
        connection.sendall(block)


def rubbish(connection, over):
    connection.sendall(os.urandom(4000))
    over.wait(20)


@pytest.mark.parametrize("behaves", [silent, dripping, gigantic, rubbish])
def test_no_bus_holds_us_up_or_fills_our_memory(behaves):
    begun = time.monotonic()
    with bus_that(behaves) as address, pytest.raises(NoAnswer), opened(address, seconds=0.5):
        pass
    assert time.monotonic() - begun < 15


@pytest.mark.parametrize(
    ("number", "ends"),
    [(signal.SIGTERM, "at once"), (signal.SIGHUP, "at once"), (signal.SIGINT, "")],
)
def test_a_silent_pc_cannot_keep_a_recording_from_ending(tmp_path, number, ends):
    """The log's reader hangs; SIGTERM ends the recording whole all the same."""
    program = tmp_path / "journalctl"
    program.write_text("#!/bin/sh\nsleep 60\n")
    program.chmod(program.stat().st_mode | stat.S_IXUSR)
    path = tmp_path / "boot.jsonl"
    code = (
        "import signal\nimport sys\nfrom plucky_ledger.capture import boot_questions\n"
        "signal.signal(signal.SIGHUP, signal.SIG_DFL)\n"  # whoever runs us may ignore it
        "boot_questions.LOG_SECONDS = 1.0\n"
        "from plucky_ledger.cli.record import main\nsys.exit(main(sys.argv[1:]))"
    )
    recorder = subprocess.Popen(
        [sys.executable, "-c", code, "--for", "60", "--out", str(path)],
        env={**os.environ, "PATH": f"{tmp_path}:{os.environ['PATH']}"},
        stdout=subprocess.DEVNULL,
    )
    while not path.exists() or path.stat().st_size < 500:
        time.sleep(0.02)
    recorder.send_signal(number)
    assert recorder.wait(timeout=30) == 0
    with path.open("rb") as file:
        back = read_recording(file)
    assert not back.cut_short
    notes = [reason_in_words(reason_from(note.said)) for note in back.notes]
    assert any("How the PC was started is not known" in note and ends in note for note in notes)


def test_nobody_can_fail_for_the_others(monkeypatch):
    def broken():
        raise RuntimeError("odd")

    monkeypatch.setattr(services, "lines_of_the_system", broken)
    monkeypatch.setattr(
        "plucky_ledger.capture.services.services.lines_of_the_user", lambda _address: [READY]
    )
    monkeypatch.setattr("plucky_ledger.capture.packages.packages.manager_of_this_pc", broken)
    lines = boot_questions.told_of_this_boot(always)
    assert READY in lines
    codes = {line.said.code for line in lines if isinstance(line, NoteLine)}
    assert {"no_service_manager", "no_packages"} <= codes


def test_services_are_in_a_recording_as_soon_as_they_are_up(tmp_path, monkeypatch):
    """Also where the PC goes down before it has come to rest: nobody is asked any more then."""
    quay = EntryLine("quay.service", "Quay", "system", "system service")
    up = [quay, ActivityLine("quay.service"), MarkLine("system up", 12.0), NoteLine("not yet")]
    monkeypatch.setattr(services, "wait_until_up", lambda *_: True)
    monkeypatch.setattr(services, "lines_of_the_system", lambda: up)
    monkeypatch.setattr(
        "plucky_ledger.capture.services.services.lines_of_the_user", lambda _address: []
    )
    monkeypatch.setattr(
        "plucky_ledger.capture.services.services.bus_of_the_person",
        lambda **_asked: (os.getuid(), ""),
    )

    class Clock(BootClock):
        def may_ask(self):
            return False

    path = tmp_path / "boot.jsonl"
    with RecordingWriter(path) as writer, closing(ThisPc(armed=True)) as source:
        record(source, Clock(), writer, 2.0, Pace(0.1, 0.1))
    with path.open("rb") as file:
        back = read_recording(file)
    assert [line.entry for line in back.entries if line.entry == "quay.service"] == ["quay.service"]
    assert "system up" in [mark.name for mark in back.marks]
    codes = {note.said.code for note in back.notes if note.said}
    assert "no_service_manager" not in codes
    assert {"no_log", "no_packages"} <= codes
    assert not any(note.text == "not yet" for note in back.notes)
    assert not back.cut_short


def test_what_is_told_again_replaces_what_was_told_before():
    header = Header(
        "plucky-ledger-recording", 1, "t", "i", "2026-11-02T08:00:00+00:00", "", PcFacts()
    )
    first, later = (
        [
            EntryLine("a", name, "system", "system service"),
            ActivityLine("a", up_at=at),
            StageLine("kernel", 0.0, at),
            MarkLine("system up", at),
        ]
        for name, at in (("early", 1.0), ("late", 2.0))
    )
    data = b"".join(msgspec.json.encode(line) + b"\n" for line in (header, *first, *later))
    recorded = boot_from_bytes(data)
    assert [entry.name for entry in recorded.timeline.entries] == ["late"]
    assert [activity.up_at for activity in recorded.timeline.activities] == [2.0]
    assert [stage.end for stage in recorded.timeline.stages] == [2.0]
    assert list(recorded.boot.marks.values()) == [2.0]


def test_what_is_asked_always_fits_behind_what_was_recorded():
    """Two managers early, and both of them again at the end, each as much as it may say."""
    assert limits.MOST_TEXT_BEFORE_CLOSING + 4 * inquiry.MOST_BYTES <= limits.MOST_TEXT


def test_other_people_who_do_not_answer_are_counted(monkeypatch):
    """Their manager is silent, or their whole inquiry ends without a word."""
    theirs = EntryLine("person:warden:x.service", "X (warden)", "user", "user service")
    silent = NoteLine(said=said(ReasonCode.NO_USER_SERVICES))
    answers = iter(
        [
            InquiryAnswer([theirs], None),
            InquiryAnswer([silent], None),
            InquiryAnswer([], said(ReasonCode.NO_BUS)),
        ]
    )
    monkeypatch.setattr(boot_questions, "is_administrator", lambda: True)
    monkeypatch.setattr(services, "people_here", lambda: {1001, 1002, 1003})
    monkeypatch.setattr(boot_questions, "ask", lambda *_: next(answers))
    entry, note = boot_questions._of_the_others(lambda: True)
    assert (entry, note.said.facts) == (theirs, {"people": 2})
