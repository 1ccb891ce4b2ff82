"""Armed on a PC whose services an init system starts: by a script, and without a trace left."""

import os
import shlex
import subprocess
import time

import pytest

from plucky_ledger.capture.arming import arming as arming_module
from plucky_ledger.capture.arming import starters
from plucky_ledger.capture.arming.arming import NotArmed, arm, armed, count_down, take_away
from plucky_ledger.capture.arming.init_starters import TableLine
from plucky_ledger.capture.arming.starters import Arming, starter_of
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import InitSystem
from tests.control.test_init_scripts import settings
from tests.helpers.users import SOMEBODY, needs_administrator
from tests.made_up_pcs.init_systems import made_up_pc

NAME = "plucky-ledger-recorder"
STARTED_BY = {
    InitSystem.SYSVINIT: "etc/inittab",
    InitSystem.OPENRC: f"etc/runlevels/sysinit/{NAME}",
    InitSystem.RUNIT: f"etc/runit/runsvdir/default/{NAME}",
}


@pytest.fixture(params=list(InitSystem))
def system(request, monkeypatch):
    monkeypatch.setattr(starters, "init_system", lambda: request.param)
    return request.param


@pytest.fixture
def folders(tmp_path, system):
    made_up_pc(tmp_path, system)
    return Folders(
        tmp_path / "config",
        (),
        tmp_path / "units",
        tmp_path / "var/plucky-ledger",
        etc=tmp_path / "etc",
    )


def to_be_armed(folders, boots=2):
    return Arming(boots, str(folders.etc), os.geteuid(), "0417", id="this")


@needs_administrator
def test_every_trace_is_removed(tmp_path, folders, system):
    at_first = settings(tmp_path)
    arm(to_be_armed(folders), Level.SYSTEM, folders)
    (there,) = armed(folders)
    assert there.arming.boots_left == 2
    assert os.access(there.starter.path, os.X_OK)
    started_by = tmp_path / STARTED_BY[system]
    assert (
        NAME in started_by.read_text() if system is InitSystem.SYSVINIT else started_by.is_symlink()
    )
    assert count_down(there.starter, "this") == 1
    assert armed(folders)[0].arming.boots_left == 1
    assert count_down(there.starter, "this") == 0
    assert not armed(folders)
    assert not there.starter.traces
    left = {path: what for path, what in settings(tmp_path).items() if "var" not in path.parts}
    assert left == at_first


@needs_administrator
def test_what_is_damaged_is_removed_as_well(tmp_path, folders, system):
    at_first = settings(tmp_path / "etc")
    arm(to_be_armed(folders), Level.SYSTEM, folders)
    starter = starter_of(Level.SYSTEM, folders)
    starter.path.write_text("cut o")
    assert not armed(folders)
    assert take_away(starter)
    assert not take_away(starter)
    after = {p: what for p, what in settings(tmp_path / "etc").items() if NAME not in p.name}
    assert after == at_first


@needs_administrator
def test_the_script_takes_itself_away_where_the_program_is_gone(tmp_path, folders, system):
    """Nobody else would."""
    at_first = settings(tmp_path / "etc")
    arm(to_be_armed(folders), Level.SYSTEM, folders)
    starter = starter_of(Level.SYSTEM, folders)
    text = starter.path.read_text()
    (there,) = [line for line in text.split("\n") if line.startswith("exec ")]
    command = there.removeprefix("exec ").partition(" ) <")[0]
    gone = command.replace(str(starter.own_copy), str(tmp_path / "gone"))
    done = subprocess.run(shlex.split(gone), capture_output=True, text=True, check=False)
    assert "is gone from this PC" in done.stderr
    after = {p: what for p, what in settings(tmp_path / "etc").items() if NAME not in p.name}
    assert after == at_first
    assert not starter.path.exists()


@needs_administrator
def test_a_script_starts_the_recorder_and_does_not_wait_for_it(folders, tmp_path):
    """The init system goes on at once; only when it says start, and nothing when it says stop."""
    arm(to_be_armed(folders), Level.SYSTEM, folders)
    starter, there = starter_of(Level.SYSTEM, folders), tmp_path / "there"
    main = f"import pathlib, time\ntime.sleep(4.0)\npathlib.Path({str(there)!r}).touch()\n"
    (starter.own_copy / "__main__.py").write_text(main)
    is_supervised = starter.path.name == "run"
    for asked in ("start",) if is_supervised else ("stop", "start"):
        done = subprocess.run([starter.path, asked], check=False, timeout=20, cwd=tmp_path)
        assert done.returncode == 0
        assert not there.exists()
        deadline = time.monotonic() + (30.0 if asked == "start" else 6.0)
        while not there.exists() and time.monotonic() < deadline:
            time.sleep(0.05)
        assert there.exists() is (asked == "start")
    take_away(starter)


@needs_administrator
@pytest.mark.parametrize("how", ["others", "link", "huge", "folder"])
def test_a_table_that_is_not_roots_alone_is_not_written(tmp_path, monkeypatch, how):
    monkeypatch.setattr(starters, "init_system", lambda: InitSystem.SYSVINIT)
    made_up_pc(tmp_path, InitSystem.SYSVINIT)
    table, secret = tmp_path / "etc/inittab", tmp_path / "secret"
    secret.write_text("the administrator's\n")
    if how == "others":
        os.chown(table, SOMEBODY, SOMEBODY)
    elif how == "huge":
        table.write_text("x\n" * 200_000)
    else:
        table.unlink()
        table.symlink_to(secret) if how == "link" else table.mkdir()
    folders = Folders(tmp_path / "c", (), tmp_path / "u", tmp_path / "var/p", etc=tmp_path / "etc")
    at_first = settings(tmp_path / "etc")
    with pytest.raises(NotArmed):
        arm(to_be_armed(folders), Level.SYSTEM, folders)
    assert settings(tmp_path / "etc") == at_first
    assert secret.read_text() == "the administrator's\n"


def test_only_the_own_line_is_taken_out(tmp_path):
    table = tmp_path / "inittab"
    table.write_bytes(b"# \xe9t\xe9\r\nid:2:initdefault:\nlast without an end")
    table.chmod(0o640)
    at_first = table.read_bytes()
    line = TableLine(table, "plr::sysinit:/x start\n")
    line.put()
    line.put()
    assert table.read_bytes() == b"plr::sysinit:/x start\n" + at_first
    assert line.is_there
    line.take_out()
    assert (table.read_bytes(), table.stat().st_mode & 0o777) == (at_first, 0o640)
    assert not TableLine(tmp_path / "none", "x\n").is_there


def test_without_any_of_them_the_system_is_started_by_units(tmp_path, monkeypatch):
    monkeypatch.setattr(starters, "init_system", lambda: None)
    folders = Folders(tmp_path / "config", (), tmp_path / "units", tmp_path / "var")
    starter = starter_of(Level.SYSTEM, folders)
    assert starter.path.parent == tmp_path / "units"
    assert arming_module.folders_to_make(starter)


@needs_administrator
def test_what_a_user_says_is_no_command_of_roots(folders, tmp_path):
    """The label and the words of notices stand in a script that root runs."""
    hostile = "x\n touch /tmp/mine #\r`id`$(id)\u2028\x0b'\"\\"
    wanted = Arming(
        2, str(folders.etc), os.geteuid(), hostile, id="this", notices=(hostile, hostile, "")
    )
    arm(wanted, Level.SYSTEM, folders)
    starter = starter_of(Level.SYSTEM, folders)
    arm_lines = starter.path.read_bytes().split(b"\n")
    take_away(starter)
    arm(to_be_armed(folders), Level.SYSTEM, folders)
    plain_lines = starter.path.read_bytes().split(b"\n")
    differ = [(a, b) for a, b in zip(arm_lines, plain_lines, strict=True) if a != b]
    assert all(a.startswith(b"# State: {") and b"\r" not in a for a, _ in differ)
    assert len(differ) == 1
    take_away(starter)
    assert b"/tmp/mine" not in (tmp_path / "etc/inittab").read_bytes()
