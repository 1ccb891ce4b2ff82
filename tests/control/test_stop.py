"""Ending a running program: asked first, then made to, and watched for coming back."""

import os
import shutil
import subprocess
import time

import pytest

from plucky_ledger.control import stop as stopping
from plucky_ledger.control.running import RunningProcess, processes
from plucky_ledger.control.session_guard import carriers
from plucky_ledger.control.stop import stop
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


def test_what_started_this_program_is_not_ended():
    ours = next(one for one in processes() if one.pid == os.getppid())
    with told("would end the session"):
        stop(ToStop("terminal", program=ours.program), nobody)
    assert any(one.pid == ours.pid for one in processes())


def a_process(pid, parent, group="/user.slice/user-1000.slice/session-2.scope"):
    return RunningProcess(
        pid=pid, parent=parent, started_ticks=pid, name="x", program="/x", user=1000, group=group
    )


def test_the_first_programs_of_a_session_carry_it_and_what_it_started_does_not():
    """Leader, session program, and its three programs; one has been let go of, one is a service."""
    session = [
        a_process(20, 1),
        a_process(21, 20),
        *(a_process(pid, 21) for pid in (30, 31)),
        a_process(32, 1),
        a_process(40, 1, "/system.slice/foghorn.service"),
    ]
    assert carriers(session) == {20, 21}


def test_who_listens_where_sessions_look_carries_them(tmp_path):
    proc = tmp_path / "proc"
    for pid, socket in ((50, 777), (51, 778)):
        (proc / str(pid) / "fd").mkdir(parents=True)
        (proc / str(pid) / "fd" / "3").symlink_to(f"socket:[{socket}]")
    (proc / "net").mkdir()
    line = "0000000000000000: 00000002 00000000 00010000 0001 01 {inode} {path}\n"
    rows = [
        "Num RefCount Protocol Flags Type St Inode Path\n",
        line.format(inode=777, path="/run/user/1000/wayland-0"),
        line.format(inode=778, path="/run/user/1000/foghorn"),
    ]
    (proc / "net/unix").write_text("".join(rows))
    both = [a_process(50, 1, ""), a_process(51, 1, "")]
    assert carriers(both, proc) == {50}
