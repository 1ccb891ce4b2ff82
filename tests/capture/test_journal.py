"""The OS journal: past boots from real messages, and everything that can be wrong with a log."""

import gzip
import json
import os
import stat
import time
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture import real_pc
from plucky_ledger.capture.log import journal_stream as log
from plucky_ledger.capture.log import system_log as log_of_boots
from plucky_ledger.capture.log.system_log import boots_from, kind_of_end, past_boots
from plucky_ledger.capture.real_pc import RealPc
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.linux import administrator as becoming
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.recording.lines import MarkLine
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.recording.past_boots import keep_past_boots, read_past_boots
from plucky_ledger.wording.recording import read_back
from tests.helpers.trouble import told

FOLDER = Path(__file__).parent.parent / "data" / "real-boot"


@pytest.fixture(scope="module")
def real_lines():
    with gzip.open(FOLDER / "journal.jsonl.gz", "rb") as file:
        return [with_program(line) for line in file.read().splitlines()]


def with_program(line: bytes) -> bytes:
    """The capture was made without the field that says which program wrote a message."""
    program = b'{"_EXE": "/usr/lib/systemd/systemd", '
    return line.replace(b"{", program, 1) if b"_PID" in line else line


@pytest.fixture
def journal(tmp_path, monkeypatch):
    """Puts a program in place of the journal's reader that writes what it is given."""

    def write(script: str):
        program = tmp_path / "journalctl"
        program.write_text(f"#!/bin/sh\n{script}\n")
        program.chmod(program.stat().st_mode | stat.S_IXUSR)
        monkeypatch.setenv("PATH", f"{tmp_path}:{os.environ['PATH']}")

    return write


def test_three_real_boots_are_read_back(real_lines):
    found = boots_from(real_lines)
    totals = [round(b.kernel + (b.initrd or 0) + b.userspace, 1) for b in found]
    assert totals == [55.9, 59.7, 42.2]
    starting, started, failed = found[0].units["harborledger-import.service"]
    assert (starting, started) == (pytest.approx(41.55, abs=0.1), pytest.approx(55.69, abs=0.1))
    assert failed == ""
    assert "harborledger-import.service" not in found[2].units


def test_read_back_boots_make_an_opening_round_at_once(real_lines, ledger):
    number = take_in(ledger, Card("", "bench PC"), Facts())
    found = boots_from(real_lines)
    recordings = [boot.as_recording() for boot in found]
    outcome = keep_past_boots(ledger, number, recordings)
    assert read_back(outcome).startswith("3 past boots read back")
    again = keep_past_boots(ledger, number, recordings)
    assert (again.added, again.known) == (0, 3)
    boots = read_job(ledger, number).opening_boots
    assert {boot.how for boot in boots} == {How.JOURNAL}
    assert read_job(ledger, number).pc.kind is PcKind.REAL
    assert sorted(round(b.readings[Measure.SYSTEM_UP].value, 1) for b in boots) == [
        42.2,
        55.9,
        59.7,
    ]
    lanes = lanes_page(Analyses().of(ledger, number, boots[0]))
    assert any(lane.name == "tideclock-sync.service" for lane in lanes.lanes)
    assert lanes.strips == ()


def test_a_clock_set_back_during_boot_changes_no_duration(real_lines):
    """The wall clock jumps an hour; what counts is the clock that only goes forward."""
    jumped = []
    for line in real_lines:
        entry = json.loads(line)
        if int(entry["__MONOTONIC_TIMESTAMP"]) > 20_000_000:
            entry["__REALTIME_TIMESTAMP"] = str(int(entry["__REALTIME_TIMESTAMP"]) - 3_600_000_000)
        jumped.append(json.dumps(entry).encode())
    assert [b.units for b in boots_from(jumped)] == [b.units for b in boots_from(real_lines)]


@given(
    st.lists(
        st.binary(max_size=60)
        | st.sampled_from(
            [
                b"{}",
                b"[]",
                b"null",
                b'{"_BOOT_ID":"x"}',
                b'{"_BOOT_ID":7,"__MONOTONIC_TIMESTAMP":"-5"}',
                b'{"_BOOT_ID":"x","__MONOTONIC_TIMESTAMP":"9","_PID":"1","UNIT":["a"],"MESSAGE_ID":null}',
            ]
        ),
        max_size=20,
    )
)
def test_a_corrupted_log_gives_what_can_be_read_and_nothing_else(real_lines, rubbish):
    mixed = [*rubbish, *real_lines[:400], *rubbish]
    assert len(boots_from(mixed)) == len(boots_from(real_lines[:400]))


def test_reading_stops_when_it_is_told_to(real_lines):
    seen = []

    def stop(boots, lines):
        seen.append(lines)
        return False

    boots_from(real_lines * 3, stop)
    assert seen == [500]


def test_a_log_without_end_is_left_in_time(journal, monkeypatch):
    monkeypatch.setattr(log, "LONGEST_SECONDS", 0.5)
    journal("while :; do echo '{}'; done")
    begin = time.monotonic()
    with told("no finished boot"):
        past_boots()
    assert time.monotonic() - begin < 10


def test_lines_longer_than_any_message_are_passed_over(journal, real_lines, tmp_path):
    data = tmp_path / "lines"
    data.write_bytes(b"\n".join([b"x" * 300_000, *real_lines]) + b"\n")
    journal(f"cat {data}")
    assert len(past_boots()) == 3


def test_a_pc_without_a_kernel_stage_says_it_with_another_message():
    """As in a container: the message of a user's manager, from process 1."""
    finished = {
        "MESSAGE_ID": log_of_boots.USER_STARTUP_FINISHED,
        "_PID": "1",
        "_BOOT_ID": "ab" * 16,
        "_EXE": "/usr/lib/systemd/systemd",
        "USERSPACE_USEC": "7900000",
        "__MONOTONIC_TIMESTAMP": "8600000",
        "__REALTIME_TIMESTAMP": "1790000000000000",
    }
    (boot,) = boots_from([json.dumps(finished).encode()])
    marks = {line.name: line.seconds for line in boot.lines() if isinstance(line, MarkLine)}
    assert marks["system up"] == pytest.approx(8.6)
    assert boot.user_services is None
    of_a_user = {**finished, "_PID": "812"}
    assert boots_from([json.dumps(of_a_user).encode()]) == []


def test_a_log_that_is_not_for_everybody_is_read_through_the_administrator(
    journal, real_lines, tmp_path, monkeypatch
):
    """For this one thing; whoever may not is told what to try."""
    data = tmp_path / "lines"
    data.write_bytes(b"\n".join(real_lines) + b"\n")
    journal("true")
    monkeypatch.setattr(log_of_boots, "is_administrator", lambda: False)
    monkeypatch.setattr(real_pc, "is_administrator", lambda: False)
    monkeypatch.setattr(becoming, "is_administrator", lambda: False)
    with told("The administrator may read it"):
        RealPc().past_boots(lambda _boots, _lines: True)
    monkeypatch.setattr(becoming, "_becoming", lambda: ["env"])
    journal(f"cat {data}")
    recordings = RealPc().past_boots(lambda _boots, _lines: True, as_administrator=True)
    assert recordings == [boot.as_recording() for boot in boots_from(real_lines)]
    monkeypatch.setattr(becoming, "_becoming", lambda: ["false"])
    with told("no password was accepted"):
        RealPc().past_boots(lambda _boots, _lines: True, as_administrator=True)


def test_no_journal_is_a_sentence(monkeypatch, tmp_path, ledger):
    monkeypatch.setenv("PATH", str(tmp_path))
    number = take_in(ledger, Card("", "bench PC"), Facts())
    with told("Record its boots instead"):
        read_past_boots(ledger, number, lambda _boots, _lines: True)


def test_how_the_boot_before_ended_says_what_kind_of_start_this_is():
    def ended(*units):
        return kind_of_end(json.dumps({"UNIT": unit}).encode() for unit in units)

    assert ended("final.target", "reboot.target") == "restart"
    assert ended("systemd-poweroff.service") == "cold start"
    assert ended("cron.service") == ""


def test_a_boot_read_back_knows_when_it_was(real_lines):
    started = datetime.fromtimestamp(boots_from(real_lines)[0].started_at, UTC)
    assert started.year == 2026
