"""Desktop entries: the override rules, and files nobody should trust."""

import os
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.services.autostart import (
    autostart_entries,
)
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.names import reason_from
from plucky_ledger.linux.bus import NoAnswer
from plucky_ledger.linux.desktop_entries import DesktopEntry, read_desktop_entry
from plucky_ledger.linux.desktops import session_environment
from plucky_ledger.linux.folders import Folders
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.generator import LACKS, generator


@pytest.fixture
def folders(tmp_path):
    """The user's folder and the system's."""
    found = tmp_path / "own", tmp_path / "shared"
    for folder in found:
        folder.mkdir()
    return found


def write(folder, name, *lines):
    start = ["[Desktop Entry]", "Type=Application"]
    (folder / f"{name}.desktop").write_text("\n".join([*start, *lines]) + "\n")


def entries(folders, *desktops):
    return {entry.entry: entry for entry in autostart_entries(folders, desktops)}


def why_off(line):
    return reason_in_words(reason_from(line.off)) if line.off else ""


def test_the_users_entry_wins_over_the_systems(folders):
    write(folders[1], "logbook", "Name=Logbook", "Exec=/bin/sh -c true")
    write(folders[0], "logbook", "Name=Mine", "Exec=/bin/true", "Hidden=true")
    found = entries(folders)
    assert len(found) == 1
    assert found["logbook.desktop"].owner == "user"
    assert why_off(found["logbook.desktop"]) == "hidden"


@pytest.mark.parametrize(
    ("line", "desktops", "reason"),
    [
        ("OnlyShowIn=QUAY;", ("PIER",), "only for QUAY"),
        ("OnlyShowIn=QUAY;PIER;", ("PIER",), ""),
        ("NotShowIn=PIER;", ("PIER",), "not for PIER"),
        ("TryExec=/nowhere/program", (), "/nowhere/program is not there"),
        ("TryExec=sh", (), ""),
        ("X-GNOME-Autostart-enabled=false", (), "switched off"),
    ],
)
def test_conditions_of_the_specification(folders, line, desktops, reason):
    write(folders[1], "x", "Name=X", "Exec=/bin/sh", line)
    assert why_off(entries(folders, *desktops)["x.desktop"]) == reason


STARTS = "Type=Application\nExec=/bin/sh"
AS_THE_MANAGER = {
    "plain": STARTS,
    "hidden": f"{STARTS}\nHidden=true",
    "hidden in capitals": f"{STARTS}\nHidden=True",
    "hidden by number": f"{STARTS}\nHidden=1",
    "hidden in another word": f"{STARTS}\nHidden=yes",
    "not hidden": f"{STARTS}\nHidden=false",
    "not hidden by number": f"{STARTS}\nHidden=0",
    "of no type": "Exec=/bin/sh",
    "a link": "Type=Link\nExec=/bin/sh",
    "a folder": "Type=Directory\nExec=/bin/sh",
    "by the bus": "Type=Application\nDBusActivatable=true",
    "nothing": "Type=Application",
    "by its name": "Type=Application\nExec=sh",
    "not there": "Type=Application\nExec=/nowhere/program",
    "tried in vain": f"{STARTS}\nTryExec=/nowhere/program",
    "tried": f"{STARTS}\nTryExec=sh",
    "open quotes": 'Type=Application\nExec=/bin/sh "x',
    "another group": "Type=Application\n[Desktop Action x]\nExec=/bin/sh",
    "blanks": "Type = Application\nExec = /bin/sh\nHidden = true",
}


@pytest.mark.parametrize("case", AS_THE_MANAGER)
def test_what_starts_is_what_the_service_manager_makes_a_unit_of(folders, tmp_path, case):
    """By its own generator, of whichever release is here; what depends on the desktop, on the
    phase of a session or on keys of one desktop is judged when it runs.
    """
    command = generator()
    if not command:
        pytest.skip(LACKS)
    path = folders[1] / "x.desktop"
    path.write_text(f"[Desktop Entry]\n{AS_THE_MANAGER[case]}\n")
    shared = tmp_path / "settings"
    shared.mkdir()
    folders[1].rename(shared / "autostart")
    units = [tmp_path / name for name in ("early", "normal", "late")]
    for folder in units:
        folder.mkdir()
    environment = {
        "PATH": os.environ["PATH"],
        "HOME": str(tmp_path),
        "XDG_CONFIG_HOME": str(tmp_path / "none"),
        "XDG_CONFIG_DIRS": str(shared),
    }
    subprocess.run([*command, *units], env=environment, check=True, capture_output=True)
    made = [*tmp_path.glob("late/app-*.service")]
    (line,) = autostart_entries([shared / "autostart"], ("PIER",))
    assert (line.off is None and not line.left_behind) == bool(made), line.off


def test_a_program_that_is_gone_is_left_behind(folders):
    write(folders[1], "windlass", "Name=Windlass Toolbar", "Exec=/opt/windlass/toolbar --tray")
    assert entries(folders)["windlass.desktop"].left_behind


@pytest.mark.parametrize(
    ("command", "program"),
    [
        ("/opt/x/run --tray", "/opt/x/run"),
        ('"/opt/with blank/run" --tray', "/opt/with blank/run"),
        ("env", "env"),
        ('broken "quote', "broken"),
        ("", ""),
    ],
)
def test_the_program_is_the_first_word(command, program):
    assert DesktopEntry(Path("x"), {"Exec": command}).program == program


def test_hostile_files_are_named_with_their_fault(folders):
    own = folders[0]
    (own / "binary.desktop").write_bytes(b"[Desktop Entry]\nExec=x\0y\n")
    (own / "huge.desktop").write_bytes(b"#" * 100_000)
    (own / "empty.desktop").write_bytes(b"")
    (own / "latin.desktop").write_bytes(
        b"[Desktop Entry]\nType=Application\nName=Caf\xe9\nExec=/bin/sh\n"
    )
    os.symlink(own / "circle.desktop", own / "circle.desktop")
    os.mkfifo(own / "pipe.desktop")
    (own / "folder.desktop").mkdir()
    found = entries(folders)
    for name in ("binary", "huge", "empty", "circle", "pipe", "folder"):
        assert why_off(found[f"{name}.desktop"]), name
    assert found["latin.desktop"].off is None


@given(st.binary(max_size=300))
def test_no_file_breaks_the_reader(tmp_path_factory, data):
    path = tmp_path_factory.mktemp("any") / "x.desktop"
    path.write_bytes(data)
    assert read_desktop_entry(path).path == path
    assert len(autostart_entries([path.parent], [])) == 1


def test_folders_follow_the_environment(tmp_path):
    environment = {"XDG_CONFIG_HOME": "/own", "XDG_CONFIG_DIRS": "/a:/b"}
    assert [str(f) for f in Folders.of(environment, tmp_path).all_autostart] == [
        "/own/autostart",
        "/a/autostart",
        "/b/autostart",
    ]
    usual = Folders.of({"XDG_CONFIG_HOME": "not/absolute"}, tmp_path)
    assert usual.autostart == tmp_path / ".config/autostart"
    assert str(usual.all_autostart[1]) == "/etc/xdg/autostart"


def test_another_persons_files_are_where_their_session_says(monkeypatch):
    """A root shell may have folders of its own: the person's are not looked for there."""

    def silent(_address):
        raise NoAnswer(ReasonCode.NO_BUS)

    monkeypatch.setattr("plucky_ledger.linux.desktops.opened", silent)
    monkeypatch.setenv("XDG_CONFIG_HOME", "/root/elsewhere")
    assert session_environment()["XDG_CONFIG_HOME"] == "/root/elsewhere"
    assert session_environment("unix:path=/run/user/1000/bus") == {}
    theirs = Folders.of(session_environment("unix:path=/run/user/1000/bus"), Path("/home/bench"))
    assert theirs.autostart == Path("/home/bench/.config/autostart")
