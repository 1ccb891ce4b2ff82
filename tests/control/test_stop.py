"""Ending a running program: asked first, then made to, and watched for coming back."""

import os
import shutil
import subprocess
import time

import pytest

from plucky_ledger.control import stop as stopping
from plucky_ledger.control.stop import processes, stop
from plucky_ledger.core.pc.stopping import ToStop
from tests.helpers.trouble import told

STARTS_AGAIN = 'while true; do "{program}" 60; sleep 0.1; done'
DEAF = "trap '' TERM; while true; do {program} 0.2; done"


@pytest.fixture
def program(tmp_path, monkeypatch):
    """A program that nobody else runs."""
    monkeypatch.setattr(stopping, "OBSERVED_SECONDS", 3.0)
    monkeypatch.setattr(stopping, "POLITE_SECONDS", 1.0)
    return shutil.copy(shutil.which("sleep"), tmp_path / "lanternprint")


def running(command, program):
    process = subprocess.Popen(command)
    deadline = time.monotonic() + 10
    while not any(one.program == str(program) for one in processes()):
        assert time.monotonic() < deadline
        time.sleep(0.05)
    return process


def nobody(_unit):
    pytest.fail("this is no service")


def test_what_stays_away_is_said_to(program):
    process = running([program, "60"], program)
    done = stop(ToStop("lanternprint", program=str(program)), nobody)
    assert process.wait(5) < 0
    assert (done.processes, done.forced, done.came_back_seconds) == (1, 0, None)
    assert done.freed_bytes > 10_000
    with told("not running"):
        stop(ToStop("lanternprint", program=str(program)), nobody)


def test_what_comes_back_is_said_with_what_started_it(program):
    keeper = shutil.copy(os.path.realpath("/bin/sh"), program.with_name("keeper"))
    process = running([keeper, "-c", STARTS_AGAIN.format(program=program)], program)
    try:
        done = stop(ToStop("lanternprint", program=str(program)), nobody)
    finally:
        process.kill()
        process.wait()
    assert done.came_back_seconds < 3.0
    assert done.started_again_by == "keeper"


def test_what_does_not_listen_is_made_to_end(program):
    deaf = shutil.copy(os.path.realpath("/bin/sh"), program.with_name("deaf"))
    process = running([deaf, "-c", DEAF.format(program=program)], program)
    done = stop(ToStop("deaf", program=str(deaf)), nobody)
    assert process.wait(5) == -9
    assert done.forced == 1
