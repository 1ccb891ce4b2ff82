"""Armed recording: it starts by itself, counts down, and leaves no trace."""

import os
import pwd
import sys
from pathlib import Path

import pytest

from plucky_ledger.capture import arming, this_pc
from plucky_ledger.capture.arming import arm, disarm
from plucky_ledger.capture.rest_watch import CALM_SECONDS, MARGIN_SECONDS, RestWatch
from plucky_ledger.cli import record as record_command
from plucky_ledger.cli.record import main as record_main
from plucky_ledger.core.book.job import Card
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.linux.folders import Folders
from plucky_ledger.recording.lines import ContextLine, SampleLine
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.arming import armed_state, pick_up
from plucky_ledger.usecases.jobs import read_job, take_in
from plucky_ledger.usecases.workplace import Workplace
from plucky_ledger.wording.recording import remarks
from tests.helpers.trouble import told


@pytest.fixture
def places(tmp_path):
    config = tmp_path / "config"
    return Folders(config, (), tmp_path / "system")


def files(folder):
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*") if not path.is_dir())


@pytest.mark.parametrize("level", list(Level))
def test_disarming_removes_every_trace(tmp_path, places, level):
    folder = tmp_path / "armed"
    assert arm(folder, 3, level, places).boots_left == 3
    made = files(tmp_path)
    assert len(made) >= 2
    starts = next(p for p in tmp_path.rglob("plucky-ledger-recorder.*") if not p.is_symlink())
    assert f"{sys.executable} -m plucky_ledger record --armed" in starts.read_text()
    assert all(stat & 0o077 == 0 for stat in ((tmp_path / f).lstat().st_mode for f in made
                                              if not (tmp_path / f).is_symlink()))  # fmt: skip
    assert disarm(folder)
    assert files(tmp_path) == []
    assert not disarm(folder)


def test_it_cannot_be_armed_twice_or_for_ever(tmp_path, places):
    folder = tmp_path / "armed"
    arm(folder, 1, Level.USER, places)
    with told("already"):
        arm(folder, 1, Level.USER, places)
    with told("1 to 20"):
        arm(tmp_path / "other", 500, Level.USER, places)


def test_what_cannot_be_written_leaves_nothing_behind(tmp_path, places):
    """A file stands where the folder of units should be."""
    (tmp_path / "config").write_text("")
    before = files(tmp_path)
    with told("Nothing was armed"):
        arm(tmp_path / "armed", 2, Level.USER, places)
    assert files(tmp_path) == before


def test_armed_boots_are_recorded_counted_and_picked_up(tmp_path, ledger, places, monkeypatch):
    """As the service manager would start it, twice; then the ledger takes both in."""
    monkeypatch.setattr(arming, "LIMIT_SECONDS", 1.0)
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    folder = place.armed(number)
    arm(folder, 2, Level.AUTOSTART, places)
    for boot in ("first", "second"):
        monkeypatch.setattr(record_command, "boot_id", lambda boot=boot: boot)
        monkeypatch.setattr("plucky_ledger.capture.this_pc.boot_id", lambda _proc, b=boot: b)
        assert record_main(["--armed", str(folder)]) == 0
    assert armed_state(place, number).boots_left == 0
    assert not places.autostart.joinpath("plucky-ledger-recorder.desktop").exists()
    pick_up(ledger, place, number)
    assert len(read_job(ledger, number).opening_boots) == 2
    assert armed_state(place, number).waiting == ()


def test_started_twice_in_one_boot_the_second_steps_back(tmp_path, places, monkeypatch, capsys):
    monkeypatch.setattr(arming, "LIMIT_SECONDS", 1.0)
    place, number = Workplace(tmp_path), 7
    folder = place.armed(number)
    arm(folder, 2, Level.USER, places)
    (folder / "boot-same.jsonl.gz").write_bytes(b"")
    monkeypatch.setattr(record_command, "boot_id", lambda: "same")
    assert record_main(["--armed", str(folder)]) == 1
    assert "exists already" in capsys.readouterr().err
    assert armed_state(place, number).boots_left == 2


@pytest.mark.skipif(os.geteuid() != 0, reason="only the administrator can give files away")
def test_what_the_administrator_arms_and_records_belongs_to_the_user(tmp_path, places, monkeypatch):
    """Otherwise the technician's own window could not read what was recorded early in the boot."""
    monkeypatch.setattr(arming, "LIMIT_SECONDS", 1.0)
    home = tmp_path / "home"
    home.mkdir()
    os.chown(home, 1234, 1234)
    with Ledger(home / "workshop.ledger"):
        place, number = Workplace.beside(home / "workshop.ledger"), 1
        folder = place.armed(number)
        arm(folder, 2, Level.SYSTEM, places)
        assert record_main(["--armed", str(folder)]) == 0
    assert armed_state(place, number).boots_left == 1
    made = list(home.rglob("*"))
    assert len(made) >= 6
    assert {path.lstat().st_uid for path in made} == {1234}


def test_a_recorder_of_the_system_reads_the_sign_in_programs_of_who_signed_in(monkeypatch):
    signed_in = [ContextLine(user=pwd.getpwuid(os.getuid()).pw_name)]
    monkeypatch.setattr(this_pc, "is_administrator", lambda: True)
    assert this_pc._home(signed_in) == Path(pwd.getpwuid(os.getuid()).pw_dir)
    assert this_pc._home([ContextLine(user="nobody of that name")]) == Path.home()
    assert this_pc._home([]) == Path.home()


def test_without_an_arming_nothing_is_recorded(tmp_path):
    (tmp_path / arming.STATE_FILE).write_text("{ not ours")
    assert record_main(["--armed", str(tmp_path)]) == 0
    assert os.listdir(tmp_path) == [arming.STATE_FILE]


def test_a_broken_recording_is_named_and_kept(ledger):
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    folder = place.armed(number)
    folder.mkdir(parents=True)
    (folder / "boot-x.jsonl.gz").write_text("nonsense\n")
    assert "boot-x.jsonl.gz was not imported" in remarks(pick_up(ledger, place, number))
    assert armed_state(place, number).waiting


def watched(busy, seconds):
    """A watch on a two-core PC that is busy for a while and calm from then on."""
    watch = RestWatch(2, not_before=0.0)
    cpu = 0.0
    for second in range(seconds):
        cpu += 1.5 if second < busy else 0.02
        watch.take(SampleLine(float(second), cpu, 0, 0, 0.0, 0, 0))
        if watch.rested:
            return second
    return None


def test_the_recorder_stops_once_the_pc_has_rested_long_enough():
    assert watched(busy=40, seconds=50) is None
    stopped = watched(busy=40, seconds=200)
    assert 40 + CALM_SECONDS < stopped <= 41 + CALM_SECONDS + MARGIN_SECONDS
